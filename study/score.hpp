// How a reading is held against what is truly there.
#pragma once

#include "reading_scenes.hpp"

#include "reading/reader.hpp"

#include <map>
#include <string>
#include <utility>
#include <vector>

namespace heron::study {

/// A contact and where it lies on the lake's plane, metres.
struct OnPlane {
    Contact contact;
    double east = 0, north = 0;
};

/// All that a scan holds, joined, down to a tenth: the working point is applied when scoring.
std::vector<Contact> read_all(const Scan &scan, const KindModel &model);

std::vector<OnPlane> on_plane(const std::vector<Contact> &contacts, const LocalPlane &plane);

/// What is counted on the way.
struct Score {
    double things = 0, found = 0, contacts = 0, right = 0;
    double family = 0, family_of = 0, placement = 0, placement_of = 0, kind = 0, kind_of = 0;
    std::vector<double> height_error, height_relative, place_error;
    double height_within = 0, place_within = 0;
    std::vector<std::pair<double, bool>> confidence;    // told, and whether it was real and of that family
    std::map<std::string, std::pair<int, int>> by_kind; // found, of
    std::map<std::string, int> false_as;
    std::map<std::string, std::vector<double>> height_bias; // told over true, by kind
    std::vector<std::pair<double, bool>> showing; // of fish: the computed chance that it shows, and found
    double doubles = 0, km = 0;

    void add(const Score &o) {
        things += o.things;
        found += o.found;
        contacts += o.contacts;
        right += o.right;
        family += o.family;
        family_of += o.family_of;
        placement += o.placement;
        placement_of += o.placement_of;
        kind += o.kind;
        kind_of += o.kind_of;
        const auto append = [](auto &a, const auto &b) { a.insert(a.end(), b.begin(), b.end()); };
        append(height_error, o.height_error);
        append(height_relative, o.height_relative);
        append(place_error, o.place_error);
        height_within += o.height_within;
        place_within += o.place_within;
        append(confidence, o.confidence);
        append(showing, o.showing);
        for (const auto &[k, v] : o.by_kind) {
            by_kind[k].first += v.first;
            by_kind[k].second += v.second;
        }
        for (const auto &[k, v] : o.false_as)
            false_as[k] += v;
        for (const auto &[k, v] : o.height_bias)
            append(height_bias[k], v);
        doubles += o.doubles;
        km += o.km;
    }
};

/// Contacts against things: each thing is answered for by its likeliest contact, more at the same thing are
/// doubles. The median offset of all pairs, what the positions wander, is taken out first.
Score score(const std::vector<Contact> &contacts, const std::vector<TrueThing> &things,
            const LocalPlane &plane, double working_point);

/// One line of the table, and its head (Markdown).
std::string line(const std::string &name, const Score &s);
std::string table_head();
/// By kind, what was false, heights, and what was counted for each chance told.
std::string details(const Score &s);

} // namespace heron::study
