#include "practice/trainer.hpp"

#include "files/atomic_file.hpp"
#include "reading/reader.hpp"
#include "recording/recording.hpp"

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QRandomGenerator>
#include <QSettings>
#include <algorithm>
#include <array>
#include <cmath>

namespace heron::app {
namespace {

const QString topic = QStringLiteral("practice"), people_key = QStringLiteral("practice/people"),
              person_key = QStringLiteral("practice/person"),
              progress_key = QStringLiteral("practice/progress/");

} // namespace

Trainer::Trainer(Session &session, QObject *parent) : QObject(parent), session_(session) {
    const QSettings kept;
    setPerson(kept.value(person_key, tr("Guide")).toString());
    connect(&process_, &QProcess::finished, this, &Trainer::recorded);
    connect(&process_, &QProcess::readyReadStandardOutput, this, [this] {
        // Its last whole line that is a number; what it says at the end is none.
        bool number = false;
        int hundredths = 0;
        while (process_.canReadLine())
            if (const int v = process_.readLine().trimmed().toInt(&number); number)
                hundredths = v;
        if (!making_ || hundredths <= 0)
            return;
        made_ = std::clamp(hundredths / 100.0, made_, 1.0);
        emit changed();
    });
    connect(&process_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error != QProcess::FailedToStart)
            return;
        making_ = false;
        session_.notices.raise(topic, {tr("%1 could not be started").arg(process_.program()).toStdString(),
                                       {},
                                       tr("install the program again").toStdString()});
        emit changed();
    });
}

Trainer::~Trainer() {
    disconnect(&process_, nullptr, this, nullptr);
    process_.kill();
    process_.waitForFinished(2000);
}

QStringList Trainer::people() const {
    auto names = QSettings().value(people_key).toStringList();
    if (!names.contains(person_))
        names << person_;
    names.sort();
    return names;
}

void Trainer::setPerson(const QString &name) {
    person_ = name.trimmed().left(40).remove(QLatin1Char('/'));
    if (person_.isEmpty())
        person_ = tr("Guide");
    QSettings kept;
    kept.setValue(person_key, person_);
    auto names = kept.value(people_key).toStringList();
    if (!names.contains(person_))
        kept.setValue(people_key, names << person_);
    progress_ = PracticeProgress::of(kept.value(progress_key + person_).toString().toStdString());
    emit changed();
}

void Trainer::setDifficulty(int difficulty) {
    difficulty_ = std::clamp(difficulty, 0, 2);
    left_.clear();
    emit changed();
}

void Trainer::next() {
    if (making_)
        return;
    question_.reset();
    answered_.reset();
    // Which look is uphill is asked on a lake of its own, and that lake asks nothing else: figures of the
    // other questions hold on level ground.
    const bool wants_slope = progress_.next() == Skill::uphill;
    if (own() || set_)
        askOwn();
    else if (left_.empty() || !scan_ || wants_slope)
        makeLake();
    else
        ask();
}

void Trainer::stop() {
    if (!making_)
        return;
    making_ = false;
    ++round_;
    process_.kill();
    process_.waitForFinished(2000);
    emit changed();
}

void Trainer::makeLake() {
    making_ = true;
    made_ = 0;
    ++round_;
    seed_ = QRandomGenerator::global()->generate() % 1'000'000;
    slopes_ = progress_.next() == Skill::uphill;
    lake_ = slopes_ ? sloping_lake(seed_, difficulty_) : practice_lake(seed_, difficulty_);
    scan_.reset();
    folder_ = std::make_unique<QTemporaryDir>();
    QFile scene(folder_->filePath(QStringLiteral("lake.json")));
    if (!scene.open(QFile::WriteOnly) || scene.write(QByteArray::fromStdString(lake_.scene)) < 0) {
        making_ = false;
        session_.notices.raise(topic, {tr("%1 could not be written").arg(scene.fileName()).toStdString(),
                                       {},
                                       tr("make room on the disk").toStdString()});
        emit changed();
        return;
    }
    scene.close();
    const auto beside =
        QDir(QCoreApplication::applicationDirPath()).filePath(QStringLiteral("heron-sounder"));
    QStringList arguments{scene.fileName(),
                          QStringLiteral("--record"),
                          folder_->filePath(QStringLiteral("lake.nc")),
                          QStringLiteral("--seconds"),
                          QString::number(lake_.length_m / lake_.speed_m_s, 'f', 1),
                          QStringLiteral("--progress"),
                          QStringLiteral("--range"),
                          QString::number(lake_.range_m, 'f', 1)};
    // Every other water is heard by the other engine: an eye shall learn the water, not one engine's look.
    if (seed_ % 2 == 1)
        arguments << QStringLiteral("--scatterers");
    process_.start(program_.isEmpty() ? beside : program_, arguments);
    emit changed();
}

