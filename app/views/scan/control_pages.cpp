#include "views/scan/control_pages.hpp"

#include "kit/key_button.hpp"
#include "kit/theme.hpp"
#include "parts/picture_view.hpp"

#include <QPainter>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

constexpr std::array ranges_ft{20.0, 25.0, 30.0,  40.0,  50.0,  60.0, 70.0,
                               80.0, 90.0, 100.0, 120.0, 150.0, 200.0};
constexpr std::array ranges_m{6.0, 8.0, 10.0, 12.0, 15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0, 60.0};
constexpr std::array play_speeds{0.5, 1.0, 2.0, 4.0, 8.0, 16.0, 64.0, 1000.0};
constexpr int key_side = 48;
constexpr std::array near_m{0.0, 0.5, 1.0, 1.5, 2.0, 3.0};

template <std::size_t N>
double stepped(const std::array<double, N> &choices, double now, int step) {
    std::ptrdiff_t i = 0;
    while (i + 1 < std::ssize(choices) && choices[static_cast<std::size_t>(i)] < now)
        ++i;
    return choices[static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(i + step, 0, std::ssize(choices) - 1))];
}

} // namespace

ControlPages::ControlPages(ViewContext &context, PictureView &picture, QWidget *parent)
    : QWidget(parent), context_(context), tuner_(context.tuner), picture_(picture) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    addKeys();
    connect(sounder_tab_, &KeyButton::clicked, this, [this] { setPage(Page::sounder); });
    connect(picture_tab_, &KeyButton::clicked, this, [this] { setPage(Page::picture); });
    const auto playing = [this] {
        return context_.session.sources.source() == Sources::Source::recording ||
               context_.session.sources.source() == Sources::Source::trip;
    };
    connect(range_less_, &KeyButton::clicked, this, [=, this] { playing() ? stepSpeed(-1) : stepRange(-1); });
    connect(range_more_, &KeyButton::clicked, this, [=, this] { playing() ? stepSpeed(1) : stepRange(1); });
    connect(follow_, &KeyButton::clicked, &tuner_, &Tuner::setRangeFollows);
    connect(band_less_, &KeyButton::clicked, this, [this] { stepBand(-1); });
    connect(band_more_, &KeyButton::clicked, this, [this] { stepBand(1); });
    connect(gain_less_, &KeyButton::clicked, this, [this] { stepGain(-1); });
    connect(gain_more_, &KeyButton::clicked, this, [this] { stepGain(1); });
    connect(tune_, &KeyButton::clicked, this, [this] {
        std::optional<TuningSpot> spot;
        if (picture_.picked())
            if (const auto at = picture_.pointed())
                spot = TuningSpot{at->row, at->side, at->slant_m, true};
        if (spot || picture_.frozen()) {
            const auto row = spot ? spot->row : picture_.topRow();
            context_.session.notices.say(QStringLiteral("tune"),
                                         tuner_.fromStored(spot, row > 60 ? row - 60 : 0, row + 1));
        }
        if (context_.session.sources.source() == Sources::Source::sounder)
            tuner_.tuneForMe(spot);
    });
    connect(tvg_less_, &KeyButton::clicked, this, [this] { stepTvg(-1); });
    connect(tvg_more_, &KeyButton::clicked, this, [this] { stepTvg(1); });
    connect(pinging_, &KeyButton::clicked, this, [this](bool on) {
        auto s = context_.session.sounder.wanted();
        s.pinging = on;
        context_.session.sounder.ask(s);
    });
    connect(map_less_, &KeyButton::clicked, this, [] { Theme::instance().nextMap(-1); });
    connect(map_more_, &KeyButton::clicked, this, [] { Theme::instance().nextMap(1); });
    const auto filter = [this](bool PictureFilters::*which, const QString &what) {
        return [this, which, what](bool on) {
            auto f = context_.window.filters();
            tuner_.showedOtherwise(what, f.*which ? tr("on") : tr("off"), on ? tr("on") : tr("off"));
            f.*which = on;
            context_.window.setFilters(f);
        };
    };
    connect(even_, &KeyButton::clicked, this, filter(&PictureFilters::flatten, tr("even")));
    connect(contrast_, &KeyButton::clicked, this, filter(&PictureFilters::local_contrast, tr("grains")));
    connect(streaks_, &KeyButton::clicked, this, filter(&PictureFilters::reject_streaks, tr("streaks")));
    connect(near_less_, &KeyButton::clicked, this, [this] { stepNear(-1); });
    connect(near_more_, &KeyButton::clicked, this, [this] { stepNear(1); });
    connect(along_, &KeyButton::clicked, this,
            [this](bool on) { picture_.setAlong(on ? Along::ground : Along::pings); });

    const auto &session = context_.session;
    connect(&session.preferences, &Preferences::unitsChanged, this, &ControlPages::refresh);
    connect(&session.sounder, &Sounder::settingsChanged, this, &ControlPages::refresh);
    connect(&session.sources, &Sources::stateChanged, this, &ControlPages::refresh);
    connect(&session.playback, &Playback::speedChanged, this, &ControlPages::refresh);
    connect(&session.shown, &ShownScan::replaced, this, &ControlPages::refresh);
    connect(&session.connections, &Connections::changed, this, &ControlPages::refresh);
    connect(&context_.window, &WindowState::displayChanged, this, &ControlPages::refresh);
    for (auto signal :
         {&Tuner::advisedChanged, &Tuner::gearChanged, &Tuner::rangeFollowChanged, &Tuner::tuningChanged})
        connect(&tuner_, signal, this, &ControlPages::refresh);
    connect(&picture_, &PictureView::shapeChanged, this, &ControlPages::refresh);
    connect(&Theme::instance(), &Theme::changed, this, &ControlPages::refresh);
    setPage(Page::sounder);
}

