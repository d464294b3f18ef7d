// Screens of units that do not exist: what the stand-in hears, as their pictures would show it.
#pragma once

#include "screen/calibration.hpp"
#include "sim/scene.hpp"
#include "sonar/nav_track.hpp"
#include "sonar/ping.hpp"

#include <deque>
#include <functional>
#include <memory>
#include <string>

namespace heron::sim {

/// How such a unit lays out its picture.
struct ScreenLayout {
    std::string name;
    int width = 1024, height = 600;
    int left = 0, top = 0, right = 1024, bottom = 600; ///< of the sonar's panel
    NewestAt newest = NewestAt::top;
    double middle = 0.5;
};
/// Seven of them: tall, wide, sideways, one-sided by two thirds, small; and two that nothing was made by:
/// bezel, strip.
const std::vector<ScreenLayout> &screen_layouts();
/// Four colour maps, and a fifth whose lightness does not rise all the way. Each is drawn for day and for
/// night.
inline constexpr int colour_maps = 5;
std::vector<Rgb> screen_colours(int map, bool night);

struct ScreenOptions {
    int layout = 0, map = 0;
    bool night = false, rulers = true, figures = true;
    bool live_figures = false; ///< they tell what the boat's own instruments do, once a second
    double range_m = 26;
    double frequency_hz = 770e3;
};

/// What a boat's sounder and receiver tell, row by row. Several screens may show the same: it is heard once.
class HeardRows {
  public:
    HeardRows(Scene scene, double range_m, double frequency_hz);
    ~HeardRows();
    struct Row {
        Ping ping;
        std::vector<std::pair<UnixNs, std::string>> sentences; ///< since the row before, without their ends
    };
    const Row &at(std::size_t row); ///< heard as far as that where it was not yet
    /// From the next unheard row on.
    void set_range(double range_m);
    double range_m() const;
    double ping_period_s() const;
    const Scene &scene() const;

  private:
    struct State;
    std::unique_ptr<State> state_;
};

/// A screen that scrolls as the boat goes.
class SimulatedScreen {
  public:
    SimulatedScreen(Scene scene, const ScreenOptions &options);
    /// Of rows that others may show too; range and frequency are theirs.
    SimulatedScreen(std::shared_ptr<HeardRows> heard, const ScreenOptions &options);
    ~SimulatedScreen();
    /// So many more rows; true rows of the picture, one a ping.
    void advance(int rows);
    /// As saved by the unit.
    ScreenPicture shown() const;
    /// A menu over a part of the panel.
    void open_menu(bool open);
    /// Another range from the next row on: older rows are drawn anew.
    void set_range(double range_m);
    const ScreenCalibration &calibration() const; ///< the truth of it, ramp included
    /// The pings shown, oldest first, as a recording would hold them, and the boat's track.
    const std::deque<Ping> &pings() const;
    const NavTrack &nav() const;
    const Installation &installation() const;

  private:
    struct State;
    std::unique_ptr<State> state_;
};

/// The same screen photographed by hand: perspective, blur, glare, noise, moiré; the corners of the panel
/// move with it. `strength` 0…1. `corners`: in, on the screen; out, on the photograph.
ScreenPicture photographed(const ScreenPicture &screen, std::array<Pixel, 4> &corners, unsigned seed,
                           double strength = 1);

/// The same as one picture of a film from a hand, `seconds` after the first: what is photographed wanders,
/// rolls and tilts, and a rolling shutter reads its rows one after another. At 0 s it is `photographed` but
/// for that shutter.
ScreenPicture filmed_by_hand(const ScreenPicture &screen, std::array<Pixel, 4> &corners, unsigned seed,
                             double seconds, double strength = 1);

/// The same screen in pixels of another size, as a video output is scaled; the calibration goes with it.
ScreenPicture scaled(const ScreenPicture &screen, ScreenCalibration &calibration, double scale);

/// Writes a PNG, or a JPEG of a quality where the name ends so.
Result<void> write_picture(const ScreenPicture &frame, const std::filesystem::path &file, int quality = 60);

} // namespace heron::sim
