#include "lake.hpp"
#include "reading/abeam.hpp"
#include "reading/measure.hpp"

#include "files/json.hpp"
#include "programs.hpp"
#include "recording/recording.hpp"
#include "sim/sounder.hpp"

#include <algorithm>
#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <map>

using namespace heron;

namespace {

Scan scan_of(const std::string &path) {
    auto r = read_recording(path);
    Scan scan;
    if (!r)
        return scan;
    scan.nav = std::move(r->head.nav);
    scan.installation = r->head.installation;
    for (auto &p : r->pings)
        scan.push({std::move(p), std::nullopt, {}});
    return scan;
}

struct Truth {
    GeoPoint place;
    double height_m;
};
std::map<std::string, Truth> sample_truth() {
    std::ifstream file(HERON_SAMPLES "/quarry-pool.truth.geojson");
    std::map<std::string, Truth> truth;
    const auto json = nlohmann::json::parse(file);
    for (const auto &f : json["features"]) {
        if (f["geometry"]["type"] != "Point" || !f["properties"].contains("id"))
            continue;
        const auto &c = f["geometry"]["coordinates"];
        truth[f["properties"]["id"].get<std::string>().substr(12)] = {
            {c[1].get<double>(), c[0].get<double>()}, f["properties"]["height_m"].get<double>()};
    }
    return truth;
}

// Handles in samples, put down by eye on the enlarged picture: where the echo's top lies (a post or a leaning
// trunk: the near edge of the bright; a stone or a box: where bright turns dark; a fish: its middle), where
// the shadow ends (a fish: the shadow's middle) and, for wide things, where the echo begins.
struct ByEye {
    std::string id;
    std::size_t ping;
    Side side;
    double top, end, near;
    bool floating;
    const char *what;
};
const std::vector<ByEye> by_eye{
    {"024", 34, Side::starboard, 328, 396, 253, false, "box, nearest"},
    {"012", 111, Side::starboard, 297, 357, 279, false, "rock pile, second nearest"},
    {"011", 508, Side::port, 288, 395, 0, false, "leaning trunk, third nearest, at its high end"},
    {"017", 437, Side::starboard, 293, 354, 0, true, "fish, fourth nearest"},
    {"013", 157, Side::port, 503, 845, 0, false, "tree among rocks"},
    {"016", 218, Side::port, 314, 357, 0, true, "fish"},
    {"019", 464, Side::starboard, 364, 490, 0, true, "fish"},
    {"006", 420, Side::starboard, 376, 469, 0, false, "stump"},
    {"005", 96, Side::port, 377, 455, 0, false, "boulder"},
    {"000", 35, Side::port, 652, 800, 0, false, "boulder, far out"},
};

MeasureHandles handles_of(const Scan &scan, const ByEye &e) {
    const auto &ping = scan.ping(e.ping);
    return {
        e.ping,    e.side, ping.slant_m(e.top), ping.slant_m(e.end), e.near > 0 ? ping.slant_m(e.near) : 0,
        e.floating};
}

} // namespace

// The recording was made by others; the truth file says how high things are and where, not at which range
// they show.
TEST(MeasureSample, HeightsAndPlacesOfTenThingsAreRight) {
    const auto scan = scan_of(test::sample());
    ASSERT_EQ(scan.end(), 667u);
    const auto truth = sample_truth();
    std::vector<EastNorth> off, off_by_shortcut;
    std::vector<double> sd;
    std::vector<std::string> placed;
    for (const auto &e : by_eye) {
        SCOPED_TRACE(e.id + ", " + e.what);
        const auto m = measure(scan, handles_of(scan, e));
        ASSERT_TRUE(m);
        const auto &t = truth.at(e.id);
        EXPECT_NEAR(m->shadow.height_m.value, t.height_m, std::max(0.2, 0.15 * t.height_m));
        ASSERT_TRUE(m->placed.at);
        auto where = *m;
        if (e.id == "011") { // its middle lies lower on the trunk
            where = *measure(
                scan, {497, e.side, scan.ping(497).slant_m(258), scan.ping(497).slant_m(322), 0, false});
        }
        const LocalPlane plane(t.place);
        off.push_back(plane.to_plane(where.placed.at->place));
        placed.push_back(e.id);
        // The same thing by the shortcut √(r² − A²).
        const auto h = handles_of(scan, e);
        const double short_g = ground_by_shortcut_m(h.top_m, scan.bottom(h.row).altitude_m);
        off_by_shortcut.push_back(
            plane.to_plane(place_beside(scan, h.row, h.side, {short_g, 0.1}).at->place));
    }
    // The shift common to all is the receiver's wander; the median takes it out.
    const auto worst = [&](const std::vector<EastNorth> &all, std::vector<double> *each = nullptr) {
        std::vector<double> east, north;
        for (const auto &o : all)
            east.push_back(o.east_m), north.push_back(o.north_m);
        std::sort(east.begin(), east.end());
        std::sort(north.begin(), north.end());
        const auto middle = [](const std::vector<double> &v) {
            return (v[(v.size() - 1) / 2] + v[v.size() / 2]) / 2;
        };
        double most = 0;
        for (const auto &o : all) {
            const double d = std::hypot(o.east_m - middle(east), o.north_m - middle(north));
            if (each != nullptr)
                each->push_back(d);
            most = std::max(most, d);
        }
        return most;
    };
    std::vector<double> each;
    EXPECT_LT(worst(off, &each), 0.8);
    for (std::size_t i = 0; i < each.size(); ++i)
        std::printf("    %s: %.2f m off\n", placed[i].c_str(), each[i]);
    EXPECT_GT(worst(off_by_shortcut), 0.8) << "the shortcut would have passed";
}

