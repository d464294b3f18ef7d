// What the guide said that a contact is: kept with it, and weighed into the naming for that water.
#pragma once

#include "reading/contact.hpp"

#include "fault/fault.hpp"

#include <filesystem>
#include <span>

namespace heron {

/// A trip or recording: its id, which stays, and what it is called now.
struct SourceName {
    std::string id; ///< empty where it has none
    std::string name;
};

struct Correction {
    std::string water;  ///< whose model it weighs into
    std::string source; ///< id of the trip or recording in which the contact was seen; its name in old files
    UnixNs time = 0;    ///< of the contact's strongest row
    Side side = Side::starboard;
    double slant_m = 0;
    Zone zone = Zone::ground;
    Features features{};
    Kind read = Kind::none; ///< what it was taken for
    Kind said = Kind::none; ///< what the guide says it is; none: nothing but the ground
    UnixNs said_at = 0;
    bool operator==(const Correction &) const = default;

    /// The same thing of the same source: within 1.5 s and 0.8 m on the same side.
    bool of(const SourceName &seen_in, const Contact &contact) const;
};

/// All corrections, in one file of JSON lines' array that is written whole at each change.
class CorrectionBook {
  public:
    /// A file that is not there yet is an empty book. Refuses a file that is none of this kind.
    static Result<CorrectionBook> open(const std::filesystem::path &path);
    const std::vector<Correction> &all() const { return all_; }
    std::vector<Correction> of_water(const std::string &water) const;
    const Correction *find(const SourceName &source, const Contact &contact) const;
    /// On the disk when it returns without a fault; a later word on the same contact replaces the earlier.
    Result<void> say(Correction correction);
    /// What was said of a source belongs to this water from now on, as when the water gets another name.
    Result<void> settle_water(const std::string &source_id, const std::string &water);
    /// Takes the last word back, also over restarts. Nothing to take back is no fault.
    Result<void> take_back();

  private:
    Result<void> write(std::vector<Correction> next);
    std::filesystem::path path_;
    std::vector<Correction> all_;
};

/// The model weighed anew. A word moves what is just like the contact that it is of, by up to 3.5 in the
/// logarithm of the odds (KindModel::nudges). It reaches farther, and kinds that were said often become
/// likelier everywhere (KindModel::shift), only where the words bear each other out: each is foretold by all
/// others better than as shipped (leave-one-out, by two nats and more in all; Stone 1974). O(n²) in the
/// words.
KindModel reweighed(const KindModel &shipped, std::span<const Correction> corrections);

/// Applies the guide's word: the chances are what was said.
void apply_word(Contact &contact, Kind said);

} // namespace heron
