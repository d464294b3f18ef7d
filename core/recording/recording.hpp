// Recordings: netCDF-4 files in the SONAR-netCDF4 1.0 profile that docs/recording.md describes.
#pragma once

#include "fault/fault.hpp"
#include "geo/position.hpp"
#include "recording/sample_check.hpp"
#include "sonar/nav_track.hpp"
#include "sonar/ping.hpp"

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace heron {

class DamagedPings;

/// All that a recording says beside its pings.
struct RecordingHead {
    std::string title;
    std::string summary;
    std::string platform_name;
    std::string sonar_model;
    Installation installation;
    double sound_speed_m_s = 0;
    std::optional<double> water_temperature_c;
    NavTrack nav;
    std::vector<std::pair<UnixNs, std::string>> sentences; ///< NMEA 0183 as received
};

/// Reads a recording ping by ping, so that memory does not grow with its length. Pings of several beam groups
/// come merged by time. Safe to use from one thread at a time. The library that reads the file may break down
/// on damaged bytes, or spoil memory that it never owned: a child process has the file open
/// (recording/answering_child.hpp), this one is told what it holds, and what breaks the child is reported as
/// damaged.
class RecordingReader {
  public:
    /// Refuses (with one line that names file, group, variable and fault) what is no such file; otherwise
    /// reads it and keeps what is odd about it in `warnings`.
    static Result<RecordingReader> open(const std::filesystem::path &path);
    RecordingReader(RecordingReader &&) noexcept;
    RecordingReader &operator=(RecordingReader &&) noexcept;
    ~RecordingReader();

    const RecordingHead &head() const;
    const std::vector<std::string> &warnings() const;
    std::size_t size() const; ///< pings
    UnixNs time_of(std::size_t i) const;
    /// Ping `i` of `size()`; a fault where the file is damaged there.
    Result<Ping> ping(std::size_t i) const;

  private:
    struct State;
    SampleCheck look_through(DamagedPings &damaged) const;
    explicit RecordingReader(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

/// A whole recording in memory, for short ones and for tests.
struct Recording {
    RecordingHead head;
    std::vector<Ping> pings;
    std::vector<std::string> warnings;
};
Result<Recording> read_recording(const std::filesystem::path &path);

/// Writes a recording; the file appears under its name only when it is whole and on the disk. Side-scan pings
/// (port and starboard) go to one beam group, down pings to another, around pings to a third.
class RecordingWriter {
  public:
    static Result<RecordingWriter> create(const std::filesystem::path &path, const RecordingHead &head);
    RecordingWriter(RecordingWriter &&) noexcept;
    RecordingWriter &operator=(RecordingWriter &&) noexcept;
    ~RecordingWriter(); ///< without `finish`, nothing is left behind

    Result<void> add(const Ping &ping);
    Result<void> finish();

  private:
    struct State;
    explicit RecordingWriter(std::unique_ptr<State> state);
    std::unique_ptr<State> state_;
};

} // namespace heron
