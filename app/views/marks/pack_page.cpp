#include "views/marks/pack_page.hpp"

#include "exchange/mark_files.hpp"
#include "exchange/qr_code.hpp"
#include "kit/chip_image.hpp"
#include "kit/counted.hpp"
#include "kit/key_button.hpp"
#include "kit/kind_words.hpp"
#include "kit/paragraph.hpp"
#include "kit/pdf_file.hpp"
#include "kit/theme.hpp"

#include <QFileDialog>
#include <QPageLayout>
#include <QPageSize>
#include <QPainter>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <algorithm>

namespace heron::app {

PackPage::PackPage(ViewContext &context, QWidget *parent) : QWidget(parent), context_(context) {
    auto *column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    const auto choice = [&](const char *name) {
        auto *c = new QComboBox(this);
        c->setObjectName(QString::fromLatin1(name));
        c->setMinimumHeight(44);
        connect(c, &QComboBox::activated, this, &PackPage::refresh);
        column->addWidget(c);
        return c;
    };
    receiver_ = choice("packFor");
    receiver_->addItem(tr("for my crew"), static_cast<int>(Level::crew));
    receiver_->addItem(tr("for a client"), static_cast<int>(Level::client));
    receiver_->addItem(tr("for anyone"), static_cast<int>(Level::anyone));
    receiver_->setCurrentIndex(1);
    circle_ = choice("packCircle");
    circle_->addItem(tr("places as they are"), 0);
    for (const int m : {40, 160, 640, 2560})
        circle_->addItem(tr("places to within %1 m").arg(m), m);
    only_ = choice("packOnly");
    only_->addItem(tr("all that the wall shows"), static_cast<int>(Family::none));
    for (const auto f : {Family::structure, Family::fish, Family::bottom, Family::hazard})
        only_->addItem(tr("only %1").arg(wordFor(f)), static_cast<int>(f));
    names_ = choice("packNames");
    names_->addItem(tr("names as they are"), 0);
    for (const int letters : {8, 10, 16, 30})
        names_->addItem(tr("GPX names of %1 plain letters, for simple receivers").arg(letters), letters);
    column->addStretch(1);
    write_ = new KeyButton(QStringLiteral("act-pack"), tr("Write the pack"), Qt::Key_Z,
                           tr("A file that holds just what is told above"), this);
    write_->setObjectName(QStringLiteral("writePack"));
    write_->setFixedHeight(56);
    column->addWidget(write_);
    connect(write_, &KeyButton::clicked, this, [this] {
        const auto path = QFileDialog::getSaveFileName(
            this, tr("Write the pack"),
            QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation) + QStringLiteral("/pack.gpx"),
            tr("GPX (*.gpx);;KMZ with pictures (*.kmz);;KML (*.kml);;GeoJSON (*.geojson);;Table "
               "(*.csv);;GeoPackage (*.gpkg)"));
        if (!path.isEmpty())
            write(path);
    });
    connect(&context_.marks, &MarkLibrary::marksChanged, this, &PackPage::refresh);
    connect(&context_.window, &WindowState::selectionChanged, this, qOverload<>(&QWidget::update));
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void PackPage::setMarks(std::vector<std::string> ids) {
    ids_ = std::move(ids);
    std::sort(ids_.begin(), ids_.end());
    refresh();
}

// A pack of nothing is not written. Looked over only while it shows: a library may be large.
void PackPage::refresh() {
    if (!isVisible())
        return;
    write_->setEnabled(!packed(chosen(), settings()).empty());
    update();
}

void PackPage::showEvent(QShowEvent *event) {
    QWidget::showEvent(event);
    refresh();
}

std::vector<Mark> PackPage::chosen() const {
    std::vector<Mark> marks;
    for (const auto &m : context_.marks.all())
        if (std::binary_search(ids_.begin(), ids_.end(), m.id))
            marks.push_back(m);
    return marks;
}

PackSettings PackPage::settings() const {
    PackSettings s;
    s.receiver = static_cast<Level>(receiver_->currentData().toInt());
    if (const int m = circle_->currentData().toInt(); m > 0)
        s.coarsen_m = m;
    if (const auto f = static_cast<Family>(only_->currentData().toInt()); f != Family::none)
        s.families = {f};
    return s;
}

NameProfile PackPage::names() const {
    const int letters = names_->currentData().toInt();
    return {static_cast<std::size_t>(letters), letters > 0};
}

QStringList PackPage::told() const {
    QStringList lines;
    for (const auto &line : told_of_pack(chosen(), settings()))
        lines << capital(QString::fromStdString(line));
    const auto all = chosen();
    if (std::any_of(all.begin(), all.end(),
                    [&](const Mark &m) { return !open_to(m.level, settings().receiver); }))
        lines << tr("Who may see a mark is said in its Story, of all that the wall shows under Many.");
    if (names().most_letters > 0) {
        const auto pack = packed(chosen(), settings());
        const auto shown = fitted_names(pack, names());
        for (std::size_t i = 0; i < pack.size(); ++i)
            if (shown[i] != plain_name(pack[i])) {
                lines << tr("In GPX names are cut: \"%1\" stands as \"%2\"; here it keeps its name")
                             .arg(QString::fromStdString(plain_name(pack[i])),
                                  QString::fromStdString(shown[i]));
                break;
            }
    }
    return lines;
}

void PackPage::write(const QString &path) {
    context_.marks.writePack(path, chosen(), settings(), names());
}

void PackPage::writeSheet(const QString &path) {
    const auto pack = packed(chosen(), settings());
    const auto written = writePdfFile(
        path,
        [](QPdfWriter &page) {
            page.setPageSize(QPageSize(QPageSize::A4));
            page.setPageMargins(QMarginsF(16, 16, 16, 16), QPageLayout::Millimeter);
            page.setResolution(96);
            page.setCreator(tr("Young Heron"));
        },
        [&](QPainter &p, QPdfWriter &page) {
            const auto units = context_.session.preferences.units();
            const auto length = [&](double m) {
                return QString::fromStdString(print_length(m, units).text());
            };
            const double wide = page.width(), high = page.height();
            double y = 0;
            const auto head = [&] {
                p.setPen(Qt::black);
                p.setFont(Theme::instance().font(20, true));
                p.drawText(QPointF(0, 22), tr("Marks"));
                p.setFont(Theme::instance().font(12));
                p.drawText(
                    QPointF(0, high - 22),
                    tr("Not for navigation. Things that reach near the surface are hazards first: look "
                       "out, life jackets on, mind cold water."));
                p.drawText(QPointF(0, high - 6), tr("Local rules and authorities hold before this page."));
                y = 40;
            };
            head();
            constexpr double row = 96;
            for (const auto &m : pack) {
                if (y + row > high - 44) {
                    page.newPage();
                    head();
                }
                if (const auto image = imageOf(m.chip); !image.isNull())
                    p.drawImage(QRectF(0, y, 116, 86), image);
                p.setFont(Theme::instance().font(15, true));
                p.drawText(QPointF(130, y + 18), capital(QString::fromStdString(plain_name(m))));
                p.setFont(Theme::instance().font(13));
                QStringList facts;
                if (m.depth_m)
                    facts << tr("in %1 of water").arg(length(m.depth_m->value));
                if (m.height_m)
                    facts << tr("%1 tall").arg(length(m.height_m->value));
                p.drawText(QPointF(130, y + 40), facts.join(QStringLiteral(" · ")));
                if (m.place)
                    p.drawText(QPointF(130, y + 60),
                               QString::fromStdString(
                                   print_position(m.place->latitude_deg, m.place->longitude_deg)) +
                                   (m.place_remark.empty()
                                        ? QString()
                                        : QStringLiteral(" · ") + QString::fromStdString(m.place_remark)));
                if (!m.note.empty())
                    paintParagraph(p, {130, y + 66, wide - 130, 24}, QString::fromStdString(m.note));
                y += row;
            }
        });
    if (!written) {
        context_.session.notices.raise(QStringLiteral("export"), written.error());
        return;
    }
    context_.session.notices.say(
        QStringLiteral("export"),
        tr("A sheet of %1 written to %2.").arg(counted(pack.size(), tr("mark"), tr("marks")), path));
}

// The selected mark as a code for a phone's camera, where the receiver may have it.
void PackPage::paintCode(QPainter &p, QRectF box) {
    const auto *m = context_.marks.find(context_.window.selectedMark());
    auto seen = m != nullptr ? as_seen_by(*m, settings().receiver) : std::nullopt;
    if (!seen)
        return;
    if (settings().coarsen_m && seen->family != Family::hazard)
        coarsen(*seen, *settings().coarsen_m);
    const auto code = qr_code(geo_uri(*seen));
    if (code.size == 0 || box.height() < 120)
        return;
    constexpr int quiet = 4;
    const double side = std::min(box.width(), box.height()),
                 module = std::floor(side / (code.size + 2 * quiet));
    if (module < 2)
        return;
    const double whole = module * (code.size + 2 * quiet);
    p.setRenderHint(QPainter::Antialiasing, false);
    p.fillRect(QRectF(box.left(), box.top(), whole, whole), Qt::white);
    for (int y = 0; y < code.size; ++y)
        for (int x = 0; x < code.size; ++x)
            if (code.dark[static_cast<std::size_t>(y * code.size + x)] != 0)
                p.fillRect(QRectF(box.left() + (x + quiet) * module, box.top() + (y + quiet) * module, module,
                                  module),
                           Qt::black);
    p.setFont(Theme::instance().font(13));
    p.setPen(colour("ink2"));
    paintParagraph(
        p, {box.left() + whole + 10, box.top(), box.width() - whole - 10, whole},
        tr("%1 to a phone: point its camera here").arg(capital(QString::fromStdString(plain_name(*seen)))));
}

void PackPage::paintEvent(QPaintEvent *) {
    QPainter p(this);
    double y = names_->geometry().bottom() + 14;
    const double end = write_->geometry().top() - 8;
    bool first = true;
    for (const auto &line : told()) {
        p.setFont(Theme::instance().font(14, first));
        p.setPen(colour("ink"));
        first = false;
        if (y + 20 > end)
            return;
        y = paintParagraph(p, {0, y, static_cast<double>(width()), end - y}, line) + 6;
    }
    paintCode(p, QRectF(0, y + 4, width(), std::min(220.0, end - y - 4)));
}

} // namespace heron::app
