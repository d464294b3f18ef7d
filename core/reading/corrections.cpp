#include "reading/corrections.hpp"

#include "files/atomic_file.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <fmt/format.h>
#include <fstream>
#include <utility>
#include <vector>

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
    c.time = whole_in(j.at("time_ns"), INT64_MIN, INT64_MAX);
    c.side = j.at("side").get<std::string>() == "port" ? Side::port : Side::starboard;
    c.slant_m = j.at("slant_m").get<double>();
    c.zone = static_cast<Zone>(whole_in(j.at("zone"), 0, 3));
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
    c.said_at = whole_in(j.at("said_at_ns"), INT64_MIN, INT64_MAX);
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

namespace {

// One way of weighing words: how much each counts, how far it reaches, and whether kinds become commoner by
// it.
struct Weighing {
    double strength = 1, reach = KindModel::nudge_reach;
    bool shifts = false;
};

// Words that can be weighed, and what was thought as shipped of each.
struct Weighed {
    std::vector<const Correction *> words;
    std::vector<KindChances> thought;
    KindChances said_in_all{}, thought_in_all{}; // of what lies aside: under the track kinds have no shares
};

Weighed weigh(const KindModel &shipped, std::span<const Correction> words) {
    Weighed w;
    for (const auto &c : words) {
        if (std::isnan(c.features[0]))
            continue;
        w.words.push_back(&c);
        w.thought.push_back(shipped.chances(c.zone, c.features));
        if (c.zone == Zone::track)
            continue;
        w.said_in_all[static_cast<std::size_t>(c.said)] += 1;
        for (std::size_t k = 0; k < kind_count; ++k)
            w.thought_in_all[k] += w.thought.back()[k];
    }
    return w;
}

// Shares that few words tell are drawn towards what is usual.
double shift_of(double said, double thought) {
    constexpr double held_back = 4;
    return std::log((said + held_back) / (thought + held_back));
}

KindModel weighed(const KindModel &shipped, const Weighed &w, const Weighing &how) {
    auto model = shipped;
    for (std::size_t i = 0; i < w.words.size(); ++i) {
        const auto &c = *w.words[i];
        KindModel::Nudge nudge{c.zone, c.features, {}, how.reach};
        for (std::size_t k = 0; k < kind_count; ++k)
            nudge.moves[k] = how.strength * ((static_cast<Kind>(k) == c.said ? 1 : 0) - w.thought[i][k]);
        model.nudges.push_back(nudge);
    }
    for (std::size_t k = 0; how.shifts && k < kind_count; ++k)
        model.shift[k] = shift_of(w.said_in_all[k], w.thought_in_all[k]);
    return model;
}

// How much better each word is foretold by all others than as shipped: the sum of logarithms of chances.
double borne_out(const KindModel &shipped, const Weighed &w, const Weighing &how) {
    auto model = weighed(shipped, w, how);
    const auto first = model.nudges.size() - w.words.size();
    double gain = 0;
    for (std::size_t i = 0; i < w.words.size(); ++i) {
        const auto &c = *w.words[i];
        const auto said = static_cast<std::size_t>(c.said);
        const auto moves = std::exchange(model.nudges[first + i].moves, {});
        const auto shift = model.shift;
        for (std::size_t k = 0; how.shifts && c.zone != Zone::track && k < kind_count; ++k)
            model.shift[k] =
                shift_of(w.said_in_all[k] - (k == said ? 1 : 0), w.thought_in_all[k] - w.thought[i][k]);
        gain += std::log(std::max(1e-3, model.chances(c.zone, c.features)[said])) -
                std::log(std::max(1e-3, w.thought[i][said]));
        model.nudges[first + i].moves = moves;
        model.shift = shift;
    }
    return gain;
}

} // namespace

KindModel reweighed(const KindModel &shipped, std::span<const Correction> words) {
    const auto w = weigh(shipped, words);
    // The narrow one moves next to nothing but what is just like what was spoken of.
    Weighing best;
    double most = 2; // what a wider one must be borne out by, in nats: a chance of some seven to one
    for (const double reach : {KindModel::nudge_reach, 0.35, 0.55})
        for (const double strength : {0.15, 0.3, 0.6})
            for (const bool shifts : {false, true}) {
                const Weighing how{strength, reach, shifts};
                if (const double gain = borne_out(shipped, w, how); gain > most) {
                    most = gain;
                    best = how;
                }
            }
    return weighed(shipped, w, best);
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
