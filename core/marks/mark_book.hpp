// All marks of a library: every change is on the disk before it shows, and every change can be undone.
#pragma once

#include "marks/mark_store.hpp"

#include <functional>
#include <optional>
#include <unordered_map>

namespace heron {

class MarkBook {
  public:
    /// Takes over a store and all marks in it.
    static Result<MarkBook> open(const std::filesystem::path &path);

    /// Is told every change from now on, once it is on the disk: the trip that is under way keeps its copy.
    using Follower = std::function<void(const MarkWrites &)>;
    void follow(Follower follower) { follower_ = std::move(follower); }
    /// Given once to the file, whatever it is called.
    const std::string &id() const { return store_.id(); }
    const std::filesystem::path &path() const { return store_.path(); }

    const std::vector<Mark> &marks() const { return marks_; }
    const Mark *find(const std::string &id) const;

    /// Each changes the disk first; on a fault nothing has changed.
    Result<void> add(const Mark &mark);
    Result<void> change(const Mark &mark); ///< replaces the mark of the same id
    Result<void> remove(const std::string &id);
    /// Some are added or changed and others go, as one step of undo.
    Result<void> replace(const std::vector<Mark> &marks, const std::vector<std::string> &gone);
    Result<void>
    add_all(const std::vector<Mark> &marks); ///< all or none; one step of undo. Known ids are replaced

    /// Marks that were written to this book's file by another connection: they are known from now on, and
    /// undo takes them back.
    void adopt(const std::vector<Mark> &marks);

    /// What another screen changed: on the disk like any change, but no step of undo of this one's, and the
    /// follower is told. Steps of undo that speak of these marks are forgotten: taking them back would
    /// overrule the other screen.
    Result<void> take_from_others(const std::vector<Mark> &marks, const std::vector<std::string> &removed);

    bool can_undo() const { return !done_.empty() || kept_steps_ > 0; }
    /// Takes the last change back: of this book, then of those before it (`MarkHistory`). A step whose marks
    /// have been changed since by others is passed over and forgotten; a fault says so where nothing was left
    /// to take back.
    Result<void> undo();
    /// What became of a mark, the newest first, also in earlier sessions.
    std::vector<MarkHistoryLine> history_of(const std::string &id) const {
        return MarkHistory::of(store_.database(), id);
    }

  private:
    explicit MarkBook(MarkStore store) : store_(std::move(store)) {}
    using Step = MarkStep;
    using Change = MarkChange;
    struct Done {
        Change change;
        std::int64_t step = 0; ///< as the file keeps it; 0: it does not
    };
    Result<void> undo_kept();
    std::optional<Change> fitting(MarkHistory::Kept kept) const;
    Change change_to(const std::vector<Mark> &marks) const;
    static MarkWrites writes_of(const Change &change, bool forward);
    Result<void> apply(const Change &change, bool forward, const std::function<bool(Database &)> &also);
    void take(const MarkWrites &writes);
    Result<void> remember(Change change);

    MarkStore store_;
    Follower follower_;
    void index_marks();
    std::vector<Mark> marks_;
    std::unordered_map<std::string, std::size_t> index_; // where in marks_ an id stands
    std::vector<Done> done_;
    std::int64_t kept_steps_ = 0; ///< in the file, of this session and of earlier ones
};

} // namespace heron
