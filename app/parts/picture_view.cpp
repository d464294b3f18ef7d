#include "parts/picture_view.hpp"

#include "kit/theme.hpp"

#include <QPainter>
#include <algorithm>
#include <cmath>

namespace heron::app {

PictureView::PictureView(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setCursor(Qt::CrossCursor);
    setMinimumSize(300, 200);
    connect(&context_.session.shown, &ShownScan::rowsAdded, this, &PictureView::advance);
    connect(&context_.window, &WindowState::displayChanged, this, &PictureView::repaintAll);
    connect(&context_.marks, &MarkLibrary::marksChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, qOverload<>(&QWidget::update));
    connect(&context_.reader, &ContactReader::contactsChanged, this, [this] {
        if (pressed_contact_ != 0 && context_.reader.find(pressed_contact_) == nullptr)
            releaseContact();
        update();
    });
    connect(&context_.window, &WindowState::contactSelected, this, qOverload<>(&QWidget::update));
    connect(&context_.window, &WindowState::depthBandChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, &PictureView::repaintAll);
    connect(&context_.session.shown, &ShownScan::replaced, this, [this] {
        frozen_ = false;
        top_line_ = 0;
        pick_.reset();
        pressed_contact_ = 0;
        handles_.reset();
        repaintAll();
        advance();
        emit frozenChanged();
        emit handlesChanged();
        emit pointedChanged();
    });
}

void PictureView::repaintAll() {
    std::fill(painted_.begin(), painted_.end(), no_line);
    update();
}

// Lines are as high as pixels are wide, so that the scale is the same both ways; the top row stays at the
// top.
void PictureView::reshape() {
    const auto row = topRow();
    lines_ = TrackLines(along_, range_m_ / halfWidth());
    if (!context_.session.shown.empty())
        top_line_ = lines_.line_of(context_.session.shown.scan(), row);
    repaintAll();
    emit shapeChanged();
    emit topChanged();
}

void PictureView::resizeEvent(QResizeEvent *) {
    image_ = QImage(std::max(2, width() & ~1), std::max(1, height()), QImage::Format_RGB32);
    painted_.assign(static_cast<std::size_t>(image_.height()), no_line);
    reshape();
}

std::int64_t PictureView::newestLine() const {
    return context_.session.shown.empty()
               ? 0
               : lines_.line_of(context_.session.shown.scan(), context_.session.shown.newest());
}

std::size_t PictureView::topRow() const {
    if (context_.session.shown.empty())
        return 0;
    const auto [from, to] = lines_.rows_of(context_.session.shown.scan(), top_line_);
    return std::min(to > 0 ? to - 1 : 0, context_.session.shown.newest());
}

void PictureView::advance() {
    if (context_.session.shown.empty()) {
        update();
        return;
    }
    const auto &scan = context_.session.shown.scan();
    const auto before = top_line_;
    if (!frozen_)
        top_line_ = newestLine();
    const auto range = static_cast<double>(scan.facts(topRow()).range_m);
    if (range > 0 && std::fabs(range - range_m_) > 0.01 * range_m_) {
        range_m_ = range;
        reshape();
        emit rangeChanged();
    }
    // The newest lines: their bottoms and their neighbours have changed.
    if (across_ == Across::ground || context_.window.filters().reject_streaks ||
        lines_.along() == Along::ground)
        for (auto line = before; line <= top_line_ && line > before - 2; ++line)
            if (!painted_.empty() && line >= 0)
                painted_[static_cast<std::size_t>(ringIndex(line))] = no_line;
    if (!frozen_)
        emit topChanged();
    update();
}

void PictureView::setFrozen(bool frozen) {
    if (frozen == frozen_)
        return;
    frozen_ = frozen;
    if (!frozen_)
        advance();
    emit frozenChanged();
    update();
}

void PictureView::goTo(std::size_t row) {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty())
        return;
    const bool was = frozen_;
    top_line_ = lines_.line_of(scan, std::clamp(row, scan.first(), context_.session.shown.newest()));
    frozen_ = true;
    advance();
    emit topChanged();
    if (!was)
        emit frozenChanged();
}

void PictureView::scrollLines(std::int64_t lines) {
    if (context_.session.shown.empty())
        return;
    const auto &scan = context_.session.shown.scan();
    const auto line = std::clamp(top_line_ + lines, lines_.line_of(scan, scan.first()), newestLine());
    const auto [from, to] = lines_.rows_of(scan, line);
    goTo(to > from ? to - 1 : from);
}

