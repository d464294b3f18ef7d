// What is said of a contact: its family and kind from its chances, and reasons that are true of it.
#include "reading/contact.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <numeric>
#include <random>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::Contains;
using testing::HasSubstr;
using testing::Not;

namespace {

constexpr std::size_t at(Kind k) {
    return static_cast<std::size_t>(k);
}

Contact with(std::initializer_list<std::pair<Kind, double>> chances) {
    Contact c;
    double sum = 0;
    for (const auto &[kind, p] : chances) {
        c.chances[at(kind)] = p;
        sum += p;
    }
    c.chances[0] = 1 - sum;
    settle_kind(c);
    return c;
}

std::string all_of(const std::vector<std::string> &lines) {
    return std::accumulate(lines.begin(), lines.end(), std::string(),
                           [](const std::string &a, const std::string &b) { return a + b + "\n"; });
}

// Figures such as a reading might measure, at random.
Contact measured(std::uint32_t seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> share(0, 1);
    Contact c;
    c.zone = static_cast<Zone>(random() % 3);
    for (auto &f : c.features)
        f = 5 * share(random) - 2;
    c.chances = KindModel::shipped().chances(c.zone, c.features);
    c.behind.found = random() % 3 > 0;
    c.behind.score = 6 * share(random);
    c.behind.start_m = 10 + share(random);
    c.behind.end_m = c.behind.start_m + 3 * share(random);
    c.behind.gap_m = share(random);
    c.behind.depth_db = 3 + 8 * share(random);
    c.behind.source_z = random() % 2 == 0 ? 0 : 5 * share(random);
    c.slant_m = 9.5;
    c.echo_end_m = 10;
    c.length_m = 0.3 + 4 * share(random);
    c.width_m = 0.5 * *c.length_m;
    if (random() % 2 == 0)
        c.height_m = Estimate{0.2 + 2 * share(random), 0.2};
    settle_kind(c);
    return c;
}

} // namespace

// By the contract: the likeliest kind of the likeliest family, and `unsure` where no family has half of what
// is real.
TEST(SettleKind, TheFamilyIsTheSumOfItsKinds) {
    const auto c = with({{Kind::boulder, 0.3}, {Kind::stump, 0.3}, {Kind::log, 0.05}, {Kind::fish, 0.31}});
    EXPECT_EQ(c.family, Family::structure);
    EXPECT_NEAR(c.confidence, 0.65, 1e-12);
    EXPECT_THAT(c.kind, testing::AnyOf(Kind::boulder, Kind::stump)) << "though fish is the likeliest kind";
    EXPECT_EQ(c.placement, Placement::on_bottom);
    EXPECT_NEAR(c.real(), 0.96, 1e-12);
}

TEST(SettleKind, UnsureWhereNoFamilyHasHalfAndThenItsConfidenceIsThatItIsReal) {
    const auto c = with({{Kind::boulder, 0.32}, {Kind::fish, 0.3}, {Kind::hole, 0.28}});
    EXPECT_EQ(c.family, Family::unsure);
    EXPECT_NEAR(c.confidence, 0.9, 1e-12);
    EXPECT_EQ(c.placement, Placement::unknown) << "no shadow tells";
}

TEST(SettleKind, OfWhatIsUnsureTheShadowDecidesWhereItStands) {
    auto c = with({{Kind::boulder, 0.32}, {Kind::fish, 0.3}, {Kind::hole, 0.28}});
    c.behind.found = true;
    c.behind.score = 3;
    for (const double gap : {0.0, 1.0}) {
        c.features[feature_named("gap height")] = gap;
        settle_kind(c);
        EXPECT_EQ(c.placement, gap > 0.5 ? Placement::suspended : Placement::on_bottom) << gap;
    }
    c.behind = {};
    c.zone = Zone::water;
    settle_kind(c);
    EXPECT_EQ(c.placement, Placement::suspended) << "before the first return";
}

TEST(SettleKind, AKindThatShareItsFamilyEvenlyIsNotSure) {
    EXPECT_TRUE(with({{Kind::boulder, 0.6}, {Kind::stump, 0.3}}).kind_sure);
    EXPECT_FALSE(
        with({{Kind::boulder, 0.25}, {Kind::stump, 0.24}, {Kind::log, 0.23}, {Kind::brush, 0.22}}).kind_sure);
}

RC_GTEST_PROP(SettleKind, HoldsWhatTheContractSaysWhateverTheChances, ()) {
    const auto c = measured(*rc::gen::arbitrary<std::uint32_t>());
    RC_ASSERT(c.confidence >= 0 && c.confidence <= 1);
    double own = 0, sum = 0;
    for (std::size_t k = 0; k < kind_count; ++k) {
        RC_ASSERT(c.chances[k] >= 0);
        sum += c.chances[k];
        if (k > 0 && family_of(static_cast<Kind>(k)) == c.family)
            own += c.chances[k];
    }
    RC_ASSERT(std::fabs(sum - 1) < 1e-9);
    RC_ASSERT(c.kind != Kind::none);
    if (c.family == Family::unsure) {
        RC_ASSERT(std::fabs(c.confidence - c.real()) < 1e-9);
    } else {
        RC_ASSERT(std::fabs(c.confidence - own) < 1e-9);
        RC_ASSERT(family_of(c.kind) == c.family);
        RC_ASSERT(own >= 0.5 * c.real() - 1e-9);
        RC_ASSERT((c.placement == Placement::suspended) == (c.family == Family::fish));
    }
    RC_ASSERT(c.confidence <= c.real() + 1e-9);
}

