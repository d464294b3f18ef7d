#include "sharing/broker_link.hpp"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <deque>
#include <filesystem>
#include <map>
#include <mosquitto.h>
#include <mutex>

namespace heron {
namespace {

void begin_library() {
    static std::once_flag once;
    std::call_once(once, [] { mosquitto_lib_init(); });
}

class Link : public BrokerLink {
  public:
    Link(std::vector<std::string> topics, Wake wake) : topics_(std::move(topics)), wake_(std::move(wake)) {}
    ~Link() override {
        closing_ = true;
        if (client_ != nullptr) {
            mosquitto_disconnect(client_);
            mosquitto_loop_stop(client_, true);
            mosquitto_destroy(client_);
        }
    }

    Result<void> open(const BrokerAddress &a, const std::string &screen) {
        begin_library();
        const auto refused = [&](const std::string &why, const std::string &to_do) {
            return fail(told("marks cannot be shared over {}:{}: {}", a.host, a.port, why),
                        told("marks are kept here as ever"), to_do);
        };
        if (a.ca_file.empty() && !is_loopback(a.host))
            return refused(told("words to another machine must be encrypted"),
                           told("name the authority's certificate"));
        std::error_code error;
        for (const auto *f : {&a.ca_file, &a.certificate_file, &a.key_file})
            if (!f->empty() && !std::filesystem::is_regular_file(*f, error))
                return refused(told("there is no file {}", *f), told("name the certificate's file"));
        client_ = mosquitto_new(screen.c_str(), true, this);
        if (client_ == nullptr)
            return refused(told("'{}' is no name for a screen", screen), told("choose another"));
        if (!a.user.empty())
            mosquitto_username_pw_set(client_, a.user.c_str(), a.password.c_str());
        if (!a.ca_file.empty()) {
            const auto or_null = [](const std::string &s) { return s.empty() ? nullptr : s.c_str(); };
            if (mosquitto_tls_set(client_, a.ca_file.c_str(), nullptr, or_null(a.certificate_file),
                                  or_null(a.key_file), nullptr) != MOSQ_ERR_SUCCESS)
                return refused(told("the certificates cannot be used"), told("check the files"));
        }
        mosquitto_connect_callback_set(
            client_, [](mosquitto *, void *self, int code) { static_cast<Link *>(self)->connected(code); });
        mosquitto_disconnect_callback_set(
            client_, [](mosquitto *, void *self, int code) { static_cast<Link *>(self)->broke(code); });
        mosquitto_message_callback_set(client_, [](mosquitto *, void *self, const mosquitto_message *m) {
            static_cast<Link *>(self)->came(m);
        });
        mosquitto_log_callback_set(client_, [](mosquitto *, void *self, int level, const char *text) {
            if (level == MOSQ_LOG_ERR)
                static_cast<Link *>(self)->complained(text);
        });
        mosquitto_reconnect_delay_set(client_, 1, 10, true);
        mosquitto_max_inflight_messages_set(client_, 200);
        const int started = mosquitto_connect_async(client_, a.host.c_str(), a.port, 20);
        if (files_unfit_)
            return refused(told("the certificates cannot be used"), told("check the files"));
        // A broker that is not there, or whose certificate is not trusted, may be put right while this runs:
        // how soon it answers must not decide between a refusal here and a reason that is told later.
        if (started != MOSQ_ERR_SUCCESS && started != MOSQ_ERR_ERRNO && started != MOSQ_ERR_EAI &&
            started != MOSQ_ERR_TLS && started != MOSQ_ERR_CONN_LOST && started != MOSQ_ERR_CONN_REFUSED)
            return refused(mosquitto_strerror(started), told("check the address"));
        if (mosquitto_loop_start(client_) != MOSQ_ERR_SUCCESS)
            return refused(told("no thread could be started"), told("close other programs"));
        return {};
    }

    void publish(const std::string &topic, const std::string &payload) override {
        {
            const std::lock_guard hold(mutex_);
            if (!state_.connected) {
                later_[topic] = payload;
                return;
            }
        }
        send(topic, payload);
    }

    std::vector<Word> taken() override {
        std::vector<Word> out;
        bool ask_again = false;
        {
            const std::lock_guard hold(mutex_);
            out.assign(std::make_move_iterator(came_.begin()), std::make_move_iterator(came_.end()));
            came_.clear();
            bytes_ = 0;
            ask_again = missed_ && state_.connected;
            missed_ = false;
        }
        // Retained words come anew with a new subscription.
        if (ask_again)
            subscribe();
        tryAgain();
        return out;
    }