void ControlPages::addKeys() {
    const auto none = QString();
    const auto minus = QStringLiteral("−"), plus = QStringLiteral("+");
    sounder_tab_ = add("sounderTab", none, tr("Sounder"), QKeySequence(), tr("What the sounder does"));
    picture_tab_ = add("pictureTab", none, tr("Picture"), QKeySequence(), tr("How the picture is shown"));
    range_less_ = add("rangeLess", none, minus, Qt::Key_BracketLeft, tr("Shorter range"));
    range_more_ = add("rangeMore", none, plus, Qt::Key_BracketRight, tr("Longer range"));
    follow_ = add("rangeFollows", none, tr("auto"), Qt::Key_A,
                  tr("The range follows the depth, three times as long"));
    band_less_ = add("bandLess", none, minus, QKeySequence(), tr("Lower band: reaches farther, shows less"));
    band_more_ = add("bandMore", none, plus, Qt::Key_B, tr("Next band: finer, reaches less far"));
    gain_less_ = add("gainLess", none, minus, Qt::Key_Minus, tr("Less gain"));
    gain_more_ = add("gainMore", none, plus, Qt::Key_Equal, tr("More gain"));
    tune_ = add("tune", none, tr("tune"), Qt::Key_Q,
                tr("Find the right gain from the picture in a few steps; on a frozen picture, for the thing "
                   "pointed at"));
    tvg_less_ = add("tvgLess", none, minus, QKeySequence(), tr("Less lift of far levels (time-varied gain)"));
    tvg_more_ = add("tvgMore", none, plus, QKeySequence(), tr("More lift of far levels (time-varied gain)"));
    pinging_ = add("pinging", none, tr("ping"), Qt::Key_P, tr("Let the sounder ping, or rest"));
    map_less_ = add("mapLess", none, QStringLiteral("<"), QKeySequence(), tr("The colour map before"));
    map_more_ = add("mapMore", none, QStringLiteral(">"), Qt::Key_K, tr("The next colour map"));
    even_ = add("even", none, tr("even"), QKeySequence(), tr("Even out the fall of levels with angle"));
    contrast_ =
        add("contrast", none, tr("grains"), QKeySequence(),
            tr("Local contrast: small grains such as fish stand out, the texture of the bottom is lost"));
    near_less_ = add("nearLess", none, minus, QKeySequence(), tr("Hide less near the surface"));
    near_more_ = add("nearMore", none, plus, QKeySequence(),
                     tr("Hide more near the surface: cleaner, but bait goes too"));
    streaks_ = add("streaks", none, tr("streaks"), QKeySequence(),
                   tr("Take out what only one ping heard: interference, and the smallest echoes with it"));
    along_ = add("along", none, tr("to scale"), QKeySequence(),
                 tr("The track to scale, from the boat's speed; off: one line a ping"));
    for (auto *k : {follow_, pinging_, even_, contrast_, streaks_, along_, sounder_tab_, picture_tab_})
        k->setCheckable(true);
}

