// Brokers on the loopback and screens that share marks over them.
#pragma once

#include "sharing/shared_marks.hpp"

#include "files/identifier.hpp"
#include "programs.hpp"

#include <arpa/inet.h>
#include <chrono>
#include <fstream>
#include <gtest/gtest.h>
#include <map>
#include <netinet/in.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace heron::test {

using namespace std::chrono_literals;

inline int free_port() {
    const int s = ::socket(AF_INET, SOCK_STREAM, 0);
    sockaddr_in a{};
    a.sin_family = AF_INET;
    a.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    ::bind(s, reinterpret_cast<sockaddr *>(&a), sizeof a);
    socklen_t n = sizeof a;
    ::getsockname(s, reinterpret_cast<sockaddr *>(&a), &n);
    ::close(s);
    return ntohs(a.sin_port);
}

// A broker on the loopback that can be killed and started again.
class Broker {
  public:
    /// `ashore`: the port of another broker that this one is bridged to, as a boat's is; 0: none, and all is
    /// on the disk at once; −1: none, and it is not.
    explicit Broker(int ashore = 0) : port(free_port()) {
        std::ofstream(folder.file("broker.conf"))
            << "listener " << port << " 127.0.0.1\nallow_anonymous true\n"
            << "persistence true\npersistence_location " << folder.file("")
            << "/\nautosave_interval 1\nautosave_on_changes " << (ashore == 0 ? "true" : "false")
            << "\nmax_queued_messages 0\nlog_dest none\n"
            << (::geteuid() == 0 ? "user root\n" : "");
        if (ashore > 0)
            std::ofstream(folder.file("broker.conf"), std::ios::app)
                << "connection ashore\naddress 127.0.0.1:" << ashore
                << "\ncleansession false\nremote_clientid boat-" << port << "\nlocal_clientid bridge-" << port
                << "\ntopic young-heron/ellemoor/crew/# both 1\ntopic young-heron/ellemoor/client/# out 1\n"
                   "topic young-heron/ellemoor/anyone/# out 1\n";
        start();
    }
    ~Broker() { stop(); }
    /// With such lines in its configuration in place of all others; {PORT} and {FOLDER} are filled in.
    explicit Broker(std::string configuration) : port(free_port()) {
        const auto fill = [&](const std::string &name, const std::string &value) {
            for (auto at = configuration.find(name); at != std::string::npos;
                 at = configuration.find(name, at))
                configuration.replace(at, name.size(), value);
        };
        fill("{PORT}", std::to_string(port));
        fill("{FOLDER}", folder.file(""));
        std::ofstream(folder.file("broker.conf")) << configuration << (::geteuid() == 0 ? "user root\n" : "");
    }
    void start() {
        pid_ = ::fork();
        if (pid_ == 0) {
            ::prctl(PR_SET_PDEATHSIG, SIGKILL); // it does not outlive a test that is ended
            const auto conf = folder.file("broker.conf");
            for (const char *where : {"/usr/sbin/mosquitto", "/usr/bin/mosquitto"})
                ::execl(where, "mosquitto", "-c", conf.c_str(), nullptr);
            ::_exit(127);
        }
        for (int i = 0; i < 100; ++i) {
            if (listens())
                return;
            std::this_thread::sleep_for(50ms);
        }
    }
    bool listens() const {
        const int s = ::socket(AF_INET, SOCK_STREAM, 0);
        sockaddr_in a{};
        a.sin_family = AF_INET;
        a.sin_port = htons(static_cast<std::uint16_t>(port));
        a.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
        const bool up = ::connect(s, reinterpret_cast<sockaddr *>(&a), sizeof a) == 0;
        ::close(s);
        return up;
    }
    void stop(int signal = SIGTERM) {
        if (pid_ <= 0)
            return;
        ::kill(pid_, signal);
        int status = 0;
        ::waitpid(pid_, &status, 0);
        pid_ = -1;
    }
    BrokerAddress address() const { return {"127.0.0.1", port, {}, {}, {}, {}, {}}; }
    Folder folder;
    const int port;

  private:
    pid_t pid_ = -1;
};

// One screen: a library in memory, and the link.
class Screen {
  public:
    Screen(const Broker &broker, const std::string &name, SharedMarks::Role role = SharedMarks::Role::crew)
        : shared(std::make_unique<SharedMarks>("ellemoor", name, role)), name_(name), broker_(&broker) {
        connect();
    }
    void connect() {
        auto made = BrokerLink::connect(broker_->address(), name_, shared->topics(), [] {});
        ASSERT_TRUE(made) << made.error().line();
        link = std::move(*made);
    }
    void edit(const Mark &m) {
        library[m.id] = m;
        for (const auto &w : shared->edited(m, now()))
            say(w);
    }
    void remove(const std::string &id) {
        library.erase(id);
        for (const auto &w : shared->removed(id, now()))
            say(w);
    }
    // Takes what came.
    void turn() {
        if (!link)
            return;
        for (const auto &w : link->taken()) {
            const auto id = w.topic.substr(w.topic.rfind('/') + 1);
            const auto own = library.find(id);
            auto b = shared->heard(w, own == library.end() ? nullptr : &own->second, now());
            refused += b.refused.has_value();
            if (b.mark)
                library[b.mark->id] = *b.mark;
            if (!b.gone.empty())
                library.erase(b.gone);
            for (const auto &a : b.answer)
                say(a);
        }
    }
    void say(const BrokerLink::Word &w) {
        if (link)
            link->publish(w.topic, w.payload);
        else
            unsaid[w.topic] = w.payload;
    }
    UnixNs now() const {
        return std::chrono::duration_cast<std::chrono::nanoseconds>(
                   std::chrono::system_clock::now().time_since_epoch())
                   .count() +
               clock_off;
    }
    std::unique_ptr<SharedMarks> shared;
    std::unique_ptr<BrokerLink> link;
    std::map<std::string, Mark> library;
    std::map<std::string, std::string> unsaid;
    std::size_t refused = 0;
    UnixNs clock_off = 0;

  private:
    std::string name_;
    const Broker *broker_;
};

template <class Until>
bool wait(std::vector<Screen *> screens, const Until &until, std::chrono::milliseconds most = 10s) {
    const auto end = std::chrono::steady_clock::now() + most;
    while (std::chrono::steady_clock::now() < end) {
        for (auto *s : screens)
            s->turn();
        if (until())
            return true;
        std::this_thread::sleep_for(2ms);
    }
    return false;
}

inline Mark mark(const std::string &name, Level level = Level::crew) {
    Mark m;
    m.id = new_identifier();
    m.name = name;
    m.family = Family::structure;
    m.kind = Kind::stump;
    m.place = GeoPoint{46.5, -21.25};
    m.level = level;
    return m;
}

} // namespace heron::test
