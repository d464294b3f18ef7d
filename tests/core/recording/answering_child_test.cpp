// A child that answers questions, and what its parent is spared.
#include "recording/answering_child.hpp"

#include "in_child.hpp"
#include "programs.hpp"
#include "recording/recording.hpp"

#include <csignal>
#include <cstdlib>
#include <fstream>
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <unistd.h>

using namespace heron;
using testing::ElementsAre;
using testing::HasSubstr;
using testing::Not;
using End = AnsweringChild::End;

namespace {

using Asked = std::span<const std::uint8_t>;

std::vector<std::uint8_t> bytes(std::initializer_list<std::uint8_t> b) {
    return b;
}

// What this process has open or mapped, a line each.
std::string all_open() {
    std::string all;
    for (const auto &e : std::filesystem::directory_iterator("/proc/self/fd")) {
        std::error_code gone;
        all += std::filesystem::read_symlink(e.path(), gone).string() + "\n";
    }
    return all + test::contents("/proc/self/maps");
}

} // namespace

TEST(AnsweringChild, AnswersOneQuestionAfterTheOtherAndKeepsWhatIsItsOwn) {
    int asked = 0;
    auto child = AnsweringChild::start([asked](Asked question) mutable {
        AnsweringChild::Bytes answer(question.begin(), question.end());
        answer.push_back(static_cast<std::uint8_t>(++asked));
        return answer;
    });
    ASSERT_TRUE(child);
    const auto first = child->ask(bytes({7, 8}), 10, 100);
    EXPECT_EQ(first.end, End::answered);
    EXPECT_THAT(first.bytes, ElementsAre(7, 8, 1));
    auto moved = std::move(*child);
    EXPECT_THAT(moved.ask({}, 10, 100).bytes, ElementsAre(2));
    EXPECT_EQ(asked, 0) << "this process has its own";
}

TEST(AnsweringChild, WhateverEndsTheChildIsToldAndNothingElseHappens) {
    EXPECT_EQ(test::done_in_child([] {}, 10), End::answered);
    EXPECT_EQ(test::done_in_child([] { std::raise(SIGSEGV); }, 10), End::broke);
    EXPECT_EQ(test::done_in_child([] { std::abort(); }, 10), End::broke);
    EXPECT_EQ(test::done_in_child([] { throw std::runtime_error("no"); }, 10), End::broke);
    EXPECT_EQ(test::done_in_child([] { std::_Exit(0); }, 10), End::broke) << "gone without an answer";
    EXPECT_EQ(test::done_in_child(
                  [] {
                      for (volatile int i = 0;;)
                          i = i + 1;
                  },
                  0.3),
              End::stuck);
    auto child = AnsweringChild::start([](Asked) -> AnsweringChild::Bytes {
        std::raise(SIGSEGV);
        return {};
    });
    ASSERT_TRUE(child);
    EXPECT_EQ(child->ask({}, 10, 0).end, End::broke);
    EXPECT_EQ(child->ask({}, 10, 0).end, End::broke)
        << "it is gone, and no signal for writing to nobody comes";
}

TEST(AnsweringChild, AnAnswerOfMoreThanCanBeIsNotTaken) {
    auto child = AnsweringChild::start([](Asked) { return AnsweringChild::Bytes(1001); });
    ASSERT_TRUE(child);
    const auto reply = child->ask({}, 10, 1000);
    EXPECT_EQ(reply.end, End::broke);
    EXPECT_TRUE(reply.bytes.empty());
}

#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
TEST(AnsweringChild, HasNoMoreMemoryThanItsParentAndHalfAGigabyte) {
    EXPECT_EQ(test::done_in_child([] { std::vector<char> much(AnsweringChild::most_more_bytes / 4, 1); }, 20),
              End::answered);
    EXPECT_EQ(test::done_in_child([] { std::vector<char> much(2 * AnsweringChild::most_more_bytes, 1); }, 20),
              End::broke);
}
#endif

TEST(AnsweringChild, HoldsNothingOpenThatItsParentCloses) {
    int pipe[2];
    ASSERT_EQ(::pipe(pipe), 0);
    auto child = AnsweringChild::start([](Asked) { return AnsweringChild::Bytes{}; });
    ASSERT_TRUE(child);
    ASSERT_EQ(child->ask({}, 10, 0).end, End::answered);
    ::close(pipe[1]);
    char nothing = 0;
    EXPECT_EQ(::read(pipe[0], &nothing, 1), 0) << "the end, as nobody else can write";
    ::close(pipe[0]);
}

// A library that breaks down or spoils memory over a damaged file does so in the child.
TEST(AnsweringChild, TheProgramItselfNeverHasTheRecordingOpen) {
    const auto reader = RecordingReader::open(test::sample());
    ASSERT_TRUE(reader) << reader.error().line();
    ASSERT_TRUE(reader->ping(0));
    EXPECT_THAT(all_open(), Not(HasSubstr("quarry-pool.nc")));
    const std::ifstream open(test::sample());
    EXPECT_THAT(all_open(), HasSubstr("quarry-pool.nc")) << "it would be seen";
}
