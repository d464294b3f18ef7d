// Read over a tree in which a fish stands: its grain is rung, named among the reasons and weighed in fish it
// or leave it; and what no handle points at is rung, too.
#include "parts/picture_over_section.hpp"
#include "sailed.hpp"
#include "views/read/contact_panel.hpp"
#include "views/read/read_view.hpp"

using namespace heron;
using namespace heron::app;

namespace {

nlohmann::json drowned_tree() {
    return {{"name", "drowned tree"},
            {"seed", 1},
            {"origin", {{"latitude", 46.5}, {"longitude", -21.25}}},
            {"water", {{"temperature_c", 14}}},
            {"terrain", {{"size_m", {120, 120}}, {"depth_m", 5}, {"ground", "sand"}, {"undulation_m", 0.03}}},
            {"things",
             {{{"kind", "tree"}, {"at", {49, 45}}, {"height_m", 2.3}, {"spread_m", 2.8}},
              {{"kind", "fish"}, {"at", {48.8, 43.9}}, {"above_bottom_m", 1.2}, {"length_m", 0.55}},
              {{"kind", "boulder"}, {"at", {71, 30}}, {"length_m", 1.2}, {"height_m", 0.8}}}},
            {"boat",
             {{"route", {{60, 10}, {60, 110}}},
              {"speed_m_s", 1.4},
              {"gnss_wander_m", 0.0},
              {"gnss_noise_m", 0.0}}}};
}

class Wood : public test::Sailed {
  protected:
    void SetUp() override {
        Stage::SetUp();
        ASSERT_NO_FATAL_FAILURE(sail(drowned_tree(), 45));
    }
    const Contact *take(Kind kind) {
        for (std::size_t i = 0; i <= view().shown().size(); ++i) {
            if (const auto *c = view().selected(); c != nullptr && c->kind == kind)
                return c;
            key(Qt::Key_Down);
        }
        return nullptr;
    }
    /// How many pixels of the fold have the colour that rings and handles are drawn in, within a square.
    int drawn(QRect where) {
        auto *fold = view().findChild<PictureOverSection *>();
        const auto pick = colour("pick").rgb();
        const auto image = fold->grab().toImage();
        int n = 0;
        for (int y = std::max(0, where.top()); y <= std::min(image.height() - 1, where.bottom()); ++y)
            for (int x = std::max(0, where.left()); x <= std::min(image.width() - 1, where.right()); ++x)
                n += image.pixel(x, y) == pick;
        return n;
    }
};

} // namespace

TEST_F(Wood, AGrainThatMayBeAFishIsRungAndNamed) {
    const auto *tree = take(Kind::tree);
    ASSERT_NE(tree, nullptr);
    ASSERT_EQ(tree->maybe_fish.size(), 1u);
    const auto &grain = tree->maybe_fish[0];
    // Where the fish was put, from where the transducer was.
    const auto fix = scan().nav.fix_at(scan().facts(grain.row).time);
    ASSERT_TRUE(fix);
    const auto hung = LocalPlane({46.5, -21.25}).to_plane(transducer_place(fix->pose, scan().installation));
    EXPECT_NEAR(hung.north_m, 43.9, 0.5);
    EXPECT_NEAR(grain.slant_m, std::hypot(hung.east_m - 48.8, 5 - scan().installation.draught_m() - 1.2),
                0.35);
    EXPECT_TRUE(said().contains(QStringLiteral("perhaps a fish"), Qt::CaseInsensitive))
        << said().toStdString();
    auto *fold = view().findChild<PictureOverSection *>();
    ASSERT_NE(fold, nullptr);
    const auto at = fold->pointOf(grain.row, grain.slant_m);
    EXPECT_TRUE(fold->rect().contains(at));
    EXPECT_GT(drawn(QRect(at.x() - 12, at.y() - 12, 24, 24)), 12) << "a ring about it";
    key(Qt::Key_W);
    EXPECT_TRUE(said().contains(QStringLiteral("a grain in it"))) << said().toStdString();
    EXPECT_TRUE(said().contains(QStringLiteral("Perhaps"))) << said().toStdString();
}

TEST_F(Wood, AStoneHoldsNoGrainsAndItsHandlesPointAtIt) {
    const auto *stone = take(Kind::boulder);
    ASSERT_NE(stone, nullptr);
    EXPECT_TRUE(stone->maybe_fish.empty());
    auto *fold = view().findChild<PictureOverSection *>();
    ASSERT_TRUE(fold->handles());
    key(Qt::Key_W);
    EXPECT_FALSE(said().contains(QStringLiteral("a grain in it"))) << said().toStdString();
}
