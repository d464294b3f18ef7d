#include "bottom/spot_filter.hpp"

#include <algorithm>
#include <cctype>
#include <map>

namespace heron {
namespace {

constexpr double told_near_m = 10, big_m = 0.5, hard_from = 0.5;

// Words in small letters; "6-8" and "6–8" become "6 to 8", "8ft" becomes "8 ft".
std::vector<std::string> words_of(std::string_view text) {
    std::string spaced;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto c = static_cast<unsigned char>(text[i]);
        const bool digit_before = i > 0 && std::isdigit(static_cast<unsigned char>(text[i - 1])) != 0;
        if (text.substr(i).starts_with("–")) {
            spaced += " to ";
            i += std::string_view("–").size() - 1;
        } else if (c == '-' && digit_before) {
            spaced += " to ";
        } else if (c == '\'' && digit_before) {
            spaced += " ft ";
        } else if (digit_before && std::isalpha(c) != 0) {
            spaced += ' ';
            spaced += static_cast<char>(std::tolower(c));
        } else if (c == ',' || c == ';' || (c == '.' && !digit_before)) {
            spaced += ' ';
        } else {
            spaced += static_cast<char>(std::tolower(c));
        }
    }
    std::vector<std::string> words;
    std::string word;
    for (const char c : spaced + " ") {
        if (c != ' ' && c != '\t' && c != '\n') {
            word += c;
        } else if (!word.empty()) {
            words.push_back(word);
            word.clear();
        }
    }
    return words;
}

std::string singular(const std::string &w) {
    static const std::map<std::string, std::string> odd{{"edges", "edge"},   {"ledges", "ledge"},
                                                        {"bushes", "brush"}, {"branches", "branch"},
                                                        {"fishes", "fish"},  {"brushes", "brush"}};
    if (const auto at = odd.find(w); at != odd.end())
        return at->second;
    if (w.size() > 3 && w.back() == 's' && w[w.size() - 2] != 's')
        return w.substr(0, w.size() - 1);
    return w;
}

// Goes along the words of a wish.
class Reading {
  public:
    Reading(std::vector<std::string> words, UnitSystem units) : words_(std::move(words)), units_(units) {}

    SpotFilter read() {
        while (at_ < words_.size())
            if (!take())
                f_.not_understood.push_back(words_[at_ - 1]);
        return f_;
    }

  private:
    bool next_is(std::initializer_list<std::string_view> any) const {
        return at_ < words_.size() && std::find(any.begin(), any.end(), singular(words_[at_])) != any.end();
    }
    void skip(std::initializer_list<std::string_view> any) {
        while (next_is(any))
            ++at_;
    }
    // "10", "10 m", "10 ft"; nothing where no figure stands. `sets_unit`: the unit that was said.
    std::optional<double> figure(std::string *unit = nullptr) {
        if (at_ >= words_.size())
            return std::nullopt;
        std::string text = words_[at_];
        if (!parse_length_m(text, units_))
            return std::nullopt;
        ++at_;
        if (at_ < words_.size() && next_is({"m", "ft", "metre", "meter", "foot", "feet", "cm"})) {
            auto u = words_[at_++];
            u = u == "cm" ? "cm" : u.starts_with('f') ? "ft" : "m";
            if (unit != nullptr)
                *unit = u;
            text += " " + u;
        }
        return parse_length_m(text, units_);
    }
    // "6 to 8 ft", "8 ft": the unit may stand only behind the second.
    bool depth_range() {
        const auto start = at_;
        std::string unit_a, unit_b;
        const auto raw_a = at_;
        const auto a = figure(&unit_a);
        if (!a)
            return false;
        if (!next_is({"to"})) {
            at_ = start;
            return false;
        }
        ++at_;
        const auto b = figure(&unit_b);
        if (!b) {
            at_ = start;
            return false;
        }
        const auto first =
            unit_a.empty() && !unit_b.empty() ? parse_length_m(words_[raw_a] + " " + unit_b, units_) : a;
        f_.depth_from_m = std::min(*first, *b);
        f_.depth_to_m = std::max(*first, *b);
        skip({"deep", "of", "water"});
        return true;
    }
    bool within(double metres) {
        skip({"of", "a", "an", "the", "to", "from"});
        if (at_ >= words_.size())
            return false;
        const auto w = singular(words_[at_++]);
        if (w == "weed") {
            skip({"edge"});
            f_.weed_edge = true;
        } else if (w == "seam" || w == "transition" || w == "edge" || w == "change") {
            f_.transition_m = metres;
        } else if (w == "drop" || w == "ledge" || w == "break") {
            f_.drop_m = metres;
        } else if (w == "deep" || w == "deeper") {
            f_.deep_m = metres;
            skip({"water"});
        } else {
            return false;
        }
        return true;
    }
    bool ground(const std::string &w) {
        if (w == "hard" || w == "soft") {
            f_.hard = w == "hard";
            skip({"ground", "bottom"});
            return true;
        }
        for (const auto g : {GroundClass::silt, GroundClass::sand, GroundClass::gravel, GroundClass::rock,
                             GroundClass::weeds})
            if (w == name_of(g) || w == singular(std::string(name_of(g)))) {
                f_.ground = g;
                return true;
            }
        if (w == "mud") {
            f_.ground = GroundClass::silt;
            return true;
        }
        return false;
    }
    // What the ground is shaped into.
    bool form() {
        skip({"spawning"});
        bool &wished = next_is({"lane", "lanes"}) ? f_.lane : next_is({"bed", "beds"}) ? f_.beds : f_.ripples;
        if (&wished == &f_.ripples && !next_is({"ripple", "ripples"}))
            return false;
        ++at_;
        return wished = true;
    }
    bool take();

