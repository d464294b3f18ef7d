#include "views/prepare/prepare_view.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/place.hpp"
#include "views/prepare/gear_editor.hpp"
#include "water/water.hpp"

#include <QMouseEvent>
#include <QSettings>
#include <QtConcurrent>
#include <algorithm>
#include <cmath>

namespace heron::app {
namespace {

constexpr double deepest_slider_m = 16;
constexpr std::array all_readers{ReadBy::eye, ReadBy::program};
constexpr double suspended[] = {-78, -66, -56};

} // namespace

QString titleOf(Purpose purpose) {
    switch (purpose) {
    case Purpose::search_wide:
        return PrepareView::tr("Search wide");
    case Purpose::finest_always:
        return PrepareView::tr("Finest always");
    case Purpose::wide_then_fine:
        return PrepareView::tr("Wide, then fine");
    case Purpose::inspect:
        return PrepareView::tr("Inspect");
    }
    return {};
}

QString titleOf(ReadBy by) {
    return by == ReadBy::eye ? PrepareView::tr("For the eye") : PrepareView::tr("For the program");
}

PrepareView::PrepareView(ViewContext &context, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner) {
    setFocusPolicy(Qt::StrongFocus);
    asked_.gear = tuner_.gear();
    addKeys();
    const auto warm = [this](double by) {
        asked_.water.temperature_c = std::clamp(asked_.water.temperature_c + by, 1.0, 32.0);
        ask();
    };
    connect(colder_, &KeyButton::clicked, this, [warm] { warm(-1); });
    connect(warmer_, &KeyButton::clicked, this, [warm] { warm(1); });
    connect(layered_, &KeyButton::clicked, this, [this](bool on) {
        asked_.water.below_c =
            on ? std::optional(std::max(4.0, asked_.water.temperature_c - 10)) : std::nullopt;
        ask();
    });
    const auto size = [this](double times) {
        auto &t = asked_.thing;
        if (t.kind == SmallestThing::Kind::fish)
            t.length_m = std::clamp(std::round(t.length_m * times * 20) / 20, 0.1, 1.5);
        else
            t.length_m = t.height_m = std::clamp(std::round(t.length_m * times * 10) / 10, 0.2, 5.0);
        ask();
    };
    connect(smaller_, &KeyButton::clicked, this, [size] { size(0.8); });
    connect(larger_, &KeyButton::clicked, this, [size] { size(1.25); });
    connect(take_, &KeyButton::clicked, this, &PrepareView::take);
    const auto area = [this](double times) {
        asked_.area_m2 = std::clamp(asked_.area_m2 * times, 500.0, 5e6);
        keep();
        update();
    };
    connect(area_less_, &KeyButton::clicked, this, [area] { area(0.5); });
    connect(area_more_, &KeyButton::clicked, this, [area] { area(2); });
    editor_ = new GearEditor(context, this);
    connect(gear_key_, &KeyButton::clicked, this, [this] { editor_->show(asked_.gear, asked_.water); });
    connect(editor_, &GearEditor::edited, this, [this](const Gear &g) {
        asked_.gear = g;
        tuner_.setGear(g);
        ask();
    });
    connect(editor_, &GearEditor::closed, this, [this] { setFocus(); });
    connect(&tuner_, &Tuner::gearChanged, this, [this] {
        if (asked_.gear == tuner_.gear())
            return;
        asked_.gear = tuner_.gear();
        ask();
    });
    connect(&context_.session.preferences, &Preferences::unitsChanged, this, &PrepareView::warn);
    connect(&Theme::instance(), &Theme::changed, this, qOverload<>(&QWidget::update));
    soon_.setSingleShot(true);
    connect(&soon_, &QTimer::timeout, this, &PrepareView::compute);
    connect(&watcher_, &QFutureWatcherBase::finished, this, [this] {
        auto answers = watcher_.result();
        for (std::size_t by = 0; by < answers_.size(); ++by)
            for (std::size_t i = 0; i < all_purposes.size(); ++i)
                answers_[by][i] = answers.by_purpose[by][i];
        ranges_by_band_ = std::move(answers.range_by_band);
        answered();
        if (again_)
            compute();
    });
    connect(&tuner_, &Tuner::noiseLearned, this, &PrepareView::compute);
    restore();
    ask();
}

void PrepareView::addKeys() {
    clarity_ = addChoice(tr("Clarity"), {tr("clear"), tr("stained"), tr("muddy")}, "clarity", [this](int i) {
        asked_.water.suspended_db = suspended[i];
        ask();
    });
    bottom_ =
        addChoice(tr("Bottom"), {tr("silt"), tr("sand"), tr("gravel"), tr("rock")}, "bottom", [this](int i) {
            asked_.water.bottom = static_cast<BottomType>(i);
            ask();
        });
    purpose_ = addChoice(tr("Purpose"),
                         {titleOf(Purpose::search_wide), titleOf(Purpose::finest_always),
                          titleOf(Purpose::wide_then_fine), titleOf(Purpose::inspect)},
                         "purpose", [this](int i) {
                             asked_.purpose = static_cast<Purpose>(i);
                             keep();
                             answered();
                         });
    read_by_ = addChoice(tr("Who reads the picture"), {titleOf(ReadBy::eye), titleOf(ReadBy::program)},
                         "readBy", [this](int i) {
                             asked_.read_by = static_cast<ReadBy>(i);
                             keep();
                             answered();
                         });
    kind_ = addChoice(tr("Smallest thing that matters"), {tr("fish"), tr("bush")}, "thing", [this](int i) {
        asked_.thing = i == 0 ? SmallestThing::fish(0.3) : SmallestThing::bush(1);
        ask();
    });
    colder_ = addKey("colder", QStringLiteral("−"), tr("Colder water"));
    warmer_ = addKey("warmer", QStringLiteral("+"), tr("Warmer water"));
    layered_ = addKey("layered", tr("layers"), tr("Warm over cold: sound bends, far shadows read too short"));
    layered_->setCheckable(true);
    smaller_ = addKey("smaller", QStringLiteral("−"), tr("A smaller thing"));
    larger_ = addKey("larger", QStringLiteral("+"), tr("A larger thing"));
    gear_key_ = addKey("gear", tr("Gear …"), tr("Describe the sounder"), Qt::Key_D);
    take_ = addKey("takeToScan", tr("Take these to Scan"), tr("Set the sounder so, and go to Scan"),
                   Qt::Key_Return);
    take_->setGlyph(QStringLiteral("place-scan"));
    take_->setPrimary(true);
    area_less_ = addKey("areaLess", QStringLiteral("−"), tr("A smaller area"));
    area_more_ = addKey("areaMore", QStringLiteral("+"), tr("A larger area"));
}

KeyButton *PrepareView::addKey(const char *name, const QString &text, const QString &tip,
                               const QKeySequence &letter) {
    auto *key = new KeyButton(QString(), text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

PrepareView::Choice PrepareView::addChoice(const QString &label, const QStringList &texts, const char *name,
                                           std::function<void(int)> chosen) {
    Choice c{label, {}};
    for (int i = 0; i < texts.size(); ++i) {
        auto *key = addKey((QByteArray(name) + QByteArray::number(i)).constData(), texts[i],
                           label + QStringLiteral(": ") + texts[i]);
        key->setCheckable(true);
        c.keys.push_back(key);
        connect(key, &KeyButton::clicked, this, [this, chosen, i] {
            chosen(i);
            refresh();
        });
    }
    return c;
}

void PrepareView::keep() const {
    QSettings s;
    s.beginGroup(QStringLiteral("prepare"));
    s.setValue(QStringLiteral("shallowest"), asked_.water.shallowest_m);
    s.setValue(QStringLiteral("deepest"), asked_.water.deepest_m);
    s.setValue(QStringLiteral("suspended"), asked_.water.suspended_db);
    s.setValue(QStringLiteral("temperature"), asked_.water.temperature_c);
    s.setValue(QStringLiteral("bottom"), static_cast<int>(asked_.water.bottom));
    s.setValue(QStringLiteral("purpose"), static_cast<int>(asked_.purpose));
    s.setValue(QStringLiteral("readBy"), static_cast<int>(asked_.read_by));
    s.setValue(QStringLiteral("fish"), asked_.thing.kind == SmallestThing::Kind::fish);
    s.setValue(QStringLiteral("size"), asked_.thing.length_m);
    s.setValue(QStringLiteral("area"), asked_.area_m2);
    s.setValue(QStringLiteral("gear"), QString::fromStdString(gear_to_json(asked_.gear)));
}

void PrepareView::restore() {
    QSettings s;
    s.beginGroup(QStringLiteral("prepare"));
    if (!s.contains(QStringLiteral("deepest")))
        return;
    auto &w = asked_.water;
    w.shallowest_m = std::clamp(s.value(QStringLiteral("shallowest")).toDouble(), 0.5, deepest_slider_m);
    w.deepest_m = std::clamp(s.value(QStringLiteral("deepest")).toDouble(), w.shallowest_m, deepest_slider_m);
    w.suspended_db = std::clamp(s.value(QStringLiteral("suspended")).toDouble(), -90.0, -40.0);
    w.temperature_c = std::clamp(s.value(QStringLiteral("temperature")).toDouble(), 1.0, 32.0);
    w.bottom = static_cast<BottomType>(std::clamp(s.value(QStringLiteral("bottom")).toInt(), 0, 3));
    asked_.purpose = static_cast<Purpose>(std::clamp(s.value(QStringLiteral("purpose")).toInt(), 0, 3));
    asked_.read_by = static_cast<ReadBy>(std::clamp(s.value(QStringLiteral("readBy")).toInt(), 0, 1));
    const double size = std::clamp(s.value(QStringLiteral("size")).toDouble(), 0.1, 5.0);
    asked_.thing =
        s.value(QStringLiteral("fish")).toBool() ? SmallestThing::fish(size) : SmallestThing::bush(size);
    asked_.area_m2 = std::clamp(s.value(QStringLiteral("area")).toDouble(), 500.0, 5e6);
    if (const auto g = gear_from_json(s.value(QStringLiteral("gear")).toString().toStdString())) {
        asked_.gear = *g;
        tuner_.setGear(*g);
    }
}

void PrepareView::ask() {
    keep();
    refresh();
    soon_.start(120);
}

// All purposes at once, away from the window's thread.
void PrepareView::compute() {
    if (watcher_.isRunning()) {
        again_ = true;
        return;
    }
    again_ = false;
    auto asked = asked_;
    asked.water.noise_db = tuner_.learnedNoise();
    watcher_.setFuture(QtConcurrent::run([q = asked] {
        Answers answers;
        Yields yields(q.gear, q.water, q.thing);
        for (const auto by : all_readers) {
            const auto k = static_cast<std::size_t>(by);
            const auto ranges = [&](Purpose purpose) {
                std::vector<double> by_band;
                for (std::size_t band = 0; band < q.gear.bands.size(); ++band)
                    by_band.push_back(advise(yields, purpose, q.fastest_m_s, by, band).yield.setting.range_m);
                return by_band;
            };
            // Within one band all searches ask for the same.
            const auto searching = ranges(Purpose::search_wide), inspecting = ranges(Purpose::inspect);
            for (std::size_t i = 0; i < all_purposes.size(); ++i) {
                answers.by_purpose[k][i] = advise(yields, all_purposes[i], q.fastest_m_s, by);
                answers.range_by_band[k][i] = all_purposes[i] == Purpose::inspect ? inspecting : searching;
            }
        }
        return answers;
    }));
}

void PrepareView::answered() {
    if (const auto &a = answer()) {
        tuner_.setAdvised(*a, ranges_by_band_[static_cast<std::size_t>(asked_.read_by)][chosen()]);
        tuner_.setWater(asked_.water);
    }
    warn();
    refresh();
}

// What the advice rests on and where it would not hold, in the units of now.
void PrepareView::warn() {
    warnings_.clear();
    if (const auto &a = answer()) {
        if (a->yield.worth_m2 <= 0)
            warnings_ << tr("With this gear nothing so small shows in this water at any setting.");
        if (tuner_.learnedNoise() > 0)
            warnings_ << tr("On the water the bottom sank into noise past %1: computed with %2 dB more noise "
                            "than the "
                            "unit's own.")
                             .arg(length(tuner_.learnedReach()))
                             .arg(std::lround(tuner_.learnedNoise()));
        const auto &y = a->yield;
        if (const double share = altitude_of_range_percent(asked_.gear, asked_.water, y.setting);
            share < least_altitude_percent || share > most_altitude_percent)
            warnings_ << tr("The transducer's height over the bottom is %1 in 100 of this range; surveyors "
                            "keep 8 to "
                            "20.")
                             .arg(std::lround(share));
        // Empty promise: the shallowest water decides.
        auto shallow = asked_.water;
        shallow.deepest_m = shallow.shallowest_m;
        const double useful = useful_range_m(asked_.gear, shallow, y.setting, shallow.shallowest_m);
        const double altitude = std::max(0.05, shallow.shallowest_m - asked_.gear.draught_m);
        if (useful < 0.8 * y.setting.range_m)
            warnings_
                << tr("Where it is %1 deep the picture ends at %2 of %3: past it sound meets the bottom "
                      "under %4°.")
                       .arg(length(shallow.shallowest_m, 1), length(useful), length(y.setting.range_m))
                       .arg(QString::number(std::asin(std::min(1.0, altitude / useful)) * degrees_per_radian,
                                            'f', 1));
        if (asked_.water.below_c)
            warnings_ << tr("Layered water bends sound: a thing far out reads up to an eighth too low.");
        const double c = asked_.gear.assumed_sound_speed_m_s;
        if (c > 0)
            warnings_ << tr("The unit assumes %1 m/s; here sound runs %2 m/s, so it reads distances %3 "
                            "in 100 too %4.")
                             .arg(std::lround(c))
                             .arg(std::lround(sound_speed_fresh_m_s(asked_.water.temperature_c)))
                             .arg(QString::number(
                                 100 * std::fabs(c / sound_speed_fresh_m_s(asked_.water.temperature_c) - 1),
                                 'f', 1))
                             .arg(c > sound_speed_fresh_m_s(asked_.water.temperature_c) ? tr("long")
                                                                                        : tr("short"));
        const auto &band = asked_.gear.bands[std::min(y.setting.band, asked_.gear.bands.size() - 1)];
        // The sounder of the stern and the circle at the bow would hear each other on one band.
        warnings_ << tr("Keep the other sonar off %1 to %2 kHz: two on one band blind each other.")
                         .arg(std::lround((band.frequency_hz - band.bandwidth_hz - 10e3) / 1000))
                         .arg(std::lround((band.frequency_hz + band.bandwidth_hz + 10e3) / 1000));
    }
    update();
}

void PrepareView::refresh() {
    const auto check = [](Choice &c, int chosen) {
        for (std::size_t i = 0; i < c.keys.size(); ++i)
            c.keys[i]->setChecked(static_cast<int>(i) == chosen);
    };
    int clear = 0;
    for (int i = 1; i < 3; ++i)
        if (std::fabs(suspended[i] - asked_.water.suspended_db) <
            std::fabs(suspended[clear] - asked_.water.suspended_db))
            clear = i;
    check(clarity_, clear);
    check(bottom_, static_cast<int>(asked_.water.bottom));
    check(purpose_, static_cast<int>(asked_.purpose));
    check(read_by_, static_cast<int>(asked_.read_by));
    check(kind_, asked_.thing.kind == SmallestThing::Kind::fish ? 0 : 1);
    layered_->setChecked(asked_.water.below_c.has_value());
    take_->setEnabled(answer().has_value());
    update();
}

void PrepareView::take() {
    if (!answer())
        return;
    auto s = tuner_.advisedSettings();
    s.pinging = context_.session.sounder.settings().pinging;
    s.tvg_log = context_.session.sounder.settings().tvg_log;
    if (context_.session.sources.source() == Sources::Source::sounder && context_.session.sounder.hello())
        tuner_.set(s, QStringLiteral("advice"), titleOf(asked_.purpose));
    context_.window.askPlace(place::scan);
}

double PrepareView::sliderX(double depth) const {
    return 24 + depth / deepest_slider_m * (285 - 48);
}
QRectF PrepareView::depthHandle(bool deep) const {
    double a = sliderX(asked_.water.shallowest_m), b = sliderX(asked_.water.deepest_m);
    if (b - a < 48) {
        const double middle = (a + b) / 2;
        a = middle - 24;
        b = middle + 24;
    }
    return {(deep ? b : a) - 23, 58, 46, 44};
}

void PrepareView::mousePressEvent(QMouseEvent *event) {
    for (const bool deep : {false, true})
        if (depthHandle(deep).contains(event->position()))
            grip_ = deep ? Grip::deep : Grip::shallow;
}
void PrepareView::mouseMoveEvent(QMouseEvent *event) {
    if (grip_ == Grip::none)
        return;
    const double step = context_.session.preferences.units() == UnitSystem::feet ? metres_per_foot : 0.5;
    double depth = (event->position().x() - 24) / (285 - 48) * deepest_slider_m;
    depth = std::clamp(std::round(depth / step) * step, 2 * step, deepest_slider_m);
    auto &w = asked_.water;
    if (grip_ == Grip::shallow)
        w.shallowest_m = std::min(depth, w.deepest_m);
    else
        w.deepest_m = std::max(depth, w.shallowest_m);
    update();
}
void PrepareView::mouseReleaseEvent(QMouseEvent *) {
    if (grip_ != Grip::none)
        ask();
    grip_ = Grip::none;
}

PrepareView::Column PrepareView::column() const {
    constexpr int w = 285 - 32;
    Column c{};
    c.gear_facts = height() >= 740;
    c.gear_rule = 326;
    c.gear_title = c.gear_rule + 22;
    c.gear_key = c.gear_facts ? QRect(16, 420, w, 46) : QRect(16 + w - 122, c.gear_rule + 6, 122, 44);
    c.purpose_rule = c.gear_key.bottom() + 9;
    c.purpose_keys = c.purpose_rule + 26;
    c.thing_keys = c.purpose_keys + 2 * 52 + 20;
    return c;
}

void PrepareView::resizeEvent(QResizeEvent *) {
    constexpr int w = 285 - 32;
    const auto row = [&](Choice &c, int y, int columns, int h = 44) {
        const int n = static_cast<int>(c.keys.size()), each = (w - (columns - 1) * 4) / columns;
        for (int i = 0; i < n; ++i)
            c.keys[static_cast<std::size_t>(i)]->setGeometry(16 + (i % columns) * (each + 4),
                                                             y + (i / columns) * (h + 4), each, h);
    };
    row(clarity_, 152, 3);
    row(bottom_, 222, 4);
    colder_->setGeometry(16 + 94, 272, 44, 44);
    warmer_->setGeometry(16 + 142, 272, 44, 44);
    layered_->setGeometry(16 + 190, 272, 63, 44);
    const auto c = column();
    gear_key_->setGeometry(c.gear_key);
    row(purpose_, c.purpose_keys, 2, 48);
    for (std::size_t i = 0; i < 2; ++i)
        kind_.keys[i]->setGeometry(16 + static_cast<int>(i) * 66, c.thing_keys, 62, 46);
    smaller_->setGeometry(285 - 16 - 98, c.thing_keys, 46, 46);
    larger_->setGeometry(285 - 16 - 46, c.thing_keys, 46, 46);
    for (int i = 0; i < 2; ++i)
        read_by_.keys[static_cast<std::size_t>(i)]->setGeometry(width() - 16 - (2 - i) * 150 + 4, 4, 146, 44);
    take_->setGeometry(16, height() - (c.gear_facts ? 76 : 60), w, c.gear_facts ? 60 : 52);
    area_less_->setGeometry(300 + 150, height() - 60, 44, 44);
    area_more_->setGeometry(300 + 198, height() - 60, 44, 44);
    editor_->setGeometry(286, 0, width() - 286, height());
}

} // namespace heron::app
