// A row of the picture: one side-looking transmission, what looked down beside it, and how the sounder was
// set.
#pragma once

#include "sonar/ping.hpp"

#include <optional>

namespace heron {

struct SoundedRow {
    Ping ping;
    std::optional<Ping> down; ///< what a transducer of its own heard from below since the row before
    SoundingSettings settings;
};

/// How much memory its samples take, bytes.
std::size_t bytes_of(const Ping &ping);
std::size_t bytes_of(const SoundedRow &row);

/// Makes rows of transmissions as they come. Those that only look down go with the next side-looking one;
/// where nothing ever looked aside they are rows themselves.
class RowAssembler {
  public:
    std::optional<SoundedRow> take(Ping ping, const SoundingSettings &settings);

  private:
    static constexpr double longest_wait_s = 1; ///< an older look down is of another place
    bool looks_aside_ = false;
    std::optional<Ping> waiting_;
};

} // namespace heron
