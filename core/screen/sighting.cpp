#include "screen/sighting.hpp"

#include "files/atomic_file.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"

#include <algorithm>

namespace heron {
namespace {

using nlohmann::json;

constexpr std::uintmax_t most_bytes = 1u << 20;
constexpr std::size_t most_sightings = 2000, longest_told = 2000, longest_path = 4096;

} // namespace

std::filesystem::path kept_as(const std::filesystem::path &recording) {
    auto note = recording;
    note += ".json";
    return note;
}

Result<void> keep(const ScreenSighting &s) {
    json j{{"original", s.original.string()},
           {"read_at", print_rfc3339(s.read_at, 0)},
           {"film", s.film},
           {"calibration", json::parse(calibration_to_json(s.calibration))}};
    if (!s.told.empty())
        j["told"] = s.told.substr(0, longest_told);
    return write_file_atomically(kept_as(s.recording), j.dump(1, ' ', false, json::error_handler_t::replace));
}

Result<ScreenSighting> sighting_of(const std::filesystem::path &recording) {
    const auto note = kept_as(recording);
    const auto text = read_whole_file(note, most_bytes);
    if (!text)
        return tl::unexpected(text.error());
    const auto refuse = [&](const char *entry) {
        return fail(told("{} is no note of a screen: '{}' cannot be", note.filename().string(), entry),
                    told("the recording itself can be opened"));
    };
    try {
        const auto j = parse_json(*text, most_bytes);
        ScreenSighting s;
        s.recording = recording;
        const auto original = j.at("original").get<std::string>();
        if (original.empty() || original.size() > longest_path)
            return refuse("original");
        s.original = original;
        const auto at = parse_rfc3339(j.at("read_at").get<std::string>());
        if (!at)
            return refuse("read_at");
        s.read_at = *at;
        s.film = j.at("film").get<bool>();
        s.told = j.value("told", std::string());
        if (s.told.size() > longest_told)
            return refuse("told");
        auto calibration = calibration_from_json(j.at("calibration").dump());
        if (!calibration)
            return tl::unexpected(calibration.error());
        s.calibration = std::move(*calibration);
        return s;
    } catch (const json::exception &) {
        return refuse("its form");
    }
}

std::vector<ScreenSighting> sightings_in(const std::filesystem::path &folder) {
    std::vector<std::pair<std::filesystem::file_time_type, std::filesystem::path>> recordings;
    std::error_code error;
    for (const auto &e : std::filesystem::directory_iterator(folder, error))
        if (std::error_code ignored; e.path().extension() == ".nc" && e.is_regular_file(ignored) &&
                                     std::filesystem::is_regular_file(kept_as(e.path()), ignored))
            recordings.emplace_back(e.last_write_time(ignored), e.path());
    std::sort(recordings.rbegin(), recordings.rend());
    std::vector<ScreenSighting> all;
    for (const auto &[written, path] : recordings) {
        if (all.size() == most_sightings)
            break;
        if (auto s = sighting_of(path))
            all.push_back(std::move(*s));
    }
    std::stable_sort(all.begin(), all.end(),
                     [](const ScreenSighting &a, const ScreenSighting &b) { return a.read_at > b.read_at; });
    return all;
}

} // namespace heron