// The stand-in is built from a known scene: what is measured on its picture must be what was put there.
TEST(MeasureSimulated, APostAndAFishOfKnownHeight) {
    const std::string lake =
        R"({"name":"basin","seed":3,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
      "terrain":{"size_m":[80,80],"depth_m":6,"ground":"sand","undulation_m":0},
      "things":[{"kind":"stump","at":[20,26],"width_m":0.5,"height_m":1.2},{"kind":"fish","at":[34,27.5],"above_bottom_m":1.6,"length_m":0.7}],
      "boat":{"route":[[10,40],[70,40]],"speed_m_s":1.4,"gnss_wander_m":0,"gnss_noise_m":0.01,"heading_noise_deg":0}})";
    auto scene = sim::read_scene(lake, "basin");
    ASSERT_TRUE(scene) << scene.error().line();
    sim::Sounder sounder(std::move(*scene), 0);
    Scan scan;
    std::vector<sim::BoatState> boats;
    while (boats.size() < 400) {
        auto event = sounder.next();
        if (!event.ping)
            continue;
        scan.installation = sounder.scene().boat.installation;
        scan.push({std::move(event.ping->ping), std::nullopt, event.ping->settings});
        boats.push_back(sounder.boat());
    }
    // Where the ray geometry puts echo and shadow end, from the scene alone; the picture must show them
    // there.
    const auto check = [&](double x, double y, double half_width, double height, bool floating) {
        std::size_t row = 0;
        double nearest = 1e9;
        for (std::size_t i = 0; i < boats.size(); ++i) {
            const auto lever = turned(scan.installation.transducer, boats[i].heading_deg);
            const double along =
                (x - boats[i].at.x - lever.east_m) * std::sin(boats[i].heading_deg / degrees_per_radian) +
                (y - boats[i].at.y - lever.north_m) * std::cos(boats[i].heading_deg / degrees_per_radian);
            if (std::fabs(along) < nearest)
                nearest = std::fabs(along), row = i;
        }
        const auto lever = turned(scan.installation.transducer, boats[row].heading_deg);
        // The ray to the shadow's end grazes the far edge of a flat top.
        const double g =
            std::hypot(x - boats[row].at.x - lever.east_m, y - boats[row].at.y - lever.north_m) + half_width;
        const double a = 6 - scan.installation.draught_m();
        ASSERT_TRUE(scan.bottom(row).found);
        EXPECT_NEAR(scan.bottom(row).altitude_m, a, 0.1);
        const auto &beam = *scan.ping(row).beam(Side::starboard);
        const auto &ping = scan.ping(row);
        const auto mean = [&](double from, double to) {
            double s = 0;
            int n = 0;
            for (auto k = static_cast<std::size_t>(ping.sample_at(from));
                 k < static_cast<std::size_t>(ping.sample_at(to)); ++k)
                s += beam.code[k], ++n;
            return s / n;
        };
        const double top = std::hypot(g, a - height), end = top * a / (a - height);
        const double bottom = mean(end + 1.2, end + 2.2);
        EXPECT_GT(mean(top - half_width, top + 0.1), bottom + 12) << "the echo is not where it should be";
        // A shadow is dark up to its end; one that floats is dark around its middle.
        const double dark = floating ? mean(end - 0.12, end + 0.12) : mean(end - 0.35, end - 0.1);
        EXPECT_LT(dark, bottom - 10) << "the shadow does not lie where it should";
        const auto m = measure(scan, {row, Side::starboard, top, end, 0, floating});
        ASSERT_TRUE(m);
        EXPECT_NEAR(m->shadow.height_m.value, height, 0.08);
        EXPECT_NEAR(m->ground_m.value, g, 0.15);
        EXPECT_LT(std::fabs(m->shadow.height_m.value - height), 2 * m->shadow.height_m.sd);
    };
    check(20, 26, 0.25, 1.2, false);
    check(34, 27.5, 0, 1.6, true);
}