KeyButton *ControlPages::add(const char *name, const QString &glyph, const QString &text,
                             const QKeySequence &letter, const QString &tip) {
    auto *key = new KeyButton(glyph, text, letter, tip, this);
    key->setObjectName(QString::fromLatin1(name));
    return key;
}

bool ControlPages::live() const {
    return context_.session.sources.source() == Sources::Source::sounder &&
           context_.session.sounder.hello() && context_.session.sources.flow() != Sources::Flow::lost;
}

void ControlPages::setPage(Page page) {
    page_ = page;
    const bool s = page == Page::sounder;
    // Keys of the page that is not shown keep their letters: range and gain are wanted at any time.
    for (auto *k : {range_less_, range_more_, follow_, band_less_, band_more_, gain_less_, gain_more_, tune_,
                    tvg_less_, tvg_more_, pinging_})
        k->move(s ? k->x() : -1000, k->y());
    for (auto *k : {map_less_, map_more_, even_, contrast_, near_less_, near_more_, streaks_, along_})
        k->move(s ? -1000 : k->x(), k->y());
    resizeEvent(nullptr);
    refresh();
}

void ControlPages::resizeEvent(QResizeEvent *) {
    const int half = (width() - 32) / 2;
    sounder_tab_->setGeometry(16, 2, half, tabs - 2);
    picture_tab_->setGeometry(16 + half, 2, width() - 32 - half, tabs - 2);
    const bool s = page_ == Page::sounder;
    constexpr int gap = 5;
    const auto place = [&](int row, std::initializer_list<KeyButton *> keys, int w = key_side) {
        int x = width() - 16 - static_cast<int>(keys.size()) * w - (static_cast<int>(keys.size()) - 1) * gap;
        for (auto *k : keys) {
            k->setGeometry(x, tabs + 8 + row * rowHeight() + (rowHeight() - key_side) / 2 + 1, w, key_side);
            x += w + gap;
        }
    };
    const auto away = [](std::initializer_list<KeyButton *> keys) {
        for (auto *k : keys)
            k->setGeometry(-1000, 0, key_side, key_side);
    };
    if (s) {
        place(0, {range_less_, range_more_, follow_});
        place(1, {band_less_, band_more_});
        place(2, {gain_less_, gain_more_, tune_});
        place(3, {tvg_less_, tvg_more_, pinging_});
        away({map_less_, map_more_, even_, contrast_, near_less_, near_more_, streaks_, along_});
    } else {
        place(0, {map_less_, map_more_});
        place(1, {near_less_, near_more_});
        place(2, {even_, contrast_}, 78);
        place(3, {streaks_, along_}, 78);
        away({range_less_, range_more_, follow_, band_less_, band_more_, gain_less_, gain_more_, tune_,
              tvg_less_, tvg_more_, pinging_});
    }
}

void ControlPages::refresh() {
    const bool sounding = live();
    const bool playing = context_.session.sources.source() == Sources::Source::recording ||
                         context_.session.sources.source() == Sources::Source::trip;
    sounder_tab_->setChecked(page_ == Page::sounder);
    picture_tab_->setChecked(page_ == Page::picture);
    const bool steered = sounding && context_.session.sounder.takesRequests();
    for (auto *k : {range_less_, range_more_})
        k->setEnabled(steered || playing);
    for (auto *k : {band_less_, band_more_, gain_less_, gain_more_, tvg_less_, tvg_more_, follow_, pinging_})
        k->setEnabled(steered);
    tune_->setEnabled(!context_.session.shown.empty() && (steered || !sounding));
    follow_->setChecked(tuner_.rangeFollows());
    pinging_->setChecked(sounding && context_.session.sounder.settings().pinging);
    const auto &f = context_.window.filters();
    even_->setChecked(f.flatten);
    contrast_->setChecked(f.local_contrast);
    streaks_->setChecked(f.reject_streaks);
    along_->setChecked(picture_.along() == Along::ground);

    words_.clear();
    if (page_ == Page::picture)
        tellPicture();
    else if (playing)
        tellPlaying();
    else
        tellSounder();
    update();
}

QString ControlPages::length(double m) const {
    const auto units = context_.session.preferences.units();
    const int decimals = units == UnitSystem::feet || m >= 10 ? 0 : 1;
    return QString::fromStdString(print_length(m, units, decimals).figure);
}

QString ControlPages::lengthUnit() const {
    return context_.session.preferences.units() == UnitSystem::feet ? tr("ft") : tr("m");
}

