// The marks of a library as they stand on a broker: which topic tells whom what, and what of it comes back.
#pragma once

#include "marks/mark.hpp"
#include "sharing/broker_link.hpp"
#include "sharing/replica.hpp"

#include <functional>
#include <string>
#include <vector>

namespace heron {

/// Topics are `young-heron/<service>/<audience>/<mark's id>`, each with one retained word. On `crew` the word
/// is the mark with its stamps, and every screen of the crew speaks and listens; on `client` and `anyone` it
/// is what such a receiver may see, spoken by the crew and only heard by others. What is `me` stands on none
/// of them.
class SharedMarks {
  public:
    enum class Role : std::uint8_t { crew, client, anyone };

    SharedMarks(std::string service, std::string screen, Role role);
    static std::string topic(const std::string &service, Level audience, const std::string &id);
    /// What this role listens to.
    std::vector<std::string> topics() const;

    /// A change made here, as words to publish. Only the crew speaks.
    std::vector<BrokerLink::Word> edited(const Mark &mark, UnixNs wall);
    std::vector<BrokerLink::Word> removed(const std::string &id, UnixNs wall);

    /// What a word from the broker brings to this screen's library.
    struct Brought {
        std::optional<Mark> mark; ///< to be saved: as it stands now
        std::string gone;         ///< to be removed
        std::vector<LostEdit> lost;
        std::vector<BrokerLink::Word> answer; ///< where this screen knows more than the word did
        std::optional<Fault> refused;
    };
    /// `own`: the mark as this screen's library has it; what the crew does not see of it stays.
    Brought heard(const BrokerLink::Word &word, const Mark *own, UnixNs wall);

    std::string state() const { return replica_.state(); }
    std::size_t load(std::string_view state) { return replica_.load(state); }
    const Replica &replica() const { return replica_; }
    Role role() const { return role_; }

  private:
    std::vector<BrokerLink::Word> words_of(const SharedMark &shared);
    std::string service_;
    Role role_;
    Replica replica_;
};

/// A mark with what came from others laid over it: fields that the crew shares are theirs, what is kept
/// closer is its own.
Mark overlaid(const Mark *own, const Mark &shared);

} // namespace heron
