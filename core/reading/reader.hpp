// Reads a scan: contacts, as its rows settle.
#pragma once

#include "reading/contact.hpp"
#include "reading/slope.hpp"

namespace heron {

struct ReaderSettings {
    double least_confidence = 0.5; ///< the working point; below it a contact is not told
    double block_m = 60;           ///< read at once
    double margin_m = 14;          ///< about a block, for the background
    bool keep_all = false;         ///< tells every candidate, however unlikely (for fitting)
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
    std::size_t next_row_ = 0, depth_row_ = 0;
};

/// Looks at one thing joined: of overlapping contacts the likeliest stays and gathers the others' weight.
std::vector<Contact> join_contacts(std::vector<Contact> contacts);

} // namespace heron
