#include "bottom/spot.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace heron {
namespace {

double apart(const EastNorth &a, const EastNorth &b) {
    return std::hypot(a.east_m - b.east_m, a.north_m - b.north_m);
}

bool known(float v) {
    return v == v;
}

} // namespace

SpotGround::SpotGround(const Hardness &h, const std::vector<Transition> &transitions, const DepthGrid &depth,
                       std::vector<GroundForm> forms)
    : ground_raster_(h.raster), depth_raster_(depth.raster), hardness_(h.hardness), depth_m_(depth.depth_m),
      ground_(h.ground), forms_(std::move(forms)) {
    has_weeds_ = std::find(ground_.begin(), ground_.end(), GroundClass::weeds) != ground_.end();
    constexpr double every_m = 0.5;
    for (const auto &t : transitions)
        for (std::size_t i = 0; i + 1 < t.line.size(); ++i) {
            const double run = apart(t.line[i], t.line[i + 1]);
            const int pieces = std::max(1, static_cast<int>(std::ceil(run / every_m)));
            for (int k = 0; k <= pieces; ++k) {
                const double s = static_cast<double>(k) / pieces;
                seam_.push_back({t.line[i].east_m + s * (t.line[i + 1].east_m - t.line[i].east_m),
                                 t.line[i].north_m + s * (t.line[i + 1].north_m - t.line[i].north_m)});
            }
        }
    // A drop: cells within three metres of each other that differ by as much as a man's leg is long.
    const auto &r = depth_raster_;
    const auto reach = std::max<std::size_t>(1, static_cast<std::size_t>(drop_within_m / r.cell_m));
    for (std::size_t y = 0; y < r.rows; ++y)
        for (std::size_t x = 0; x < r.columns; ++x) {
            const float here = depth_m_[y * r.columns + x];
            if (!known(here))
                continue;
            double falls = 0;
            if (x + reach < r.columns && known(depth_m_[y * r.columns + x + reach]))
                falls = std::fabs(static_cast<double>(depth_m_[y * r.columns + x + reach] - here));
            if (y + reach < r.rows && known(depth_m_[(y + reach) * r.columns + x]))
                falls = std::max(
                    falls, std::fabs(static_cast<double>(depth_m_[(y + reach) * r.columns + x] - here)));
            if (falls >= least_drop_m)
                drops_.push_back({{r.east_of(x) + static_cast<double>(reach) * r.cell_m / 2,
                                   r.north_of(y) - static_cast<double>(reach) * r.cell_m / 2},
                                  falls});
        }
}

// Weeds counted over rings of sixteen directions.
void SpotGround::weeds_about(const EastNorth &at, SpotFacts &facts) const {
    const auto is_weeds = [&](double e, double n) {
        const auto i = ground_raster_.cell_at(e, n);
        return i && ground_[*i] == GroundClass::weeds;
    };
    constexpr int directions = 16;
    constexpr double opening_m = 8, edge_m = 3;
    std::array<bool, directions> near{}, far{};
    for (int d = 0; d < directions; ++d) {
        const double turn = 2 * 3.14159265358979 * d / directions;
        for (double r = 1; r <= opening_m; r += 1)
            if (is_weeds(at.east_m + r * std::sin(turn), at.north_m + r * std::cos(turn))) {
                far[static_cast<std::size_t>(d)] = true;
                near[static_cast<std::size_t>(d)] = near[static_cast<std::size_t>(d)] || r <= edge_m;
            }
    }
    const auto n_far = std::count(far.begin(), far.end(), true),
               n_near = std::count(near.begin(), near.end(), true);
    const bool here = is_weeds(at.east_m, at.north_m);
    facts.in_weed_opening = !here && n_far >= 3 * directions / 4;
    facts.on_weed_edge = n_near > 0 && n_near < directions;
    facts.on_weed_point = facts.on_weed_edge && here && n_far < directions / 2 && n_near < directions / 2;
}

SpotFacts SpotGround::facts_of(const SpotThing &thing, std::span<const SpotThing> all) const {
    SpotFacts f;
    if (const auto i = depth_raster_.cell_at(thing.at.east_m, thing.at.north_m); i && known(depth_m_[*i]))
        f.depth_m = static_cast<double>(depth_m_[*i]);
    // The thing itself is no ground: the median of what lies about it, out to two metres.
    std::vector<float> about;
    std::array<int, 6> classes{};
    for (double e = -2; e <= 2; e += 0.5)
        for (double n = -2; n <= 2; n += 0.5)
            if (const auto i = ground_raster_.cell_at(thing.at.east_m + e, thing.at.north_m + n);
                i && known(hardness_[*i])) {
                about.push_back(hardness_[*i]);
                ++classes[static_cast<std::size_t>(ground_[*i])];
            }
    if (!about.empty()) {
        std::nth_element(about.begin(), about.begin() + std::ssize(about) / 2, about.end());
        f.hardness = static_cast<double>(about[about.size() / 2]);
        f.ground =
            static_cast<GroundClass>(std::max_element(classes.begin(), classes.end()) - classes.begin());
    }
    const auto nearest = [&](std::optional<double> &least, double d) {
        if (d <= farthest_m && (!least || d < *least)) {
            least = d;
            return true;
        }
        return false;
    };
    for (const auto &p : seam_)
        nearest(f.to_transition_m, apart(p, thing.at));
    for (const auto &d : drops_)
        if (nearest(f.to_drop_m, apart(d.at, thing.at)))
            f.drop_m = d.falls_m;
    if (f.depth_m) {
        const auto &r = depth_raster_;
        for (std::size_t y = 0; y < r.rows; ++y) {
            const double dn = r.north_of(y) - thing.at.north_m;
            if (std::fabs(dn) > f.to_deep_m.value_or(farthest_m))
                continue;
            for (std::size_t x = 0; x < r.columns; ++x) {
                const auto d = static_cast<double>(depth_m_[y * r.columns + x]);
                if (d >= *f.depth_m + deeper_m &&
                    nearest(f.to_deep_m, std::hypot(r.east_of(x) - thing.at.east_m, dn)))
                    f.deep_by_m = d - *f.depth_m;
            }
        }
    }
    constexpr double beside_m = 4, compared_m = 25, bigger_times = 1.33;
    double tallest_other = 0;
    bool compared = false;
    for (const auto &o : all) {
        if (o.id == thing.id || o.matter == SpotMatter::fish)
            continue;
        const double d = apart(o.at, thing.at);
        nearest(f.to_next_m, d);
        f.neighbours += d <= about_m;
        if (d <= compared_m && o.height_m) {
            compared = true;
            tallest_other = std::max(tallest_other, *o.height_m);
        }
        if (d <= beside_m && ((o.matter == SpotMatter::wood && thing.matter == SpotMatter::stone) ||
                              (o.matter == SpotMatter::stone && thing.matter == SpotMatter::wood)))
            f.wood_with_stone = true;
    }
    f.bigger = compared && thing.height_m && *thing.height_m >= bigger_times * tallest_other;
    if (has_weeds_)
        weeds_about(thing.at, f);
    constexpr double ripples_m = 2, lane_m = 4, beds_m = 2;
    for (const auto &form : forms_) {
        const double off = metres_outside(form, thing.at);
        f.in_ripples = f.in_ripples || (form.kind == GroundForm::Kind::ripples && off <= ripples_m);
        f.on_lane = f.on_lane || (form.kind == GroundForm::Kind::lane && off <= lane_m);
        f.in_beds = f.in_beds || (form.kind == GroundForm::Kind::beds && off <= beds_m);
    }
    return f;
}

} // namespace heron
