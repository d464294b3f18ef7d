#include "recording/damaged_pings.hpp"

namespace heron {

void DamagedPings::tell(std::vector<std::string> &warnings) const {
    if (count_ == 1)
        warnings.push_back(told("a ping is damaged and was left out: {}", first_.happened));
    else if (count_ > 1)
        warnings.push_back(
            told("{} pings are damaged and were left out; the first: {}", count_, first_.happened));
}

} // namespace heron