std::size_t PictureView::rowsWaiting() const {
    if (!frozen_ || context_.session.shown.empty())
        return 0;
    return context_.session.shown.newest() - topRow();
}

void PictureView::setAcross(Across across) {
    if (across == across_)
        return;
    across_ = across;
    reshape();
}
void PictureView::setAlong(Along along) {
    if (along == along_)
        return;
    along_ = along;
    reshape();
}
void PictureView::setSides(ShownSides sides) {
    if (sides == sides_)
        return;
    sides_ = sides;
    reshape();
}
void PictureView::setLoupe(bool on) {
    loupe_ = on;
    update();
}
void PictureView::setSteadyLimits(const SteadyLimits &limits) {
    limits_ = limits;
    update();
    emit topChanged();
}

double PictureView::keelX() const {
    return sides_ == ShownSides::both ? width() / 2.0 : sides_ == ShownSides::left ? width() : 0.0;
}
bool PictureView::shows(Side side) const {
    return sides_ == ShownSides::both || (sides_ == ShownSides::left) == (side == Side::port);
}

double PictureView::acrossOf(std::size_t row, double slant) const {
    if (across_ == Across::slant)
        return slant;
    const double a = context_.session.shown.scan().bottom(row).altitude_m;
    return slant > a ? std::sqrt(slant * slant - a * a) : 0;
}
double PictureView::slantAt(std::size_t row, double across) const {
    return across_ == Across::slant
               ? across
               : std::hypot(across, context_.session.shown.scan().bottom(row).altitude_m);
}

double PictureView::yOf(std::size_t row) const {
    return static_cast<double>(top_line_ - lines_.line_of(context_.session.shown.scan(), row)) + 0.5;
}

QPointF PictureView::positionOf(std::size_t row, Side side, double slant) const {
    const double x = acrossOf(row, slant) * pixelsPerMetre();
    return {keelX() + (side == Side::port ? -x : x), yOf(row)};
}

bool PictureView::rowVisible(std::size_t row) const {
    if (context_.session.shown.empty() || row > context_.session.shown.newest() ||
        !context_.session.shown.scan().holds(row))
        return false;
    const double y = yOf(row);
    return y >= 0 && y < height();
}

std::optional<std::size_t> PictureView::rowAtY(int y) const {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty() || y < 0 || y >= height())
        return std::nullopt;
    const auto line = top_line_ - y;
    if (line < lines_.line_of(scan, scan.first()))
        return std::nullopt;
    const auto [from, to] = lines_.rows_of(scan, line);
    if (from >= context_.session.shown.end())
        return std::nullopt;
    return std::min(to - 1, context_.session.shown.newest());
}

std::optional<Cursor> PictureView::pointAt(QPointF at) const {
    if (at.x() < 0 || at.x() > width())
        return std::nullopt;
    const auto row = rowAtY(static_cast<int>(std::floor(at.y())));
    if (!row)
        return std::nullopt;
    Cursor c;
    c.row = *row;
    const double x = at.x() - keelX();
    c.side = x < 0 ? Side::port : Side::starboard;
    c.slant_m = slantAt(c.row, std::fabs(x) / pixelsPerMetre());
    return c;
}

void PictureView::levelsOf(std::size_t row, const Beam &beam, std::vector<float> &out,
                           HiddenByFilters *hidden) const {
    const auto &scan = context_.session.shown.scan();
    const Beam *before = nullptr, *after = nullptr;
    if (context_.window.filters().reject_streaks) {
        if (row > scan.first())
            before = scan.ping(row - 1).beam(beam.side);
        if (row + 1 < context_.session.shown.end())
            after = scan.ping(row + 1).beam(beam.side);
    }
    row_levels(scan.ping(row), beam, scan.bottom(row), context_.window.filters(), context_.window.angles(),
               before, after, scan.installation.draught_m(), out, hidden);
}

HiddenByFilters PictureView::hiddenNow() const {
    HiddenByFilters hidden;
    std::vector<float> scratch;
    std::size_t last = static_cast<std::size_t>(-1);
    for (int y = 0; y < height(); y += 2) {
        const auto row = rowAtY(y);
        if (!row || *row == last)
            continue;
        last = *row;
        for (const auto &b : context_.session.shown.scan().ping(*row).beams)
            if (b.side == Side::port || b.side == Side::starboard)
                levelsOf(*row, b, scratch, &hidden);
    }
    return hidden;
}

