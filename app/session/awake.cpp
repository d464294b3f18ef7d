#include "session/awake.hpp"

#include <QDBusConnection>
#include <QDBusInterface>
#include <QDBusReply>
#include <QDBusUnixFileDescriptor>
#include <optional>

namespace heron::app {
namespace {

bool asked = false;
std::optional<unsigned> screen_cookie;
std::optional<QDBusUnixFileDescriptor> sleep_lock; // held as long as it is open

} // namespace

void keepAwake(bool awake, const QString &why) {
    if (awake == asked)
        return;
    asked = awake;
    auto session = QDBusConnection::sessionBus(), system = QDBusConnection::systemBus();
    if (session.isConnected()) {
        QDBusInterface screen(QStringLiteral("org.freedesktop.ScreenSaver"),
                              QStringLiteral("/org/freedesktop/ScreenSaver"),
                              QStringLiteral("org.freedesktop.ScreenSaver"), session);
        screen.setTimeout(500);
        if (awake) {
            const QDBusReply<unsigned> cookie =
                screen.call(QStringLiteral("Inhibit"), QStringLiteral("young-heron"), why);
            if (cookie.isValid())
                screen_cookie = cookie.value();
        } else if (screen_cookie) {
            screen.call(QDBus::NoBlock, QStringLiteral("UnInhibit"), *screen_cookie);
            screen_cookie.reset();
        }
    }
    if (!awake) {
        sleep_lock.reset();
    } else if (system.isConnected()) {
        QDBusInterface login(QStringLiteral("org.freedesktop.login1"),
                             QStringLiteral("/org/freedesktop/login1"),
                             QStringLiteral("org.freedesktop.login1.Manager"), system);
        login.setTimeout(500);
        const QDBusReply<QDBusUnixFileDescriptor> lock =
            login.call(QStringLiteral("Inhibit"), QStringLiteral("sleep:idle:handle-lid-switch"),
                       QStringLiteral("young-heron"), why, QStringLiteral("block"));
        if (lock.isValid())
            sleep_lock = lock.value();
    }
}

bool isKeptAwake() {
    return asked;
}

} // namespace heron::app