    std::vector<std::string> words_;
    UnitSystem units_;
    std::size_t at_ = 0;
    SpotFilter f_;
};

bool Reading::take() {
    if (depth_range())
        return true;
    const auto w = singular(words_[at_++]);
    static const std::map<std::string, SpotMatter> matters{
        {"stone", SpotMatter::stone}, {"rock", SpotMatter::stone},  {"boulder", SpotMatter::stone},
        {"wood", SpotMatter::wood},   {"timber", SpotMatter::wood}, {"stump", SpotMatter::wood},
        {"log", SpotMatter::wood},    {"tree", SpotMatter::wood},   {"brush", SpotMatter::wood},
        {"weed", SpotMatter::weeds},  {"fish", SpotMatter::fish},   {"wall", SpotMatter::built},
        {"built", SpotMatter::built}};
    static const std::initializer_list<std::string_view> filler{
        "show", "me", "all", "the", "a", "an", "of", "and", "that", "which", "is", "are", "thing", "only"};
    if (std::find(filler.begin(), filler.end(), w) != filler.end())
        return true;
    if (w == "lone" || w == "alone" || w == "single" || w == "isolated") {
        f_.lone = true;
        return true;
    }
    if (w == "piled" || w == "grouped") {
        f_.lone = false;
        return true;
    }
    if (w == "big" || w == "bigger" || w == "large") {
        f_.bigger = true;
        return true;
    }
    if (w == "within" || w == "under") {
        const auto m = figure();
        return m && within(*m);
    }
    if (w == "near" || w == "close" || w == "beside" || w == "by")
        return within(told_near_m);
    if (w == "in") {
        skip({"a", "an", "the"});
        if (depth_range())
            return true;
        if (next_is({"weed"})) {
            ++at_;
            if (next_is({"opening"}))
                ++at_;
            f_.weed_opening = true;
            return true;
        }
        if (next_is({"opening"})) {
            ++at_;
            f_.weed_opening = true;
            return true;
        }
        if (form())
            return true;
        if (next_is({"pile", "group"})) {
            ++at_;
            f_.lone = false;
            return true;
        }
        if (const auto m = figure()) { // "in 8 ft": a foot and a half either way
            const double off = 0.5;
            f_.depth_from_m = *m - off;
            f_.depth_to_m = *m + off;
            skip({"deep", "of", "water"});
            return true;
        }
        return false;
    }
    if (w == "on") {
        skip({"a", "an", "the"});
        skip({"old", "sunken"});
        if (next_is({"point"})) {
            ++at_;
            f_.weed_point = true;
            return true;
        }
        if (form())
            return true;
        return at_ < words_.size() && ground(singular(words_[at_++]));
    }
    if (w == "deeper" || w == "shallower" || w == "taller" || w == "shorter" || w == "higher") {
        skip({"than"});
        const auto m = figure();
        if (!m)
            return false;
        (w == "deeper"      ? f_.depth_from_m
         : w == "shallower" ? f_.depth_to_m
         : w == "shorter"   ? f_.shorter_m
                            : f_.taller_m) = m;
        return true;
    }
    if (w == "with" && next_is({"stone", "rock", "wood"})) {
        ++at_;
        f_.wood_with_stone = true;
        return true;
    }
    if (w == "weed" && next_is({"edge", "opening", "point"})) {
        const auto what = singular(words_[at_++]);
        (what == "edge" ? f_.weed_edge : what == "opening" ? f_.weed_opening : f_.weed_point) = true;
        return true;
    }
    if (w == "hard" || w == "soft")
        return ground(w);
    if (const auto at = matters.find(w); at != matters.end()) {
        f_.matters.push_back(at->second);
        // A finer word than the matter must stand in the thing's own words.
        if (w == "stump" || w == "log" || w == "tree" || w == "brush" || w == "boulder")
            f_.names.push_back(w);
        if (w == "rock" && next_is({"pile"})) {
            ++at_;
            f_.names.push_back("rock pile");
        }
        return true;
    }
    // "#zander" is looked for as it stands.
    if (w.size() > 1 && w.front() == '#') {
        f_.names.push_back(words_[at_ - 1].substr(1));
        return true;
    }
    return false;
}

bool within(const std::optional<double> &have, const std::optional<double> &wanted) {
    return !wanted || (have && *have <= *wanted);
}

} // namespace

