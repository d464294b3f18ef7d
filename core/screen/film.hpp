// A film of a screen becomes a recording: what scrolls in is taken once, in order, at the film's own time.
#pragma once

#include "screen/figures.hpp"
#include "screen/scroll.hpp"
#include "sonar/nav_track.hpp"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace heron {

/// Words about gaps and covers that are kept of a film; of more it is said that there were more.
inline constexpr std::size_t most_film_warnings = 40;

struct FilmFacts {
    std::size_t pictures = 0; ///< of the film that were looked at
    std::size_t rows = 0;     ///< taken
    double seconds = 0;
    double rows_a_second = 0;
    std::array<std::size_t, 5> figures{}; ///< told from the screen, by FigureBox::Of
    double most_scroll = 0;               ///< rows from one picture to the next
    std::vector<std::string> warnings;    ///< gaps, jumps, covers: with the film's time
};

/// Takes pictures as they come, from a film or a device.
class FilmTaker {
  public:
    /// A row as it is known: its levels and its time since the first picture, seconds.
    using Take = std::function<void(const LevelRow &, double seconds)>;
    FilmTaker(ScreenCalibration calibration, Take take);
    /// A picture `seconds` after the first. `onto`: where the screen lies on it (`HandFollower`), if it
    /// wanders.
    void add(const ScreenPicture &picture, double seconds, const std::optional<Homography> &onto = {});
    const FilmFacts &facts() const { return facts_; }
    const ColourRamp &ramp() const { return ramp_; }

  private:
    void tell(const std::string &what, double seconds);

    ScreenCalibration calibration_;
    Take take_;
    FilmFacts facts_;
    ScrollFollower follower_;
    ColourRamp ramp_;
    std::unique_ptr<LevelOfColour> level_;
    double last_s_ = 0;
    bool was_covered_ = false, was_still_ = false;
    double still_since_s_ = 0;
    Panel panel_; ///< of the last picture
};

struct FilmOptions {
    ScreenCalibration calibration;
    UnixNs start = 0;    ///< the time of the first picture
    bool follow = false; ///< held in a hand
    double most_seconds = 6 * 3600;
    /// What a receiver beside it told, in place of the calibration's start.
    std::optional<NavTrack> track;
    /// Asked at every picture: true ends it there, as if it were the film's end. A device knows no other end.
    std::function<bool()> enough;
};

/// A row as it was taken, of a circle a ray.
struct FilmRow {
    LevelRow levels;
    double at_s = 0; ///< since the first picture
    int ray = 0;     ///< of a circle (`off_bow_deg`)
    double range_m = 0;
};

/// As a ping; without beams where neither side of the middle is as wide as 24 pixels.
Ping ping_of_row(const FilmRow &row, ScreenCalibration calibration, UnixNs time);

/// Told while a film or a device is looked through; but for `row` what is not set is not asked.
struct FilmWatch {
    /// False: no more can be taken, and the look ends there.
    std::function<bool(FilmRow row)> row;
    /// What a figure on the screen says, but for the range, which is the rows' own.
    std::function<void(double at_s, const Figure &figure)> figure;
    /// After every picture; false gives it up. `share` of the film, 0…1; 0 of a device.
    std::function<bool(double at_s, double share)> go_on;
};

/// Looks through a film or a device, as its options say; rows come as they are known. Refuses what is no film
/// and what holds no moving picture. Figures are read once a second.
Result<FilmFacts> look_through(const std::filesystem::path &film, const FilmOptions &options,
                               const FilmWatch &watch);

/// The first picture of a film, to set its calibration on.
Result<ScreenPicture> first_picture(const std::filesystem::path &film);

/// Pictures of a film's first seconds, a tenth of a second or more apart: as many as fit 128 MB and at most
/// twenty.
Result<std::vector<ScreenPicture>> first_pictures(const std::filesystem::path &film, double seconds = 2);

/// Reads a film (whatever the FFmpeg libraries read), or a video device (Video4Linux) from now on by this
/// machine's clock, into a recording. Refuses what is no film, what has no
/// picture, what shows no scroll at all, and a track that tells no place while the film runs; what was lost
/// is told in the facts. Figures are read once a second.
Result<FilmFacts> record_film(const std::filesystem::path &film, const FilmOptions &options,
                              const std::filesystem::path &recording,
                              const std::function<bool(double share)> &progress = {});

} // namespace heron
