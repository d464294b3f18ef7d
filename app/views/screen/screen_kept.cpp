// Screens that were read stay: with their recording, their calibration and a small picture.
#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "parts/place.hpp"
#include "views/screen/kept_screens.hpp"
#include "views/screen/screen_view.hpp"

#include <QDateTime>
#include <QFileInfo>

namespace heron::app {

void ScreenView::makeKeptList() {
    kept_ = new KeptScreens(this);
    constexpr QSize small{150, 84};
    kept_list_ = new ItemList(ItemList::Shape::row, small, this);
    kept_list_->setObjectName(QStringLiteral("keptList"));
    kept_list_->setAccessibleName(tr("Screens that were read"));
    kept_list_->setItems(kept_);
    kept_list_->setPictures([this](const QString &id) { return kept_->picture(id); });
    kept_list_->hide();
    connect(kept_key_, &KeyButton::toggled, this, &ScreenView::lookAtKept);
    connect(kept_list_, &ItemList::opened, this, &ScreenView::openKept);
    connect(kept_list_, &ItemList::chosen, this, &ScreenView::changed);
}

bool ScreenView::showsKept() const {
    return kept_key_->isChecked();
}

void ScreenView::lookAtKept(bool on) {
    if (on) {
        kept_->refresh(folderOfScreens());
        if (kept_list_->currentId().isEmpty())
            kept_list_->selectId(kept_->idAt(0));
    }
    kept_list_->setVisible(on && !kept_->ids().empty());
    if (kept_list_->isVisible())
        kept_list_->setFocus();
    else
        setFocus();
    changed();
}

// What was read stands as it was read; the original comes beside it, to be calibrated anew, where it still
// is.
void ScreenView::openKept() {
    const auto *found = kept_->find(kept_list_->currentId());
    if (found == nullptr)
        return;
    const auto sighting = *found;
    kept_key_->setChecked(false);
    if (const auto original = QString::fromStdString(sighting.original.string());
        QFileInfo::exists(original)) {
        open(original);
        if (path_ == original) {
            calibration_ = sighting.calibration;
            remembered_ = middle_by_hand_ = range_said_ = newest_by_hand_ = true;
            told_ = QString::fromStdString(sighting.told);
            changed();
        }
    }
    context_.window.askPlace(sighting.calibration.circle_bow_deg ? place::around : place::scan);
    context_.session.sources.open(QString::fromStdString(sighting.recording.string()));
}

void ScreenView::keepSighting(const QString &recording) const {
    ScreenSighting s;
    s.recording = recording.toStdString();
    s.original = QFileInfo(path_).absoluteFilePath().toStdString();
    s.read_at = QDateTime::currentSecsSinceEpoch() * ns_per_s;
    s.film = film_;
    s.told = told_.left(1000).toStdString();
    s.calibration = calibration_;
    if (auto done = heron::keep(s); !done) {
        context_.session.notices.raise(QStringLiteral("screen"), done.error());
        return;
    }
    constexpr int small = 320;
    image_.scaled(small, small, Qt::KeepAspectRatio, Qt::SmoothTransformation)
        .save(KeptScreens::pictureOf(recording));
}

} // namespace heron::app
