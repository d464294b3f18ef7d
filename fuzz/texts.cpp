// Small texts and files that come from elsewhere: a sounder's gear, boats, the log's notes, rules,
// calibrations, figures that were read off a screen, chips of marks, archives.
#include "around/own_boat.hpp"
#include "files/zip.hpp"
#include "fuzz/target.hpp"
#include "picture/chip_png.hpp"
#include "screen/calibration.hpp"
#include "screen/figures.hpp"
#include "story/day_afloat.hpp"
#include "story/local_rules.hpp"
#include "tuning/gear.hpp"

#include <cmath>
#include <cstdio>
#include <filesystem>
#include <string>
#include <unistd.h>

using namespace heron;

namespace {

// What was taken is written, and that is taken again.
void taken_again(const auto &taken, const auto &write, const auto &read) {
    if (taken)
        must(read(write(*taken)).has_value());
}

void archive(std::span<const std::uint8_t> bytes) {
    static const auto file =
        std::filesystem::temp_directory_path() / ("fuzz-" + std::to_string(::getpid()) + ".zip");
    if (auto *out = std::fopen(file.c_str(), "wb")) {
        const auto written = std::fwrite(bytes.data(), 1, bytes.size(), out);
        std::fclose(out);
        must(written == bytes.size());
    }
    constexpr std::size_t most = 8;
    constexpr std::uintmax_t most_bytes = 1u << 20;
    if (const auto members = read_zip(file, "", most, most_bytes)) {
        std::uintmax_t all = 0;
        for (const auto &m : *members) {
            all += m.bytes.size();
            must(!m.name.starts_with('/') && !m.name.starts_with("../"));
        }
        must(members->size() <= most && all <= most_bytes);
    }
    std::error_code error;
    std::filesystem::remove(file, error);
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    if (size == 0)
        return 0;
    const std::string text(reinterpret_cast<const char *>(data) + 1, size - 1);
    switch (data[0] % 8) {
    case 0:
        taken_again(boats_from_json(text), boats_to_json, boats_from_json);
        break;
    case 1:
        taken_again(gear_from_json(text), gear_to_json, gear_from_json);
        break;
    case 2:
        taken_again(days_from_json(text), days_to_json, days_from_json);
        break;
    case 3:
        taken_again(rules_from_json(text), rules_to_json, rules_from_json);
        break;
    case 4:
        taken_again(calibration_from_json(text), calibration_to_json, calibration_from_json);
        break;
    case 5:
        for (const auto of : {FigureBox::Of::depth, FigureBox::Of::speed, FigureBox::Of::heading,
                              FigureBox::Of::position, FigureBox::Of::range})
            if (const auto f = figure_of_words(text, {of, {0, 0}, {40, 20}, ""})) {
                must(std::isfinite(f->value));
                must(of != FigureBox::Of::position || f->place);
            }
        break;
    case 6:
        if (const auto chip = chip_from_png(text))
            must(chip_from_png(png_of_chip(*chip)).has_value());
        break;
    default:
        archive({data + 1, size - 1});
    }
    return 0;
}