void Trainer::recorded() {
    if (!making_)
        return;
    made_ = 1;
    emit changed();
    session_.jobs.run<Sounded>(
        tr("reading the made-up water"), this,
        [file = folder_->filePath(QStringLiteral("lake.nc")).toStdString()](JobControl &) -> Result<Sounded> {
            const auto recording = RecordingReader::open(file);
            if (!recording)
                return tl::unexpected(recording.error());
            auto scan = std::make_shared<Scan>(std::size_t{300} << 20);
            scan->nav = recording->head().nav;
            scan->installation = recording->head().installation;
            for (std::size_t i = 0; i < recording->size(); ++i)
                if (auto ping = recording->ping(i))
                    scan->push({std::move(*ping), std::nullopt, {}});
            Reader reader;
            auto read = join_contacts(reader.advance(*scan, true), ReaderSettings().least_confidence);
            return Sounded{std::move(scan), std::move(read)};
        },
        [this, round = round_](Result<Sounded> sounded) {
            if (round != round_)
                return;
            making_ = false;
            if (!sounded) {
                session_.notices.raise(topic, sounded.error());
            } else {
                scan_ = std::move(sounded->scan);
                contacts_ = std::move(sounded->contacts);
                chooseThings();
                ask();
            }
            emit changed();
        });
}

// What hardly shows teaches a beginner nothing: on plain water what the program itself sees surely, on harder
// water what it sees at all, at the hardest everything. Where none does, the plainest.
void Trainer::chooseThings() {
    constexpr std::array least{0.5, 0.2, 0.0};
    left_.clear();
    std::size_t plainest = 0;
    double most = -1;
    for (std::size_t i = 0; i < lake_.things.size(); ++i) {
        const auto *c = contactAt(lake_.things[i]);
        const double sure = c != nullptr ? c->confidence : 0;
        if (sure > most) {
            most = sure;
            plainest = i;
        }
        if (sure >= least[static_cast<std::size_t>(difficulty_)])
            left_.push_back(i);
    }
    if (left_.empty())
        left_.push_back(plainest);
}

void Trainer::ask() {
    const auto thing = left_.front();
    left_.erase(left_.begin());
    const auto skill = slopes_ ? Skill::uphill : progress_.next();
    if (slopes_)
        left_.clear();
    question_ = practice_question(lake_, thing, skill, seed_ + static_cast<std::uint32_t>(thing),
                                  session_.preferences.units());
    answered_.reset();
    emit changed();
}

void Trainer::setOwn(std::vector<Mark> marks) {
    own_ = std::move(marks);
    set_.reset();
    own_left_.clear();
    question_.reset();
    answered_.reset();
    emit changed();
}

void Trainer::writeSet(const QString &path, const QString &title) {
    GuestSet set;
    set.title = title.toStdString();
    for (const auto &m : own_)
        set.questions.push_back(own_question(m, QRandomGenerator::global()->generate()));
    if (const auto done = write_file_atomically(path.toStdString(), text_of(set)); !done)
        session_.notices.raise(topic, done.error());
    else
        session_.notices.say(topic, tr("%n questions written to %1: no place, no name and no date are in it.",
                                       nullptr, static_cast<int>(set.questions.size()))
                                        .arg(path));
}

void Trainer::openSet(const QString &path) {
    const auto text = read_whole_file(path.toStdString(), GuestSet::most_bytes);
    auto set =
        text ? guest_set_of(*text, path.toStdString()) : Result<GuestSet>(tl::unexpected(text.error()));
    if (!set) {
        session_.notices.raise(topic, set.error());
        return;
    }
    setOwn({});
    set_ = std::move(*set);
    session_.notices.say(topic, tr("%1: %n questions.", nullptr, static_cast<int>(set_->questions.size()))
                                    .arg(QString::fromStdString(set_->title)));
    emit changed();
}

