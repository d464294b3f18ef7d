#include "session/stay_awake.hpp"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusReply>
#include <QDBusUnixFileDescriptor>
#include <mutex>
#include <optional>

namespace heron::app {
namespace {

constexpr int longest_answer_ms = 500;

/// What the desktop gave, until it is given back. Used from the jobs' threads.
struct Held {
    std::mutex mutex;
    std::optional<unsigned> screen_cookie;
    std::optional<QDBusUnixFileDescriptor> sleep_lock; ///< held as long as it is open
};
Held &held() {
    static Held held;
    return held;
}

QDBusMessage call(const char *service, const char *path, const char *interface, const char *method,
                  const QVariantList &arguments) {
    auto message =
        QDBusMessage::createMethodCall(QString::fromLatin1(service), QString::fromLatin1(path),
                                       QString::fromLatin1(interface), QString::fromLatin1(method));
    message.setArguments(arguments);
    return message;
}

QDBusMessage ask_screen(const char *method, const QVariantList &arguments) {
    constexpr const char *saver = "org.freedesktop.ScreenSaver";
    return QDBusConnection::sessionBus().call(
        call(saver, "/org/freedesktop/ScreenSaver", saver, method, arguments), QDBus::Block,
        longest_answer_ms);
}

void ask(bool awake, const QString &why) {
    const std::scoped_lock hold(held().mutex);
    const auto program = QStringLiteral("young-heron");
    if (awake) {
        const QDBusReply<unsigned> cookie = ask_screen("Inhibit", {program, why});
        if (cookie.isValid())
            held().screen_cookie = cookie.value();
        const QDBusReply<QDBusUnixFileDescriptor> lock = QDBusConnection::systemBus().call(
            call("org.freedesktop.login1", "/org/freedesktop/login1", "org.freedesktop.login1.Manager",
                 "Inhibit",
                 {QStringLiteral("sleep:idle:handle-lid-switch"), program, why, QStringLiteral("block")}),
            QDBus::Block, longest_answer_ms);
        if (lock.isValid())
            held().sleep_lock = lock.value();
        return;
    }
    if (held().screen_cookie)
        ask_screen("UnInhibit", {*held().screen_cookie});
    held().screen_cookie.reset();
    held().sleep_lock.reset();
}

} // namespace

void StayAwake::keepAwake(bool awake) {
    if (awake == asked_)
        return;
    asked_ = awake;
    jobs_.run<bool>(
        tr("asking the desktop to stay awake"), this,
        [awake, why = tr("Young Heron is sounding")](JobControl &) -> Result<bool> {
            ask(awake, why);
            return true;
        },
        [](Result<bool>) {});
}

} // namespace heron::app
