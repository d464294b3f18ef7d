// All marks, as the window's thread knows them: an item model over the file of marks. Every change is on the
// disk before it shows.
#pragma once

#include "exchange/gpx.hpp"
#include "marks/mark_book.hpp"
#include "marks/pack.hpp"
#include "session/session.hpp"

#include <QAbstractListModel>

namespace heron::app {

/// One row a mark, in the order in which they were first saved; a mark is known by its id, which never
/// changes.
class MarkLibrary : public QAbstractListModel {
    Q_OBJECT
  public:
    explicit MarkLibrary(Session &session, QObject *parent = nullptr);

    enum Role { id_role = Qt::UserRole + 1 };
    int rowCount(const QModelIndex &parent = {}) const override;
    QVariant data(const QModelIndex &index, int role) const override;

    void open(const QString &path);
    bool isOpen() const { return book_.has_value(); }
    const std::vector<Mark> &all() const;
    const Mark *find(const QString &id) const;

    /// Each change is on the disk when it returns true; otherwise the fault was told and nothing has changed.
    bool add(const Mark &mark);
    bool change(const Mark &mark);
    bool remove(const QString &id);
    bool undo();
    bool canUndo() const { return book_ && book_->can_undo(); }
    /// What became of a mark, the newest first.
    std::vector<MarkHistoryLine> historyOf(const QString &id) const;
    bool changeAll(const std::vector<Mark> &marks);      ///< one step of undo
    bool removeAll(const std::vector<std::string> &ids); ///< likewise
    /// Two become one, and one two again; each is one step of undo.
    bool join(const QString &a, const QString &b);
    /// What was seen counts as another sighting of a mark, whose place follows from all of them by their
    /// doubt.
    bool addSighting(const QString &id, const Mark &seen);
    bool splitSighting(const QString &id, std::size_t sighting);
    /// By the file's suffix; what the format cannot hold is told.
    bool exportMarks(const QString &path);
    /// What a receiver may see.
    bool writePack(const QString &path, const std::vector<Mark> &of, const PackSettings &settings,
                   const NameProfile &names = {});
    /// Reads and writes beside the window; what came of it is told: how many are new, the same and different.
    /// Those that differ are taken only when that is asked for.
    void importMarks(const QString &path);
    bool importing() const { return importing_; }
    const std::vector<Mark> &differing() const { return differing_; } ///< of the last import
    void takeDiffering();

    /// Another screen's changes.
    bool takeFromOthers(const std::vector<Mark> &marks, const std::vector<std::string> &removed);
    /// Is told of every change that was made here, once it is on the disk.
    void shareWith(std::function<void(const MarkWrites &)> share) { share_ = std::move(share); }
    QString path() const;

  signals:
    void marksChanged();
    void imported();

  private:
    bool done(const Result<void> &result);
    void tell();
    void follow();
    void changed(const MarkWrites &writes);
    void copyToTrip(const MarkWrites &writes);
    void takeFromTrip();

    Session &session_;
    std::optional<MarkBook> book_;
    std::optional<Database> trip_copy_;  ///< a connection of this thread's own to the trip that is kept
    std::vector<std::string> shown_ids_; ///< of the rows that views know
    bool importing_ = false, from_others_ = false, copies_ = false; ///< into the trip
    std::vector<Mark> differing_;
    std::function<void(const MarkWrites &)> share_;
};

} // namespace heron::app
