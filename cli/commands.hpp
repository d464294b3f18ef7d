// The commands of `heron`. Each returns the exit code: 0 done (warnings on stderr, one a line), 2 refused.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace heron::cli {

/// What a recording holds, for people or (json) for programs.
int info(const std::string &recording, bool json);
/// Runs heron-sounder, which stands beside this program, to make a recording of a lake that does not exist.
/// Nothing said: as the stand-in is set when it is switched on.
struct SimulateOptions {
    std::string scene, out, start;
    double seconds = 60;
    std::optional<double> range_m, band_khz, gain, tvg_log;
};
int simulate(const SimulateOptions &options);
/// Carries sonar between trips and recordings, or writes a recording anew with what could be read of it.
int convert(const std::string &in, const std::string &out);
/// Lists the marks of a mark file or a GPX file, or writes them to another.
int marks(const std::string &in, const std::string &out);

int trip_info(const std::string &trip);
int trip_note(const std::string &trip, const std::string &text);
/// Also while it is written.
int trip_copy(const std::string &trip, const std::string &out);
/// Without `do_it` the saving is told and nothing done. `keep`: rows as "first-last".
int trip_thin(const std::string &trip, double around_marks_s, const std::vector<std::string> &keep,
              bool do_it);

} // namespace heron::cli