// Each once, in any order, before one comes again.
void Trainer::askOwn() {
    if (own_left_.empty()) {
        const auto n = set_ ? set_->questions.size() : own_.size();
        for (std::size_t i = 0; i < n; ++i)
            own_left_.push_back(i);
        std::shuffle(own_left_.begin(), own_left_.end(), *QRandomGenerator::global());
    }
    const auto which = own_left_.back();
    own_left_.pop_back();
    question_ =
        set_ ? set_->questions[which] : own_question(own_[which], QRandomGenerator::global()->generate());
    emit changed();
}

void Trainer::answer(std::size_t choice) {
    if (!question_ || answered_ || choice >= question_->choices.size())
        return;
    answered_ = choice;
    progress_.answer(question_->skill, choice == question_->right);
    QSettings().setValue(progress_key + person_, QString::fromStdString(progress_.text()));
    emit changed();
}

const Contact *Trainer::reading() const {
    return question_ && !question_->picture && !question_->riddle ? contactAt(thing()) : nullptr;
}

const Contact *Trainer::contactAt(const PracticeThing &t) const {
    const LocalPlane plane(lake_.origin);
    const Contact *best = nullptr;
    double least = 1.2 + t.length_m / 2;
    for (const auto &c : contacts_)
        if (c.place && c.zone != Zone::track) {
            const auto at = plane.to_plane(c.place->place);
            if (const double d = std::hypot(at.east_m - t.at.east_m, at.north_m - t.at.north_m); d < least) {
                least = d;
                best = &c;
            }
        }
    return best;
}

// The row whose transducer passed abeam of it, on the way that is asked for.
std::size_t Trainer::rowOf(const PracticeThing &thing, double heading_deg) const {
    constexpr double about_deg = 30;
    const LocalPlane plane(lake_.origin);
    std::size_t best = scan_->first();
    double least = 1e9;
    for (auto row = scan_->first(); row < scan_->end(); ++row)
        if (const auto fix = scan_->nav.fix_at(scan_->facts(row).time)) {
            const auto at = plane.to_plane(transducer_place(fix->pose, scan_->installation));
            if (const double off = std::fabs(at.north_m - thing.at.north_m);
                off < least && std::fabs(wrap_180(fix->pose.heading_deg - heading_deg)) < about_deg) {
                least = off;
                best = row;
            }
        }
    return best;
}

double Trainer::middle_slant_m() const {
    constexpr double beyond_m = 1; // its shadow matters more than what lies before it
    const auto &t = thing();
    return std::hypot(lake_.aside_m(t), lake_.altitude_m() - (t.floats ? t.height_m : 0)) + beyond_m;
}

Chip Trainer::picture(int width, int height, double metres_a_pixel) const {
    if (question_ && question_->picture)
        return *question_->picture;
    if (!scan_ || scan_->empty() || !question_)
        return {};
    LevelHistogram levels;
    for (auto row = scan_->first(); row < scan_->end(); row += 7)
        levels.add(scan_->ping(row), scan_->bottom(row));
    const auto &t = thing();
    auto window = levels.fitting_window();
    window.floor_db += question_->window_off_db;
    if (question_->skill == Skill::uphill)
        return bothLooks(window, width, height);
    return cut_chip(*scan_, rowOf(t), side(), middle_slant_m(), window, width, height, metres_a_pixel);
}

// Left the look of the pass north, right that of the pass back; the boat is to the left of both.
Chip Trainer::bothLooks(const DisplayWindow &window, int width, int height) const {
    constexpr double metres_a_pixel = 0.07;
    constexpr int gap = 4;
    const int half = width / 2;
    const auto across = static_cast<std::size_t>(2 * half);
    Chip both{2 * half, height, std::vector<std::uint8_t>(across * static_cast<std::size_t>(height))};
    const double slant = std::hypot(lake_.passes_off_m, lake_.altitude_m());
    for (const bool second : {false, true}) {
        const auto one = cut_chip(*scan_, rowOf(thing(), second ? 180 : 0), Side::starboard, slant + 1,
                                  window, half - gap, height, metres_a_pixel);
        for (int y = 0; y < std::min(height, one.height); ++y)
            std::copy_n(one.level.begin() + y * one.width, one.width,
                        both.level.begin() + y * 2 * half + (second ? half + gap : 0));
    }
    return both;
}

} // namespace heron::app
