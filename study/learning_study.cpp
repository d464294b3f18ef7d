#include "parallel.hpp"
#include "reading_study.hpp"
#include "score.hpp"

#include "reading/corrections.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <random>

namespace heron::study {
namespace {

constexpr std::size_t lanes = 4, words = 20;
constexpr double working_point = 0.5;

// The thing that a contact is at, or none.
const TrueThing *thing_at(const OnPlane &p, const std::vector<TrueThing> &things) {
    const TrueThing *best = nullptr;
    double nearest = 1e9;
    for (const auto &t : things)
        if (const double d = std::hypot(p.east - t.at.x, p.north - t.at.y);
            t.seen && d < 1.4 + t.length_m / 2 && d < nearest) {
            nearest = d;
            best = &t;
        }
    return best;
}

struct Learned {
    Score before, after;
    std::size_t said = 0;
};

// One water: some lanes over the same ground. Of things told there a guide has found out what twenty are; the
// rest is scored as it ships and as it is weighed by his word.
Learned learn(const ReadingScene &base) {
    std::vector<Sounded> all;
    std::vector<std::vector<Contact>> contacts;
    for (std::size_t lane = 0; lane < lanes; ++lane) {
        auto r = base;
        r.seed += static_cast<std::uint32_t>(700'000 + 1000 * lane);
        all.push_back(sound(r));
        contacts.push_back(read_all(all.back().scan, KindModel::shipped()));
    }
    std::vector<std::pair<std::size_t, std::size_t>> told;
    for (std::size_t lane = 0; lane < lanes; ++lane)
        for (std::size_t i = 0; i < contacts[lane].size(); ++i)
            if (contacts[lane][i].confidence >= working_point && contacts[lane][i].place)
                told.emplace_back(lane, i);
    std::mt19937 random(base.seed);
    std::shuffle(told.begin(), told.end(), random);
    told.resize(std::min(told.size() / 2, words)); // half of a small water is left to be read
    std::vector<Correction> said;
    std::vector<std::vector<bool>> spoken(lanes);
    for (std::size_t lane = 0; lane < lanes; ++lane)
        spoken[lane].assign(contacts[lane].size(), false);
    std::vector<std::vector<const TrueThing *>> known(lanes);
    for (const auto &[lane, i] : told) {
        const auto &c = contacts[lane][i];
        const auto on = on_plane({c}, all[lane].plane);
        const auto *thing = thing_at(on.front(), all[lane].things);
        Correction word;
        word.zone = c.zone;
        word.features = c.weighed();
        word.read = c.kind;
        word.said = thing != nullptr ? thing->kind : Kind::none;
        said.push_back(word);
        spoken[lane][i] = true;
        if (thing != nullptr)
            known[lane].push_back(thing);
    }
    Learned result;
    result.said = said.size();
    const auto model = reweighed(KindModel::shipped(), said);
    for (std::size_t lane = 0; lane < lanes; ++lane) {
        std::vector<Contact> rest;
        for (std::size_t i = 0; i < contacts[lane].size(); ++i)
            if (!spoken[lane][i])
                rest.push_back(contacts[lane][i]);
        std::vector<TrueThing> things;
        for (const auto &t : all[lane].things)
            if (std::none_of(known[lane].begin(), known[lane].end(), [&](const auto *k) { return k == &t; }))
                things.push_back(t);
        result.before.add(score(rest, things, all[lane].plane, working_point));
        for (auto &c : rest)
            if (!c.large) {
                c.chances = c.chances_by(model);
                settle_kind(c);
            }
        result.after.add(score(rest, things, all[lane].plane, working_point));
    }
    return result;
}

} // namespace

std::string learning_study(unsigned threads) {
    std::vector<ReadingScene> waters;
    // Waters of the stand-in's own making, and of makings drawn at random.
    for (auto scenes : {reading_scenes(), drawn_scenes()}) {
        std::erase_if(scenes, [](const ReadingScene &r) {
            return r.fitting || r.empty || r.lanes || r.curved || r.ground == "rock";
        });
        for (std::size_t i = 0; i < scenes.size(); i += scenes.size() / 8)
            waters.push_back(scenes[i]);
    }
    std::vector<Learned> learned(waters.size());
    in_parallel(waters.size(), threads, [&](std::size_t i) {
        learned[i] = learn(waters[i]);
        fmt::print(stderr, ".");
    });
    Score before, after;
    std::size_t said = 0, better = 0, worse = 0;
    for (const auto &l : learned) {
        before.add(l.before);
        after.add(l.after);
        said += l.said;
        const double was = l.before.kind / std::max(1.0, l.before.kind_of),
                     is = l.after.kind / std::max(1.0, l.after.kind_of);
        better += is > was + 0.01;
        worse += is < was - 0.01;
    }
    return table_head() + line("as it ships", before) + line("after the guide's word", after) +
           fmt::format(
               "\n{} waters, {} words; kind better by more than one in a hundred on {}, worse on {}.\n",
               waters.size(), said, better, worse);
}

} // namespace heron::study
