// Joining sightings of one thing: worked by hand, against a simulated truth, against scipy's assignment, and
// as properties.
#include "marks/joining.hpp"

#include "files/identifier.hpp"
#include "programs.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <map>
#include <random>
#include <rapidcheck/gtest.h>
#include <sstream>

using namespace heron;

namespace {

const LocalPlane plane({46.5, -21.25});

Mark at(double east, double north, Kind kind = Kind::boulder, double sd = 1.5, const std::string &source = "",
        double minutes = 0) {
    Mark m;
    m.id = new_identifier();
    m.family = family_of(kind);
    m.kind = kind;
    m.place = plane.to_globe({east, north});
    m.place_covariance = {sd * sd, 0, sd * sd};
    m.source = source;
    m.time = 1'800'000'000LL * ns_per_s + static_cast<UnixNs>(minutes * 60e9);
    return m;
}

// Thirty things, six passes: each pass has an error of its own in position and heading, each look one more;
// kinds are named rightly seven times in ten, heights are read to 15 cm, one thing in eight is not seen.
struct Sailed {
    std::vector<EastNorth> things;
    std::vector<double> heights;
    std::vector<Mark> marks;
    std::map<std::string, std::size_t> truth;
};
Sailed sail(unsigned seed) {
    std::mt19937 random(seed);
    const auto share = [&](double a, double b) {
        return std::uniform_real_distribution<double>(a, b)(random);
    };
    const auto normal = [&](double sd) { return std::normal_distribution<double>(0, sd)(random); };
    Sailed s;
    std::vector<Kind> kinds;
    constexpr std::array<Kind, 4> all{Kind::boulder, Kind::stump, Kind::log, Kind::tree};
    while (s.things.size() < 30) {
        const EastNorth p{share(0, 150), share(0, 80)};
        if (std::any_of(s.things.begin(), s.things.end(), [&](const EastNorth &o) {
                return std::hypot(o.east_m - p.east_m, o.north_m - p.north_m) < 7;
            }))
            continue;
        s.things.push_back(p);
        s.heights.push_back(share(0.3, 1.8));
        kinds.push_back(all[random() % all.size()]);
    }
    for (int pass = 0; pass < 6; ++pass) {
        const double off_e = normal(1.0), off_n = normal(1.0), turn = normal(1.5) / degrees_per_radian;
        for (std::size_t i = 0; i < s.things.size(); ++i) {
            if (share(0, 1) < 0.125)
                continue;
            // A heading error turns the thing about the boat, some fifteen metres off.
            const double lever = 15 * turn;
            auto m = at(s.things[i].east_m + off_e + lever + normal(0.5),
                        s.things[i].north_m + off_n + normal(0.5),
                        share(0, 1) < 0.7 ? kinds[i] : all[random() % all.size()], 1.2,
                        fmt::format("pass {}", pass), static_cast<double>(i) * 0.1);
            m.height_m = Estimate{s.heights[i] + normal(0.15), 0.15};
            s.truth[m.id] = i;
            s.marks.push_back(std::move(m));
        }
    }
    std::shuffle(s.marks.begin(), s.marks.end(), random);
    return s;
}

} // namespace

TEST(Joining, WhatLiesWithinItsDoubtIsProposedAndSaysWhy) {
    const auto a = at(0, 0, Kind::stump), b = at(1.2, 0.5, Kind::stump, 1.5, "", 60),
               far = at(30, 0, Kind::stump);
    const auto proposals = propose_joins({a, b, far});
    ASSERT_EQ(proposals.size(), 1u);
    EXPECT_EQ(proposals[0].a, a.id);
    EXPECT_EQ(proposals[0].b, b.id);
    EXPECT_NEAR(proposals[0].apart_m, 1.3, 0.01);
    // By hand: each axis 2 × 1.5² and twice half of 0.7²: √(1.69 / 4.99) = 0.58 sigmas.
    EXPECT_NEAR(proposals[0].apart_sigmas, std::sqrt(1.69 / (2 * 2.25 + 0.49)), 0.01);
    EXPECT_GT(proposals[0].chance, 0.8);
    EXPECT_THAT(proposals[0].speaks_for, testing::Contains(testing::HasSubstr("both were named stump")));
    // Two looks of one pass are two things; a hazard joins hazards only.
    auto twin = b;
    twin.id = new_identifier();
    twin.source = "lane 1";
    auto own = a;
    own.source = "lane 1";
    twin.time = own.time + 5 * ns_per_s;
    EXPECT_TRUE(propose_joins({own, twin}).empty());
    auto hazard = b;
    hazard.family = Family::hazard;
    EXPECT_EQ(chance_of_one(a, hazard), 0);
    // Other kinds and heights speak against it.
    auto tall = b;
    tall.height_m = Estimate{3, 0.1};
    auto low = a;
    low.height_m = Estimate{0.4, 0.1};
    EXPECT_LT(chance_of_one(low, tall), chance_of_one(a, b));
}

