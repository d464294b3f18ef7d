// From a region of a swath to a contact: begun, weighed beside the others, placed. The same for the sides and
// for the circle.
#pragma once

#include "reading/contact.hpp"
#include "reading/prior.hpp"
#include "reading/slope.hpp"
#include "reading/usual.hpp"

#include <vector>

namespace heron {

/// What the recording as a whole shows, so far.
struct Known {
    UsualFigures usual;
    RecordingPrior prior;
};

struct Candidate {
    std::size_t swath, echo; ///< which of those that were looked at together
    Contact contact;
};

/// Where and when a region was heard, and what lies behind it; run, leg and features are the caller's.
Contact look_of(const Scan &scan, const Swath &swath, const Echo &echo, const ShadowBehind &behind);

/// What each may be, once it is known what all of them show: first by itself, then beside the others.
void weigh(std::vector<Candidate> &candidates, Known &known, const KindModel &model);

/// Of what lies within a cluster of bright grains the likeliest is believed the more (`cluster_evidence`);
/// `swath`: which one it is of. What was found in the water is passed over.
void give_clusters(const std::vector<GrainCluster> &clusters, const Swath &s, std::size_t swath,
                   std::vector<Candidate> &candidates);

/// Heights, sizes and places, and the grains in wood. `run_m`: metres run, at every row that may be asked.
void finish(const Scan &scan, const Swath &swath, const Echo &echo, const TrackDepths &depths,
            const std::vector<double> &run_m, Contact &contact);

} // namespace heron