// A trip or recording: how it was set cannot be changed any more.
void ControlPages::tellPlaying() {
    const auto &shown = context_.session.shown;
    const auto none = QStringLiteral("–");
    const double v = context_.session.playback.speed();
    words_.push_back({tr("Playing"),
                      v >= Playback::at_once ? tr("at once") : tr("%1 ×").arg(v),
                      {},
                      context_.session.sources.source() == Sources::Source::trip
                          ? tr("Space plays from the top row")
                          : QString()});
    const auto settings = shown.empty() ? SoundingSettings() : shown.scan().settings(shown.newest());
    words_.push_back({tr("Band"),
                      shown.empty() ? none : QString::number(std::lround(settings.frequency_hz / 1000)),
                      tr("kHz"),
                      {}});
    words_.push_back({tr("Gain"), shown.empty() ? none : QString::number(settings.gain), {}, {}});
    words_.push_back({tr("Range"), length(picture_.range()), lengthUnit(), {}});
}

// What is set, and what differs from plain and from advised.
void ControlPages::tellSounder() {
    const auto &now = context_.session.sounder.settings();
    const auto plain = tuner_.plain(), advised = tuner_.advisedSettings();
    const bool known = context_.session.sounder.hello().has_value();
    const auto differ = [&](const QString &value, const QString &plain_value, const QString &advised_value) {
        QStringList parts;
        if (known && tuner_.advised() && advised_value != value)
            parts << tr("advised %1").arg(advised_value);
        if (known && plain_value != value)
            parts << tr("plain %1").arg(plain_value);
        return parts.join(QStringLiteral(" · "));
    };
    const auto told = [known](const QString &value) { return known ? value : QStringLiteral("–"); };
    const auto khz = [](double hz) { return QString::number(std::lround(hz / 1000)); };
    const auto whole = [](double v) { return QString::number(v); };
    words_.push_back({tuner_.rangeFollows() ? tr("Range, %1 × depth").arg(tuner_.timesDepth()) : tr("Range"),
                      told(length(now.range_m)), lengthUnit(),
                      differ(length(now.range_m), length(plain.range_m),
                             length(tuner_.advisedRange(now.frequency_hz).value_or(advised.range_m)))});
    if (known && !context_.session.sounder.takesRequests()) {
        // A unit that is looked at: what its own keys hold is not known here.
        words_.push_back({tr("Band"), tr("the unit's"), {}, {}});
        words_.push_back({tr("Gain"), tr("the unit's"), {}, {}});
        words_.push_back({tr("TVG"), tr("the unit's"), {}, {}});
        return;
    }
    words_.push_back({tr("Band"), told(khz(now.frequency_hz)), tr("kHz"),
                      differ(khz(now.frequency_hz), khz(plain.frequency_hz), khz(advised.frequency_hz))});
    words_.push_back({tr("Gain"), told(whole(now.gain)), tr("of %1").arg(tuner_.gear().gain_steps),
                      differ(whole(now.gain), whole(plain.gain), whole(advised.gain))});
    words_.push_back({tr("TVG"), told(whole(now.tvg_log)), tr("log r"),
                      differ(whole(now.tvg_log), whole(plain.tvg_log), whole(advised.tvg_log))});
}

void ControlPages::tellPicture() {
    const auto &f = context_.window.filters();
    const auto units = context_.session.preferences.units();
    const bool off = f.near_surface_m == 0;
    words_.push_back({tr("Map"), Theme::instance().mapName(), {}, {}});
    words_.push_back(
        {tr("Surface filter"),
         off ? tr("off") : QString::fromStdString(print_length(f.near_surface_m, units, 1).figure),
         off ? QString() : lengthUnit(), off ? QString() : tr("plain off")});
    words_.push_back({tr("Levels"), {}, {}, f.local_contrast ? tr("texture is lost") : QString()});
    words_.push_back({tr("Rows"), {}, {}, f.reject_streaks ? tr("small echoes go too") : QString()});
    // What the filters on hide just now.
    if (off && !f.reject_streaks)
        return;
    const auto hidden = picture_.hiddenNow();
    if (!off)
        words_[1].differs = tr("hides %1 echoes").arg(hidden.near_surface);
    if (f.reject_streaks)
        words_[3].differs = tr("took out %1").arg(hidden.streaks);
}

QString ControlPages::differs(int row) const {
    return static_cast<std::size_t>(row) < words_.size() ? words_[static_cast<std::size_t>(row)].differs
                                                         : QString();
}

