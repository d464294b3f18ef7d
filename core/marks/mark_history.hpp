// What was done to marks, kept in their file: so that a change can be taken back after the program was
// closed, and a mark can tell what became of it when.
#pragma once

#include "files/database.hpp"
#include "marks/mark.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace heron {

/// One mark's part of a change: what it was and what it became; empty where it was not there.
struct MarkStep {
    std::optional<Mark> before, after;
    const std::string &id() const { return before ? before->id : after->id; }
};
using MarkChange = std::vector<MarkStep>;

/// A line of a mark's story: when, and what of it changed.
struct MarkHistoryLine {
    UnixNs time = 0;
    bool made = false, removed = false;
    std::vector<Field> fields; ///< otherwise: what of it; empty: who may see it
};

/// The newest 1,000 changes are kept; one that takes more than 4 MiB (a large import) is not.
struct MarkHistory {
    static constexpr int most_steps = 1000;
    static constexpr std::size_t most_bytes = 4u << 20;

    /// Within the caller's transaction. Gives the number of the step; 0 where the change is too large to be
    /// kept; nothing on a fault.
    static std::optional<std::int64_t> remember(Database &db, const MarkChange &change, UnixNs time);
    /// Within the caller's transaction.
    static bool forget(Database &db, std::int64_t step);

    struct Kept {
        std::int64_t step = 0;
        MarkChange change;          ///< a picture that the change did not touch is left out of both sides
        std::vector<bool> pictures; ///< of each part: whether its sides tell their pictures
    };
    /// The newest that is kept; nothing where there is none. A step that another hand has spoiled comes
    /// without parts.
    static std::optional<Kept> newest(const Database &db);
    static std::int64_t count(const Database &db);
    /// Of one mark, the newest first.
    static std::vector<MarkHistoryLine> of(const Database &db, const std::string &id, int most = 50);
};

/// Whether two states of a mark say the same, pictures aside.
bool same_but_pictures(const Mark &a, const Mark &b);

} // namespace heron
