// Reads a scan: contacts, as its rows settle.
#pragma once

#include "reading/join.hpp"
#include "reading/looks.hpp"
#include "reading/slope.hpp"

#include <functional>
#include <utility>

namespace heron {

struct ReaderSettings {
    double least_confidence =
        0.5;               ///< the working point; looks down to six tenths of it come too, to be joined
    double block_m = 60;   ///< read at once
    double margin_m = 14;  ///< about a block, for the background
    bool keep_all = false; ///< tells every candidate, however unlikely (for fitting)
    /// Given every candidate before it is weighed, with where it was found (for fitting).
    std::function<void(const Contact &, const Swath &, const Echo &)> on_candidate;
};

class Reader {
  public:
    explicit Reader(const KindModel &model = KindModel::shipped(), ReaderSettings settings = {})
        : model_(model), settings_(std::move(settings)) {}

    /// Reads the blocks of a scan that have settled since the last call; `all`: to its end. Contacts come in
    /// the order of the track, looks not joined yet.
    std::vector<Contact> advance(const Scan &scan, bool all);
    /// The same where rows from `settled` on may still change.
    std::vector<Contact> advance_to(const Scan &scan, std::size_t settled, bool all);
    std::size_t read_until() const { return next_row_; }
    /// What the rows show that were not finally read yet, up to the newest: their background is taken from
    /// one side only, and half a thing may be all there is. To be asked anew as rows come.
    std::vector<Contact> look_ahead(const Scan &scan);
    /// Reads rows `first`…`end` again, as far as they have been read; for what became known otherwise there,
    /// such as a bottom put right by hand. What was told of them before is to be let go.
    std::vector<Contact> read_again(const Scan &scan, std::size_t first, std::size_t end);

  private:
    /// A region that was told where one block ends and the next begins. Its strongest row may lie in either
    /// of them, as their backgrounds differ a little: what was told is not told again, and what neither would
    /// call its own is told by the second.
    struct AtBorder {
        Side side;
        Zone zone;
        std::size_t first_row, last_row;
        double near_m, far_m; ///< slant ranges
    };
    void know_runs(const Scan &scan, std::size_t end);
    /// Reads the core rows in blocks; up to `limit` there are rows to take a background from.
    void read_rows(const Scan &scan, std::size_t core_first, std::size_t core_end, std::size_t limit,
                   std::optional<std::vector<AtBorder>> &border, Known &known,
                   std::vector<Contact> &found) const;
    std::vector<Contact> read_block(const Scan &scan, std::size_t first, std::size_t end,
                                    std::size_t core_first, std::size_t core_end,
                                    std::optional<std::vector<AtBorder>> &border, Known &known) const;
    void read_drops(const Scan &scan, std::size_t first, std::size_t end, std::size_t core_first,
                    std::size_t core_end, std::vector<Contact> &found) const;
    const KindModel &model_;
    ReaderSettings settings_;
    TrackDepths depths_;
    std::vector<double> run_m_; ///< of every row that has settled
    std::vector<std::uint16_t> leg_;
    LegCounter legs_;
    Known known_; ///< from all candidates that were read
    std::size_t next_row_ = 0, depth_row_ = 0;
    std::optional<std::vector<AtBorder>> border_; ///< at `next_row_`, once a block was read
};

} // namespace heron