TEST(Joining, ThePlaceGetsBetterAndNothingIsLost) {
    auto a = at(0, 0, Kind::stump, 2), b = at(3, 0, Kind::stump, 1, "", 30);
    a.note = "from the east";
    b.note = "from the west";
    a.tags = {"one"};
    b.tags = {"two", "one"};
    b.level = Level::me;
    Outcome o;
    o.species = "perch";
    b.outcomes = {o};
    const auto m = joined(a, b);
    EXPECT_EQ(m.id, a.id);
    EXPECT_EQ(m.sightings.size(), 2u);
    EXPECT_EQ(m.note, "from the east\nfrom the west");
    EXPECT_THAT(m.tags, testing::ElementsAre("one", "two"));
    EXPECT_EQ(m.outcomes.size(), 1u);
    EXPECT_EQ(m.level, Level::me) << "the closer of the two holds";
    // By hand: weights 1/4.245 and 1/1.245 of three metres.
    EXPECT_NEAR(plane.to_plane(*m.place).east_m, 3 * (1 / 1.245) / (1 / 4.245 + 1 / 1.245), 0.01);
    EXPECT_LT(m.place_covariance.radial_sd_m(), b.place_covariance.radial_sd_m());
    // And split again.
    const auto parts = split(m, 1);
    ASSERT_TRUE(parts);
    EXPECT_EQ(parts->rest.id, a.id);
    EXPECT_NE(parts->taken.id, m.id);
    EXPECT_NEAR(plane.to_plane(*parts->taken.place).east_m, 3, 1e-6);
    EXPECT_NEAR(plane.to_plane(*parts->rest.place).east_m, 0, 1e-6);
    EXPECT_FALSE(split(a, 0));
}

// Thirty things, six passes, errors of position and heading: asked are 0.95 of the pairs right, and joined
// places better than the best single sighting in the median.
TEST(Joining, ASimulatedLakeIsPutTogether) {
    double right = 0, made = 0, wanted = 0, found = 0;
    std::vector<double> joined_off, best_off;
    for (unsigned seed = 1; seed <= 5; ++seed) {
        const auto s = sail(seed);
        auto all = s.marks;
        std::map<std::string, std::vector<std::string>> members;
        for (const auto &m : all)
            members[m.id] = {m.id};
        for (auto proposals = propose_joins(all); !proposals.empty(); proposals = propose_joins(all))
            for (const auto &p : proposals) {
                const auto where = [&](const std::string &id) {
                    return std::find_if(all.begin(), all.end(), [&](const Mark &m) { return m.id == id; });
                };
                *where(p.a) = joined(*where(p.a), *where(p.b));
                all.erase(where(p.b));
                members[p.a].insert(members[p.a].end(), members[p.b].begin(), members[p.b].end());
            }
        std::map<std::size_t, double> per_thing;
        for (const auto &[id, i] : s.truth)
            per_thing[i] += 1;
        for (const auto &[i, n] : per_thing)
            wanted += n * (n - 1) / 2;
        for (const auto &m : all) {
            const auto &ids = members[m.id];
            std::map<std::size_t, int> of;
            for (std::size_t i = 0; i < ids.size(); ++i) {
                ++of[s.truth.at(ids[i])];
                for (std::size_t j = i + 1; j < ids.size(); ++j) {
                    made += 1;
                    right += s.truth.at(ids[i]) == s.truth.at(ids[j]);
                    found += s.truth.at(ids[i]) == s.truth.at(ids[j]);
                }
            }
            if (ids.size() < 3)
                continue;
            const auto thing = std::max_element(of.begin(), of.end(), [](const auto &x, const auto &y) {
                                   return x.second < y.second;
                               })->first;
            const auto off = [&](const GeoPoint &p) {
                const auto q = plane.to_plane(p);
                return std::hypot(q.east_m - s.things[thing].east_m, q.north_m - s.things[thing].north_m);
            };
            joined_off.push_back(off(*m.place));
            // The sighting that tells the least doubt: what one would have gone by.
            const auto best =
                std::min_element(m.sightings.begin(), m.sightings.end(), [](const auto &x, const auto &y) {
                    return x.place_covariance.radial_sd_m() < y.place_covariance.radial_sd_m();
                });
            best_off.push_back(off(*best->place));
        }
    }
    const auto median = [](std::vector<double> v) {
        std::nth_element(v.begin(), v.begin() + std::ssize(v) / 2, v.end());
        return v[v.size() / 2];
    };
    EXPECT_GE(right / made, 0.95) << "of the pairs that were joined";
    EXPECT_GE(found / wanted, 0.85) << "of the pairs that are one thing";
    EXPECT_LT(median(joined_off), median(best_off));
    RecordProperty("pairs_right", fmt::format("{:.3f}", right / made));
    RecordProperty("pairs_found", fmt::format("{:.3f}", found / wanted));
    RecordProperty("joined_m", fmt::format("{:.2f}", median(joined_off)));
    RecordProperty("best_m", fmt::format("{:.2f}", median(best_off)));
}

