// The marks' part of the survey: every change on the disk before it shows.
#include "session/survey.hpp"

#include "exchange/gpx.hpp"
#include "kit/counted.hpp"

#include <QFileInfo>

namespace heron::app {

void Survey::openMarks(const QString &path) {
    auto book = MarkBook::open(path.toStdString());
    if (!book) {
        emit faultRaised(QStringLiteral("marks"), book.error());
        return;
    }
    book_.emplace(std::move(*book));
    emit marksChanged();
}

// The trip in hand gets its copy of every change, so that it tells the whole day by itself. Marks that a trip
// brings and nobody here has seen are taken in once.
void Survey::accompanyMarks(const QString &path) {
    if (!book_)
        return;
    book_->accompany(std::nullopt);
    if (path.isEmpty())
        return;
    auto store = MarkStore::open(path.toStdString());
    if (!store) {
        emit faultRaised(QStringLiteral("marks"), store.error());
        return;
    }
    const auto key = "marks_taken_by_" + std::to_string(std::hash<std::string>{}(book_->path().string()));
    if (trip_ && source_ == Source::trip && trip_->value(key).empty()) {
        std::vector<Mark> unknown;
        if (const auto brought = store->load())
            for (const auto &m : *brought)
                if (book_->find(m.id) == nullptr)
                    unknown.push_back(m);
        if (unknown.empty() || done(book_->add_all(unknown)))
            if (auto noted = trip_->set_value(key, "yes"); !noted)
                emit faultRaised(QStringLiteral("marks"), noted.error());
        if (!unknown.empty())
            emit word(QStringLiteral("marks"), tr("%1 of this trip were taken in; Undo takes them back.")
                                                   .arg(counted(unknown.size(), tr("mark"), tr("marks"))));
    }
    book_->accompany(std::move(*store));
    emit marksChanged();
}

const std::vector<Mark> &Survey::marks() const {
    static const std::vector<Mark> none;
    return book_ ? book_->marks() : none;
}

const Mark *Survey::findMark(const QString &id) const {
    return book_ ? book_->find(id.toStdString()) : nullptr;
}

void Survey::selectMark(const QString &id) {
    if (id == selected_)
        return;
    selected_ = id;
    emit selectionChanged();
}

bool Survey::done(const Result<void> &result) {
    if (!result) {
        emit faultRaised(QStringLiteral("marks"), result.error());
        return false;
    }
    emit faultPassed(QStringLiteral("marks"));
    if (!findMark(selected_))
        selectMark({});
    emit marksChanged();
    return true;
}

bool Survey::addMark(const Mark &mark) {
    if (!book_)
        return done(fail(tr("the file of marks is not open").toStdString(),
                         tr("the mark was not taken").toStdString(),
                         tr("start the program again with --marks and another file").toStdString()));
    if (!done(book_->add(mark)))
        return false;
    selectMark(QString::fromStdString(mark.id));
    return true;
}

bool Survey::changeMark(const Mark &mark) {
    return book_ && done(book_->change(mark));
}
bool Survey::removeMark(const QString &id) {
    return book_ && done(book_->remove(id.toStdString()));
}
bool Survey::undoMark() {
    return book_ && book_->can_undo() && done(book_->undo());
}

bool Survey::exportMarks(const QString &path) {
    const auto left_out = write_gpx(path.toStdString(), marks());
    if (!left_out)
        return done(tl::unexpected(left_out.error()));
    auto text =
        tr("%1 written to %2.")
            .arg(counted(marks().size() - *left_out, tr("mark"), tr("marks")), QFileInfo(path).fileName());
    if (*left_out > 0)
        text += QLatin1Char(' ') + tr("%1 without a place stayed out.").arg(*left_out);
    emit word(QStringLiteral("export"), text);
    return true;
}

bool Survey::importMarks(const QString &path) {
    if (!book_)
        return false;
    auto contents = read_gpx(path.toStdString());
    if (!contents)
        return done(tl::unexpected(contents.error()));
    if (!done(book_->add_all(contents->marks)))
        return false;
    auto text =
        tr("%1 taken in from %2; Undo takes them back.")
            .arg(counted(contents->marks.size(), tr("mark"), tr("marks")), QFileInfo(path).fileName());
    if (!contents->warnings.empty())
        emit faultRaised(QStringLiteral("marks"),
                         {contents->warnings.front(), text.toStdString(),
                          contents->warnings.size() > 1
                              ? tr("%1 more were left out").arg(contents->warnings.size() - 1).toStdString()
                              : ""});
    else
        emit word(QStringLiteral("import"), text);
    return true;
}

} // namespace heron::app
