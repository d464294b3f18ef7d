// Figures that stand on a unit's screen, read from boxes that the guide drew round them: what a sounder and a
// receiver would have said.
#pragma once

#include "geo/position.hpp"
#include "screen/screen_picture.hpp"

#include <array>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// Where a figure stands on the calibration's picture, and what it is.
struct FigureBox {
    enum class Of : std::uint8_t { depth, speed, heading, position, range } of = Of::depth;
    Pixel from, to; ///< upper left and lower right, pixels
    /// What it counts in where the screen does not say so beside it: depth and range "m" or "ft", speed
    /// "m/s", "km/h", "mph" or "kn".
    std::string unit;
    bool operator==(const FigureBox &) const = default;
};
std::string_view name_of(FigureBox::Of of);
std::optional<FigureBox::Of> figure_named(std::string_view name);
/// Metres, or metres a second, of one of a unit; nothing for a unit of something else.
std::optional<double> figure_unit(FigureBox::Of of, std::string_view unit);

struct Figure {
    FigureBox::Of of = FigureBox::Of::depth;
    double value = 0;              ///< metres, metres a second, degrees
    std::optional<GeoPoint> place; ///< of `position`
};
/// What words mean as such a figure: the number, with the unit that stands in them or else the box's; degrees
/// with or without minutes and N, S, E, W. Nothing where that is no such figure, or none that can be.
std::optional<Figure> figure_of_words(const std::string &words, const FigureBox &box);

/// What was read of one box, sure or not.
struct FigureWords {
    std::string words;
    int sureness = 0; ///< 0 … 100, the reading program's own
    std::optional<Figure> figure;
};

/// Reads with Tesseract (its English model). One thread.
class FigureReader {
  public:
    /// Refuses where the model is not installed.
    static Result<FigureReader> create(std::vector<FigureBox> boxes);
    ~FigureReader();
    FigureReader(FigureReader &&) noexcept;
    FigureReader &operator=(FigureReader &&) noexcept;

    /// What stands in a box now, whether it can be or not.
    FigureWords words(const ScreenPicture &picture, const FigureBox &box);
    /// What can be told of a picture `seconds` after the first: figures that were read surely and go on from
    /// what was told before (depth by 1.2 m/s, speed by 3 m/s², heading by 60°/s, position by 15 m/s), or
    /// that were read twice alike where nothing was told for five seconds. What is unsure is left out.
    std::vector<Figure> read(const ScreenPicture &picture, double seconds);

  private:
    FigureReader();
    struct State;
    std::unique_ptr<State> state_;
};

} // namespace heron