bool SpotFilter::empty() const {
    return matters.empty() && names.empty() && !lone && !bigger && !wood_with_stone && !weed_opening &&
           !weed_edge && !weed_point && !ripples && !lane && !beds && !hard && !ground && !transition_m &&
           !drop_m && !deep_m && !depth_from_m && !depth_to_m && !taller_m && !shorter_m;
}

SpotFilter spot_filter_of(std::string_view words, UnitSystem units) {
    constexpr std::size_t longest = 500;
    return Reading(words_of(words.substr(0, longest)), units).read();
}

bool meets(const SpotFilter &f, const SpotThing &thing, const SpotFacts &facts, std::optional<double> depth,
           std::string_view words) {
    if (!f.matters.empty() && std::find(f.matters.begin(), f.matters.end(), thing.matter) == f.matters.end())
        return false;
    if (!f.names.empty() && std::none_of(f.names.begin(), f.names.end(), [&](const std::string &n) {
            return words.find(n) != std::string_view::npos;
        }))
        return false;
    if (f.lone && *f.lone != facts.lone())
        return false;
    if (f.bigger && !facts.bigger && !(facts.lone() && thing.height_m.value_or(0) >= big_m))
        return false;
    if ((f.wood_with_stone && !facts.wood_with_stone) || (f.weed_opening && !facts.in_weed_opening) ||
        (f.weed_edge && !facts.on_weed_edge) || (f.weed_point && !facts.on_weed_point) ||
        (f.ripples && !facts.in_ripples) || (f.lane && !facts.on_lane) || (f.beds && !facts.in_beds))
        return false;
    if (f.hard && (!facts.hardness || *f.hard != (*facts.hardness >= hard_from)))
        return false;
    if (f.ground && facts.ground != *f.ground)
        return false;
    if (!within(facts.to_transition_m, f.transition_m) || !within(facts.to_drop_m, f.drop_m) ||
        !within(facts.to_deep_m, f.deep_m))
        return false;
    if (f.depth_from_m || f.depth_to_m) {
        const auto d = facts.depth_m ? facts.depth_m : depth;
        if (!d || *d < f.depth_from_m.value_or(0) || *d > f.depth_to_m.value_or(1e9))
            return false;
    }
    if (f.taller_m && thing.height_m.value_or(-1) < *f.taller_m)
        return false;
    return !f.shorter_m || thing.height_m.value_or(1e9) <= *f.shorter_m;
}

} // namespace heron
