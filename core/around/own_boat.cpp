#include "around/own_boat.hpp"

#include "fault/told.hpp"
#include "files/json.hpp"
#include "files/json_in.hpp"
#include "sonar/within.hpp"
#include "units/units.hpp"

#include <cmath>
#include <numbers>

namespace heron {
namespace {

using nlohmann::json;

constexpr std::size_t most_boats = 50, longest_name = 80, longest_text = 256u << 10;
constexpr double longest_boat_m = 30, longest_cast_m = 100;

json spot(const OnBoat &at) {
    return json::array({at.behind_bow_m, at.right_m});
}
OnBoat spot(const json &j) {
    return {j.at(0).get<double>(), j.at(1).get<double>()};
}

// What of a boat cannot be; empty when all can.
std::string wrong_with(const OwnBoat &b) {
    const auto aboard = [&](const OnBoat &at) {
        return within(at.behind_bow_m, -2, b.length_m + 2) && within(at.right_m, -b.beam_m, b.beam_m);
    };
    if (b.name.size() > longest_name)
        return told("its name is too long");
    if (!within(b.length_m, 1, longest_boat_m) || !within(b.beam_m, 0.4, 10) || b.beam_m > b.length_m)
        return told("no boat is {} m long and {} m wide", b.length_m, b.beam_m);
    if (!aboard(b.head) || !aboard(b.antenna))
        return told("head or antenna is not on it");
    if (b.seats.size() > OwnBoat::most_seats)
        return told("it has more than {} seats", OwnBoat::most_seats);
    if (!within(b.fuel_l_per_h, 0, 200))
        return told("{} l of fuel an hour cannot be", print_number(b.fuel_l_per_h, 1));
    for (const auto &s : b.seats)
        if (s.name.size() > longest_name || !aboard(s.at) || !within(s.reach_m, 1, longest_cast_m))
            return told("seat {} is not on it or casts too far", s.name.substr(0, longest_name));
    return {};
}

} // namespace

std::vector<OnBoat> OwnBoat::outline() const {
    // Bow: half a sine over the first third; then straight, and a little narrower at the stern.
    std::vector<OnBoat> right;
    constexpr int points = 12;
    const double bow = 0.36 * length_m, half = beam_m / 2;
    for (int i = 0; i <= points; ++i) {
        const double t = static_cast<double>(i) / points;
        right.push_back({t * bow, half * std::sin(t * std::numbers::pi / 2)});
    }
    right.push_back({length_m, 0.9 * half});
    auto all = right;
    for (auto i = right.size(); i-- > 1;)
        all.push_back({right[i].behind_bow_m, -right[i].right_m});
    return all;
}

OwnBoat usual_boat() {
    OwnBoat b;
    b.name = told("Nineteen feet");
    b.head = {0.15, 0.15};
    b.antenna = {3.5, 0};
    b.seats = {{told("Bow"), {0.9, 0}, 55 * metres_per_foot, Hand::right},
               {told("Middle"), {2.9, 0}, 45 * metres_per_foot, Hand::right},
               {told("Stern"), {5.2, 0}, 38 * metres_per_foot, Hand::right}};
    return b;
}

std::string boats_to_json(const std::vector<OwnBoat> &boats) {
    json all = json::array();
    for (const auto &b : boats) {
        json seats = json::array();
        for (const auto &s : b.seats)
            seats.push_back({{"name", s.name},
                             {"at", spot(s.at)},
                             {"reach_m", s.reach_m},
                             {"hand", s.hand == Hand::left ? "left" : "right"}});
        all.push_back({{"name", b.name},
                       {"length_m", b.length_m},
                       {"beam_m", b.beam_m},
                       {"head", spot(b.head)},
                       {"antenna", spot(b.antenna)},
                       {"fuel_l_per_h", b.fuel_l_per_h},
                       {"seats", seats}});
    }
    return all.dump();
}

Result<std::vector<OwnBoat>> boats_from_json(std::string_view text) {
    const auto refuse = [](const std::string &what) {
        return fail(told("the boats cannot be read: {}", what), told("the usual boat stands in"),
                    told("enter yours again in Around"));
    };
    try {
        const auto j = parse_json(text, longest_text);
        if (!j.is_array() || j.size() > most_boats)
            return refuse(told("this is no list of boats"));
        std::vector<OwnBoat> boats;
        for (const auto &one : j) {
            OwnBoat b;
            b.name = one.at("name").get<std::string>();
            b.length_m = one.at("length_m").get<double>();
            b.beam_m = one.at("beam_m").get<double>();
            b.head = spot(one.at("head"));
            b.antenna = spot(one.at("antenna"));
            b.fuel_l_per_h = one.value("fuel_l_per_h", OwnBoat().fuel_l_per_h);
            for (const auto &s : one.at("seats"))
                b.seats.push_back({s.at("name").get<std::string>(), spot(s.at("at")),
                                   s.at("reach_m").get<double>(),
                                   s.at("hand").get<std::string>() == "left" ? Hand::left : Hand::right});
            if (const auto wrong = wrong_with(b); !wrong.empty())
                return refuse(wrong);
            boats.push_back(std::move(b));
        }
        return boats;
    } catch (const json::exception &) {
        return refuse(told("an entry is missing or of another kind"));
    }
}

FromHead from_head(const OwnBoat &boat, const OnBoat &spot) {
    return {boat.head.behind_bow_m - spot.behind_bow_m, spot.right_m - boat.head.right_m};
}

} // namespace heron
