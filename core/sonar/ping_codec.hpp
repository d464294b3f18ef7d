// A ping as bytes, little-endian: on the wire and in a trip. docs/wire.md tells each field.
#pragma once

#include "sonar/ping.hpp"

#include <bit>
#include <cstdint>
#include <cstring>
#include <optional>
#include <span>
#include <type_traits>
#include <vector>

namespace heron {

static_assert(std::endian::native == std::endian::little,
              "bytes are little-endian; swap them here for other hosts");

class ByteWriter {
  public:
    template <class T>
    void put(T value) {
        static_assert(std::is_trivially_copyable_v<T>);
        const auto *p = reinterpret_cast<const std::uint8_t *>(&value);
        bytes.insert(bytes.end(), p, p + sizeof value);
    }
    void put_float(double value) { put(static_cast<float>(value)); }
    std::vector<std::uint8_t> bytes;
};

class ByteReader {
  public:
    explicit ByteReader(std::span<const std::uint8_t> bytes) : bytes_(bytes) {}
    template <class T>
    T get() {
        static_assert(std::is_trivially_copyable_v<T>);
        T value{};
        const auto from = take(sizeof value);
        if (!from.empty())
            std::memcpy(&value, from.data(), sizeof value);
        return value;
    }
    double get_float() { return static_cast<double>(get<float>()); }
    /// The next `n` bytes; none where so many are not left.
    std::span<const std::uint8_t> take(std::size_t n) {
        if (bytes_.size() < n) {
            short_ = true;
            return {};
        }
        const auto taken = bytes_.first(n);
        bytes_ = bytes_.subspan(n);
        return taken;
    }
    bool too_short() const { return short_; }
    bool at_end() const { return bytes_.empty(); }

  private:
    std::span<const std::uint8_t> bytes_;
    bool short_ = false;
};

void append_ping(ByteWriter &out, const Ping &ping);
/// Nothing for bytes that are no whole ping, or one that makes no sense.
std::optional<Ping> read_ping(ByteReader &in);

void append_settings(ByteWriter &out, const SoundingSettings &settings);
SoundingSettings read_settings(ByteReader &bytes);
/// The same, with nought for what no sounder can be set to.
SoundingSettings held(SoundingSettings settings);

} // namespace heron
