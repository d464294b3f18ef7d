// Marks on the disk: one GeoPackage (OGC 12-128r18, version 1.3) that any GIS opens.
#pragma once

#include "fault/fault.hpp"
#include "files/database.hpp"
#include "marks/chip_shelf.hpp"
#include "marks/mark.hpp"
#include "marks/mark_history.hpp"

#include <filesystem>
#include <functional>
#include <vector>

namespace heron {

/// What one change writes: marks that are added or replaced, and ids that go.
struct MarkWrites {
    std::vector<Mark> saved;
    std::vector<std::string> removed;
};
/// Writes all or none, in one transaction, into the layer `marks` of a GeoPackage; the layer is made where it
/// is missing, as in a trip before its first mark. `also`: what else belongs to the same transaction.
/// `shelf`: where pictures of this file were lent from; those that did not change stay as they lie.
Result<void> write_marks(Database &db, const MarkWrites &writes,
                         const std::function<bool(Database &)> &also = {}, ChipShelf *shelf = nullptr);
/// All marks in the order in which they were first saved; none where there is no such layer. Their pictures
/// are lent from a shelf where there is one, else read.
Result<std::vector<Mark>> load_marks(const Database &db, ChipShelf *shelf = nullptr);

/// Every change is one transaction, flushed to the disk (synchronous = FULL) before the call returns: what it
/// reports as saved survives a crash or a power cut. While open, SQLite keeps two files beside it
/// (write-ahead log).
class MarkStore {
  public:
    static constexpr int schema_version = 2;

    /// Opens or creates; in a trip, its layer of marks. Refuses a file of another kind or of a newer schema,
    /// untouched. An older schema is brought up to date in one transaction, and the file as it was is kept
    /// beside it under the suffix `.schema-1`.
    static Result<MarkStore> open(const std::filesystem::path &path);
    const std::filesystem::path &path() const { return db_.path(); }
    /// Given once to this file, whatever it is called.
    const std::string &id() const { return id_; }
    Result<void> write(const MarkWrites &writes, const std::function<bool(Database &)> &also = {}) {
        return write_marks(db_, writes, also, shelf_.get());
    }
    const Database &database() const { return db_; }
    /// Without a write of marks.
    bool forget(std::int64_t step) { return MarkHistory::forget(db_, step); }
    Result<std::vector<Mark>> load() const { return load_marks(db_, shelf_.get()); }

  private:
    explicit MarkStore(Database db) : db_(std::move(db)), shelf_(std::make_shared<ChipShelf>(db_.path())) {}
    static std::string id_of(Database &db);
    Database db_;
    std::shared_ptr<ChipShelf> shelf_;
    std::string id_;
};

} // namespace heron
