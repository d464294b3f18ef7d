// What one screen knows of the marks that are shared, and how it settles with the others: field by field, the
// later edit holds, the same on every screen in whatever order the words come.
#pragma once

#include "fault/fault.hpp"
#include "files/json.hpp"
#include "marks/mark.hpp"
#include "sharing/hybrid_clock.hpp"

#include <map>
#include <string>
#include <vector>

namespace heron {

/// A mark as it travels: each of its fields with the stamp of its last edit, or the stamp of its removal.
struct SharedMark {
    std::string id;
    std::map<std::string, nlohmann::json>
        fields;                          ///< as `json_of` names them; a field that was emptied is null
    std::map<std::string, Stamp> stamps; ///< of each field
    std::optional<Stamp> removed;        ///< it is gone, unless a field was edited later
    bool gone() const;
};

/// Takes in another's edits: of each field the later stamp holds; between equal stamps the greater value
/// (they cannot differ unless somebody cheats). Sightings and outcomes are sets: both sides' stay.
/// Commutative, associative, idempotent. What lost is told, for the history.
struct LostEdit {
    std::string id, field;
    nlohmann::json value;
    Stamp stamp;
};
std::vector<LostEdit> merge(SharedMark &into, const SharedMark &other);

nlohmann::json json_of(const SharedMark &mark);
/// Checks all that comes from a broker: no more than `most_bytes`, lawful names, stamps and values.
Result<SharedMark> shared_mark_of_json(std::string_view text, std::size_t most_bytes = 4u << 20);

/// A mark's fields for travelling; `chips`: with its pictures.
std::map<std::string, nlohmann::json> fields_of(const Mark &mark, bool chips);
/// The mark that the fields make; refused as `mark_of_json` refuses.
Result<Mark> mark_of(const SharedMark &shared);

/// All marks of one screen.
class Replica {
  public:
    explicit Replica(std::string screen) : clock_(std::move(screen)) {}

    /// An edit made here: what differs from what is known is stamped. Nothing when nothing differs.
    std::optional<SharedMark> edit(const Mark &mark, UnixNs wall);
    /// A removal made here.
    std::optional<SharedMark> remove(const std::string &id, UnixNs wall);
    /// Another screen's words. The mark as it stands now; `lost` gets what was overruled.
    const SharedMark &take(const SharedMark &other, UnixNs wall, std::vector<LostEdit> *lost = nullptr);

    const std::map<std::string, SharedMark> &marks() const { return marks_; }
    const SharedMark *find(const std::string &id) const;
    /// One line each: the whole state, to keep and to load; lines that cannot be read are passed over and
    /// counted.
    std::string state() const;
    std::size_t load(std::string_view state);

  private:
    HybridClock clock_;
    std::map<std::string, SharedMark> marks_;
};

} // namespace heron
