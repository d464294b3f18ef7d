#include "link/frame.hpp"

#include <algorithm>
#include <array>
#include <bit>
#include <cstring>
#include <zlib.h>

namespace heron {
namespace {

static_assert(std::endian::native == std::endian::little,
              "the wire is little-endian; swap bytes here for other hosts");

// How many bytes may be summed for each that came: once for a sound stream, a few times where frames begin
// within broken ones. A stream made of headers that claim one another is then skipped as it claims.
constexpr std::size_t sums_a_byte = 4;

constexpr std::array<std::uint8_t, 4> magic{'Y', 'H', 'S', 'L'};

std::uint32_t checksum(std::span<const std::uint8_t> header_4_to_12, std::span<const std::uint8_t> payload) {
    auto crc = ::crc32(0, header_4_to_12.data(), static_cast<uInt>(header_4_to_12.size()));
    if (!payload.empty())
        crc = ::crc32(crc, payload.data(), static_cast<uInt>(payload.size()));
    return static_cast<std::uint32_t>(crc);
}

// Of the header alone, so that a damaged length never holds up the frames behind it.
std::uint16_t header_check(std::span<const std::uint8_t> header) {
    auto crc = ::crc32(0, header.data(), 6);
    crc = ::crc32(crc, header.data() + 8, 4);
    return static_cast<std::uint16_t>(crc & 0xFFFFu);
}

template <class T>
T read_at(const std::uint8_t *p) {
    T value;
    std::memcpy(&value, p, sizeof value);
    return value;
}

} // namespace

Bytes encode_frame(FrameType type, std::span<const std::uint8_t> payload, std::uint8_t version) {
    Bytes out(frame_header_size + payload.size());
    std::copy(magic.begin(), magic.end(), out.begin());
    out[4] = version;
    out[5] = static_cast<std::uint8_t>(type);
    const auto length = static_cast<std::uint32_t>(payload.size());
    std::memcpy(&out[8], &length, sizeof length);
    const auto check = header_check(out);
    std::memcpy(&out[6], &check, sizeof check);
    const auto crc = checksum(std::span(out).subspan(4, 8), payload);
    std::memcpy(&out[12], &crc, sizeof crc);
    std::copy(payload.begin(), payload.end(), out.begin() + frame_header_size);
    return out;
}

void FrameReader::push(std::span<const std::uint8_t> bytes) {
    if (start_ > 0) {
        buffer_.erase(buffer_.begin(), buffer_.begin() + static_cast<std::ptrdiff_t>(start_));
        start_ = 0;
    }
    buffer_.insert(buffer_.end(), bytes.begin(), bytes.end());
    may_sum_ = std::min(may_sum_ + sums_a_byte * bytes.size(), 2 * largest_payload);
}

void FrameReader::drop(std::size_t n) {
    start_ += n;
    skipped_ += n;
}

std::optional<Frame> FrameReader::next() {
    while (true) {
        const auto bytes = std::span(buffer_).subspan(start_);
        const auto found = std::search(bytes.begin(), bytes.end(), magic.begin(), magic.end());
        const auto at = static_cast<std::size_t>(found - bytes.begin());
        if (found == bytes.end()) {
            // The last three bytes may be the beginning of the next frame.
            if (bytes.size() > magic.size() - 1)
                drop(bytes.size() - (magic.size() - 1));
            return std::nullopt;
        }
        if (at > 0) {
            drop(at);
            continue;
        }
        if (bytes.size() < frame_header_size)
            return std::nullopt;
        const auto length = read_at<std::uint32_t>(&bytes[8]);
        if (length > largest_payload || header_check(bytes) != read_at<std::uint16_t>(&bytes[6])) {
            drop(1);
            continue;
        }
        if (bytes.size() < frame_header_size + length)
            return std::nullopt;
        const auto payload = bytes.subspan(frame_header_size, length);
        const bool damaged = checksum(bytes.subspan(4, 8), payload) != read_at<std::uint32_t>(&bytes[12]);
        const bool may_search = may_sum_ > length;
        may_sum_ -= std::min(may_sum_, frame_header_size + length);
        if (damaged) {
            ++bad_checksums_;
            drop(may_search ? 1 : frame_header_size + length);
            continue;
        }
        if (bytes[4] != wire_version) {
            other_version_ = bytes[4];
            drop(frame_header_size + length);
            continue;
        }
        Frame frame{static_cast<FrameType>(bytes[5]), Bytes(payload.begin(), payload.end())};
        start_ += frame_header_size + length;
        return frame;
    }
}

void FrameReader::reset() {
    buffer_.clear();
    start_ = 0;
    may_sum_ = 0;
    other_version_.reset();
}

} // namespace heron
