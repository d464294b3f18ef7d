#include "recording/answering_child.hpp"

#include "recording/netcdf_file.hpp"

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <poll.h>
#include <sys/resource.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>
#include <utility>

namespace heron {
namespace {

using Clock = std::chrono::steady_clock;
constexpr std::uint32_t most_question = 64; // bytes

struct Asked {
    std::uint32_t size = 0, limit_s = 0; ///< of the question; for the answer
};

// The address space of this process; 0 where the system does not tell.
rlim_t bytes_mapped() {
    char text[64] = {};
    const int file = ::open("/proc/self/statm", O_RDONLY | O_CLOEXEC);
    if (file < 0)
        return 0;
    const auto n = ::read(file, text, sizeof text - 1);
    ::close(file);
    return n > 0 ? std::strtoull(text, nullptr, 10) * static_cast<rlim_t>(::sysconf(_SC_PAGESIZE)) : 0;
}

// Whether all was sent; not so when the other end is gone.
bool send_all(int line, const void *data, std::size_t size) {
    const auto *at = static_cast<const std::uint8_t *>(data);
    while (size > 0) {
        const auto n = ::send(line, at, size, MSG_NOSIGNAL);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return false;
        at += n;
        size -= static_cast<std::size_t>(n);
    }
    return true;
}

// Whether all came; with a time, not later than that.
enum class Came { whole, not_whole, late };
Came receive_all(int line, void *data, std::size_t size, std::optional<Clock::time_point> until) {
    auto *at = static_cast<std::uint8_t *>(data);
    while (size > 0) {
        if (until) {
            const auto left =
                std::chrono::duration_cast<std::chrono::milliseconds>(*until - Clock::now()).count();
            pollfd waiting{line, POLLIN, 0};
            const int ready = left > 0 ? ::poll(&waiting, 1, static_cast<int>(left)) : 0;
            if (ready < 0 && errno == EINTR)
                continue;
            if (ready == 0)
                return Came::late;
        }
        const auto n = ::recv(line, at, size, 0);
        if (n < 0 && errno == EINTR)
            continue;
        if (n <= 0)
            return Came::not_whole;
        at += n;
        size -= static_cast<std::size_t>(n);
    }
    return Came::whole;
}

// Nothing of its parent's but the line: a device or a file that the parent closes is closed then.
void let_go_of_all_but(int line) {
    if (line > 3)
        ::close_range(3, static_cast<unsigned>(line) - 1, 0);
    ::close_range(static_cast<unsigned>(line) + 1, ~0u, 0);
    if (const int nowhere = ::open("/dev/null", O_RDWR); nowhere >= 0) {
        for (const int standard : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
            ::dup2(nowhere, standard);
        if (nowhere > STDERR_FILENO)
            ::close(nowhere);
    }
}

[[noreturn]] void be_the_child(int line, const AnsweringChild::Answering &answering) {
    for (const int s : {SIGSEGV, SIGBUS, SIGABRT, SIGFPE, SIGILL, SIGALRM, SIGTERM, SIGINT})
        ::signal(s, s == SIGINT ? SIG_IGN : SIG_DFL);
    const rlimit no_core{0, 0};
    ::setrlimit(RLIMIT_CORE, &no_core);
    if (const auto now = bytes_mapped(); now > 0) {
        const rlimit memory{now + AnsweringChild::most_more_bytes, now + AnsweringChild::most_more_bytes};
        ::setrlimit(RLIMIT_AS, &memory);
    }
    let_go_of_all_but(line);
    renew_netcdf_lock_in_child();
    try {
        for (Asked asked; receive_all(line, &asked, sizeof asked, {}) == Came::whole;) {
            AnsweringChild::Bytes question(std::min(asked.size, most_question));
            if (receive_all(line, question.data(), question.size(), {}) != Came::whole)
                break;
            ::alarm(asked.limit_s); // nobody may be left to end it
            const auto answer = answering(question);
            ::alarm(0);
            const std::uint64_t bytes = answer.size();
            if (!send_all(line, &bytes, sizeof bytes) || !send_all(line, answer.data(), answer.size()))
                break;
        }
    } catch (...) {
        ::_exit(1);
    }
    ::_exit(0);
}

} // namespace

std::optional<AnsweringChild> AnsweringChild::start(const Answering &answering) {
    int ends[2] = {-1, -1};
    if (::socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
        return std::nullopt;
    // No other thread is within the library meanwhile: the child gets it as it is now.
    const std::scoped_lock hold(netcdf_lock());
    const pid_t child = ::fork();
    if (child == 0)
        be_the_child(ends[1], answering);
    ::close(ends[1]);
    if (child < 0) {
        ::close(ends[0]);
        return std::nullopt;
    }
    return AnsweringChild(child, ends[0]);
}

AnsweringChild::AnsweringChild(AnsweringChild &&other) noexcept
    : child_(std::exchange(other.child_, -1)), line_(std::exchange(other.line_, -1)) {}
AnsweringChild &AnsweringChild::operator=(AnsweringChild &&other) noexcept {
    std::swap(child_, other.child_);
    std::swap(line_, other.line_);
    return *this;
}
AnsweringChild::~AnsweringChild() {
    end();
}

void AnsweringChild::end() {
    if (child_ < 0)
        return;
    ::close(std::exchange(line_, -1));
    ::kill(child_, SIGKILL);
    while (::waitpid(child_, nullptr, 0) < 0 && errno == EINTR) {
    }
    child_ = -1;
}

AnsweringChild::Reply AnsweringChild::ask(std::span<const std::uint8_t> question, double limit_s,
                                          std::size_t most_bytes) {
    const auto until = Clock::now() + std::chrono::milliseconds(static_cast<long>(limit_s * 1000));
    Reply reply;
    if (child_ < 0 || question.size() > most_question)
        return reply;
    const Asked asked{static_cast<std::uint32_t>(question.size()), static_cast<std::uint32_t>(limit_s) + 5};
    auto came = Came::not_whole;
    if (std::uint64_t size = 0;
        send_all(line_, &asked, sizeof asked) && send_all(line_, question.data(), question.size())) {
        came = receive_all(line_, &size, sizeof size, until);
        if (came == Came::whole && size <= most_bytes) {
            reply.bytes.resize(size);
            came = receive_all(line_, reply.bytes.data(), size, until);
        } else if (came == Came::whole) {
            came = Came::not_whole;
        }
    }
    if (came == Came::whole) {
        reply.end = End::answered;
        return reply;
    }
    end();
    return {came == Came::late ? End::stuck : End::broke, {}};
}

} // namespace heron
