// Marks on the disk: one GeoPackage (OGC 12-128r18, version 1.3) that any GIS opens.
#pragma once

#include "fault/fault.hpp"
#include "files/database.hpp"
#include "marks/mark.hpp"

#include <filesystem>
#include <vector>

namespace heron {

/// Every change is one transaction, flushed to the disk (synchronous = FULL) before the call returns: what it
/// reports as saved survives a crash or a power cut. While open, SQLite keeps two files beside it
/// (write-ahead log).
class MarkStore {
  public:
    static constexpr int schema_version = 1;

    /// Opens or creates; in a trip, its layer of marks. Refuses a file of another kind or of a newer schema,
    /// untouched.
    static Result<MarkStore> open(const std::filesystem::path &path);
    const std::filesystem::path &path() const { return db_.path(); }
    /// Adds a mark, or replaces the one of the same id.
    Result<void> save(const Mark &mark);
    /// Many at once, all or none.
    Result<void> save(const std::vector<Mark> &marks);
    Result<void> remove(const std::string &id);
    /// All marks in the order in which they were first saved.
    Result<std::vector<Mark>> load() const;

  private:
    explicit MarkStore(Database db) : db_(std::move(db)) {}
    Database db_;
};

} // namespace heron
