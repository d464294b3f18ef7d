// Work on a file that may be damaged, done in a child process: where the library that reads it breaks down,
// or spoils its memory, the child goes and the program stays as it was.
#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <sys/types.h>
#include <vector>

namespace heron {

/// A forked child that answers questions, each a few bytes, one after the other. It may read files and must
/// touch nothing else of its parent's; it ends with the object, or with its parent. For one thread at a time.
class AnsweringChild {
  public:
    using Bytes = std::vector<std::uint8_t>;
    /// Runs in the child; what it holds is the child's own.
    using Answering = std::function<Bytes(std::span<const std::uint8_t> question)>;
    /// Nothing where no child can be had.
    static std::optional<AnsweringChild> start(const Answering &answering);
    AnsweringChild(AnsweringChild &&other) noexcept;
    AnsweringChild &operator=(AnsweringChild &&other) noexcept;
    ~AnsweringChild();

    enum class End { answered, broke, stuck };
    struct Reply {
        End end = End::broke; ///< after any other than `answered` the child is gone
        Bytes bytes;          ///< of whatever sort: the child may have been misled by what it read
    };
    /// `limit_s` (> 0): the longest that it may take; more than `most_bytes` of answer are not taken.
    Reply ask(std::span<const std::uint8_t> question, double limit_s, std::size_t most_bytes);

    /// Memory that the child may have beyond its parent's.
    static constexpr std::size_t most_more_bytes = 512u << 20;

  private:
    AnsweringChild(pid_t child, int line) : child_(child), line_(line) {}
    void end();
    pid_t child_ = -1;
    int line_ = -1;
};

} // namespace heron
