// A connection to a broker (MQTT 3.1.1, OASIS 2014): what it is asked to publish, and what came.
#pragma once

#include "fault/fault.hpp"

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace heron {

struct BrokerAddress {
    std::string host = "127.0.0.1";
    int port = 1883;
    std::string user, password;
    std::string ca_file; ///< of the authority whose certificate the broker shows; empty: no TLS
    std::string certificate_file, key_file; ///< this screen's own, where the broker asks for them
};
/// Whether words may go there unencrypted: only within this machine.
bool is_loopback(const std::string &host);

/// Connects, and connects again when the line breaks, in a thread of its own. What is published while there
/// is no line is sent when there is one again: the last word on each topic.
class BrokerLink {
  public:
    struct Word {
        std::string topic, payload;
        bool retained = false;
    };
    /// Called in the link's own thread: something came, or the line came or went. It should only wake
    /// somebody.
    using Wake = std::function<void()>;

    /// Refuses an unencrypted line to another machine, and files that cannot be read. `screen`: its name, one
    /// of its kind at the broker.
    static Result<std::unique_ptr<BrokerLink>> connect(const BrokerAddress &address,
                                                       const std::string &screen,
                                                       const std::vector<std::string> &topics, Wake wake);
    virtual ~BrokerLink() = default;
    /// Retained, at least once; an empty payload takes the topic's retained word away.
    virtual void publish(const std::string &topic, const std::string &payload) = 0;
    /// What came since the last time. No more than `most_words` and `most_bytes` wait here: beyond that words
    /// are dropped and counted, and all retained ones are asked for once more when there is room.
    virtual std::vector<Word> taken() = 0;
    static constexpr std::size_t most_words = 20'000, most_bytes = 256u << 20, longest_word = 4u << 20;
    struct State {
        bool connected = false;
        std::string why;                      ///< it is not; empty: it has not been tried yet
        std::size_t dropped = 0, refused = 0; ///< too many, too long
        std::size_t waiting_to_go = 0;
    };
    virtual State state() const = 0;
};

} // namespace heron
