#include "views/screen/screen_view.hpp"

#include "kit/item_list.hpp"
#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/place.hpp"
#include "recording/write_recording.hpp"
#include "screen/circle.hpp"
#include "screen/film.hpp"
#include "screen/rows.hpp"
#include "screen/straighten.hpp"
#include "views/screen/kept_screens.hpp"

#include <QClipboard>
#include <QDateTime>
#include <QDir>
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QGuiApplication>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QSettings>
#include <QStandardPaths>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr int reach_px = 26;
const char *const film_ends[] = {"avi", "mp4", "mov", "mkv", "webm", "m4v", "mpg", "mpeg", "ts"};
const char *const picture_ends[] = {"png", "jpg", "jpeg", "webp", "tif", "tiff"};

bool endsAs(const QString &path, const auto &ends) {
    const auto end = QFileInfo(path).suffix().toLower();
    return std::any_of(std::begin(ends), std::end(ends),
                       [&](const char *e) { return end == QLatin1String(e); });
}

} // namespace

ScreenView::ScreenView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setFocusPolicy(Qt::StrongFocus);
    setAcceptDrops(true);
    setMouseTracking(false);
    open_ = addKey("openScreen", tr("Open …"), tr("A picture or a film of a unit's screen"), Qt::Key_L);
    paste_ =
        addKey("pasteScreen", tr("Paste"), tr("The picture that was copied elsewhere"), Qt::CTRL | Qt::Key_V);
    connect(paste_, &KeyButton::clicked, this, &ScreenView::paste);
    live_ = addKey("liveScreen", tr("Live"),
                   tr("A capture stick on the unit's video output, or a camera that looks at its screen"),
                   Qt::Key_V);
    connect(live_, &KeyButton::clicked, this, &ScreenView::askDevice);
    suggest_ = addKey("suggestScreen", tr("Suggest"), tr("Look for the panel and its middle"), Qt::Key_G);
    const QString ends[] = {tr("top"), tr("bottom"), tr("left"), tr("right")};
    for (int i = 0; i < 4; ++i) {
        auto *key = addKey((QByteArray("newest") + QByteArray::number(i)).constData(), ends[i],
                           tr("The newest row stands at the %1").arg(ends[i]));
        key->setCheckable(true);
        newest_[static_cast<std::size_t>(i)] = key;
        connect(key, &KeyButton::clicked, this, [this, i] {
            newest_by_hand_ = true;
            calibration_.newest = static_cast<NewestAt>(i);
            changed();
        });
    }
    swap_ = addKey("swapSides", tr("swapped"), tr("Sides swapped: port stands at the right, or below"));
    swap_->setCheckable(true);
    connect(swap_, &KeyButton::clicked, this, [this](bool on) {
        calibration_.swap_sides = on;
        changed();
    });
    circle_ = addKey("circleScreen", tr("a circle"),
                     tr("The picture of a head that turns, not one that scrolls"), Qt::Key_C);
    circle_->setCheckable(true);
    connect(circle_, &KeyButton::clicked, this, [this](bool on) {
        calibration_.circle_bow_deg = on ? std::optional(0.0) : std::nullopt;
        changed();
    });
    hand_ = addKey("byHand", tr("by hand"), tr("Photographed or filmed by hand, not saved by the unit"));
    hand_->setCheckable(true);
    connect(hand_, &KeyButton::clicked, this, [this](bool on) {
        calibration_.pixel_sd = on ? by_hand_pixels : saved_pixels;
        changed();
    });
    const auto pair = [this](KeyButton *&less, KeyButton *&more, const char *name, const QString &what,
                             auto step) {
        less = addKey((QByteArray(name) + "Less").constData(), QStringLiteral("−"), tr("Less %1").arg(what));
        more = addKey((QByteArray(name) + "More").constData(), QStringLiteral("+"), tr("More %1").arg(what));
        for (auto *key : {less, more})
            key->setAutoRepeat(true);
        connect(less, &KeyButton::clicked, this, [this, step] {
            step(-1);
            changed();
        });
        connect(more, &KeyButton::clicked, this, [this, step] {
            step(1);
            changed();
        });
    };
    const auto unit = [this] {
        return context_.session.preferences.units() == UnitSystem::feet ? metres_per_foot : 0.5;
    };
    pair(range_less_, range_more_, "screenRange", tr("range"), [this, unit](int by) {
        const double step = (calibration_.range_m > 20 ? 5 : 1) * unit();
        range_said_ = true;
        calibration_.range_m =
            std::clamp(std::round((calibration_.range_m + by * step) / step) * step, 2.0, 300.0);
    });
    // From unknown on, a centimetre a row at a time.
    pair(along_less_, along_more_, "screenAlong", tr("way a row"), [this](int by) {
        calibration_.along_m = std::clamp(calibration_.along_m + by * 0.01, 0.0, 1.0);
        if (calibration_.along_m < 0.005)
            calibration_.along_m = 0;
    });
    pair(depth_less_, depth_more_, "screenDepth", tr("depth"), [this, unit](int by) {
        const double depth = calibration_.depth_m.value_or(0) + by * unit();
        calibration_.depth_m = depth < unit() ? std::nullopt : std::optional(std::min(depth, 100.0));
    });
    figures_ = addKey(
        "screenFigures", QString(),
        tr("Draw boxes round figures on the screen: they are read of a film once a second. Press again for "
           "the next sort"),
        Qt::Key_F);
    figures_->setCheckable(true);
    connect(figures_, &KeyButton::clicked, this, &ScreenView::nextFigure);
    track_key_ = addKey(
        "screenTrack", QString(),
        tr("The sentences of a receiver or a phone that ran beside the film, for its places; once more "
           "takes them out"),
        Qt::Key_R);
    track_key_->setCheckable(true);
    connect(track_key_, &KeyButton::clicked, this, [this] {
        if (!track_.isEmpty())
            return setTrack({});
        setTrack(QFileDialog::getOpenFileName(this, tr("The receiver's sentences"), QString(),
                                              tr("Logs of NMEA 0183 (*.nmea *.log *.txt);;All files (*)")));
    });
    read_ = addKey("readScreen", tr("Read it"), tr("Make a recording of it, and read that"), Qt::Key_Return);
    read_->setPrimary(true);
    kept_key_ =
        addKey("keptScreens", tr("Kept"), tr("Screens that were read before: look at one again"), Qt::Key_B);
    kept_key_->setCheckable(true);
    makeKeptList();
    connect(open_, &KeyButton::clicked, this, [this] {
        const auto path =
            QFileDialog::getOpenFileName(this, tr("Open a picture or a film of a screen"), QString(),
                                         tr("Pictures and films (*.png *.jpg *.jpeg *.webp *.tif *.tiff "
                                            "*.avi *.mp4 *.mov *.mkv *.webm);;All files (*)"));
        if (!path.isEmpty())
            open(path);
    });
    connect(suggest_, &KeyButton::clicked, this, &ScreenView::suggest);
    connect(read_, &KeyButton::clicked, this, &ScreenView::read);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    changed();
}

