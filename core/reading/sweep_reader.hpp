// Reads the turns of a head at the bow: contacts of each turn, and turns joined into things.
#pragma once

#include "around/rays.hpp"
#include "around/turn_check.hpp"
#include "reading/looks.hpp"
#include "reading/reader.hpp"

namespace heron {

/// A turn as far as it matters for what it could have seen.
struct SweepView {
    std::size_t sweep = 0;
    GeoPoint head;         ///< in its middle
    double range_m = 0;    ///< over ground
    double from_deg = 0;   ///< true bearing of the middle of what was swept …
    double half_deg = 180; ///< … and how far to both sides
    std::size_t rays = 0;
    bool placed = false; ///< position and heading were known
};

/// Reads turn by turn: the rays of a turn side by side are a stretch as the sides have it, but wider apart
/// the farther out; so it is read in rings, each with the spacing of its middle.
class SweepReader {
  public:
    explicit SweepReader(const KindModel &model = KindModel::shipped(Side::around),
                         ReaderSettings settings = {})
        : model_(model), settings_(std::move(settings)) {}

    /// Contacts of the turns that have ended since the last call, looks not joined yet; `all`: of the one
    /// under way too. A contact's `leg` is its turn.
    std::vector<Contact> advance(const Scan &scan, bool all);
    /// The turns that were read.
    const std::vector<SweepView> &views() const { return views_; }
    /// What the turns say of the head itself.
    const TurnCheck &check() const { return check_; }
    /// The heading was put right in the scan that is read.
    void forget_turns() { check_.forget_turns(); }

  private:
    std::vector<Contact> read_sweep(const Scan &scan, std::size_t sweep);

    const KindModel &model_;
    ReaderSettings settings_;
    Rays rays_;
    TurnCheck check_;
    TrackDepths depths_;
    std::vector<double> run_m_;
    Known known_;
    std::vector<SweepView> views_;
    std::size_t next_row_ = 0, next_sweep_ = 0, depth_row_ = 0;
};

/// How deep the bottom is under a head that has no depth sounder beside it, from the rays alone: where the
/// median of their levels first rises, the bottom is met as steeply as the beam still hears, three quarters
/// of its width under its middle. Good to a fifth or so; nothing where no such rise stands out.
std::optional<double> altitude_of_rays(const Scan &scan, std::span<const std::size_t> rows);

/// Brings the looks of several turns at one thing together: places by the mean of their turns, chances by the
/// mean of their logarithms over all turns that could have seen it (a turn that did not see it speaks against
/// it), which count for more only where the boat had moved on: turns from one spot see one texture. What is
/// less sure than `least_confidence` after that is left out.
///
/// The `leg` of what is told is the newest turn that saw it. `for_casts`: places as the newest turns have
/// them, since what the positions wander is then the boat's own too; else as all turns have them in the mean,
/// for a place that is to stay; and no fish that the last two turns did not see.
std::vector<Contact> join_sweeps(const std::vector<Contact> &looks, const std::vector<SweepView> &views,
                                 double least_confidence = 0, bool for_casts = false);

} // namespace heron
