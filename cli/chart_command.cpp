#include "chart_command.hpp"

#include "refuse.hpp"

#include "bottom/map_of_file.hpp"
#include "bottom/texture.hpp"
#include "exchange/chart_files.hpp"
#include "exchange/chart_pictures.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fmt/format.h>

namespace heron::cli {
namespace {

constexpr double most_cells = 1e8; // of a raster: some 2 GB while it is worked out

namespace fs = std::filesystem;

void print_warnings(const std::vector<std::string> &warnings) {
    for (const auto &w : warnings)
        fmt::print(stderr, "warning: {}\n", w);
}

Result<std::vector<std::string>> files_of(const std::vector<std::string> &in) {
    std::vector<std::string> files;
    for (const auto &name : in) {
        if (!fs::is_directory(name)) {
            files.push_back(name);
            continue;
        }
        std::error_code error;
        std::vector<std::string> some;
        for (const auto &e : fs::directory_iterator(name, error))
            if (is_chartable(e.path().string()))
                some.push_back(e.path().string());
        if (error || some.empty())
            return fail(told("{} holds no recording, no trip and no log that can be charted", name),
                        told("nothing was written"), told("name another folder"));
        std::sort(some.begin(), some.end());
        files.insert(files.end(), some.begin(), some.end());
    }
    return files;
}

Result<RowChoice> choice_of(const ChartOptions &o) {
    RowChoice choice;
    if (o.khz)
        choice.khz = 10 * static_cast<int>(std::lround(*o.khz / 10.0));
    if (o.day.empty())
        return choice;
    int year = 0;
    unsigned month = 0, day = 0;
    char rest = 0;
    const bool read = std::sscanf(o.day.c_str(), "%4d-%2u-%2u%c", &year, &month, &day, &rest) == 3;
    const std::chrono::year_month_day date{std::chrono::year(year), std::chrono::month(month),
                                           std::chrono::day(day)};
    if (!read || !date.ok())
        return fail(told("{} is no day", o.day), told("nothing was written"), told("write it as 2026-05-17"));
    choice.day = std::chrono::sys_days(date).time_since_epoch().count();
    return choice;
}

} // namespace

Result<void> write_bottom(const std::string &file, const std::string &out, double cell_m,
                          std::vector<std::string> &warnings) {
    const auto map = map_of_file(file, std::nullopt, cell_m, warnings);
    if (!map)
        return tl::unexpected(map.error());
    if (map->empty())
        return fail(told("{}: nothing but depths is told", file), told("nothing was written"),
                    told("hardness needs a sonar that looks sideways or turns"));
    const int times = map->times_within(most_cells);
    if (times > 1)
        warnings.push_back(told("{} spans so much that cells are {:g} m wide", file, cell_m * times));
    const auto h = hardness_of(map->coarser(times));
    return write_geotiff(out, h.raster, {{"hardness", h.hardness}, {"roughness", h.roughness}});
}

int chart(const ChartOptions &o) {
    if (o.mosaic.empty() && o.hardness.empty() && o.depth.empty() && o.package.empty() && o.kmz.empty() &&
        o.png.empty() && o.texture.empty())
        return refuse({told("no output is named"), told("nothing was written"),
                       told("name --mosaic, --hardness, --depth, --package, --kmz, --png or --texture")});
    const auto choice = choice_of(o);
    if (!choice)
        return refuse(choice.error());
    const auto files = files_of(o.in);
    if (!files)
        return refuse(files.error());
    std::optional<GroundMap> map;
    std::size_t refused = 0;
    Fault last;
    for (const auto &file : *files) {
        std::vector<std::string> warnings;
        ClockCheck clocks;
        auto one = map_of_file(file, map ? std::optional(map->zone()) : std::nullopt, o.cell_m, warnings, {},
                               *choice, &clocks, o.positions_late_s);
        if (one && one->empty() && one->soundings().empty())
            one = fail(told("{}: none of its pings is of the band and the day that were chosen", file),
                       told("nothing was written"), told("choose another band or day, or all"));
        else
            print_warnings(warnings);
        if (!one) {
            ++refused;
            last = one.error();
            if (files->size() > 1)
                fmt::print(stderr, "warning: {}\n", one.error().line());
            continue;
        }
        // What was sounded at another level comes under one datum.
        auto level = level_told_in(file, UnitSystem::metres);
        if (!level)
            level = o.level_m;
        if (level && !o.as_it_stands) {
            one->lower_soundings(*level);
            if (!o.quiet)
                fmt::print("{}: its depths are told under the datum, {:.2f} m taken off\n", file, *level);
        }
        if (const auto found = clocks.found(); found && !o.quiet)
            fmt::print("{}: {} of opposite passes: positions come {:.2f} s late (± {:.2f}){}\n", file,
                       found->pairs == 1 ? std::string("1 pair") : fmt::format("{} pairs", found->pairs),
                       found->positions_late_s, found->sd_s,
                       o.positions_late_s != 0 ? " still, after what was told" : "");
        if (map)
            map->merge(*one);
        else
            map = std::move(*one);
    }
    if (!map)
        return refuse(last);
    const bool sonar = !map->empty();
    if (!sonar &&
        (!o.mosaic.empty() || !o.hardness.empty() || !o.kmz.empty() || !o.png.empty() || !o.texture.empty()))
        return refuse({told("nothing but depths is told, so there is neither mosaic nor hardness"),
                       told("nothing was written"), told("name --depth or --package")});
    if (const int times = map->times_within(most_cells); times > 1) {
        *map = map->coarser(times);
        print_warnings({told("{} spans so much that cells are {:g} m wide",
                             o.in.size() == 1 ? o.in.front() : std::string("the chart"), map->cell_m())});
    }
    const auto h = hardness_of(*map);
    std::vector<std::string> written;
    const auto write = [&](const std::string &file, const Result<void> &done) {
        if (done) {
            written.push_back(file);
            return true;
        }
        std::error_code ignored;
        for (const auto &w : written)
            fs::remove(w, ignored);
        refuse(done.error());
        return false;
    };
    const auto levels = [&] {
        return o.blend ? blended_levels(*map, h.raster) : best_levels(*map, h.raster);
    };
    if (!o.mosaic.empty()) {
        const auto level = levels();
        if (!write(o.mosaic, write_geotiff(o.mosaic, h.raster, {{"level_db", level}})))
            return 2;
    }
    if (!o.hardness.empty() &&
        !write(o.hardness,
               write_geotiff(o.hardness, h.raster, {{"hardness", h.hardness}, {"roughness", h.roughness}})))
        return 2;
    if (!o.texture.empty()) {
        const auto t = texture_of(*map, h.raster);
        if (!write(o.texture, write_geotiff(o.texture, t.raster,
                                            {{"level_db", t.level_db},
                                             {"spread_db", t.spread_db},
                                             {"contrast", t.contrast},
                                             {"homogeneity", t.homogeneity},
                                             {"entropy", t.entropy}})))
            return 2;
    }
    const auto grid = depth_grid(map->soundings(), map->zone());
    if (!o.depth.empty() && !write(o.depth, write_geotiff(o.depth, grid.raster,
                                                          {{"depth_m", grid.depth_m}, {"sd_m", grid.sd_m}})))
        return 2;
    if (!o.package.empty() &&
        !write(o.package, write_chart_package(o.package, package_of(*map, h, grid, o.contour_m))))
        return 2;
    const auto picture = [&] { return picture_of_levels(h.raster, levels(), plain_colour_map()); };
    if (!o.kmz.empty() && !write(o.kmz, write_kmz(o.kmz, picture(), package_of(*map, h, grid, o.contour_m),
                                                  fs::path(files->front()).stem().string())))
        return 2;
    if (!o.png.empty() && !write(o.png, write_png_with_world(o.png, picture())))
        return 2;
    if (refused > 0)
        fmt::print(stderr, "warning: {} of {} files were refused, the others were charted\n", refused,
                   files->size());
    if (!o.quiet)
        fmt::print("{} of {} files charted, {:.1f} ha\n", files->size() - refused, files->size(),
                   static_cast<double>(
                       std::count_if(h.hardness.begin(), h.hardness.end(), [](float v) { return v == v; })) *
                       o.cell_m * o.cell_m / 1e4);
    return 0;
}

} // namespace heron::cli