    State state() const override {
        const std::lock_guard hold(mutex_);
        auto s = state_;
        s.waiting_to_go = later_.size();
        return s;
    }

  private:
    void send(const std::string &topic, const std::string &payload) {
        const int sent = mosquitto_publish(client_, nullptr, topic.c_str(), static_cast<int>(payload.size()),
                                           payload.data(), 1, true);
        if (sent != MOSQ_ERR_SUCCESS) {
            const std::lock_guard hold(mutex_);
            later_[topic] = payload;
        }
    }
    // The library connects again by itself once it was connected; before that a broker that was not there yet
    // is asked for here.
    void tryAgain() {
        constexpr auto pause = std::chrono::seconds(1);
        {
            const std::lock_guard hold(mutex_);
            const auto now = std::chrono::steady_clock::now();
            if (state_.connected || ever_ || now - tried_ < pause)
                return;
            tried_ = now;
        }
        mosquitto_loop_stop(client_, true);
        mosquitto_reconnect_async(client_);
        mosquitto_loop_start(client_);
    }
    void subscribe() {
        for (const auto &t : topics_)
            mosquitto_subscribe(client_, nullptr, t.c_str(), 1);
    }
    void connected(int code) {
        std::map<std::string, std::string> later;
        {
            const std::lock_guard hold(mutex_);
            state_.connected = code == 0;
            ever_ = ever_ || code == 0;
            state_.why = code == 0 ? std::string() : std::string(mosquitto_connack_string(code));
            if (code == 0)
                later.swap(later_);
        }
        if (code == 0) {
            subscribe();
            for (const auto &[topic, payload] : later)
                send(topic, payload);
        }
        wake();
    }
    void broke(int code) {
        {
            const std::lock_guard hold(mutex_);
            state_.connected = false;
            // Why the broker refused stands until something better is known.
            if (state_.why.empty())
                state_.why = code == 0 ? std::string() : std::string(mosquitto_strerror(code));
        }
        wake();
    }
    // What goes wrong while a line is being encrypted is told nowhere else.
    void complained(std::string_view text) {
        {
            const std::lock_guard hold(mutex_);
            if (state_.connected)
                return;
            const auto about = [&](std::string_view word) {
                return text.find(word) != std::string_view::npos;
            };
            if (about("Unable to load") || about("inconsistent")) {
                files_unfit_ = true;
                state_.why = told("the certificates cannot be used");
            } else if (about("host name"))
                state_.why = told("its certificate is of another address than the one that is called");
            else if (about("certificate"))
                state_.why = told("its certificate is not vouched for by the authority that was named");
            else if (about("SSL") || about("TLS"))
                state_.why =
                    told("no encrypted line came about: it may speak in plain, or ask for a certificate");
            else
                return;
        }
        wake();
    }
    void came(const mosquitto_message *m) {
        {
            const std::lock_guard hold(mutex_);
            const auto size = static_cast<std::size_t>(std::max(0, m->payloadlen));
            if (size > longest_word) {
                ++state_.refused;
            } else if (came_.size() >= most_words || bytes_ + size > most_bytes) {
                ++state_.dropped;
                missed_ = true;
            } else {
                bytes_ += size;
                came_.push_back(
                    {m->topic, std::string(static_cast<const char *>(m->payload), size), m->retain});
            }
        }
        wake();
    }
    void wake() {
        if (!closing_ && wake_)
            wake_();
    }

    std::vector<std::string> topics_;
    Wake wake_;
    mosquitto *client_ = nullptr;
    std::atomic<bool> closing_ = false, files_unfit_ = false;
    mutable std::mutex mutex_;
    State state_;
    std::deque<Word> came_;
    std::size_t bytes_ = 0;
    bool missed_ = false, ever_ = false;
    std::chrono::steady_clock::time_point tried_ = std::chrono::steady_clock::now();
    std::map<std::string, std::string> later_;
};

} // namespace

bool is_loopback(const std::string &host) {
    return host == "localhost" || host == "::1" || host.starts_with("127.");
}

Result<std::unique_ptr<BrokerLink>> BrokerLink::connect(const BrokerAddress &address,
                                                        const std::string &screen,
                                                        const std::vector<std::string> &topics, Wake wake) {
    auto link = std::make_unique<Link>(topics, std::move(wake));
    if (auto opened = link->open(address, screen); !opened)
        return tl::unexpected(opened.error());
    return std::unique_ptr<BrokerLink>(std::move(link));
}

} // namespace heron
