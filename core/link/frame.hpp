// Framing on the socket between a sounder and the program; the page that describes it is docs/wire.md.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace heron {

using Bytes = std::vector<std::uint8_t>;

enum class FrameType : std::uint8_t { hello = 1, ping = 2, settings = 3, request = 4, note = 5 };

inline constexpr std::uint8_t wire_version = 1;
inline constexpr std::size_t frame_header_size = 16;
inline constexpr std::size_t largest_payload = 4u << 20;

struct Frame {
    FrameType type = FrameType::note;
    Bytes payload;
};

/// Header, checksum and payload in one run of bytes.
Bytes encode_frame(FrameType type, std::span<const std::uint8_t> payload,
                   std::uint8_t version = wire_version);

/// Cuts a stream of bytes into frames. What is no whole, true frame is skipped byte by byte until the next
/// one begins; how much was skipped is counted. The work is bounded by the bytes that came:
/// a stream that claims frame within frame is skipped a claim at a time. Holds at most one largest frame.
class FrameReader {
  public:
    void push(std::span<const std::uint8_t> bytes);
    /// The next whole frame, or nothing until more bytes come.
    std::optional<Frame> next();

    std::uint64_t skipped_bytes() const { return skipped_; }
    std::uint64_t bad_checksums() const { return bad_checksums_; }
    /// The version of the last frame that was refused for speaking another one; its frames are skipped.
    std::optional<std::uint8_t> other_version() const { return other_version_; }
    /// Forgets half-read bytes, as after a new connection.
    void reset();

  private:
    void drop(std::size_t n);

    Bytes buffer_;
    std::size_t start_ = 0;
    std::size_t may_sum_ = 0; // bytes that may still be summed in search of a frame inside a broken one
    std::uint64_t skipped_ = 0;
    std::uint64_t bad_checksums_ = 0;
    std::optional<std::uint8_t> other_version_;
};

} // namespace heron