// Whatever was measured: some reason is given, none twice, none that is empty, and none that cannot be so.
RC_GTEST_PROP(Reasons, AreGivenOnceAndAreTrue, ()) {
    auto c = measured(*rc::gen::arbitrary<std::uint32_t>());
    const auto units = *rc::gen::element(UnitSystem::metres, UnitSystem::feet);
    give_reasons(c, units);
    RC_ASSERT(!c.reasons.empty());
    RC_ASSERT(c.reasons.size() <= 8u);
    RC_ASSERT(c.doubts.size() <= 2u);
    std::vector<std::string> both = c.reasons;
    both.insert(both.end(), c.doubts.begin(), c.doubts.end());
    for (std::size_t i = 0; i < both.size(); ++i) {
        RC_ASSERT(!both[i].empty());
        for (std::size_t k = 0; k < i; ++k)
            RC_ASSERT(both[i] != both[k]);
    }
    const auto words = all_of(both);
    const auto says = [&](const char *what) { return words.find(what) != std::string::npos; };
    RC_ASSERT(!says("nan") && !says("inf"));
    if (!c.behind.found)
        RC_ASSERT(!says("a shadow ") && !says("the dark begins"));
    if (!c.height_m)
        RC_ASSERT(!says("of height"));
    if (c.zone != Zone::dark)
        RC_ASSERT(!says("found by its shadow") && !says("the shadow alone"));
    RC_ASSERT(!(says("stands off the bottom") && says("stands on the bottom")));
    RC_ASSERT(says(units == UnitSystem::feet ? " m " : " ft ") == false);
}

TEST(Reasons, TellTheUnitsTheGuideReads) {
    auto c = with({{Kind::boulder, 0.9}});
    c.behind.found = true;
    c.behind.score = 4;
    c.behind.start_m = 12;
    c.behind.end_m = 14;
    c.behind.depth_db = 8;
    give_reasons(c, UnitSystem::metres);
    EXPECT_THAT(c.reasons, Contains(HasSubstr("a shadow 2.0 m long behind it, 8 dB darker")));
    give_reasons(c, UnitSystem::feet);
    EXPECT_THAT(c.reasons, Contains(HasSubstr("a shadow 6.6 ft long behind it, 8 dB darker")));
}

TEST(Reasons, SayWhatLimitsAMeasurement) {
    auto c = with({{Kind::tree, 0.9}});
    give_reasons(c);
    EXPECT_THAT(c.reasons, Not(Contains(HasSubstr("at least"))));
    c.height_at_least = true;
    c.looks = 3;
    give_reasons(c);
    EXPECT_THAT(c.reasons, Contains(HasSubstr("it is at least that high")));
    EXPECT_THAT(c.reasons, Contains("seen in 3 looks"));
}

TEST(Reasons, OfAStepUnderTheTrackAreItsDepths) {
    Contact c;
    c.zone = Zone::track;
    c.kind = Kind::ledge;
    c.family = Family::bottom;
    c.features = KindModel::of_drop(9, 1.4, 2);
    c.height_m = Estimate{1.4, 0.15};
    c.along_m = 2;
    for (const double falls : {1.4, -1.4}) {
        c.falls_m = falls;
        give_reasons(c);
        EXPECT_THAT(c.reasons[0],
                    HasSubstr(falls > 0 ? "the bottom falls 1.4 m within 2.0 m" : "the bottom rises 1.4 m"));
        EXPECT_THAT(c.reasons[1], HasSubstr("9 times its doubt"));
        EXPECT_THAT(c.doubts, Contains(HasSubstr("one track tells neither")));
    }
    c.looks = 2;
    c.length_m = 40;
    give_reasons(c);
    EXPECT_THAT(c.reasons, Contains(HasSubstr("crossed 2 times, 40 m from")));
    EXPECT_TRUE(c.doubts.empty());
}

TEST(Kinds, NamesThereAndBackAndEachInItsFamily) {
    int fish = 0, structure = 0, bottom = 0;
    for (std::size_t k = 0; k < kind_count; ++k) {
        const auto kind = static_cast<Kind>(k);
        EXPECT_EQ(kind_named(name_of(kind)), kind);
        fish += family_of(kind) == Family::fish;
        structure += family_of(kind) == Family::structure;
        bottom += family_of(kind) == Family::bottom;
    }
    // As many as docs/recording.md lists.
    EXPECT_EQ(fish, 3);
    EXPECT_EQ(structure, 8);
    EXPECT_EQ(bottom, 5);
    EXPECT_FALSE(kind_named("pike")) << "never a species";
    EXPECT_FALSE(kind_named(""));
}