TEST(Cursor, TellsWaterFromBottomAndTheWayBack) {
    const auto scan = scan_of(test::sample());
    const auto bottom = read_cursor(scan, {300, Side::port, 15});
    ASSERT_TRUE(bottom.ground_m);
    EXPECT_NEAR(bottom.ground_m->value, std::sqrt(15 * 15 - std::pow(scan.bottom(300).altitude_m, 2)), 1e-6);
    ASSERT_TRUE(bottom.from_boat_now);
    EXPECT_GT(bottom.from_boat_now->distance_m, 50); // the boat went on some seventy metres
    const auto water = read_cursor(scan, {300, Side::port, 2});
    EXPECT_TRUE(water.in_water);
    EXPECT_FALSE(water.ground_m);
    ASSERT_TRUE(water.placed.at);
    EXPECT_GT(water.placed.at->covariance.radial_sd_m(), 0.5);
}

TEST(Measure, SaysWhyAPlaceIsUnknown) {
    auto scan = scan_of(test::sample());
    const auto h = handles_of(scan, by_eye[8]);
    scan.nav = NavTrack();
    const auto m = measure(scan, h);
    ASSERT_TRUE(m); // the height stands without any position
    EXPECT_NEAR(m->shadow.height_m.value, 0.912, 0.2);
    EXPECT_FALSE(m->placed.at);
    EXPECT_EQ(m->placed.state, PlaceState::no_position);
    EXPECT_FALSE(say(m->placed.state).empty());
}

TEST(Measure, AShadowAtTheEdgeOfTheRangeIsCut) {
    const auto scan = scan_of(test::sample());
    const auto &ping = scan.ping(100);
    const auto m = measure(scan, {100, Side::port, 18, ping.range_m(), 0, false});
    ASSERT_TRUE(m);
    EXPECT_TRUE(m->shadow.at_least);
}

// On a slope the hand, too, takes the bottom as the sides tell it: on one straight track the depth there is
// nearer to the truth than a level bottom, on both sides, and the truth lies within twice the doubt.
TEST(Measure, ByHandTheBottomSlopesAsTheSidesTell) {
    auto j = test::basin(7);
    constexpr double slope_deg = 4;
    j["terrain"]["features"] = {
        {{"type", "slope"}, {"at", {60, 60}}, {"bearing_deg", 90}, {"slope_deg", slope_deg}}};
    Scan scan;
    SoundingSettings s;
    s.range_m = 22;
    test::sound(scan, j, 500, s);
    constexpr std::size_t row = 300;
    const auto plane = bottom_at(scan, row);
    ASSERT_TRUE(plane);
    EXPECT_DOUBLE_EQ(plane->slope_deg, 0);
    for (const auto side : {Side::port, Side::starboard}) {
        // The boat runs north, so that starboard is the deep side.
        const double falls = side == Side::starboard ? 1 : -1;
        const auto m = measure(scan, {row, side, 12, 13.2});
        ASSERT_TRUE(m);
        const double level = water_depth(scan, *plane, m->ground_m.value).value,
                     truth = level + falls * m->ground_m.value * std::tan(slope_deg / degrees_per_radian);
        EXPECT_LT(std::fabs(m->water_depth_m.value - truth), 0.8 * std::fabs(level - truth)) << falls;
        EXPECT_NEAR(m->water_depth_m.value, truth, 2 * m->water_depth_m.sd) << falls;
    }
    // Without a heading nothing says where abeam lies: level, as before.
    Scan lost;
    lost.installation = scan.installation;
    for (std::size_t n = 0; n < 400; ++n)
        lost.push({scan.ping(n), std::nullopt, {}});
    const auto level = bottom_abeam(lost, {row, Side::port, 12, 13.2});
    ASSERT_TRUE(level);
    EXPECT_DOUBLE_EQ(level->slope_deg, 0);
}
