// Read over a channel that the boat crossed: told, drawn, marked, and no second look aside is offered.
#include "parts/picture_over_section.hpp"
#include "sailed.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

// A basin with a trench from west to east, a metre deep and twelve wide; the boat goes north over it.
nlohmann::json trench() {
    const auto bank = [](double north, bool falls) {
        const nlohmann::json east{120, north}, west{0, north};
        return nlohmann::json{{"type", "ledge"},
                              {"path", falls ? nlohmann::json{east, west} : nlohmann::json{west, east}},
                              {"drop_m", 1},
                              {"run_m", 1.5}};
    };
    return {{"name", "trench"},
            {"seed", 5},
            {"origin", {{"latitude", 46.5}, {"longitude", -21.25}}},
            {"water", {{"temperature_c", 14}}},
            {"terrain",
             {{"size_m", {120, 120}},
              {"depth_m", 5},
              {"ground", "sand"},
              {"undulation_m", 0.0},
              {"features", {bank(40, true), bank(52, false)}}}},
            {"things", {{{"kind", "boulder"}, {"at", {72, 60}}, {"length_m", 1.4}, {"height_m", 0.9}}}},
            {"boat",
             {{"route", {{60, 10}, {60, 110}}},
              {"speed_m_s", 1.4},
              {"gnss_wander_m", 0.0},
              {"gnss_noise_m", 0.0}}}};
}

class Crossing : public test::Sailed {
  protected:
    void SetUp() override {
        Stage::SetUp();
        session().trip.setWater(QStringLiteral("Ellemoor Water"));
        ASSERT_NO_FATAL_FAILURE(sail(trench(), 60));
        for (std::size_t i = 0; i < view().shown().size() && !channel(); ++i)
            key(Qt::Key_Down);
        view().grab();
    }
    /// The selected one, where it is the channel.
    const Contact *channel() {
        const auto *c = view().selected();
        return c != nullptr && c->kind == Kind::channel ? c : nullptr;
    }
};

} // namespace

TEST_F(Crossing, TheChannelIsToldWithItsDepthAndItsBanks) {
    ASSERT_NE(channel(), nullptr);
    EXPECT_EQ(channel()->family, Family::bottom);
    EXPECT_NEAR(channel()->height_m->value, -1, 0.25);
    EXPECT_TRUE(said().contains(QStringLiteral("rises again"))) << said().toStdString();
    EXPECT_TRUE(said().contains(QStringLiteral("channel"))) << said().toStdString();
    // No pass aside tells more of it than crossing it again.
    EXPECT_FALSE(view().side().plan());
    EXPECT_TRUE(said().contains(QStringLiteral("Cross it again"))) << said().toStdString();
    EXPECT_TRUE(test::shows_something(view().grab().toImage()));
}

TEST_F(Crossing, AMarkLiesInTheMiddleOfTheChannel) {
    ASSERT_NE(channel(), nullptr);
    key(Qt::Key_M);
    ASSERT_EQ(marks().all().size(), 1u);
    const auto &m = marks().all()[0];
    EXPECT_EQ(m.kind, Kind::channel);
    EXPECT_EQ(m.family, Family::bottom);
    ASSERT_TRUE(m.place);
    const auto at = LocalPlane({46.5, -21.25}).to_plane(*m.place);
    EXPECT_NEAR(at.north_m, 46, 1.5);
    EXPECT_NEAR(at.east_m, 60, 1);
    // It was run over: neither aside nor in the water; its figures are those that Read shows, in its units.
    EXPECT_EQ(m.side, "down");
    EXPECT_TRUE(m.place_remark.empty()) << m.place_remark;
    EXPECT_DOUBLE_EQ(m.depth_m->value, channel()->depth_m);
    EXPECT_DOUBLE_EQ(m.height_m->value, channel()->height_m->value);
    ASSERT_EQ(session().preferences.units(), UnitSystem::feet);
    EXPECT_NE(m.note.find(" ft"), std::string::npos) << m.note;
    EXPECT_EQ(m.note.find(" m "), std::string::npos) << m.note;
    // And in Marks as in Read.
    key(Qt::Key_6);
    auto &marks = window->view<MarksView>();
    marks.grab();
    const auto told = marks.facts(m).join(QLatin1Char('\n'));
    EXPECT_TRUE(told.contains(QStringLiteral("Hollow|"))) << told.toStdString();
    EXPECT_FALSE(told.contains(QStringLiteral("|-"))) << told.toStdString();
    EXPECT_TRUE(told.contains(QStringLiteral("under the boat"))) << told.toStdString();
    EXPECT_FALSE(told.contains(QStringLiteral("right"))) << told.toStdString();
}

// The guide's word enters for a drop as for anything else, and is taken back.
TEST_F(Crossing, TheGuidesWordOnADropIsKeptAndTakenBack) {
    ASSERT_NE(channel(), nullptr);
    const auto row = channel()->row;
    key(Qt::Key_K);
    press("it_is_none");
    const auto there = [&] {
        const auto &all = view().shown();
        return std::any_of(all.begin(), all.end(), [&](const Contact *c) { return c->row == row; });
    };
    ASSERT_TRUE(test::wait_for([&] { return !there(); }));
    key(Qt::Key_K);
    key(Qt::Key_U);
    EXPECT_TRUE(test::wait_for([&] { return there(); }));
}
