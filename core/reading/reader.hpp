// Reads a scan: contacts, as its rows settle.
#pragma once

#include "reading/contact.hpp"
#include "reading/slope.hpp"

namespace heron {

struct ReaderSettings {
    double least_confidence =
        0.5;               ///< the working point; looks down to six tenths of it come too, to be joined
    double block_m = 60;   ///< read at once
    double margin_m = 14;  ///< about a block, for the background
    bool keep_all = false; ///< tells every candidate, however unlikely (for fitting)
};

class Reader {
  public:
    explicit Reader(const KindModel &model = KindModel::shipped(), ReaderSettings settings = {})
        : model_(model), settings_(settings) {}

    /// Reads the blocks of a scan that have settled since the last call; `all`: to its end. Contacts come in
    /// the order of the track, looks not joined yet.
    std::vector<Contact> advance(const Scan &scan, bool all);
    std::size_t read_until() const { return next_row_; }

  private:
    std::vector<Contact> read_block(const Scan &scan, std::size_t first, std::size_t end,
                                    std::size_t core_first, std::size_t core_end) const;
    const KindModel &model_;
    ReaderSettings settings_;
    TrackDepths depths_;
    std::vector<double> run_m_; ///< of every row that has settled
    std::size_t next_row_ = 0, depth_row_ = 0;
};

/// Looks at one thing joined: of overlapping contacts the likeliest stays and gathers the others' weight.
/// What is less sure than `least_confidence` after that is left out.
std::vector<Contact> join_contacts(std::vector<Contact> contacts, double least_confidence = 0);

} // namespace heron
