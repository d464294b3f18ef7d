// Looks at one thing brought together: doubles of one look, and the same thing seen from other legs.
#pragma once

#include "reading/contact.hpp"

namespace heron {

/// Numbers the legs of a track: a leg ends where the heading has left that of the leg by 60°.
class LegCounter {
  public:
    /// Of the next row; rows come in order. Without a heading the leg goes on.
    std::uint16_t leg_at(const Scan &scan, std::size_t row);

  private:
    std::optional<double> heading_;
    UnixNs looked_ = 0;
    double off_s_ = 0;
    std::uint16_t leg_ = 0;
};

/// Of overlapping contacts of one leg the likeliest stays. Contacts of different legs are joined one to one,
/// leg by leg, by the assignment of least cost; their evidence is combined. A ledge runs on from leg to leg:
/// its crossings are one, as long as from the first to the last and placed in their middle. What is less sure
/// than `least_confidence` after that is left out. Reasons are given anew.
std::vector<Contact> join_contacts(std::vector<Contact> contacts, double least_confidence = 0);

/// What two passes say together: the likelihood of the second, which is its chances over what is usual among
/// contacts, to a power that grows from 0.45 for the same bearing to 0.75 across it
/// (docs/decisions/014-second-look.md). Heights by the inverse of their variances, places likewise, with the
/// part of the positions' error that passes share left in.
void combine_passes(Contact &kept, const Contact &other);

/// The power with which a further look counts that came from `turned_deg` off the first.
double power_of_look(double turned_deg);

} // namespace heron
