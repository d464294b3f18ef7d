// A port of this machine that tells its listeners what there is to tell.
#pragma once

#include "fault/fault.hpp"
#include "link/frame.hpp"

#include <cstdint>
#include <functional>
#include <string_view>
#include <vector>

namespace heron::cli {

/// Listens on 127.0.0.1 alone and never waits: who does not keep up loses whole messages, never parts. At
/// most eight listeners.
class LoopbackPort {
  public:
    /// `port` 0 takes any free one.
    static Result<LoopbackPort> open(std::uint16_t port);
    LoopbackPort(LoopbackPort &&other) noexcept;
    LoopbackPort &operator=(LoopbackPort &&other) noexcept;
    ~LoopbackPort();

    std::uint16_t number() const { return number_; }
    /// What each is told first.
    std::function<Bytes()> greeting;
    /// What is answered to whoever says something (one answer for all that came at once); nothing answers
    /// nothing.
    std::function<Bytes()> answer;
    void send(std::span<const std::uint8_t> message);
    void send(std::string_view message);
    /// Takes who has come, lets go who has left, and hands on what waits. To be called every few hundredths
    /// of a second.
    void turn();
    /// Waits until all was handed on, for a second at most.
    void finish();
    std::size_t listeners() const { return clients_.size(); }

  private:
    LoopbackPort() = default;
    struct Client {
        int socket = -1;
        Bytes waiting;
        std::size_t sent = 0;
    };
    bool hand_on(Client &client);

    int socket_ = -1;
    std::uint16_t number_ = 0;
    std::vector<Client> clients_;
};

} // namespace heron::cli
