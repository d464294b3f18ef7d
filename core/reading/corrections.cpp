#include "reading/corrections.hpp"

#include "files/atomic_file.hpp"
#include "files/json_in.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <fstream>
#include <nlohmann/json.hpp>

namespace heron {
namespace {

using nlohmann::json;
constexpr const char *kind_of_file = "young-heron-corrections";
constexpr double seconds_apart = 1.5, metres_apart = 0.8;

json to_json(const Correction &c) {
    return {{"water", c.water},        {"source", c.source},
            {"time_ns", c.time},       {"side", c.side == Side::port ? "port" : "starboard"},
            {"slant_m", c.slant_m},    {"zone", static_cast<int>(c.zone)},
            {"features", c.features},  {"read", name_of(c.read)},
            {"said", name_of(c.said)}, {"said_at_ns", c.said_at}};
}

Correction from_json(const json &j) {
    const auto kind = [](const json &name) {
        const auto text = name.get<std::string>();
        return text == name_of(Kind::none) ? std::optional(Kind::none) : kind_named(text);
    };
    Correction c;
    c.water = j.at("water").get<std::string>();
    c.source = j.at("source").get<std::string>();
    c.time = j.at("time_ns").get<UnixNs>();
    c.side = j.at("side").get<std::string>() == "port" ? Side::port : Side::starboard;
    c.slant_m = j.at("slant_m").get<double>();
    c.zone = static_cast<Zone>(std::clamp(j.at("zone").get<int>(), 0, 3));
    // Of an earlier or later program with other features: the word stays, but weighs nothing.
    const auto features = j.at("features").get<std::vector<double>>();
    if (features.size() == feature_count)
        std::copy(features.begin(), features.end(), c.features.begin());
    else
        c.features.fill(std::nan(""));
    const auto read = kind(j.at("read")), said = kind(j.at("said"));
    if (!read || !said)
        throw std::out_of_range("a kind that is not known");
    c.read = *read;
    c.said = *said;
    c.said_at = j.at("said_at_ns").get<UnixNs>();
    return c;
}

} // namespace

bool Correction::of(const SourceName &seen_in, const Contact &contact) const {
    const bool same_source = (!seen_in.id.empty() && source == seen_in.id) || source == seen_in.name;
    return same_source && side == contact.side &&
           std::fabs(seconds_between(time, contact.time)) < seconds_apart &&
           std::fabs(slant_m - contact.slant_m) < metres_apart;
}

Result<CorrectionBook> CorrectionBook::open(const std::filesystem::path &path) {
    CorrectionBook book;
    book.path_ = path;
    std::error_code none;
    if (!std::filesystem::exists(path, none))
        return book;
    try {
        const auto text = read_whole_file(path, 64u << 20);
        if (!text)
            return tl::unexpected(text.error());
        const auto j = parse_json(*text);
        if (j.at("file") != kind_of_file)
            throw std::out_of_range("it is a file of another kind");
        for (const auto &c : j.at("corrections"))
            book.all_.push_back(from_json(c));
    } catch (const std::exception &bad) {
        return fail(told("what you said of contacts cannot be read from {}: {}", path.string(), bad.what()),
                    "the file was left as it is", "move it away to begin afresh, or bring back a copy");
    }
    return book;
}

std::vector<Correction> CorrectionBook::of_water(const std::string &water) const {
    std::vector<Correction> some;
    std::copy_if(all_.begin(), all_.end(), std::back_inserter(some),
                 [&](const Correction &c) { return c.water == water; });
    return some;
}

const Correction *CorrectionBook::find(const SourceName &source, const Contact &contact) const {
    const auto at =
        std::find_if(all_.begin(), all_.end(), [&](const Correction &c) { return c.of(source, contact); });
    return at == all_.end() ? nullptr : &*at;
}

Result<void> CorrectionBook::say(Correction c) {
    auto next = all_;
    std::erase_if(next, [&](const Correction &o) {
        return o.source == c.source && o.side == c.side &&
               std::fabs(seconds_between(o.time, c.time)) < seconds_apart &&
               std::fabs(o.slant_m - c.slant_m) < metres_apart;
    });
    next.push_back(std::move(c));
    return write(std::move(next));
}

Result<void> CorrectionBook::settle_water(const std::string &source_id, const std::string &water) {
    auto next = all_;
    bool changed = false;
    for (auto &c : next)
        if (c.source == source_id && c.water != water) {
            c.water = water;
            changed = true;
        }
    return changed ? write(std::move(next)) : Result<void>();
}

Result<void> CorrectionBook::take_back() {
    auto next = all_;
    if (next.empty())
        return {};
    next.pop_back();
    return write(std::move(next));
}

Result<void> CorrectionBook::write(std::vector<Correction> next) {
    json list = json::array();
    for (const auto &c : next) {
        list.push_back(to_json(c));
        if (std::isnan(c.features[0]))
            list.back()["features"] = json::array();
    }
    const json j{{"file", kind_of_file}, {"version", 1}, {"corrections", list}};
    if (auto done = write_file_atomically(path_, j.dump(1)); !done)
        return done;
    all_ = std::move(next);
    return {};
}

KindModel reweighed(const KindModel &shipped, std::span<const Correction> corrections) {
    auto model = shipped;
    for (const auto &c : corrections) {
        if (std::isnan(c.features[0]))
            continue;
        KindModel::Nudge nudge{c.zone, c.features, {}};
        const auto thought = shipped.chances(c.zone, c.features);
        for (std::size_t k = 0; k < kind_count; ++k)
            nudge.moves[k] = (static_cast<Kind>(k) == c.said ? 1 : 0) - thought[k];
        model.nudges.push_back(nudge);
    }
    return model;
}

void apply_word(Contact &c, Kind said) {
    c.said = said;
    c.chances.fill(0);
    c.chances[static_cast<std::size_t>(said)] = 1;
    if (said == Kind::none) {
        c.kind = Kind::none;
        c.family = Family::none;
        c.confidence = 0;
        return;
    }
    settle_kind(c);
}

} // namespace heron