bool ScreenView::takes(const QString &path) {
    return endsAs(path, film_ends) || endsAs(path, picture_ends);
}

QString ScreenView::folderOfScreens() {
    const auto folder =
        QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/screens");
    QDir().mkpath(folder);
    return folder;
}

KeyButton *ScreenView::addKey(const char *name, const QString &text, const QString &tip,
                              const QKeySequence &letter) {
    auto *key = new KeyButton(QString(), text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

QString ScreenView::length(double m, int decimals) const {
    return QString::fromStdString(print_length(m, context_.session.preferences.units(), decimals).text());
}

// It is kept as a file like any other: what is read of it can be looked up again.
void ScreenView::paste() {
    const auto image = QGuiApplication::clipboard()->image();
    if (image.isNull()) {
        context_.session.notices.say(QStringLiteral("screen"),
                                     tr("No picture was copied: copy one in another program first."));
        return;
    }
    if (static_cast<double>(image.width()) * image.height() > most_pixels) {
        context_.session.notices.say(QStringLiteral("screen"),
                                     tr("The picture that was copied is too large: nothing was taken."));
        return;
    }
    const auto path =
        folderOfScreens() +
        QStringLiteral("/pasted-%1.png")
            .arg(QDateTime::currentDateTimeUtc().toString(QStringLiteral("yyyyMMdd-hhmmss-zzz")));
    if (!image.save(path)) {
        context_.session.notices.say(QStringLiteral("screen"),
                                     tr("The picture could not be kept at %1.").arg(path));
        return;
    }
    open(path);
}

void ScreenView::open(const QString &path) {
    ScreenPicture picture;
    const bool film = endsAs(path, film_ends);
    QString told;
    if (film) {
        auto first = first_picture(path.toStdString());
        if (!first) {
            context_.session.notices.raise(QStringLiteral("screen"), first.error());
            return;
        }
        picture = std::move(*first);
    } else {
        auto opened = open_picture(path.toStdString());
        if (!opened) {
            context_.session.notices.raise(QStringLiteral("screen"), opened.error());
            return;
        }
        picture = std::move(opened->picture);
        if (!opened->taken.time.empty())
            told = tr("Taken %1 by the camera's clock.").arg(QString::fromStdString(opened->taken.time));
        if (const auto &at = opened->taken.place; at && !context_.session.preferences.inCompany())
            told += QStringLiteral(" ") +
                    tr("The camera stood at %1: not the place of what the screen shows.")
                        .arg(QString::fromStdString(print_position(at->latitude_deg, at->longitude_deg)));
        for (const auto &w : opened->warnings)
            told += QStringLiteral(" ") + QString::fromStdString(w) + QStringLiteral(".");
    }
    film_ = film;
    device_ = false;
    told_ = told;
    setPicture(std::move(picture), path);
}

void ScreenView::setPicture(ScreenPicture picture, const QString &path) {
    context_.session.notices.pass(QStringLiteral("screen"));
    track_.clear();
    figure_.reset();
    path_ = path;
    picture_ = std::move(picture);
    image_ = QImage(reinterpret_cast<const uchar *>(picture_.pixels.data()), picture_.width, picture_.height,
                    picture_.width * 3, QImage::Format_RGB888)
                 .copy();
    remembered_ = recall();
    middle_by_hand_ = range_said_ = remembered_;
    newest_by_hand_ = false;
    kept_key_->setChecked(false);
    if (!remembered_) {
        calibration_.pixel_sd = saved_pixels;
        suggest();
    } else if (calibration_.pixel_sd > saved_pixels && !circle()) {
        findCornersAgain();
    }
    changed();
}

// No camera stands twice in one place: of a photograph all that was said holds but where the panel lies.
void ScreenView::findCornersAgain() {
    const auto guess = guess_screen(picture_);
    if (!guess || !guess->photographed) {
        remembered_ = false;
        symmetry_ = 0;
        return;
    }
    const auto onto = homography(calibration_.corners, guess->corners);
    for (auto &box : calibration_.figures) {
        box.from = mapped(onto, box.from);
        box.to = mapped(onto, box.to);
    }
    calibration_.corners = guess->corners;
}

// Screens of one size are taken for one unit's: the next picture needs one press.
bool ScreenView::recall() {
    const auto key = QStringLiteral("screens/%1x%2").arg(picture_.width).arg(picture_.height);
    const auto text = QSettings().value(key).toString();
    if (text.isEmpty())
        return false;
    auto c = calibration_from_json(text.toStdString());
    if (!c)
        return false;
    calibration_ = std::move(*c);
    return true;
}

void ScreenView::keep() const {
    const auto key = QStringLiteral("screens/%1x%2").arg(picture_.width).arg(picture_.height);
    QSettings().setValue(key, QString::fromStdString(calibration_to_json(calibration_)));
}

void ScreenView::suggest() {
    if (picture_.empty())
        return;
    auto &c = calibration_;
    c.width = picture_.width;
    c.height = picture_.height;
    if (c.source.empty())
        c.source = tr("a screen of %1 by %2").arg(c.width).arg(c.height).toStdString();
    const double w = c.width, h = c.height;
    const auto guess = guess_screen(picture_);
    if (guess) {
        c.corners = guess->corners;
        c.circle_bow_deg = guess->circle ? std::optional(c.circle_bow_deg.value_or(0)) : std::nullopt;
        c.newest = guess->newest;
        c.middle = guess->middle;
        symmetry_ = guess->symmetry;
        if (guess->photographed)
            c.pixel_sd = by_hand_pixels;
    } else {
        c.corners = {Pixel{0.1 * w, 0.1 * h}, {0.9 * w, 0.1 * h}, {0.9 * w, 0.9 * h}, {0.1 * w, 0.9 * h}};
        c.middle = 0.5;
        symmetry_ = 0;
    }
    remembered_ = middle_by_hand_ = newest_by_hand_ = false;
    changed();
    suggestNewest();
}

void ScreenView::changed() {
    const bool there = !picture_.empty() && !showsKept();
    for (std::size_t i = 0; i < 4; ++i)
        newest_[i]->setChecked(there && static_cast<std::size_t>(calibration_.newest) == i);
    // Of what is kept nothing is set.
    const bool sets = !showsKept(), scrolls = sets && !circle();
    for (auto *key : {swap_, along_less_, along_more_, newest_[0], newest_[1], newest_[2], newest_[3]})
        key->setVisible(scrolls);
    for (auto *key :
         {hand_, circle_, range_less_, range_more_, depth_less_, depth_more_, figures_, track_key_})
        key->setVisible(sets);
    circle_->setChecked(circle());
    swap_->setChecked(calibration_.swap_sides);
    hand_->setChecked(calibration_.pixel_sd > 1);
    for (auto *key : {suggest_, swap_, hand_, circle_, range_less_, range_more_, along_less_, along_more_,
                      depth_less_, depth_more_, figures_, newest_[0], newest_[1], newest_[2], newest_[3]})
        key->setEnabled(there && !reading());
    figures_->setChecked(figure_.has_value());
    figures_->setText(figure_                        ? tr("box: %1").arg(wordOf(*figure_))
                      : calibration_.figures.empty() ? tr("figures")
                                                     : tr("figures: %1").arg(calibration_.figures.size()));
    track_key_->setEnabled(there && film_ && !reading());
    track_key_->setChecked(!track_.isEmpty());
    track_key_->setText(track_.isEmpty() ? tr("receiver") : tr("receiver: 1"));
    // A range that nobody said would make every figure a guess.
    read_->setEnabled(showsKept() ? !kept_list_->currentId().isEmpty() : there && range_said_);
    kept_key_->setEnabled(!reading());
    read_->setText(showsKept()             ? tr("Look at it")
                   : reading()             ? tr("Stop")
                   : !there || range_said_ ? tr("Read it")
                                           : tr("Say the range first"));
    if (there)
        lookAtColours();
    update();
}

void ScreenView::lookAtColours() {
    if (grip_ != Grip::none)
        return; // when it is put down
    ramp_ = !calibration_.ramp.empty() ? ramp_of(calibration_.ramp)
            : circle() ? estimate_ramp(circle_panel(upright_panel(picture_, calibration_), calibration_))
                       : estimate_ramp(straighten(picture_, calibration_));
}

QRectF ScreenView::pictureBox() const {
    const QRectF room(12, 12, width() - column_wide - 24, height() - 24);
    if (picture_.empty())
        return room;
    const double by = std::min(room.width() / picture_.width, room.height() / picture_.height);
    return {room.left(), room.top(), picture_.width * by, picture_.height * by};
}

QPointF ScreenView::toView(Pixel p) const {
    const auto box = pictureBox();
    return {box.left() + p.x / std::max(1, calibration_.width) * box.width(),
            box.top() + p.y / std::max(1, calibration_.height) * box.height()};
}

Pixel ScreenView::toPicture(const QPointF &at) const {
    const auto box = pictureBox();
    return {(at.x() - box.left()) / box.width() * calibration_.width,
            (at.y() - box.top()) / box.height() * calibration_.height};
}

// Both ends of the boat's line on the picture.
std::array<Pixel, 2> ScreenView::middleLine() const {
    const auto &c = calibration_;
    const double m = c.swap_sides ? 1 - c.middle : c.middle;
    const auto h = homography({Pixel{0, 0}, {1, 0}, {1, 1}, {0, 1}}, c.corners);
    if (c.across_is_level())
        return {mapped(h, {m, 0}), mapped(h, {m, 1})};
    return {mapped(h, {0, m}), mapped(h, {1, m})};
}

Pixel ScreenView::bowAtRim() const {
    return on_circle(calibration_, 0, calibration_.range_m);
}

void ScreenView::mousePressEvent(QMouseEvent *event) {
    grip_ = Grip::none;
    if (picture_.empty() || reading())
        return;
    if (figure_) {
        drawn_from_ = drawn_to_ = event->position();
        return;
    }
    double nearest = reach_px;
    for (int i = 0; i < 4; ++i)
        if (const double d =
                QLineF(toView(calibration_.corners[static_cast<std::size_t>(i)]), event->position()).length();
            d < nearest) {
            nearest = d;
            grip_ = static_cast<Grip>(static_cast<int>(Grip::upper_left) + i);
        }
    if (grip_ != Grip::none)
        return;
    if (circle()) {
        if (QLineF(toView(bowAtRim()), event->position()).length() < reach_px)
            grip_ = Grip::middle;
        return;
    }
    const auto line = middleLine();
    const QLineF middle(toView(line[0]), toView(line[1]));
    const auto normal = middle.normalVector().unitVector();
    const QPointF off = event->position() - middle.p1();
    const double aside = off.x() * normal.dx() + off.y() * normal.dy();
    if (std::fabs(aside) < reach_px && pictureBox().contains(event->position()))
        grip_ = Grip::middle;
}

void ScreenView::mouseMoveEvent(QMouseEvent *event) {
    if (drawn_from_) {
        drawn_to_ = event->position();
        update();
        return;
    }
    if (grip_ == Grip::none)
        return;
    const auto at = toPicture(event->position());
    auto &c = calibration_;
    if (grip_ == Grip::middle) {
        const auto h = homography(c.corners, {Pixel{0, 0}, {1, 0}, {1, 1}, {0, 1}});
        const auto p = mapped(h, at);
        if (circle()) {
            c.circle_bow_deg = std::round(wrap_360(std::atan2(p.x - 0.5, 0.5 - p.y) * degrees_per_radian));
            remembered_ = false;
            update();
            return;
        }
        const double m = std::clamp(c.across_is_level() ? p.x : p.y, 0.0, 1.0);
        c.middle = c.swap_sides ? 1 - m : m;
    } else {
        auto corners = c.corners;
        corners[static_cast<std::size_t>(grip_) - static_cast<std::size_t>(Grip::upper_left)] = {
            std::clamp(at.x, 0.0, static_cast<double>(c.width)),
            std::clamp(at.y, 0.0, static_cast<double>(c.height))};
        auto trial = c;
        trial.corners = corners;
        if (calibration_from_json(calibration_to_json(trial))) // no corner within the others
            c.corners = corners;
    }
    remembered_ = false;
    update();
}

void ScreenView::mouseReleaseEvent(QMouseEvent *event) {
    if (drawn_from_) {
        const auto from = *drawn_from_;
        drawn_from_.reset();
        drawn_to_.reset();
        takeFigure(from, event->position());
        return;
    }
    if (picture_.empty() && !reading() && !showsKept() && event->button() == Qt::LeftButton &&
        pictureBox().contains(event->position()))
        open_->click();
    if (grip_ == Grip::none)
        return;
    // Within new corners the middle is looked for anew, until it was put down by hand.
    middle_by_hand_ = middle_by_hand_ || grip_ == Grip::middle;
    grip_ = Grip::none;
    if (!middle_by_hand_ && !circle()) {
        const auto guess =
            guess_middle(upright_panel(picture_, calibration_), calibration_.across_is_level());
        if (guess.symmetry > sure_symmetry) {
            calibration_.middle = calibration_.swap_sides ? 1 - guess.middle : guess.middle;
            symmetry_ = guess.symmetry;
        }
    }
    changed();
}

void ScreenView::dragEnterEvent(QDragEnterEvent *event) {
    if (event->mimeData()->hasUrls())
        event->acceptProposedAction();
}

void ScreenView::dropEvent(QDropEvent *event) {
    for (const auto &url : event->mimeData()->urls())
        if (url.isLocalFile()) {
            open(url.toLocalFile());
            return;
        }
}

void ScreenView::read() {
    if (showsKept())
        return openKept();
    if (reading()) {
        // A device has no other end.
        if (device_) {
            asked_to_end_ = true;
            process_->terminate();
        } else {
            process_->kill();
        }
        return;
    }
    if (picture_.empty())
        return;
    keep();
    if (device_)
        return soundDevice();
    const auto recording = folderOfScreens() + QLatin1Char('/') + QFileInfo(path_).completeBaseName() +
                           QLatin1Char('-') +
                           QDateTime::currentDateTimeUtc().toString(QStringLiteral("yyyyMMdd-HHmmss-zzz")) +
                           QStringLiteral(".nc");
    if (film_)
        readFilm(recording);
    else
        readPicture(recording);
}

void ScreenView::readPicture(const QString &recording) {
    const auto newest = QFileInfo(path_).lastModified().toMSecsSinceEpoch() * 1'000'000;
    const auto rows = rows_of(picture_, calibration_, newest, QFileInfo(path_).fileName().toStdString());
    const auto tell = [this](const Fault &fault) {
        context_.session.notices.raise(QStringLiteral("screen"), fault);
    };
    if (!rows)
        return tell(rows.error());
    if (auto done = write_recording(recording.toStdString(), rows->recording.head, rows->recording.pings);
        !done)
        return tell(done.error());
    shown(recording);
}

void ScreenView::shown(const QString &recording) {
    keepSighting(recording);
    context_.window.askPlace(circle() ? place::around : place::scan);
    context_.session.sources.open(recording);
}

void ScreenView::resizeEvent(QResizeEvent *) {
    const int x = width() - column_wide, w = column_wide - 16;
    const int fourth = (w - 18) / 4;
    int at = x;
    for (auto *key : {open_, paste_, live_, suggest_}) {
        key->setGeometry(at, 12, fourth, 48);
        at += fourth + 6;
    }
    for (int i = 0; i < 4; ++i)
        newest_[static_cast<std::size_t>(i)]->setGeometry(x + i * (w / 4), 104, w / 4 - 4, 44);
    const int three = (w - 12) / 3;
    circle_->setGeometry(x, 154, three, 44);
    hand_->setGeometry(x + three + 6, 154, three, 44);
    swap_->setGeometry(x + 2 * (three + 6), 154, three, 44);
    int y = 214;
    for (const auto &[less, more] :
         {std::pair{range_less_, range_more_}, {along_less_, along_more_}, {depth_less_, depth_more_}}) {
        less->setGeometry(x + w - 102, y, 48, 48);
        more->setGeometry(x + w - 48, y, 48, 48);
        y += 58;
    }
    figures_->setGeometry(x, y, w / 2 - 3, 44);
    track_key_->setGeometry(x + w / 2 + 3, y, w - w / 2 - 3, 44);
    const int kept = 96;
    kept_key_->setGeometry(x, height() - 76, kept, 60);
    read_->setGeometry(x + kept + 6, height() - 76, w - kept - 6, 60);
    kept_list_->setGeometry(12, 12, width() - column_wide - 24, height() - 24);
}

} // namespace heron::app
