// Circular pictures and films of them: the same turn, read from the picture and from the rays themselves.
#include "screen/circle.hpp"

#include "reading/sweep_reader.hpp"
#include "screen/circle_film.hpp"
#include "screen/guess.hpp"
#include "screen/hand.hpp"
#include "screen/picture_reading.hpp"
#include "sim/circle_screen.hpp"
#include "sim/screens.hpp"

#include <cmath>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>
#include <set>

using namespace heron;
using testing::HasSubstr;

namespace {

const char *const basin =
    R"({"name":"basin","seed":11,"origin":{"latitude":46.5,"longitude":-21.25},"water":{"temperature_c":14},
 "terrain":{"size_m":[120,120],"depth_m":5,"ground":"sand","undulation_m":0.05},
 "things":[{"kind":"boulder","at":[67,66],"length_m":1.3,"height_m":0.9},{"kind":"boulder","at":[51,62],"length_m":1.1,"height_m":0.8},
 {"kind":"stump","at":[53,70],"width_m":0.6,"height_m":0.9},{"kind":"boulder","at":[64,49],"length_m":1.2,"height_m":1.0}],
 "boat":{"route":[[60,58],[60,70]],"speed_m_s":0.9,"hold":{"at":[60,58],"heading_deg":0,"drift_m":0.01,"swing_deg":0.1}}})";

const sim::HeardTurns &heard() {
    static const auto h = [] {
        auto scene = sim::read_scene(basin, "basin");
        EXPECT_TRUE(scene);
        return sim::hear_turns(std::move(*scene), 18, 1500);
    }();
    return h;
}

std::span<const Ping> turn() {
    return heard().last_turn();
}

ScreenCalibration calibration(const sim::CircleScreen &as) {
    auto c = sim::calibration_of(as, heard().range_m);
    c.depth_m = 4.6;
    return c;
}

double median_of(std::vector<double> v) {
    std::nth_element(v.begin(), v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2), v.end());
    return v[v.size() / 2];
}

// What the rays themselves tell.
std::vector<Contact> of_rays() {
    Scan scan;
    scan.installation = heard().installation;
    for (const auto &p : turn())
        scan.push({p, std::nullopt, {}});
    scan.nav.add(DepthSample{turn().front().time, 4.6, {}});
    scan.nav.add(DepthSample{turn().back().time, 4.6, {}});
    SweepReader reader;
    const auto looks = reader.advance(scan, true);
    auto joined = join_sweeps(looks, reader.views(), 0.5);
    for (auto &c : joined)
        c.heading_deg =
            scan.ping(c.row).beams[0].azimuth_deg; // where it lies off the bow, for the comparison
    return joined;
}

} // namespace

