#include "score.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <fmt/format.h>

namespace heron::study {
namespace {

double median(std::vector<double> v) {
    if (v.empty())
        return std::nan("");
    std::nth_element(v.begin(), v.begin() + std::ssize(v) / 2, v.end());
    return v[v.size() / 2];
}

double calibration(const std::vector<std::pair<double, bool>> &all) {
    double error = 0;
    for (int bin = 0; bin < 10; ++bin) {
        double told = 0, right = 0, n = 0;
        for (const auto &[c, r] : all)
            if (std::min(9, static_cast<int>(c * 10)) == bin) {
                told += c;
                right += r;
                n += 1;
            }
        if (n > 0)
            error += std::fabs(told - right) / static_cast<double>(all.size());
    }
    return error;
}

} // namespace

std::vector<Contact> read_all(const Scan &scan, const KindModel &model) {
    ReaderSettings settings;
    settings.least_confidence = 0.1; // for the calibration; the working point is applied when scoring
    Reader reader(model, settings);
    return join_contacts(reader.advance(scan, true));
}

std::vector<OnPlane> on_plane(const std::vector<Contact> &contacts, const LocalPlane &plane) {
    std::vector<OnPlane> all;
    for (const auto &c : contacts)
        if (c.place) {
            const auto p = plane.to_plane(c.place->place);
            all.push_back({c, p.east_m, p.north_m});
        }
    return all;
}

Score score(const std::vector<Contact> &all_contacts, const std::vector<TrueThing> &things,
            const LocalPlane &plane, double working_point) {
    Score s;
    auto contacts = on_plane(all_contacts, plane);
    struct Pair {
        double d;
        std::size_t c, t;
    };
    // What wander all positions share is taken out first: the median of what pairs differ by.
    double wander_e = 0, wander_n = 0;
    std::vector<int> thing_of, contact_of;
    for (int round = 0; round < 2; ++round) {
        std::vector<Pair> pairs;
        for (std::size_t c = 0; c < contacts.size(); ++c)
            for (std::size_t t = 0; t < things.size(); ++t) {
                const double d = std::hypot(contacts[c].east - wander_e - things[t].at.x,
                                            contacts[c].north - wander_n - things[t].at.y);
                const double slack =
                    contacts[c].contact.zone == Zone::water ? 0.3 * contacts[c].contact.slant_m : 0;
                if (d - slack < 1.4 + things[t].length_m / 2)
                    pairs.push_back({d, c, t});
            }
        std::sort(pairs.begin(), pairs.end(), [](const Pair &a, const Pair &b) { return a.d < b.d; });
        thing_of.assign(contacts.size(), -1);
        contact_of.assign(things.size(), -1);
        std::vector<double> de, dn;
        for (const auto &p : pairs) {
            if (thing_of[p.c] >= 0)
                continue;
            // The likeliest contact of a thing answers for it; more at the same thing are doubles.
            thing_of[p.c] = static_cast<int>(p.t);
            auto &first = contact_of[p.t];
            if (first < 0 || contacts[p.c].contact.confidence >
                                 contacts[static_cast<std::size_t>(first)].contact.confidence)
                first = static_cast<int>(p.c);
            if (contacts[p.c].contact.confidence >= working_point) {
                de.push_back(contacts[p.c].east - things[p.t].at.x);
                dn.push_back(contacts[p.c].north - things[p.t].at.y);
            }
        }
        if (de.size() >= 4) {
            wander_e = median(de);
            wander_n = median(dn);
        }
    }
    for (std::size_t t = 0; t < things.size(); ++t) {
        const auto &thing = things[t];
        if (!thing.seen)
            continue;
        const auto *c = contact_of[t] >= 0 ? &contacts[static_cast<std::size_t>(contact_of[t])] : nullptr;
        const bool told = c != nullptr && c->contact.confidence >= working_point;
        if (thing.shows >= 0)
            s.showing.emplace_back(thing.shows, told);
        if (thing.stands_out && std::getenv("HERON_TELL") != nullptr)
            fmt::print(
                "THING {} by {:.1f} h {:.2f} l {:.2f} g {:.1f} depth {:.1f} row {} conf {:.2f} told {}\n",
                name_of(thing.kind), thing.margin_db, thing.height_m, thing.length_m, thing.ground_m,
                thing.depth_m, thing.row, c != nullptr ? c->contact.confidence : 0.0, told);
        if (thing.stands_out) {
            s.things += 1;
            s.found += told;
            auto &k = s.by_kind[std::string(name_of(thing.kind))];
            k.first += told;
            k.second += 1;
        }
        if (!told)
            continue;
        const auto &contact = c->contact;
        s.family_of += 1;
        s.family += contact.family == family_of(thing.kind);
        s.placement_of += 1;
        s.placement += contact.placement == (thing.suspended ? Placement::suspended : Placement::on_bottom);
        s.kind_of += 1;
        s.kind += contact.kind == thing.kind;
        const double d = std::hypot(c->east - wander_e - thing.at.x, c->north - wander_n - thing.at.y);
        s.place_error.push_back(d);
        s.place_within += d < 2 * contact.position_sd_m();
        if (contact.height_m && !contact.height_at_least && thing.height_m > 0 &&
            contact.family == family_of(thing.kind)) {
            const double e = std::fabs(contact.height_m->value - thing.height_m);
            s.height_error.push_back(e);
            s.height_bias[std::string(name_of(thing.kind))].push_back(contact.height_m->value /
                                                                      thing.height_m);
            if (family_of(thing.kind) == Family::structure)
                s.height_relative.push_back(e / thing.height_m);
            s.height_within += e < 2 * contact.height_m->sd;
        }
    }
    for (std::size_t c = 0; c < contacts.size(); ++c) {
        const auto &contact = contacts[c].contact;
        const bool at_thing = thing_of[c] >= 0;
        const bool answers =
            at_thing && contact_of[static_cast<std::size_t>(thing_of[c])] == static_cast<int>(c);
        const bool right =
            answers && (contact.family == Family::unsure ||
                        contact.family == family_of(things[static_cast<std::size_t>(thing_of[c])].kind));
        s.confidence.emplace_back(contact.confidence, right);
        if (contact.confidence < working_point)
            continue;
        s.contacts += 1;
        s.right += answers;
        if (at_thing && !answers)
            s.doubles += 1;
        if (!answers && std::getenv("HERON_TELL") != nullptr)
            fmt::print("FALSE {} {} zone {} conf {:.2f} {} slant {:.1f} shadow {:.1f}-{:.1f} score {:.1f} "
                       "depth {:.1f} apart {:.1f} source {:.1f} length {:.1f} along {:.1f}\n",
                       name_of(contact.kind), at_thing ? "double" : "nothing", static_cast<int>(contact.zone),
                       contact.confidence, name_of(contact.side), contact.slant_m, contact.behind.start_m,
                       contact.behind.end_m, contact.behind.score, contact.behind.depth_db,
                       contact.features[feature_named("dark apart")] * 4, contact.behind.source_z,
                       contact.length_m.value_or(0), contact.along_m);
        if (!answers)
            ++s.false_as[std::string(name_of(contact.kind)) + (at_thing ? " (double)" : "")];
    }
    return s;
}

std::string line(const std::string &name, const Score &s) {
    const auto share = [](double a, double b) {
        return b > 0 ? fmt::format("{:.2f}", a / b) : std::string("–");
    };
    return fmt::format(
        "| {} | {:.0f} | {} | {} | {} | {} | {} | {:.2f} m, {:.0f} % | {} | {:.2f} m | {} | {:.3f} ({}) |\n",
        name, s.things, share(s.found, s.things), share(s.right, s.contacts), share(s.family, s.family_of),
        share(s.placement, s.placement_of), share(s.kind, s.kind_of), median(s.height_error),
        100 * median(s.height_relative), share(s.height_within, static_cast<double>(s.height_error.size())),
        median(s.place_error), share(s.place_within, static_cast<double>(s.place_error.size())),
        calibration(s.confidence), s.confidence.size());
}

std::string details(const Score &s) {
    std::string out;
    for (const auto &[k, v] : s.by_kind)
        out += fmt::format("{} {}/{}  ", k, v.first, v.second);
    out += "\nfalse: ";
    for (const auto &[k, v] : s.false_as)
        out += fmt::format("{} {}  ", k, v);
    out += "\nheights told over true, median: ";
    for (const auto &[k, v] : s.height_bias)
        out += fmt::format("{} {:.2f} ({})  ", k, median(v), v.size());
    out += "\ntold, right, of: ";
    for (int bin = 0; bin < 10; ++bin) {
        double told = 0, right = 0, n = 0;
        for (const auto &[c, r] : s.confidence)
            if (std::min(9, static_cast<int>(c * 10)) == bin)
                told += c, right += r, n += 1;
        if (n > 0)
            out += fmt::format("{:.2f} {:.2f} ({:.0f})  ", told / n, right / n, n);
    }
    out += "\nchance of a fish to show, computed, and found: ";
    for (int bin = 0; bin < 5; ++bin) {
        double told = 0, right = 0, n = 0;
        for (const auto &[c, r] : s.showing)
            if (std::min(4, static_cast<int>(c * 5)) == bin)
                told += c, right += r, n += 1;
        if (n > 0)
            out += fmt::format("{:.2f} {:.2f} ({:.0f})  ", told / n, right / n, n);
    }
    return out + "\n";
}

std::string table_head() {
    return "| scenes | things that stand out | recall | precision | family | placement | kind | height, "
           "median "
           "error | within 2σ | place, median error | within 2σ | calibration error (contacts) |\n"
           "|---|---|---|---|---|---|---|---|---|---|---|---|\n";
}

} // namespace heron::study
