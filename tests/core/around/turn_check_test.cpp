// What only the picture tells of a turning head: the stand-in's faults are found, and none where there is
// none.
#include "around/turn_check.hpp"
#include "recording/nmea_feed.hpp"
#include "sim/sounder.hpp"

#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>

using namespace heron;

namespace {

enum class Boat { holds, runs_lanes };

// What is found at the end, or as soon as anything is.
TurnFindings look(const std::string &fault, int seed = 11, double swing_deg = 8, double seconds = 100,
                  const std::string &ground = "gravel", Boat boat = Boat::holds) {
    const bool holds = boat == Boat::holds;
    const auto text = fmt::format(
        R"({{"name":"basin","seed":{},"origin":{{"latitude":46.5,"longitude":-21.25}},"water":{{"temperature_c":14}},
 "terrain":{{"size_m":[120,120],"depth_m":4,"ground":"{}","undulation_m":0.1}},
 "things":[{{"kind":"boulder","at":[67,66],"length_m":1.3,"height_m":0.9}},{{"kind":"log","path":[[50,62],[54,64]],"width_m":0.4}},
 {{"kind":"stump","at":[55,47],"width_m":0.6,"height_m":0.9}},{{"kind":"boulder","at":[69,52],"length_m":1.1,"height_m":0.8}}],
 "head":{{{}}},
 "boat":{{"route":{},"speed_m_s":{},"hold":{{"at":[60,58],"heading_deg":0,"drift_m":0.5,"swing_deg":{}}}}}}})",
        seed, ground, fault,
        holds ? "[[60,50],[60,70],[64,70],[64,50]]" : "[[20,40],[100,40],[100,60],[20,60],[20,80],[100,80]]",
        holds ? 0.9 : 1.4, swing_deg);
    auto scene = sim::read_scene(text, "basin");
    EXPECT_TRUE(scene) << (scene ? std::string() : scene.error().line());
    constexpr auto start = 1'800'000'000LL * ns_per_s;
    sim::Sounder sounder(std::move(*scene), start);
    auto side = sounder.settings();
    side.pinging = false;
    sounder.ask(side);
    auto head = sounder.head_settings();
    head.pinging = true;
    head.range_m = 18;
    head.turning->pace = holds ? 4 : 3;
    sounder.ask_head(head);
    if (holds)
        sounder.put_on_hold();
    Scan scan;
    scan.installation = sounder.scene().boat.head_installation();
    NmeaFeed feed;
    while (true) {
        auto e = sounder.next();
        if (seconds_between(start, e.time) > seconds)
            break;
        for (auto &line : e.sentences)
            feed.take(line, e.time, scan.nav);
        if (e.ray)
            scan.push({std::move(e.ray->ping), std::nullopt, e.ray->settings});
    }
    Rays rays;
    TurnCheck check;
    for (auto end = scan.first() + 100; end <= scan.end(); end += 100) {
        rays.follow(scan, end);
        check.follow(rays, scan);
        if (const auto so_far = check.findings(); !holds && !(so_far == TurnFindings()))
            return so_far;
    }
    return check.findings();
}

} // namespace

TEST(TurnCheck, AHeadThatDoesAsItSaysHasNothingTold) {
    for (const int seed : {1, 2, 3, 4, 5, 6, 7, 8, 9, 10}) {
        const auto f = look("", seed);
        EXPECT_FALSE(f.heading_late_s) << seed << " " << *f.heading_late_s;
        EXPECT_FALSE(f.backwards) << seed;
        EXPECT_FALSE(f.slips_deg) << seed << " " << *f.slips_deg;
        EXPECT_FALSE(f.zero_deg) << seed << " " << *f.zero_deg;
        EXPECT_THAT(say(f), testing::IsEmpty());
    }
}

// Two hard turns at the ends of lanes, while each turn of the head sees other ground: nothing can be told of
// the heading, and nothing is.
TEST(TurnCheck, UnderWayNothingIsMadeUp) {
    for (const int seed : {1, 2, 3}) {
        const auto f = look("", seed, 0, 230, seed % 2 == 0 ? "sand" : "gravel", Boat::runs_lanes);
        EXPECT_FALSE(f.heading_late_s) << seed << " " << *f.heading_late_s;
        EXPECT_THAT(say(f), testing::IsEmpty()) << seed;
    }
}

TEST(TurnCheck, ALateHeadingIsMeasured) {
    for (const int seed : {1, 2, 3}) {
        const auto f = look(R"("heading_late_s":0.5)", seed);
        ASSERT_TRUE(f.heading_late_s) << seed;
        EXPECT_NEAR(*f.heading_late_s, 0.5, 0.25) << seed;
        EXPECT_THAT(say(f),
                    testing::ElementsAre(testing::Field(&Fault::happened, testing::HasSubstr("s late"))));
    }
}

TEST(TurnCheck, AHeadThatTurnsBackwardsIsTold) {
    for (const int seed : {1, 2, 3}) {
        const auto f = look(R"("backwards":true)", seed);
        EXPECT_TRUE(f.backwards) << seed;
        EXPECT_FALSE(f.heading_late_s);
    }
}

TEST(TurnCheck, AHeadThatMissesStepsIsTold) {
    const auto f = look(R"("skips":0.02)");
    ASSERT_TRUE(f.slips_deg);
    EXPECT_NEAR(std::fabs(*f.slips_deg), 7.2, 2.5) << "0.02 of 360°";
}

TEST(TurnCheck, AHeadMountedTheWrongWayRoundIsTold) {
    for (const double zero : {180.0, 90.0, -60.0}) {
        const auto f = look(fmt::format(R"("zero_deg":{})", zero));
        ASSERT_TRUE(f.zero_deg) << zero;
        EXPECT_NEAR(wrap_180(*f.zero_deg - zero), 0, 15) << zero;
    }
    EXPECT_THAT(say(look(R"("zero_deg":180)")),
                testing::Contains(testing::Field(&Fault::happened, testing::HasSubstr("wrong way round"))));
}