TEST(CirclePicture, IsReadAsTheTurnItself) {
    const auto own = of_rays();
    ASSERT_GE(own.size(), 3u);
    for (const double bow : {0.0, 250.0}) {
        sim::CircleScreen as;
        as.bow_deg = bow;
        const auto screen = sim::circle_screen(turn(), sim::screen_colours(2, false), as);
        const auto c = calibration(as);
        const auto read = read_picture(screen, c, 1'800'000'000LL * ns_per_s, "circle.png");
        ASSERT_TRUE(read) << read.error().line();
        std::size_t found = 0;
        for (const auto &o : own)
            for (const auto &[p, at] : read->contacts) {
                // Where it lies on the picture, turned back.
                const double dx = at.x - as.size / 2.0, dy = at.y - as.size / 2.0;
                const double off = std::atan2(dx, -dy) * degrees_per_radian - bow;
                if (std::fabs(p.slant_m - o.slant_m) > 0.03 * c.range_m ||
                    std::fabs(wrap_180(off - *o.heading_deg)) * o.slant_m / degrees_per_radian > 0.8)
                    continue;
                EXPECT_NEAR(std::hypot(dx, dy) / (as.size / 2.0 - as.margin) * c.range_m, p.slant_m, 0.15);
                EXPECT_EQ(p.family, o.family);
                ++found;
                break;
            }
        EXPECT_GE(found, own.size() - 1) << "bow at " << bow << " of " << own.size();
        const auto sure = std::count_if(read->contacts.begin(), read->contacts.end(),
                                        [](const PictureContact &p) { return p.contact.confidence >= 0.5; });
        EXPECT_LE(static_cast<std::size_t>(sure), own.size() + 2);
    }
}

// Where the boat was is known: what is found has a place, and the whole turn does.
TEST(CirclePicture, WithTheBoatsPlaceWhatIsFoundHasOne) {
    sim::CircleScreen as;
    as.bow_deg = 40;
    auto c = calibration(as);
    const auto read_with = [&](double heading_deg) {
        c.start = KnownStart{{46.5, -21.25}, heading_deg};
        return read_picture(sim::circle_screen(turn(), sim::screen_colours(2, false), as), c,
                            1'800'000'000LL * ns_per_s, "circle.png");
    };
    const LocalPlane plane({46.5, -21.25});
    const auto north = read_with(0), east = read_with(90);
    ASSERT_TRUE(north && east);
    ASSERT_GE(north->contacts.size(), 3u);
    for (const auto &[contact, at] : north->contacts) {
        ASSERT_TRUE(contact.place) << contact.slant_m;
        const auto p = plane.to_plane(contact.place->place);
        EXPECT_NEAR(std::hypot(p.east_m, p.north_m), contact.ground_m.value, 0.3);
        const double on_picture =
            std::atan2(at.x - as.size / 2.0, as.size / 2.0 - at.y) * degrees_per_radian - as.bow_deg;
        EXPECT_NEAR(wrap_180(std::atan2(p.east_m, p.north_m) * degrees_per_radian - on_picture), 0, 6);
    }
    for (const auto &one : east->contacts)
        EXPECT_TRUE(one.contact.place);
}

// Seen at a slant: the corners of the square about it take that out.
TEST(CirclePicture, IsStraightenedWhenPhotographed) {
    sim::CircleScreen as;
    const auto screen = sim::circle_screen(turn(), sim::screen_colours(1, false), as);
    auto c = calibration(as);
    const auto photo = sim::photographed(screen, c.corners, 5, 0.6);
    c.width = photo.width;
    c.height = photo.height;
    c.pixel_sd = 1.5;
    const auto saved = rays_of(screen, calibration(as), 0, "saved"), taken = rays_of(photo, c, 0, "taken");
    ASSERT_TRUE(saved && taken);
    // Half a metre by half a metre the levels are the same; a degree aside they would not be.
    const auto smooth = [](const PictureRows &rows, int ray) {
        const auto &code = rows.recording.pings[static_cast<std::size_t>((ray + 360) % 360)].beams[0].code;
        constexpr std::size_t pieces = 36;
        std::vector<double> out(pieces, 0);
        for (std::size_t k = 0; k < code.size(); ++k)
            out[k * pieces / code.size()] += code[k];
        return out;
    };
    const auto alike = [](const std::vector<double> &a, const std::vector<double> &b) {
        const auto mean = [](const std::vector<double> &v) {
            return std::accumulate(v.begin(), v.end(), 0.0) / static_cast<double>(v.size());
        };
        const double ma = mean(a), mb = mean(b);
        double ab = 0, aa = 0, bb = 0;
        for (std::size_t i = 0; i < a.size(); ++i) {
            ab += (a[i] - ma) * (b[i] - mb);
            aa += (a[i] - ma) * (a[i] - ma);
            bb += (b[i] - mb) * (b[i] - mb);
        }
        return ab / std::sqrt(std::max(1e-9, aa * bb));
    };
    std::vector<double> same, turned;
    for (int ray = 0; ray < rays_of_a_circle; ++ray) {
        same.push_back(alike(smooth(*saved, ray), smooth(*taken, ray)));
        turned.push_back(alike(smooth(*saved, ray), smooth(*taken, ray + 12)));
    }
    EXPECT_GT(median_of(same), 0.85);
    EXPECT_LT(median_of(turned), median_of(same));
}

TEST(CirclePicture, ItsRimIsSeenWithoutAHand) {
    for (const int margin : {24, 70}) {
        sim::CircleScreen as;
        as.margin = margin;
        const auto guess = guess_screen(sim::circle_screen(turn(), sim::screen_colours(2, false), as));
        ASSERT_TRUE(guess);
        EXPECT_TRUE(guess->circle);
        const auto c = calibration(as);
        for (std::size_t i = 0; i < 4; ++i) {
            EXPECT_NEAR(guess->corners[i].x, c.corners[i].x, 0.01 * as.size) << margin;
            EXPECT_NEAR(guess->corners[i].y, c.corners[i].y, 0.01 * as.size) << margin;
        }
    }
}

TEST(CirclePicture, ItsCalibrationIsKeptAndBadOnesAreRefused) {
    auto c = calibration({});
    c.circle_bow_deg = 270;
    const auto again = calibration_from_json(calibration_to_json(c));
    ASSERT_TRUE(again);
    EXPECT_EQ(*again, c);
    for (const char *bad : {"\"round\"", "{\"bow_deg\": 400}", "{\"bow_deg\": \"up\"}", "[1]"}) {
        auto text = calibration_to_json(c);
        const auto from = text.find("\"circle\": ") + 10, to = text.find('}', from) + 1;
        text.replace(from, to - from, bad);
        const auto refused = calibration_from_json(text);
        ASSERT_FALSE(refused) << bad;
        EXPECT_THAT(refused.error().line(), HasSubstr("calibration cannot be used"));
    }
    ScreenPicture plain{720, 720, std::vector<Rgb>(720 * 720, Rgb{9, 9, 9})};
    EXPECT_FALSE(rays_of(plain, c, 0, "plain"));
}

namespace {

// A ray a degree; of the turn before what another ping of that direction heard.
Ping ray_at(int degree, bool newer) {
    const auto &all = heard().rays;
    const Ping *best = nullptr;
    double least = 400;
    for (std::size_t i = newer ? all.size() / 2 : 0; i < (newer ? all.size() : all.size() / 2); ++i)
        if (const double d = std::fabs(wrap_180(all[i].beams[0].azimuth_deg - (degree - 179.5))); d < least) {
            least = d;
            best = &all[i];
        }
    auto ping = *best;
    ping.beams[0].azimuth_deg = degree - 179.5;
    return ping;
}

std::vector<Ping> turn_before() {
    std::vector<Ping> shown;
    for (int i = 0; i < 360; ++i)
        shown.push_back(ray_at(i, false));
    return shown;
}

} // namespace

TEST(CircleFilm, EachRayIsTakenOnceAndInOrderWhicheverWayItTurns) {
    sim::CircleScreen as;
    as.size = 480;
    const auto colours = sim::screen_colours(0, true);
    for (const bool clockwise : {true, false}) {
        auto shown = turn_before();
        auto c = calibration(as);
        c.range_m = heard().range_m;
        std::vector<int> taken;
        std::vector<double> times;
        CircleTaker taker(c, [&](int ray, const LevelRow &, double s) {
            taken.push_back(ray);
            times.push_back(s);
        });
        double at = 0;
        taker.add(sim::circle_screen(shown, colours, as), at);
        constexpr int a_picture = 9;
        for (int swept = 0; swept < 360; swept += a_picture) {
            for (int i = swept; i < swept + a_picture; ++i) {
                const int degree = clockwise ? i : 359 - i;
                shown[static_cast<std::size_t>(degree)] = ray_at(degree, true);
            }
            at += 0.1;
            taker.add(sim::circle_screen(shown, colours, as), at);
        }
        std::set<int> each(taken.begin(), taken.end());
        EXPECT_GE(each.size(), 353u) << "98 in a hundred";
        EXPECT_LE(taken.size(), each.size() + 50) << "a ray at the edge of a picture may come twice";
        int in_order = 0;
        for (std::size_t i = 1; i < taken.size(); ++i)
            in_order += wrap_180((taken[i] - taken[i - 1]) * (clockwise ? 1.0 : -1.0)) > -1.5 ? 1 : 0;
        EXPECT_GE(in_order, static_cast<int>(taken.size()) - 16)
            << (clockwise ? "clockwise" : "the other way");
        EXPECT_TRUE(std::is_sorted(times.begin(), times.end()));
        EXPECT_TRUE(taker.facts().warnings.empty()) << taker.facts().warnings.front();
        // Another range at once is told and nothing is taken of it.
        const auto before = taken.size();
        auto half = shown;
        for (auto &p : half)
            p.beams[0].code.resize(p.beams[0].code.size() / 2);
        taker.add(sim::circle_screen(half, colours, as), at + 0.1);
        EXPECT_EQ(taken.size(), before);
        ASSERT_FALSE(taker.facts().warnings.empty());
        EXPECT_THAT(taker.facts().warnings.back(), HasSubstr("most of the circle changed at once"));
    }
}

// The camera in a hand: corners wander, the picture is blurred and grainy; words about the circle stand
// still.
TEST(CircleFilm, FromAHandEachRayIsTakenTooAndInOrder) {
    sim::CircleScreen as;
    as.size = 600;
    as.words = true;
    const auto colours = sim::screen_colours(0, false);
    auto shown = turn_before();
    auto c = calibration(as);
    const auto square = c.corners;
    constexpr unsigned seed = 5;
    const auto first = sim::filmed_by_hand(sim::circle_screen(shown, colours, as), c.corners, seed, 0);
    c.width = first.width;
    c.height = first.height;
    c.ramp.clear();
    HandFollower hand(c);
    std::vector<int> taken;
    CircleTaker taker(c, [&](int ray, const LevelRow &, double) { taken.push_back(ray); });
    double at = 0, farthest = 0;
    constexpr int a_picture = 4;
    for (int swept = 0; swept <= 360; swept += a_picture) {
        auto there = square;
        const auto picture =
            sim::filmed_by_hand(sim::circle_screen(shown, colours, as), there, seed, at, 0.8);
        const auto onto = hand.next(picture);
        ASSERT_TRUE(onto) << swept;
        farthest = std::max(farthest, std::hypot(there[0].x - c.corners[0].x, there[0].y - c.corners[0].y));
        taker.add(picture, at, onto);
        for (int i = swept; i < std::min(360, swept + a_picture); ++i)
            shown[static_cast<std::size_t>(i)] = ray_at(i, true);
        at += 1 / 15.0;
    }
    EXPECT_GT(farthest, 5) << "the hand shakes";
    const std::set<int> each(taken.begin(), taken.end());
    EXPECT_GE(each.size(), 342u) << "95 in a hundred";
    EXPECT_LE(taken.size(), each.size() + 100) << "a ray at the edge of a picture may come twice";
    int in_order = 0;
    for (std::size_t i = 1; i < taken.size(); ++i)
        in_order += wrap_180(taken[i] - taken[i - 1]) > -4.5 ? 1 : 0;
    EXPECT_GE(in_order, static_cast<int>(0.95 * static_cast<double>(taken.size())));
    RecordProperty("rays", static_cast<int>(each.size()));
}
