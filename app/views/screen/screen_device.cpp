// A screen that moves: a film is taken apart, a device looked at live, by a process of its own.
#include "views/screen/screen_view.hpp"

#include "files/atomic_file.hpp"
#include "kit/key_button.hpp"
#include "parts/place.hpp"
#include "screen/film.hpp"

#include <QCoreApplication>
#include <QDir>
#include <QMenu>
#include <utility>

namespace heron::app {

// A film is taken apart by a process of its own: what breaks a decoder does not break the window.
void ScreenView::readFilm(const QString &recording) {
    QStringList words{QStringLiteral("--recording"), recording};
    if (!track_.isEmpty())
        words << QStringLiteral("--nmea") << track_;
    if (!startFilm(words))
        return;
    told_ = tr("Taking the film's rows …");
    connect(process_, &QProcess::finished, this, [this, recording](int code, QProcess::ExitStatus status) {
        const auto said = QString::fromUtf8(process_->readAllStandardError()).trimmed();
        process_->deleteLater();
        process_ = nullptr;
        told_.clear();
        if (status != QProcess::NormalExit)
            told_ = tr("Stopped: nothing was kept.");
        else if (code != 0)
            context_.session.notices.raise(QStringLiteral("screen"), Fault{said.toStdString(), {}, {}});
        else {
            told_ = said;
            shown(recording);
        }
        changed();
    });
    changed();
}

// A process of its own looks at the film or the device as the calibration says; `words`: what it makes of it.
bool ScreenView::startFilm(const QStringList &words) {
    const auto calibration = folderOfScreens() + QStringLiteral("/calibration.json");
    if (auto done = write_file_atomically(calibration.toStdString(), calibration_to_json(calibration_));
        !done) {
        context_.session.notices.raise(QStringLiteral("screen"), done.error());
        return false;
    }
    QStringList all{QStringLiteral("film"), path_, QStringLiteral("--calibration"), calibration,
                    QStringLiteral("--quiet")};
    if (calibration_.pixel_sd > 1)
        all << QStringLiteral("--follow");
    process_ = new QProcess(this);
    connect(process_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error != QProcess::FailedToStart)
            return;
        context_.session.notices.raise(
            QStringLiteral("screen"),
            Fault{tr("the program that takes films apart did not start").toStdString(),
                  tr("nothing was read").toStdString(), tr("install Young Heron anew").toStdString()});
        process_->deleteLater();
        process_ = nullptr;
        changed();
    });
    process_->start(QCoreApplication::applicationDirPath() + QStringLiteral("/heron"), all + words);
    return true;
}

void ScreenView::askDevice() {
    const auto devices = QDir(QStringLiteral("/dev")).entryList({QStringLiteral("video*")}, QDir::System);
    if (devices.isEmpty()) {
        context_.session.notices.raise(
            QStringLiteral("screen"),
            Fault{tr("this machine has no video device").toStdString(),
                  {},
                  tr("plug in a capture stick or a camera and press again").toStdString()});
        return;
    }
    if (devices.size() == 1)
        return openDevice(QStringLiteral("/dev/") + devices.first());
    QMenu menu(this);
    for (const auto &d : devices)
        connect(menu.addAction(d), &QAction::triggered, this,
                [this, d] { openDevice(QStringLiteral("/dev/") + d); });
    menu.exec(live_->mapToGlobal(QPoint(0, live_->height())));
}

void ScreenView::openDevice(const QString &device) {
    auto first = first_picture(device.toStdString());
    if (!first) {
        context_.session.notices.raise(QStringLiteral("screen"), first.error());
        return;
    }
    film_ = device_ = true;
    told_ = tr("Read it live in Scan, from when you press until you press again here; a trip keeps it.");
    setPicture(std::move(*first), device);
}

// What the device shows comes as a sounder's rows do: all of Scan, Read and Chart is there, and the trip
// keeps it.
void ScreenView::soundDevice() {
    heard_.clear();
    asked_to_end_ = false;
    if (!startFilm({QStringLiteral("--sounder"), QStringLiteral("0")}))
        return;
    told_ = tr("Taking rows. Press again to end.");
    connect(process_, &QProcess::readyReadStandardOutput, this, &ScreenView::soundsOn);
    connect(process_, &QProcess::finished, this, [this](int code, QProcess::ExitStatus status) {
        deviceEnded(status == QProcess::NormalExit ? code : 1);
    });
    changed();
}

// "pings on 40123, NMEA 0183 on 40124"
void ScreenView::soundsOn() {
    const bool listening = heard_.contains('\n');
    heard_ += process_->readAllStandardOutput();
    const auto words = QString::fromLatin1(heard_).section(QLatin1Char('\n'), 0, 0).split(QLatin1Char(' '));
    if (listening || !heard_.contains('\n') || words.size() < 7)
        return;
    const auto at = [&](int i) {
        return QStringLiteral("127.0.0.1:") + words[i].trimmed().remove(QLatin1Char(','));
    };
    // Receivers that are listened to go on telling the place.
    std::vector<SourceConfig> all{{SourceConfig::Kind::sounder, SourceConfig::Way::tcp, at(2)}};
    listened_to_.clear();
    for (const auto &c : context_.session.connections.all()) {
        listened_to_.push_back(c.config);
        if (c.config.kind == SourceConfig::Kind::nmea)
            all.push_back(c.config);
    }
    if (!calibration_.figures.empty() || (calibration_.along_m > 0 && all.size() == 1))
        all.push_back({SourceConfig::Kind::nmea, SourceConfig::Way::tcp, at(6)});
    context_.session.sources.listenTo(all);
    context_.window.askPlace(circle() ? place::around : place::scan);
}

void ScreenView::deviceEnded(int code) {
    const auto said = QString::fromUtf8(process_->readAllStandardError()).trimmed();
    process_->deleteLater();
    process_ = nullptr;
    told_ = code == 0 ? tr("Ended. The trip keeps what came.") : QString();
    if (code != 0)
        context_.session.notices.raise(
            QStringLiteral("screen"),
            Fault{said.isEmpty() ? tr("the device broke off").toStdString() : said.toStdString(),
                  (heard_.isEmpty() ? tr("nothing was read") : tr("what came before is kept with the trip"))
                      .toStdString(),
                  tr("look at its plug and press again").toStdString()});
    else if (!asked_to_end_)
        context_.session.notices.say(
            QStringLiteral("screen"),
            tr("The device tells no more: look at its plug. The trip keeps what came."));
    if (code == 0 && !said.isEmpty())
        told_ += QLatin1Char('\n') + said;
    // What was listened to before goes on; else what came is looked at.
    if (context_.session.sources.live() && heard_.contains('\n'))
        context_.session.sources.listenTo(std::exchange(listened_to_, {}));
    changed();
}

} // namespace heron::app