// How far words may reach in a row before its first key.
double ControlPages::roomBeside(int top, int row) const {
    int first = width() - 16;
    for (const auto *key : findChildren<KeyButton *>())
        if (key->x() >= 0 && key->y() >= top - 2 && key->y() < top + row - 2)
            first = std::min(first, key->x());
    return first - 16 - 6;
}

void ControlPages::paintEvent(QPaintEvent *) {
    QPainter p(this);
    p.fillRect(rect(), colour("page"));
    p.setPen(QPen(colour("line"), 1.5));
    p.drawLine(16, tabs + 4, width() - 16, tabs + 4);
    int top = tabs + 8;
    const int row = rowHeight();
    const bool close = row < 58;
    for (const auto &w : words_) {
        const double room = roomBeside(top, row);
        wordsWithin(p, 16, top + (close ? 13 : 16), w.label, room, 13, false, "ink2");
        const double wide =
            wordsWithin(p, 16, top + (close ? 33 : 40), w.figure, room, close ? 20 : 24, true, "ink");
        if (wide + 6 < room)
            wordsWithin(p, 22 + wide, top + (close ? 33 : 40), w.unit, room - wide - 6, 13, false, "ink2");
        wordsWithin(p, 16, top + (close ? 48 : 55), w.differs, room, 12, false, "ink");
        top += row;
        if (top < height() - 8) {
            p.setPen(QPen(colour("hair"), 1));
            p.drawLine(16, top, width() - 16, top);
        }
    }
}

void ControlPages::stepRange(int step) {
    if (!context_.session.sounder.hello())
        return;
    const auto &hello = *context_.session.sounder.hello();
    const bool feet = context_.session.preferences.units() == UnitSystem::feet;
    std::vector<double> choices;
    for (const double v : feet ? std::vector<double>(ranges_ft.begin(), ranges_ft.end())
                               : std::vector<double>(ranges_m.begin(), ranges_m.end())) {
        const double m = feet ? metres_from_feet(v) : v;
        if (m >= hello.shortest_range_m * 0.999 && m <= hello.longest_range_m * 1.001)
            choices.push_back(m);
    }
    auto s = context_.session.sounder.wanted();
    double best = s.range_m;
    for (const double c : choices) {
        if (step > 0 && c > s.range_m * 1.005) {
            best = c;
            break;
        }
        if (step < 0 && c < s.range_m * 0.995)
            best = c;
    }
    s.range_m = best;
    tuner_.setRangeFollows(false);
    tuner_.set(s, QStringLiteral("guide"));
}

void ControlPages::stepBand(int step) {
    if (!context_.session.sounder.hello())
        return;
    const auto &bands = context_.session.sounder.hello()->bands_hz;
    auto s = context_.session.sounder.wanted();
    std::ptrdiff_t i = 0;
    for (std::ptrdiff_t j = 0; j < std::ssize(bands); ++j)
        if (std::fabs(bands[static_cast<std::size_t>(j)] - s.frequency_hz) <
            std::fabs(bands[static_cast<std::size_t>(i)] - s.frequency_hz))
            i = j;
    const auto n = std::ssize(bands);
    s.frequency_hz = bands[static_cast<std::size_t>((i + step + n) % n)];
    tuner_.set(s, QStringLiteral("guide"));
}

void ControlPages::stepGain(int step) {
    auto s = context_.session.sounder.wanted();
    s.gain = std::clamp(s.gain + 2 * step, 0, tuner_.gear().gain_steps);
    tuner_.stopTuning();
    tuner_.set(s, QStringLiteral("guide"));
}

void ControlPages::stepTvg(int step) {
    auto s = context_.session.sounder.wanted();
    s.tvg_log = std::clamp(s.tvg_log + 5.0 * step, 0.0, 60.0);
    tuner_.set(s, QStringLiteral("guide"));
}

void ControlPages::stepSpeed(int step) {
    context_.session.playback.setSpeed(stepped(play_speeds, context_.session.playback.speed(), step));
}

void ControlPages::stepNear(int step) {
    auto f = context_.window.filters();
    const double before = f.near_surface_m;
    f.near_surface_m = stepped(near_m, before, step);
    if (f.near_surface_m == before)
        return;
    const auto say = [&](double m) {
        return m == 0
                   ? tr("off")
                   : QString::fromStdString(print_length(m, context_.session.preferences.units(), 1).text());
    };
    tuner_.showedOtherwise(tr("surface filter"), say(before), say(f.near_surface_m));
    context_.window.setFilters(f);
}

} // namespace heron::app
