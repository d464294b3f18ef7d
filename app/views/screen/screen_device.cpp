// A screen that is looked at live: which device, and what it shows to begin with.
#include "views/screen/screen_view.hpp"

#include "kit/key_button.hpp"
#include "screen/film.hpp"

#include <QDir>
#include <QMenu>

namespace heron::app {

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
    told_ = tr("Rows are taken from when you press until you press again.");
    setPicture(std::move(*first), device);
}

} // namespace heron::app