// Between two passes the pairs are those of an optimal assignment over the chances (scipy's
// linear_sum_assignment, a rectangular Jonker-Volgenant), but for a few where the sum can be won only at the
// cost of a likelier pair.
TEST(Joining, BetweenTwoPassesItAgreesWithAnOptimalAssignment) {
    const auto s = sail(7);
    std::vector<Mark> one, two;
    for (const auto &m : s.marks)
        if (m.source == "pass 0")
            one.push_back(m);
        else if (m.source == "pass 1")
            two.push_back(m);
    std::ostringstream table;
    for (const auto &a : one) {
        for (const auto &b : two)
            table << chance_of_one(a, b) << " ";
        table << "\n";
    }
    const test::Folder folder;
    std::ofstream(folder.file("chances.txt")) << table.str();
    std::ofstream(folder.file("assign.py")) << R"(
import numpy, sys
from scipy.optimize import linear_sum_assignment
c = numpy.loadtxt(sys.argv[1])
rows, columns = linear_sum_assignment(-c)
for r, k in zip(rows, columns):
    if c[r, k] >= 0.5:
        print(r, k)
)";
    const auto ran =
        test::run("/usr/bin/python3 " + folder.file("assign.py") + " " + folder.file("chances.txt"));
    ASSERT_EQ(ran.code, 0) << ran.out;
    std::set<std::pair<std::string, std::string>> theirs, ours;
    std::istringstream lines(ran.out);
    for (std::size_t r = 0, c = 0; lines >> r >> c;)
        theirs.insert({one[r].id, two[c].id});
    auto both = one;
    both.insert(both.end(), two.begin(), two.end());
    for (const auto &p : propose_joins(both))
        ours.insert(std::any_of(one.begin(), one.end(), [&](const Mark &m) { return m.id == p.a; })
                        ? std::pair(p.a, p.b)
                        : std::pair(p.b, p.a));
    std::size_t alike = 0;
    for (const auto &p : ours)
        alike += theirs.contains(p);
    ASSERT_GT(theirs.size(), 15u);
    EXPECT_GE(static_cast<double>(alike), 0.95 * static_cast<double>(theirs.size()));
}

RC_GTEST_PROP(Joining, OrderDoesNotMatterToThePlace, ()) {
    std::vector<Mark> looks;
    for (int i = *rc::gen::inRange(2, 6); i > 0; --i)
        looks.push_back(at(*rc::gen::inRange(-300, 300) / 100.0, *rc::gen::inRange(-300, 300) / 100.0,
                           Kind::stump, *rc::gen::inRange(50, 400) / 100.0, fmt::format("{}", i), i * 10));
    const auto all = [](const std::vector<Mark> &v) {
        auto m = v[0];
        for (std::size_t i = 1; i < v.size(); ++i)
            m = joined(m, v[i]);
        return m;
    };
    const auto forward = all(looks);
    std::reverse(looks.begin(), looks.end());
    const auto back = all(looks);
    RC_ASSERT(leg_between(*forward.place, *back.place).distance_m < 0.001);
    RC_ASSERT(forward.sightings.size() == looks.size());
    RC_ASSERT(std::fabs(forward.place_covariance.radial_sd_m() - back.place_covariance.radial_sd_m()) < 1e-6);
}
