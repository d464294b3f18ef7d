// A thin, safe face of SQLite: a database, its statements, and faults in words.
#pragma once

#include "fault/fault.hpp"

#include <cstdint>
#include <filesystem>
#include <initializer_list>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

struct sqlite3;
struct sqlite3_stmt;

namespace heron {

class Statement {
  public:
    Statement(sqlite3 *db, const char *sql);
    ~Statement();
    Statement(Statement &&other) noexcept;
    Statement &operator=(Statement &&other) noexcept;
    Statement(const Statement &) = delete;
    Statement &operator=(const Statement &) = delete;
    bool ready() const { return statement_ != nullptr; }

    // Places are counted from 1, as in "?1".
    Statement &bind(int place, std::string_view text);
    Statement &bind(int place, double value);
    Statement &bind(int place, std::int64_t value);
    Statement &bind(int place, int value) { return bind(place, std::int64_t{value}); }
    Statement &bind(int place, std::size_t value) { return bind(place, static_cast<std::int64_t>(value)); }
    Statement &bind(int place, std::optional<double> value);
    Statement &bind_blob(int place, std::span<const std::uint8_t> bytes); ///< null where it is empty
    Statement &bind_null(int place);

    /// Goes on to the next row; false at the end and on a fault (see `done`).
    bool next();
    /// Runs to the end; whether it came there without fault.
    bool run();
    bool done() const { return done_; }
    void reset();

    // Columns are counted from 0.
    std::string text(int column) const;
    double real(int column) const;
    std::int64_t whole(int column) const;
    bool is_null(int column) const;
    std::optional<double> real_or_null(int column) const;
    std::span<const std::uint8_t> blob(int column) const; ///< valid until the next step

  private:
    sqlite3_stmt *statement_ = nullptr;
    bool done_ = false;
};

/// Files come from other people's machines: no trigger and no view of theirs runs, and a statement ends after
/// as much work as the file's size can ask for.
class Database {
  public:
    enum class Mode { read, write, create };
    /// Opens; `create` makes the file where there is none. Waits up to 5 s for others who write.
    static Result<Database> open(const std::filesystem::path &path, Mode mode);
    ~Database();
    Database(Database &&other) noexcept;
    Database &operator=(Database &&other) noexcept;
    Database(const Database &) = delete;
    Database &operator=(const Database &) = delete;

    bool run(const char *sql);
    bool run(const std::string &sql) { return run(sql.c_str()); }
    Statement prepare(const char *sql) const;
    /// The one number that a query gives; nothing where there is none.
    std::optional<std::int64_t> number(const char *sql) const;
    bool has_table(std::string_view name) const;
    std::int64_t last_row_id() const;
    bool in_transaction() const;
    bool disk_is_full() const;
    /// What the last failed call was about, in words: "… could not be `doing`".
    tl::unexpected<Fault> fault(std::string_view doing,
                                std::string kept = "what was saved before is safe") const;
    const std::filesystem::path &path() const { return path_; }
    /// Bytes that the database and its log have on the disk.
    std::uintmax_t bytes() const;
    /// Whether tables of these names, as far as they are there, are plain tables: no views, no columns or
    /// indices that are computed. A name that ends in * stands for all that begin so.
    bool has_only_plain(std::initializer_list<std::string_view> names) const;
    /// Copies the whole database, also while others write to it, into a new file.
    Result<void> back_up(const std::filesystem::path &to) const;

  private:
    struct Work; // how much a statement may still do
    Database(sqlite3 *db, std::filesystem::path path);
    void harden();
    sqlite3 *db_ = nullptr;
    std::filesystem::path path_;
    std::unique_ptr<Work> work_;
};

/// Begins a transaction; what was not committed when it goes is taken back.
class Transaction {
  public:
    explicit Transaction(Database &db) : db_(db), open_(db.run("BEGIN IMMEDIATE")) {}
    ~Transaction() {
        if (open_)
            db_.run("ROLLBACK");
    }
    Transaction(const Transaction &) = delete;
    Transaction &operator=(const Transaction &) = delete;
    bool begun() const { return open_; }
    bool commit() {
        if (open_ && db_.run("COMMIT"))
            open_ = false;
        return !open_;
    }

  private:
    Database &db_;
    bool open_;
};

} // namespace heron
