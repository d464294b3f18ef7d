// What a visit may be expected to bring: worked by hand; and rules of the place by their days.
#include "story/local_rules.hpp"
#include "story/promise.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

using namespace heron;
using testing::HasSubstr;

namespace {

Visit visit(const std::string &mark, bool bitten, std::map<std::string, std::string> of) {
    Visit v;
    v.mark = mark;
    v.bitten = bitten;
    v.of = std::move(of);
    return v;
}

} // namespace

TEST(Promise, OwnVisitsCountWholeOthersAThirdAndConditionsWeigh) {
    const std::vector<Visit> visits{visit("a", true, {{"kind", "stump"}, {"wind", "light"}}),
                                    visit("a", true, {{"kind", "stump"}, {"wind", "strong"}}),
                                    visit("b", false, {{"kind", "stump"}, {"wind", "light"}}),
                                    visit("c", false, {{"kind", "log"}, {"wind", "light"}}),
                                    visit("d", false, {{"kind", "stump"}, {"wind", "strong"}})};
    // In a light wind: a's first visit counts 1, its second 0; b's a third; c's kind agrees in nothing; d's
    // day neither.
    const auto p = promise_of("a", {{"kind", "stump"}, {"wind", "light"}}, visits);
    EXPECT_NEAR(p.visits, 1 + 1.0 / 3, 1e-9);
    EXPECT_TRUE(p.own);
    // (1 + 0.4·3) / (4/3 + 3): the whole record, two of five, as three visits.
    EXPECT_NEAR(p.share, 2.2 / (4.0 / 3 + 3), 1e-9);
    // Of a mark nobody visited in conditions nobody knew: the whole record.
    const auto other = promise_of("x", {{"kind", "weeds"}, {"wind", "calm"}}, visits);
    EXPECT_NEAR(other.share, 0.4, 1e-9);
    EXPECT_NEAR(other.visits, 0, 1e-9);
    EXPECT_FALSE(other.own);
    EXPECT_DOUBLE_EQ(other.within.low, 0);
    EXPECT_DOUBLE_EQ(other.within.high, 1) << "nothing is known";
}

// With whole counts of one mark the interval is Wilson's own.
TEST(Promise, TheIntervalIsWilsons) {
    std::vector<Visit> visits;
    for (int i = 0; i < 10; ++i)
        visits.push_back(visit("a", i < 4, {}));
    const auto p = promise_of("a", {}, visits);
    const auto w = wilson(4, 10);
    EXPECT_NEAR(p.within.low, w.low, 1e-9);
    EXPECT_NEAR(p.within.high, w.high, 1e-9);
}

RC_GTEST_PROP(Promise, MoreBitesNeverPromiseLess, ()) {
    std::vector<Visit> visits;
    for (int i = *rc::gen::inRange(1, 20); i > 0; --i)
        visits.push_back(visit(*rc::gen::element(std::string("a"), std::string("b")),
                               *rc::gen::arbitrary<bool>(),
                               {{"kind", *rc::gen::element(std::string("stump"), std::string("log"))},
                                {"wind", *rc::gen::element(std::string("calm"), std::string("light"))}}));
    const std::map<std::string, std::string> of{{"kind", "stump"}, {"wind", "calm"}};
    const auto before = promise_of("a", of, visits);
    RC_ASSERT(before.share >= 0 && before.share <= 1 && before.within.low <= before.within.high);
    const auto which = *rc::gen::inRange<std::size_t>(0, visits.size());
    visits[which].bitten = true;
    RC_ASSERT(promise_of("a", of, visits).share >= before.share - 1e-12);
}

TEST(LocalRules, HoldInTheirSeasonOnTheirWater) {
    LocalRule closed{"zander closed", "Ellemoor Water", 3, 15, 6, 15};
    EXPECT_TRUE(holds(closed, "2026-03-15", "Ellemoor Water"));
    EXPECT_TRUE(holds(closed, "2026-06-15", "Ellemoor Water"));
    EXPECT_FALSE(holds(closed, "2026-06-16", "Ellemoor Water"));
    EXPECT_FALSE(holds(closed, "2026-05-01", "another"));
    LocalRule winter{"no boats", "", 11, 1, 2, 28};
    EXPECT_TRUE(holds(winter, "2026-12-24", "any"));
    EXPECT_TRUE(holds(winter, "2026-01-01", "any"));
    EXPECT_FALSE(holds(winter, "2026-03-01", "any"));
    EXPECT_TRUE(holds({"licence aboard", "", 0, 0, 0, 0}, "2026-07-01", ""));
    EXPECT_EQ(rules_on({closed, winter}, "2026-12-24", "Ellemoor Water").size(), 1u);
}

TEST(LocalRules, ComeBackAsTheyWereAndWhatIsNoneIsRefused) {
    const std::vector<LocalRule> rules{{"zander closed", "Ellemoor Water", 3, 15, 6, 15},
                                       {"licence aboard", "", 0, 0, 0, 0}};
    const auto back = rules_from_json(rules_to_json(rules));
    ASSERT_TRUE(back);
    EXPECT_EQ(*back, rules);
    for (const char *bad :
         {"{}", "[{}]", "[{\"text\":\"\"}]", "[{\"text\":\"x\",\"from\":\"13-01\",\"to\":\"01-01\"}]",
          "[{\"text\":\"x\",\"from\":\"02-30\",\"to\":\"03-01\"}]", "[", "[{\"text\":3}]"})
        EXPECT_FALSE(rules_from_json(bad)) << bad;
    EXPECT_THAT(rules_from_json("[{\"text\":\"x\",\"from\":\"1-1\",\"to\":\"03-01\"}]").error().happened,
                HasSubstr("entry 1"));
}
