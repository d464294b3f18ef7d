#include "marks/mark_library.hpp"

#include "exchange/mark_files.hpp"
#include "kit/counted.hpp"
#include "marks/joining.hpp"

#include <QFileInfo>

namespace heron::app {
namespace {

const auto topic = QStringLiteral("marks");

} // namespace

MarkLibrary::MarkLibrary(Session &session, QObject *parent) : QAbstractListModel(parent), session_(session) {
    connect(&session_.trip, &TripKeeper::began, this, &MarkLibrary::follow);
    connect(&session_.trip, &TripKeeper::ended, this, [this] {
        trip_copy_.reset();
        copies_ = false;
    });
}

int MarkLibrary::rowCount(const QModelIndex &parent) const {
    return parent.isValid() ? 0 : static_cast<int>(shown_ids_.size());
}

QVariant MarkLibrary::data(const QModelIndex &index, int role) const {
    const auto row = static_cast<std::size_t>(index.row());
    if (!index.isValid() || row >= shown_ids_.size())
        return {};
    const auto id = QString::fromStdString(shown_ids_[row]);
    if (role == id_role)
        return id;
    const auto *mark = find(id);
    if (role == Qt::DisplayRole && mark != nullptr)
        return QString::fromStdString(plain_name(*mark));
    return {};
}

void MarkLibrary::open(const QString &path) {
    auto book = MarkBook::open(path.toStdString());
    if (!book) {
        session_.notices.raise(topic, book.error());
        return;
    }
    book_.emplace(std::move(*book));
    book_->follow([this](const MarkWrites &writes) { changed(writes); });
    tell();
}

QString MarkLibrary::path() const {
    return book_ ? QString::fromStdString(book_->path().string()) : QString();
}

void MarkLibrary::changed(const MarkWrites &writes) {
    if (copies_)
        copyToTrip(writes);
    if (share_ && !from_others_)
        share_(writes);
}

// The trip gets its copy of every change, so that it tells the whole day by itself: after the library, and
// before the window shows the change as saved.
void MarkLibrary::follow() {
    if (!book_)
        return;
    if (session_.trip.keeping()) {
        auto copy = Database::open(session_.trip.journal()->path(), Database::Mode::write);
        if (copy && copy->run("PRAGMA synchronous = FULL"))
            trip_copy_.emplace(std::move(*copy));
    }
    copies_ = true;
    if (!session_.trip.keeping())
        takeFromTrip();
}

// What cannot be copied at once is copied in the trip's own turn, which tries again.
void MarkLibrary::copyToTrip(const MarkWrites &writes) {
    if (trip_copy_) {
        const auto copied = write_marks(*trip_copy_, writes);
        if (copied)
            return;
        auto fault = copied.error();
        fault.kept =
            tr("the mark is safe among your marks; its copy in the trip is tried again").toStdString();
        session_.notices.raise(QStringLiteral("trip"), fault);
    }
    session_.trip.keep([writes](TripFile &trip) { return write_marks(trip.database(), writes); });
}

// Marks that an old trip brings and nobody here has seen are taken in once.
void MarkLibrary::takeFromTrip() {
    auto *trip = session_.trip.openedTrip();
    const auto key = "marks_taken_by_" + book_->id();
    if (trip == nullptr || !trip->writes() || !trip->value(key).empty())
        return;
    std::vector<Mark> unknown;
    if (const auto brought = load_marks(trip->database()))
        for (const auto &m : *brought)
            if (book_->find(m.id) == nullptr)
                unknown.push_back(m);
    if (!unknown.empty() && !done(book_->add_all(unknown)))
        return;
    if (auto noted = trip->set_value(key, "yes"); !noted)
        session_.notices.raise(topic, noted.error());
    if (!unknown.empty())
        session_.notices.say(topic, tr("%1 of this trip were taken in; Undo takes them back.")
                                        .arg(counted(unknown.size(), tr("mark"), tr("marks"))));
}

const std::vector<Mark> &MarkLibrary::all() const {
    static const std::vector<Mark> none;
    return book_ ? book_->marks() : none;
}

const Mark *MarkLibrary::find(const QString &id) const {
    return book_ ? book_->find(id.toStdString()) : nullptr;
}

// Views are told what changed: rows that stay keep their place.
void MarkLibrary::tell() {
    std::vector<std::string> ids;
    ids.reserve(all().size());
    for (const auto &m : all())
        ids.push_back(m.id);
    const auto known = static_cast<int>(shown_ids_.size());
    if (ids.size() >= shown_ids_.size() && std::equal(shown_ids_.begin(), shown_ids_.end(), ids.begin())) {
        if (known > 0)
            emit dataChanged(index(0), index(known - 1));
        if (ids.size() > shown_ids_.size()) {
            beginInsertRows({}, known, static_cast<int>(ids.size()) - 1);
            shown_ids_ = std::move(ids);
            endInsertRows();
        }
    } else {
        beginResetModel();
        shown_ids_ = std::move(ids);
        endResetModel();
    }
    emit marksChanged();
}

bool MarkLibrary::done(const Result<void> &result) {
    if (!result) {
        session_.notices.raise(topic, result.error());
        return false;
    }
    session_.notices.pass(topic);
    tell();
    return true;
}

bool MarkLibrary::add(const Mark &mark) {
    if (!book_)
        return done(fail(tr("the file of marks is not open").toStdString(),
                         tr("the mark was not taken").toStdString(),
                         tr("start the program again with --marks and another file").toStdString()));
    // Made here: of this water, unless it says otherwise.
    auto own = mark;
    if (own.lake.empty())
        own.lake = session_.trip.water().left(150).toStdString();
    if (own.depth_m && !own.lake_level_m && session_.sources.live())
        own.lake_level_m = session_.trip.levelToday();
    return done(book_->add(own));
}

bool MarkLibrary::change(const Mark &mark) {
    return book_ && done(book_->change(mark));
}
bool MarkLibrary::remove(const QString &id) {
    return book_ && done(book_->remove(id.toStdString()));
}
bool MarkLibrary::undo() {
    return book_ && book_->can_undo() && done(book_->undo());
}

std::vector<MarkHistoryLine> MarkLibrary::historyOf(const QString &id) const {
    return book_ ? book_->history_of(id.toStdString()) : std::vector<MarkHistoryLine>();
}

bool MarkLibrary::changeAll(const std::vector<Mark> &marks) {
    return book_ && done(book_->add_all(marks));
}

bool MarkLibrary::removeAll(const std::vector<std::string> &ids) {
    return book_ && done(book_->replace({}, ids));
}

bool MarkLibrary::join(const QString &a, const QString &b) {
    const auto *one = find(a), *two = find(b);
    if (one == nullptr || two == nullptr || one == two)
        return false;
    const auto both = joined(*one, *two);
    const auto gone = two->id;
    return done(book_->replace({both}, {gone}));
}

bool MarkLibrary::addSighting(const QString &id, const Mark &seen) {
    const auto *mark = find(id);
    if (mark == nullptr)
        return false;
    auto one = joined(*mark, seen);
    one.note = mark->note;
    return change(one);
}

bool MarkLibrary::splitSighting(const QString &id, std::size_t sighting) {
    const auto *m = find(id);
    const auto parts = m != nullptr ? split(*m, sighting) : std::nullopt;
    return parts && done(book_->add_all({parts->rest, parts->taken}));
}

bool MarkLibrary::takeFromOthers(const std::vector<Mark> &marks, const std::vector<std::string> &removed) {
    if (!book_)
        return false;
    from_others_ = true;
    const bool taken = done(book_->take_from_others(marks, removed));
    from_others_ = false;
    return taken;
}

bool MarkLibrary::exportMarks(const QString &path) {
    const auto lost = lost_in(path.toStdString(), all());
    const auto written = write_mark_file(path.toStdString(), all());
    if (!written)
        return done(tl::unexpected(written.error()));
    auto text = tr("%1 written to %2.")
                    .arg(counted(written->written, tr("mark"), tr("marks")), QFileInfo(path).fileName());
    if (written->without_place > 0)
        text += QLatin1Char(' ') + tr("%1 without a place stayed out.").arg(written->without_place);
    else if (!lost.empty())
        text += QLatin1Char(' ') + tr("It could not hold all: %1.").arg(QString::fromStdString(lost.front()));
    session_.notices.say(QStringLiteral("export"), text);
    return true;
}

bool MarkLibrary::writePack(const QString &path, const std::vector<Mark> &of, const PackSettings &settings,
                            const NameProfile &names) {
    const auto pack = packed(of, settings);
    const auto written = write_mark_file(path.toStdString(), pack, names);
    if (!written)
        return done(tl::unexpected(written.error()));
    session_.notices.say(
        QStringLiteral("export"),
        tr("A pack of %1 written to %2.")
            .arg(counted(written->written, tr("mark"), tr("marks")), QFileInfo(path).fileName()));
    return true;
}

void MarkLibrary::takeDiffering() {
    const auto marks = std::move(differing_);
    differing_.clear();
    if (!marks.empty() && changeAll(marks))
        session_.notices.say(
            QStringLiteral("import"),
            tr("%1 changed; Undo takes that back.").arg(counted(marks.size(), tr("mark"), tr("marks"))));
    emit imported();
}

void MarkLibrary::importMarks(const QString &path) {
    if (!book_ || importing_)
        return;
    importing_ = true;
    session_.notices.say(QStringLiteral("import"), tr("Reading %1 …").arg(QFileInfo(path).fileName()));
    struct Brought {
        ImportPlan plan;
        std::vector<std::string> warnings;
    };
    session_.storage.run<Brought>(
        tr("importing marks"), this,
        [from = path.toStdString(), library = book_->path(), known = all()](JobControl &) -> Result<Brought> {
            auto read = read_mark_file(from);
            if (!read)
                return tl::unexpected(read.error());
            Brought b{plan_import(known, read->marks), std::move(read->warnings)};
            if (b.plan.fresh.empty())
                return b;
            auto store = MarkStore::open(library);
            if (!store)
                return tl::unexpected(store.error());
            if (auto written = store->write({b.plan.fresh, {}}); !written)
                return tl::unexpected(written.error());
            return b;
        },
        [this, name = QFileInfo(path).fileName()](Result<Brought> brought) {
            importing_ = false;
            if (!brought) {
                done(tl::unexpected(brought.error()));
                emit imported();
                return;
            }
            const auto &plan = brought->plan;
            if (!plan.fresh.empty())
                book_->adopt(plan.fresh);
            differing_ = plan.different;
            session_.notices.pass(topic);
            tell();
            auto text = tr("%1 taken in from %2; Undo takes them back.")
                            .arg(counted(plan.fresh.size(), tr("mark"), tr("marks")), name);
            if (plan.same > 0)
                text += QLatin1Char(' ') + tr("%1 were known and the same.").arg(plan.same);
            if (!differing_.empty())
                text += QLatin1Char(' ') +
                        tr("%1 are known and differ: they were left as they are.").arg(differing_.size());
            if (brought->warnings.empty())
                session_.notices.say(QStringLiteral("import"), text);
            else
                session_.notices.raise(
                    topic, {brought->warnings.front(), text.toStdString(),
                            brought->warnings.size() > 1
                                ? tr("%1 more were left out").arg(brought->warnings.size() - 1).toStdString()
                                : ""});
            emit imported();
        });
}

} // namespace heron::app
