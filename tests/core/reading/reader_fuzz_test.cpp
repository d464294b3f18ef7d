// Whatever pings hold, the reader neither breaks nor says what cannot be.
#include "lake.hpp"
#include "reading/reader.hpp"

#include <random>

using namespace heron;

namespace {

Ping odd_ping(std::mt19937 &random, UnixNs time) {
    const auto pick = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    Ping p;
    p.time = time;
    p.sound_speed_m_s = pick(1400, 1520);
    p.sample_interval_s = pick(1e-5, 2e-4);
    p.first_sample_s = random() % 4 == 0 ? pick(0, 1e-3) : 0;
    p.frequency_hz = pick(2e5, 1.3e6);
    p.pulse_s = pick(1e-5, 1e-4);
    const int kind = static_cast<int>(random() % 6);
    for (const auto side : {Side::port, Side::starboard}) {
        if (random() % 7 == 0)
            continue; // one side only
        Beam b;
        b.side = side;
        b.azimuth_deg = nominal_azimuth_deg(side);
        b.scale.clip_low = 0;
        b.scale.clip_high = 255;
        const auto n = static_cast<std::size_t>(pick(0, 1200));
        for (std::size_t k = 0; k < n; ++k) {
            const bool bottom = static_cast<double>(k) > 0.25 * static_cast<double>(n);
            const auto code = kind == 0   ? random() % 256
                              : kind == 1 ? 0
                              : kind == 2 ? 255
                              : kind == 3 ? (bottom ? 120 + random() % 60 : random() % 30)
                              : kind == 4 ? missing_code
                                          : (k % 200 < 20 ? 250 : 90 + random() % 40);
            b.code.push_back(static_cast<std::uint16_t>(code));
        }
        p.beams.push_back(std::move(b));
    }
    return p;
}

void expect_sane(const std::vector<Contact> &all, const Scan &scan) {
    for (const auto &c : all) {
        EXPECT_LT(c.row, scan.end());
        EXPECT_LE(c.first_row, c.last_row);
        EXPECT_TRUE(c.confidence >= 0 && c.confidence <= 1) << c.confidence;
        EXPECT_TRUE(std::isfinite(c.ground_m.value) && c.ground_m.value >= 0) << c.ground_m.value;
        EXPECT_TRUE(std::isfinite(c.ground_m.sd) && c.ground_m.sd > 0);
        EXPECT_TRUE(std::isfinite(c.depth_m));
        if (c.height_m) {
            EXPECT_TRUE(std::isfinite(c.height_m->value) && c.height_m->sd > 0);
        }
        if (c.length_m && c.width_m) {
            EXPECT_GE(*c.length_m, *c.width_m - 1e-9);
        }
    }
}

} // namespace

TEST(FuzzReader, PingsOfAnySortLengthAndRange) {
    std::mt19937 random(11);
    for (int run = 0; run < 12; ++run) {
        Scan scan;
        for (int n = 0; n < 400; ++n) {
            scan.nav.add_speed(n * ns_per_s / 10, 1.2);
            scan.push({odd_ping(random, n * ns_per_s / 10), std::nullopt, {}});
        }
        ReaderSettings keep;
        keep.keep_all = true;
        Reader reader(KindModel::shipped(), keep);
        expect_sane(join_contacts(reader.advance(scan, true)), scan);
    }
}

// A lake as it is sounded, with a part of its pings replaced: what stands elsewhere is still found.
TEST(FuzzReader, DamageInTheMiddleCostsNoMoreThanItself) {
    auto j = test::basin();
    j["things"] = {{{"kind", "boulder"}, {"at", {72, 24}}, {"length_m", 1.4}, {"height_m", 0.9}},
                   {{"kind", "boulder"}, {"at", {49, 66}}, {"length_m", 1.4}, {"height_m", 0.9}}};
    Scan whole;
    test::sound(whole, j, 900);
    std::mt19937 random(3);
    Scan scan;
    scan.nav = whole.nav;
    scan.installation = whole.installation;
    for (std::size_t n = 0; n < whole.end(); ++n) {
        auto row = whole.row(n);
        if (n > 380 && n < 460)
            row.ping = odd_ping(random, row.ping.time);
        scan.push(std::move(row));
    }
    Reader reader;
    const auto all = join_contacts(reader.advance(scan, true));
    expect_sane(all, scan);
    const LocalPlane plane({46.5, -21.25});
    for (const auto &[e, n] : {std::pair{72.0, 24.0}, {49.0, 66.0}}) {
        bool found = false;
        for (const auto &c : all)
            if (c.place) {
                const auto p = plane.to_plane(c.place->place);
                found = found || std::hypot(p.east_m - e, p.north_m - n) < 2;
            }
        EXPECT_TRUE(found) << e;
    }
}

TEST(Reader, WithoutPositionsContactsAreFoundAndHaveNoPlace) {
    auto j = test::basin();
    j["things"] = {{{"kind", "boulder"}, {"at", {72, 24}}, {"length_m", 1.4}, {"height_m", 0.9}}};
    Scan whole, scan;
    test::sound(whole, j, 500);
    scan.installation = whole.installation;
    for (std::size_t n = 0; n < whole.end(); ++n)
        scan.push(whole.row(n));
    Reader reader;
    const auto all = join_contacts(reader.advance(scan, true));
    ASSERT_FALSE(all.empty());
    for (const auto &c : all) {
        EXPECT_FALSE(c.place);
        EXPECT_EQ(c.place_state, PlaceState::no_position);
    }
}
