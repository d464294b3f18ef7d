#include "loopback_port.hpp"

#include <algorithm>
#include <arpa/inet.h>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <netinet/in.h>
#include <sys/socket.h>
#include <thread>
#include <unistd.h>
#include <utility>

namespace heron::cli {
namespace {

constexpr std::size_t most_waiting = 8u << 20, most_listeners = 8;

} // namespace

Result<LoopbackPort> LoopbackPort::open(std::uint16_t port) {
    LoopbackPort p;
    p.socket_ = ::socket(AF_INET, SOCK_STREAM | SOCK_NONBLOCK | SOCK_CLOEXEC, 0);
    const int on = 1;
    sockaddr_in at{};
    at.sin_family = AF_INET;
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    at.sin_port = htons(port);
    socklen_t size = sizeof at;
    if (p.socket_ < 0 || ::setsockopt(p.socket_, SOL_SOCKET, SO_REUSEADDR, &on, sizeof on) != 0 ||
        ::bind(p.socket_, reinterpret_cast<const sockaddr *>(&at), sizeof at) != 0 ||
        ::listen(p.socket_, most_listeners) != 0 ||
        ::getsockname(p.socket_, reinterpret_cast<sockaddr *>(&at), &size) != 0)
        return fail(told("port {} cannot be opened: {}", port, std::strerror(errno)),
                    told("nothing was read"), told("name another port, or 0 for any free one"));
    p.number_ = ntohs(at.sin_port);
    return p;
}

LoopbackPort::LoopbackPort(LoopbackPort &&other) noexcept {
    *this = std::move(other);
}

LoopbackPort &LoopbackPort::operator=(LoopbackPort &&other) noexcept {
    std::swap(greeting, other.greeting);
    std::swap(answer, other.answer);
    std::swap(socket_, other.socket_);
    std::swap(number_, other.number_);
    std::swap(clients_, other.clients_);
    return *this;
}

LoopbackPort::~LoopbackPort() {
    for (const auto &c : clients_)
        ::close(c.socket);
    if (socket_ >= 0)
        ::close(socket_);
}

// False: it has left.
bool LoopbackPort::hand_on(Client &c) {
    while (c.sent < c.waiting.size()) {
        const auto n = ::send(c.socket, c.waiting.data() + c.sent, c.waiting.size() - c.sent, MSG_NOSIGNAL);
        if (n < 0 && errno == EINTR)
            continue;
        if (n < 0)
            return errno == EAGAIN || errno == EWOULDBLOCK;
        c.sent += static_cast<std::size_t>(n);
    }
    c.waiting.clear();
    c.sent = 0;
    return true;
}

void LoopbackPort::send(std::span<const std::uint8_t> message) {
    for (auto &c : clients_)
        if (c.waiting.size() - c.sent + message.size() < most_waiting) {
            c.waiting.erase(c.waiting.begin(), c.waiting.begin() + static_cast<std::ptrdiff_t>(c.sent));
            c.sent = 0;
            c.waiting.insert(c.waiting.end(), message.begin(), message.end());
        }
}

void LoopbackPort::send(std::string_view message) {
    send({reinterpret_cast<const std::uint8_t *>(message.data()), message.size()});
}

void LoopbackPort::turn() {
    while (clients_.size() < most_listeners) {
        const int socket = ::accept4(socket_, nullptr, nullptr, SOCK_NONBLOCK | SOCK_CLOEXEC);
        if (socket < 0)
            break;
        clients_.push_back({socket, greeting ? greeting() : Bytes(), 0});
    }
    std::erase_if(clients_, [&](Client &c) {
        std::array<std::uint8_t, 4096> said;
        bool spoke = false, left = false;
        for (int i = 0; i < 16; ++i) { // who talks without end is heard a little at a time
            const auto n = ::recv(c.socket, said.data(), said.size(), 0);
            left = n == 0 || (n < 0 && errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR);
            if (n <= 0)
                break;
            spoke = true;
        }
        if (spoke && answer && c.waiting.size() < most_waiting) {
            const auto word = answer();
            c.waiting.insert(c.waiting.end(), word.begin(), word.end());
        }
        if (left || !hand_on(c)) {
            ::close(c.socket);
            return true;
        }
        return false;
    });
}

void LoopbackPort::finish() {
    const auto until = std::chrono::steady_clock::now() + std::chrono::seconds(1);
    const auto waits = [&] {
        return std::any_of(clients_.begin(), clients_.end(),
                           [](const Client &c) { return c.sent < c.waiting.size(); });
    };
    while (waits() && std::chrono::steady_clock::now() < until) {
        turn();
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
}

} // namespace heron::cli