void PictureView::paintRow(std::size_t row, QRgb *out) {
    const auto &map = Theme::instance().map().table();
    const auto &scan = context_.session.shown.scan();
    const auto &ping = scan.ping(row);
    const auto keel = static_cast<std::size_t>(std::lround(keelX()));
    levels_.resize(static_cast<std::size_t>(halfWidth()));
    for (const auto &beam : ping.beams) {
        // A recording of one odd beam is shown on the right.
        const bool alone = ping.beams.size() == 1 && (beam.side == Side::down || beam.side == Side::around);
        if (beam.side != Side::port && beam.side != Side::starboard && !alone)
            continue;
        if (!shows(beam.side) && !alone)
            continue;
        levelsOf(row, beam, row_levels_);
        paint_levels(ping, row_levels_, scan.bottom(row).altitude_m, across_, range_m_,
                     context_.window.displayWindow(), levels_);
        const bool left = beam.side == Side::port;
        for (std::size_t x = 0; x < levels_.size(); ++x) {
            const auto at = left ? keel - 1 - x : keel + x;
            if (at < static_cast<std::size_t>(image_.width()))
                out[at] = map[levels_[x]];
        }
    }
}

void PictureView::paintLine(std::int64_t line) {
    const int at = ringIndex(line);
    auto *out = reinterpret_cast<QRgb *>(image_.scanLine(at));
    const auto &map = Theme::instance().map().table();
    painted_[static_cast<std::size_t>(at)] = line;
    std::fill(out, out + image_.width(), map[0]);
    const auto [from, to] = lines_.rows_of(context_.session.shown.scan(), line);
    if (from >= context_.session.shown.end())
        return;
    const auto last = std::min(to, context_.session.shown.end());
    if (last - from < 2) {
        paintRow(last - 1, out);
        return;
    }
    // Several rows in one line: each pixel is their mean; four of them tell as much as all.
    std::vector<int> sums(static_cast<std::size_t>(image_.width()) * 3, 0);
    std::vector<QRgb> one(static_cast<std::size_t>(image_.width()));
    int n = 0;
    const auto step = std::max<std::size_t>(1, (last - from) / 4);
    for (auto row = from; row < last; row += step, ++n) {
        std::fill(one.begin(), one.end(), map[0]);
        paintRow(row, one.data());
        for (std::size_t x = 0; x < one.size(); ++x) {
            sums[3 * x] += qRed(one[x]);
            sums[3 * x + 1] += qGreen(one[x]);
            sums[3 * x + 2] += qBlue(one[x]);
        }
    }
    for (std::size_t x = 0; x < one.size(); ++x)
        out[x] = qRgb(sums[3 * x] / n, sums[3 * x + 1] / n, sums[3 * x + 2] / n);
}

void PictureView::paintEvent(QPaintEvent *) {
    QPainter p(this);
    const auto &theme = Theme::instance();
    const int h = image_.height();
    if (context_.session.shown.empty()) {
        paintEmpty(p);
        return;
    }
    const auto oldest = lines_.line_of(context_.session.shown.scan(), context_.session.shown.scan().first());
    const auto lines = static_cast<int>(std::min<std::int64_t>(h, top_line_ - oldest + 1));
    // Only lines that are new to the ring, or whose place another took, are painted.
    for (int y = 0; y < lines; ++y) {
        const auto line = top_line_ - y;
        if (painted_[static_cast<std::size_t>(ringIndex(line))] != line)
            paintLine(line);
    }
    const int first = ringIndex(top_line_);
    const int upper = h - first; // lines from the top down to the end of the ring
    p.drawImage(QPoint(0, 0), image_, QRect(0, first, image_.width(), upper));
    if (upper < h)
        p.drawImage(QPoint(0, upper), image_, QRect(0, 0, image_.width(), h - upper));
    if (lines < h)
        p.fillRect(0, lines, width(), h - lines, QColor::fromRgb(theme.map()[0]));
    paintStrikes(p);
    paintLabels(p);
    p.setRenderHint(QPainter::Antialiasing);
    paintDepthBand(p);
    paintContacts(p);
    paintMarks(p);
    paintScaleNote(p);
    paintPick(p);
    paintHandles(p);
    paintCorners(p);
    paintBottomLine(p);
    if (loupe_)
        paintLoupe(p);
    emit painted();
}

} // namespace heron::app
