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
struct MarksOptions {
    std::string in, out;          ///< by suffix; out empty: they are listed
    std::string level;            ///< the receiver's: "me", "crew", "client", "anyone"; empty: all as it is
    std::size_t name_letters = 0; ///< of names in GPX; 0: as long as they are
    bool plain_names = false;     ///< capitals and figures of ASCII alone
    double coarsen_m = 0;         ///< places to within such a circle; 0: as they are
    std::vector<std::string> kinds, tags; ///< only these; empty: all
    bool join = false;                    ///< what is likely one becomes one
    double join_from = 0.95;              ///< from this chance on
};
/// Lists the marks of a file, or carries them to another: all of them, or what a receiver may see. An
/// existing GeoPackage of marks is added to, but a pack is always written anew.
int marks(const MarksOptions &options);

int trip_info(const std::string &trip);
int trip_note(const std::string &trip, const std::string &text);
/// Also while it is written.
int trip_copy(const std::string &trip, const std::string &out);
/// Without `do_it` the saving is told and nothing done. `keep`: rows as "first-last".
int trip_thin(const std::string &trip, double around_marks_s, const std::vector<std::string> &keep,
              bool do_it);

} // namespace heron::cli
