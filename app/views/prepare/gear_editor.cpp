#include "views/prepare/gear_editor.hpp"

#include "kit/field_style.hpp"
#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "tuning/estimate_gear.hpp"

#include <QPainter>

namespace heron::app {
namespace {

constexpr int most_bands = 4, row_h = 46, label_w = 250, field_w = 96;

} // namespace

GearEditor::GearEditor(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setVisible(false);
    add(
        tr("Tilt of the side fans below level"), tr("°"), 0, 90, [](const Gear &g) { return g.tilt_deg; },
        [](Gear &g, double v) { g.tilt_deg = v; });
    add(
        tr("Pings a second, at most"), {}, 0.5, 200, [](const Gear &g) { return g.most_pings_a_second; },
        [](Gear &g, double v) { g.most_pings_a_second = v; });
    add(
        tr("Sound speed it assumes (0: the true one)"), tr("m/s"), 0, 1700,
        [](const Gear &g) { return g.assumed_sound_speed_m_s; },
        [](Gear &g, double v) { g.assumed_sound_speed_m_s = v; });
    add(
        tr("Hangs below the surface"), tr("m"), 0, 5, [](const Gear &g) { return g.draught_m; },
        [](Gear &g, double v) { g.draught_m = v; });
    add(
        tr("Pixels across its sonar picture"), {}, 100, 20000,
        [](const Gear &g) { return double(g.screen_pixels); },
        [](Gear &g, double v) { g.screen_pixels = static_cast<int>(v); });
    add(
        tr("Sides that share them (2 or 1)"), {}, 1, 2,
        [](const Gear &g) { return g.screen_shows_both ? 2.0 : 1.0; },
        [](Gear &g, double v) { g.screen_shows_both = v > 1.5; });
    add(
        tr("Steps of its gain"), {}, 1, 10000, [](const Gear &g) { return double(g.gain_steps); },
        [](Gear &g, double v) { g.gain_steps = static_cast<int>(v); });
    add(
        tr("A step of gain"), tr("dB"), 0.01, 20, [](const Gear &g) { return g.db_a_gain_step; },
        [](Gear &g, double v) { g.db_a_gain_step = v; });
    add(
        tr("Steps of its contrast"), {}, 1, 10000, [](const Gear &g) { return double(g.contrast_steps); },
        [](Gear &g, double v) { g.contrast_steps = static_cast<int>(v); });
    add(
        tr("A step of contrast"), tr("dB"), 0.01, 40, [](const Gear &g) { return g.db_a_contrast_step; },
        [](Gear &g, double v) { g.db_a_contrast_step = v; });
    for (int i = 0; i < most_bands; ++i) {
        std::array<QLineEdit *, 5> row{};
        for (std::size_t k = 0; k < row.size(); ++k) {
            row[k] = new QLineEdit(this);
            row[k]->setObjectName(QStringLiteral("band%1_%2").arg(i).arg(k));
            connect(row[k], &QLineEdit::editingFinished, this, &GearEditor::take);
        }
        bands_.push_back(row);
    }
    estimate_ = new KeyButton(QString(), tr("Estimate from the picture"), QKeySequence(),
                              tr("Ping rate, beams and source levels from what was sounded here"), this);
    estimate_->setObjectName(QStringLiteral("estimateGear"));
    usual_ = new KeyButton(QString(), tr("Usual unit"), QKeySequence(),
                           tr("The usual figures of the three classes"), this);
    done_ = new KeyButton(QString(), tr("Done"), Qt::Key_Escape, tr("Back to the answer"), this);
    done_->setObjectName(QStringLiteral("gearDone"));
    connect(estimate_, &KeyButton::clicked, this, &GearEditor::estimate);
    connect(usual_, &KeyButton::clicked, this, [this] {
        gear_ = usual_gear();
        fill();
        emit edited(gear_);
    });
    connect(done_, &KeyButton::clicked, this, [this] {
        setVisible(false);
        emit closed();
    });
    dressFields(this, 4);
}

void GearEditor::add(const QString &label, const QString &unit, double low, double high,
                     std::function<double(const Gear &)> get, std::function<void(Gear &, double)> set) {
    auto *edit = new QLineEdit(this);
    edit->setObjectName(QStringLiteral("gear%1").arg(general_.size()));
    connect(edit, &QLineEdit::editingFinished, this, &GearEditor::take);
    general_.push_back({label, unit, edit, std::move(get), std::move(set), low, high});
}

void GearEditor::show(const Gear &gear, const WaterState &water) {
    gear_ = gear;
    water_ = water;
    said_.clear();
    fill();
    setVisible(true);
    raise();
}

void GearEditor::fill() {
    filling_ = true;
    for (auto &f : general_)
        f.edit->setText(QString::number(f.get(gear_), 'g', 5));
    for (std::size_t i = 0; i < bands_.size(); ++i) {
        const bool there = i < gear_.bands.size();
        const auto &b = there ? gear_.bands[i] : GearBand();
        const double values[] = {b.frequency_hz / 1000, b.along_deg, b.across_deg, b.bandwidth_hz / 1000,
                                 b.source_db};
        for (std::size_t k = 0; k < 5; ++k)
            bands_[i][k]->setText(there ? QString::number(values[k], 'g', 5) : QString());
    }
    filling_ = false;
    update();
}

// What cannot be a value is put back to what it was, and said.
void GearEditor::take() {
    if (filling_)
        return;
    auto g = gear_;
    said_.clear();
    for (auto &f : general_) {
        bool good = false;
        const double v = f.edit->text().toDouble(&good);
        if (good && v >= f.low && v <= f.high)
            f.set(g, v);
        else
            said_ =
                tr("%1: %2 is not between %3 and %4.").arg(f.label, f.edit->text()).arg(f.low).arg(f.high);
    }
    g.bands.clear();
    for (auto &row : bands_) {
        if (row[0]->text().trimmed().isEmpty())
            continue;
        bool good[5] = {};
        double v[5] = {};
        for (std::size_t k = 0; k < 5; ++k)
            v[k] = row[k]->text().toDouble(&good[k]);
        if (!good[0]) {
            said_ = tr("%1 is no frequency in kHz.").arg(row[0]->text());
            continue;
        }
        g.bands.push_back({v[0] * 1000, good[1] ? v[1] : 1, good[2] ? v[2] : 50, good[3] ? v[3] * 1000 : 40e3,
                           good[4] ? v[4] : 140});
    }
    const auto checked = gear_from_json(gear_to_json(g));
    if (!checked) {
        said_ = QString::fromStdString(checked.error().happened);
        fill();
        return;
    }
    if (!(*checked == gear_)) {
        gear_ = *checked;
        emit edited(gear_);
    }
    fill();
}

void GearEditor::estimate() {
    const auto &scan = context_.session.shown.scan();
    if (context_.session.shown.empty()) {
        said_ = tr("Nothing was sounded yet: open a recording or connect the sounder first.");
        update();
        return;
    }
    const auto end = context_.session.shown.end();
    const auto e = estimate_gear(scan, end > 600 ? end - 600 : scan.first(), end, gear_, water_);
    gear_ = e.gear;
    QStringList lines;
    for (const auto &s : e.said)
        lines << QString::fromStdString(s);
    fill();
    said_ = lines.isEmpty() ? tr("The picture told nothing: no bottom was found in it.")
                            : lines.join(QStringLiteral("; "));
    emit edited(gear_);
    update();
}

void GearEditor::resizeEvent(QResizeEvent *) {
    int y = 64;
    for (auto &f : general_) {
        f.edit->setGeometry(16 + label_w + 60, y, field_w, 36);
        y += row_h - 4;
    }
    y += 40;
    for (auto &row : bands_) {
        int x = 16;
        for (auto *e : row) {
            e->setGeometry(x, y, field_w, 36);
            x += field_w + 44;
        }
        y += row_h - 4;
    }
    estimate_->setGeometry(16, height() - 64, 260, 52);
    usual_->setGeometry(288, height() - 64, 150, 52);
    done_->setGeometry(450, height() - 64, 130, 52);
}

void GearEditor::paintEvent(QPaintEvent *) {
    auto &theme = Theme::instance();
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setFont(theme.font(17, true));
    p.setPen(colour("ink"));
    p.drawText(QPointF(16, 28), tr("The sounder"));
    p.setFont(theme.font(14));
    p.setPen(colour("ink2"));
    p.drawText(QPointF(16, 50), tr("From its papers; what they do not tell is estimated from a picture."));
    for (const auto &f : general_) {
        p.setFont(theme.font(14));
        p.setPen(colour("ink"));
        p.drawText(QPointF(16, f.edit->y() + 24), f.label);
        p.setPen(colour("ink2"));
        p.drawText(QPointF(f.edit->geometry().right() + 8, f.edit->y() + 24), f.unit);
    }
    const QStringList heads{tr("kHz"), tr("° along"), tr("° across"), tr("kHz wide"), tr("source dB")};
    for (int k = 0; k < 5; ++k)
        p.drawText(QPointF(bands_[0][static_cast<std::size_t>(k)]->x(), bands_[0][0]->y() - 8), heads[k]);
    p.setPen(colour("ink"));
    p.setFont(theme.font(14, true));
    p.drawText(QRect(16, height() - 122, width() - 32, 52), Qt::TextWordWrap, said_);
}

} // namespace heron::app
