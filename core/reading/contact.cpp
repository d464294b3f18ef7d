#include "reading/contact.hpp"

#include "fault/told.hpp"
#include "reading/prior.hpp"
#include "reading/usual.hpp"

#include <algorithm>
#include <cmath>

namespace heron {

std::string_view name_of(Placement placement) {
    switch (placement) {
    case Placement::on_bottom:
        return "on_bottom";
    case Placement::suspended:
        return "suspended";
    case Placement::unknown:
        break;
    }
    return "unknown";
}

double Contact::position_sd_m() const {
    // Without a place the distance's own doubt is all that can be told.
    return place ? place->covariance.radial_sd_m() : std::hypot(ground_m.sd, 3.0);
}

KindChances Contact::chances_by(const KindModel &model) const {
    if (large)
        return large->chances; // named by its figures, not weighed
    return shifted(model.chances(zone, weighed()),
                   prior_shift + (cluster ? cluster_evidence(cluster->z) : 0));
}

Features Contact::weighed() const {
    return over_usual(features, usual);
}

void settle_kind(Contact &c) {
    std::array<double, 4> family{};
    std::array<Kind, 4> best{};
    std::array<double, 4> most{};
    for (std::size_t k = 1; k < kind_count; ++k) {
        const auto f = static_cast<std::size_t>(family_of(static_cast<Kind>(k)));
        family[f] += c.chances[k];
        if (c.chances[k] > most[f]) {
            most[f] = c.chances[k];
            best[f] = static_cast<Kind>(k);
        }
    }
    const auto f =
        static_cast<std::size_t>(std::max_element(family.begin() + 1, family.end()) - family.begin());
    c.family = static_cast<Family>(f);
    c.kind = best[f];
    c.confidence = std::min(1.0, family[f]);
    c.kind_sure = most[f] > 0.35 * family[f];
    // Surely something, whatever it is: told as that, rather than not at all.
    constexpr double half = 0.5;
    if (family[f] < half * c.real() || (c.real() >= half && family[f] < half)) {
        c.family = Family::unsure;
        c.confidence = std::clamp(c.real(), 0.0, 1.0);
    }
    const double gap_height = c.features[16];
    const bool dark = c.behind.found && c.behind.score > 0.5;
    // Of what is unsure the shadow decides.
    const bool unsure = c.family == Family::unsure;
    const bool floats =
        unsure ? c.zone == Zone::water || (dark && gap_height > 0.35) : c.family == Family::fish;
    if (floats)
        c.placement = Placement::suspended;
    else
        c.placement = unsure && !dark ? Placement::unknown : Placement::on_bottom;
}

namespace {

std::size_t named(std::string_view name) {
    return static_cast<std::size_t>(std::find(feature_names.begin(), feature_names.end(), name) -
                                    feature_names.begin());
}

std::string said_length(double m, UnitSystem units) {
    return print_length(m, units, m < 10 ? 1 : 0).text();
}

// What one feature says of a contact, in words; nothing where it says nothing worth a word.
std::string sentence_of(const Contact &c, std::size_t i, UnitSystem units) {
    const auto m = [units](double v) { return said_length(v, units); };
    const auto &b = c.behind;
    const bool dark = c.zone == Zone::dark, sourced = b.source_z > 0;
    // A shadow that was found first has an echo only where one was found before it.
    if (dark && (i == named("peak") || i == named("mean") || i == named("stands out") ||
                 i == named("stands small") || i == named("source") || i == named("source level")))
        return sourced ? told("a faint echo before the dark, {} dB over the ground: found by its shadow",
                              std::lround(b.source_db))
                       : told("no echo before the dark: the shadow alone tells of it");
    if (dark && !sourced && (i == named("gap") || i == named("gap height")))
        return {};
    if (i == named("shadow") || i == named("shadow depth") || i == named("shadow beside"))
        return b.found ? told("a shadow {} long behind it, {} dB darker than the bottom",
                              m(b.end_m - b.start_m), std::lround(b.depth_db))
                       : told("no shadow behind it");
    if (i == named("gap") || i == named("gap height"))
        return !b.found ? std::string()
               : c.features[16] > 0.2
                   ? told("the dark begins {} behind the bright: it stands off the bottom", m(b.gap_m))
                   : told("the dark begins at its far edge: it stands on the bottom");
    if (i == named("height") || i == named("stature"))
        return c.height_m ? told("its shadow tells {} of height", m(std::fabs(c.height_m->value)))
                          : std::string();
    if (i == named("length") || i == named("along") || i == named("area") || i == named("width"))
        return c.length_m ? told("{} by {} over ground", m(*c.length_m), m(c.width_m.value_or(*c.length_m)))
                          : std::string();
    if (i == named("slender") || i == named("bend"))
        return c.features[2] > 1.2 ? told("long and narrow") : told("about as wide as long");
    if (i == named("grains") || i == named("filled"))
        return c.features[5] > 0.9 ? told("made of {} separate grains", std::lround(std::exp2(c.features[5])))
                                   : told("one solid piece");
    if (i == named("peak") || i == named("mean") || i == named("stands out") || i == named("stands small"))
        return told("its echo stands {} dB over the ground around it", std::lround(10 * c.features[6]));
    if (i == named("rough") || i == named("clutter"))
        return c.features[11] > 0.3 ? told("the ground around it is full of bright spots")
                                    : told("the ground around it is even");
    // Of so few others that it is worth a word.
    const auto others = [&](std::size_t feature) { return std::exp2(c.features[feature]) - 1; };
    if (i == named("as bright") && others(i) < 0.5)
        return told("next to nothing else here stands out as much");
    if (i == named("as both") && others(i) < 0.5)
        return told("next to nothing else here is as bright and throws such a shadow");
    if ((i == named("as bright") || i == named("as both")) && others(i) > 6)
        return told("this ground is full of such spots: some {} in {} square metres", std::lround(others(i)),
                    1000);
    if (i == named("before"))
        return c.features[20] < -0.2 ? told("dark in front of it: a hollow, its far face lit")
                                     : std::string();
    if (i == named("halo"))
        return c.features[21] > 0.15 ? told("firmer ground around it") : std::string();
    if (i == named("deep"))
        return told("in the water before the first return: its side distance is not known");
    return {};
}

void give_track_reasons(Contact &c, UnitSystem units) {
    const auto m = [units](double v) { return said_length(v, units); };
    const double high = std::fabs(c.height_m ? c.height_m->value : c.falls_m);
    if (c.kind == Kind::channel)
        c.reasons.push_back(
            told("under the boat the bottom falls {} and rises again {} farther on", m(high), m(c.along_m)));
    else
        c.reasons.push_back(
            c.falls_m > 0 ? told("under the boat the bottom falls {} within {}", m(high), m(c.along_m))
                          : told("under the boat the bottom rises {} within {}", m(high), m(c.along_m)));
    c.reasons.push_back(
        told("the depths on both sides of it lie on even lines: the step is {} times its doubt",
             std::lround(std::exp2(c.features[named("stands out")]))));
    if (c.looks > 1 && c.length_m)
        c.reasons.push_back(
            told("crossed {} times, {} from the first crossing to the farthest", c.looks, m(*c.length_m)));
    else
        c.doubts.push_back(
            told("one track tells neither how far it reaches to the sides nor which way it runs"));
}

void give_large_reasons(Contact &c, UnitSystem units) {
    const auto m = [units](double v) { return said_length(v, units); };
    const auto &l = *c.large;
    const auto high = c.height_m ? c.height_m->value : 0;
    if (c.kind == Kind::weeds) {
        c.reasons.push_back(c.length_m ? told("{} bright grains within one rim, {} by {}", l.rays,
                                              m(*c.length_m), m(c.width_m.value_or(*c.length_m)))
                                       : told("{} bright grains within one rim", l.rays));
        c.reasons.push_back(told("between them the ground that lies beside shows, {} dB under the whole",
                                 std::lround(l.over_db)));
        if (c.height_m)
            c.reasons.push_back(told("under the boat it stands {} over the bottom", m(high)));
    } else if (c.kind == Kind::rock_pile) {
        c.reasons.push_back(c.length_m ? told("{} shadows within one rim, {} by {}", l.rays, m(*c.length_m),
                                              m(c.width_m.value_or(*c.length_m)))
                                       : told("{} shadows within one rim", l.rays));
        c.reasons.push_back(told("many stones, the tallest {}", m(high)));
    } else if (l.closed) {
        c.reasons.push_back(told("straight edges that face each other or meet at corners"));
        c.reasons.push_back(told("their shadows tell {} of height", m(high)));
    } else {
        c.reasons.push_back(c.length_m ? told("its edge runs on for {} and keeps within {} of a line",
                                              m(*c.length_m), m(2 * l.stray_m))
                                       : told("its edge runs on along one line over {} shadows", l.rays));
        c.reasons.push_back(told("on {} of 100 steps along it the shadow tells it, {} of height all along",
                                 std::lround(100 * l.steady), m(high)));
    }
    if (c.kind == Kind::ledge)
        c.reasons.push_back(told("no bright face before the dark: the ground falls away there"));
    if (c.height_at_least)
        c.reasons.push_back(told("the shadow is cut at the edge of the range: it is at least that high"));
    if (c.looks > 1)
        c.reasons.push_back(told("seen in {} looks", c.looks));
}

} // namespace

void give_reasons(Contact &c, UnitSystem units) {
    auto &all = c.reasons;
    all.clear();
    c.doubts.clear();
    if (c.large) {
        give_large_reasons(c, units);
        return;
    }
    if (c.zone == Zone::track) {
        give_track_reasons(c, units);
        return;
    }
    const auto sentence = [&](std::size_t feature) { return sentence_of(c, feature, units); };
    // What feature says for this family against the likeliest of the others, in the order of its weight.
    Kind against = Kind::none;
    double most = -1;
    for (std::size_t k = 0; k < kind_count; ++k)
        if (family_of(static_cast<Kind>(k)) != family_of(c.kind) && c.chances[k] > most) {
            most = c.chances[k];
            against = static_cast<Kind>(k);
        }
    const auto shares = KindModel::shipped(c.side).shares(c.zone, c.weighed(), c.kind, against);
    for (const auto &share : shares) {
        if (share.adds < 0.15 || all.size() >= 3)
            break;
        auto text = sentence(share.feature);
        if (!text.empty() && std::find(all.begin(), all.end(), text) == all.end())
            all.push_back(std::move(text));
    }
    if (all.empty())
        all.push_back(sentence(named("peak")));
    // Of a stone or a log, which is told by itself, its own grains say nothing more.
    if (c.cluster && (c.loose() || c.family == Family::unsure))
        all.insert(all.begin(),
                   c.cluster->usual < 0.5
                       ? told("{} bright grains within {}, where hardly any are usual", c.cluster->grains,
                              said_length(c.cluster->radius_m, units))
                       : told("{} bright grains within {}, where {} are usual", c.cluster->grains,
                              said_length(c.cluster->radius_m, units), std::lround(c.cluster->usual)));
    // Of what was since named otherwise, by another look or by the guide, its grains say nothing.
    const auto grains = c.crowned() ? c.maybe_fish.size() : 0;
    if (grains == 1)
        all.insert(all.begin() + 1, told("one grain in it is clean and alone on its pings: perhaps a fish"));
    else if (grains > 1)
        all.insert(all.begin() + 1,
                   told("{} grains in it are clean and alone on their pings: perhaps fish", grains));
    // What an eye looks at first is told in any case.
    if (const auto shade = sentence(named("shadow"));
        c.behind.found && c.behind.score > 1 && std::find(all.begin(), all.end(), shade) == all.end())
        all.push_back(shade);
    if (c.height_at_least)
        all.push_back(told("the shadow is cut at the edge of the range: it is at least that high"));
    if (c.looks > 1)
        all.push_back(told("seen in {} looks", c.looks));
    for (auto share = shares.rbegin(); share != shares.rend() && share->adds < -0.3 && c.doubts.size() < 2;
         ++share) {
        auto text = sentence(share->feature);
        if (!text.empty() && std::find(all.begin(), all.end(), text) == all.end() &&
            std::find(c.doubts.begin(), c.doubts.end(), text) == c.doubts.end())
            c.doubts.push_back(std::move(text));
    }
}

} // namespace heron
