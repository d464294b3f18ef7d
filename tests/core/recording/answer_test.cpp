// What a child tells of a recording: the same as stands in it, whatever comes across.
#include "recording/answer_codec.hpp"

#include "programs.hpp"

#include <gtest/gtest.h>
#include <random>

using namespace heron;

TEST(Answer, OfARecordingIsWhatStandsInIt) {
    const auto file = RecordingFile::open(test::sample());
    ASSERT_TRUE(file) << file.error().line();
    const auto told = read_facts_answer(facts_answer(file));
    ASSERT_TRUE(told && *told);
    const auto &facts = **told;
    EXPECT_EQ(facts.head.title, file->head.title);
    EXPECT_EQ(facts.head.sentences, file->head.sentences);
    EXPECT_EQ(facts.head.water_temperature_c, file->head.water_temperature_c);
    EXPECT_EQ(facts.head.installation.antenna.starboard_m, file->head.installation.antenna.starboard_m);
    EXPECT_EQ(facts.warnings, file->warnings);
    ASSERT_EQ(facts.order.size(), file->order.size());
    const auto &a = facts.head.nav, &b = file->head.nav;
    ASSERT_EQ(a.positions().size(), b.positions().size());
    ASSERT_EQ(a.attitudes().size(), b.attitudes().size());
    ASSERT_EQ(a.depths().size(), b.depths().size());
    EXPECT_EQ(a.positions().back().place.latitude_deg, b.positions().back().place.latitude_deg);
    EXPECT_EQ(a.attitudes().back().heading_deg, b.attitudes().back().heading_deg);
    EXPECT_EQ(a.depths().back().to_waterline_m, b.depths().back().to_waterline_m);
    for (const std::size_t i : {std::size_t{0}, file->order.size() / 2, file->order.size() - 1}) {
        const auto ping = file->ping(i);
        ASSERT_TRUE(ping);
        const auto again = read_ping_answer(ping_answer(ping));
        ASSERT_TRUE(again && *again);
        EXPECT_EQ((*again)->time, ping->time);
        EXPECT_EQ((*again)->slant_m(17), ping->slant_m(17));
        ASSERT_EQ((*again)->beams.size(), ping->beams.size());
        for (std::size_t n = 0; n < ping->beams.size(); ++n) {
            EXPECT_EQ((*again)->beams[n].code, ping->beams[n].code);
            EXPECT_EQ((*again)->beams[n].scale, ping->beams[n].scale);
            EXPECT_EQ((*again)->beams[n].depression_deg, ping->beams[n].depression_deg);
        }
    }
}

TEST(Answer, WhyItWasRefusedComesAcross) {
    const auto told = read_facts_answer(facts_answer(fail("a", "b", "c")));
    ASSERT_TRUE(told);
    ASSERT_FALSE(*told);
    EXPECT_EQ(told->error().line(), "a; b; c");
}

TEST(Answer, OfAMisledChildIsNoneOrOneThatCanBe) {
    const auto file = RecordingFile::open(test::sample());
    ASSERT_TRUE(file);
    std::mt19937 random(6);
    for (const auto &good : {facts_answer(file), ping_answer(file->ping(5))})
        for (int i = 0; i < 400; ++i) {
            auto bad = good;
            for (int n = 1 + static_cast<int>(random() % 8); n > 0; --n)
                bad[random() % bad.size()] = static_cast<std::uint8_t>(random());
            if (i % 4 == 0)
                bad.resize(random() % bad.size());
            if (i % 4 == 1) // its counts and lengths stand at the beginning
                bad[random() % std::min<std::size_t>(200, bad.size())] = 0xFF;
            if (const auto facts = read_facts_answer(bad); facts && *facts)
                for (const auto &at : (*facts)->order)
                    ASSERT_LT(at.group, (*facts)->groups.size());
            if (const auto ping = read_ping_answer(bad); ping && *ping)
                for (const auto &beam : (*ping)->beams)
                    ASSERT_LE((*ping)->slant_m(static_cast<double>(beam.code.size())), most_slant_m);
        }
    EXPECT_FALSE(read_facts_answer({}));
    EXPECT_FALSE(read_ping_answer({}));
}
