#include "files/database.hpp"

#include <fmt/format.h>
#include <sqlite3.h>
#include <utility>

namespace heron {

Statement::Statement(sqlite3 *db, const char *sql) {
    if (sqlite3_prepare_v2(db, sql, -1, &statement_, nullptr) != SQLITE_OK)
        statement_ = nullptr;
}
Statement::~Statement() {
    sqlite3_finalize(statement_);
}
Statement::Statement(Statement &&other) noexcept
    : statement_(std::exchange(other.statement_, nullptr)), done_(other.done_) {}
Statement &Statement::operator=(Statement &&other) noexcept {
    std::swap(statement_, other.statement_);
    std::swap(done_, other.done_);
    return *this;
}

Statement &Statement::bind(int place, std::string_view text) {
    sqlite3_bind_text(statement_, place, text.data(), static_cast<int>(text.size()), SQLITE_TRANSIENT);
    return *this;
}
Statement &Statement::bind(int place, double value) {
    sqlite3_bind_double(statement_, place, value);
    return *this;
}
Statement &Statement::bind(int place, std::int64_t value) {
    sqlite3_bind_int64(statement_, place, value);
    return *this;
}
Statement &Statement::bind(int place, std::optional<double> value) {
    return value ? bind(place, *value) : bind_null(place);
}
Statement &Statement::bind_blob(int place, std::span<const std::uint8_t> bytes) {
    if (bytes.empty())
        return bind_null(place);
    sqlite3_bind_blob64(statement_, place, bytes.data(), bytes.size(), SQLITE_TRANSIENT);
    return *this;
}
Statement &Statement::bind_null(int place) {
    sqlite3_bind_null(statement_, place);
    return *this;
}

bool Statement::next() {
    if (statement_ == nullptr)
        return false;
    const int status = sqlite3_step(statement_);
    done_ = status == SQLITE_DONE;
    return status == SQLITE_ROW;
}
bool Statement::run() {
    while (next()) {
    }
    return done_;
}
void Statement::reset() {
    sqlite3_reset(statement_);
    done_ = false;
}

std::string Statement::text(int column) const {
    const auto *p = sqlite3_column_text(statement_, column);
    return p != nullptr ? std::string(reinterpret_cast<const char *>(p),
                                      static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)))
                        : std::string();
}
double Statement::real(int column) const {
    return sqlite3_column_double(statement_, column);
}
std::int64_t Statement::whole(int column) const {
    return sqlite3_column_int64(statement_, column);
}
bool Statement::is_null(int column) const {
    return sqlite3_column_type(statement_, column) == SQLITE_NULL;
}
std::optional<double> Statement::real_or_null(int column) const {
    return is_null(column) ? std::nullopt : std::optional(real(column));
}
std::span<const std::uint8_t> Statement::blob(int column) const {
    const auto *p = static_cast<const std::uint8_t *>(sqlite3_column_blob(statement_, column));
    return {p, p != nullptr ? static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)) : 0};
}

Result<Database> Database::open(const std::filesystem::path &path, Mode mode) {
    const int how = mode == Mode::read    ? SQLITE_OPEN_READONLY
                    : mode == Mode::write ? SQLITE_OPEN_READWRITE
                                          : SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE;
    sqlite3 *db = nullptr;
    const int status = sqlite3_open_v2(path.c_str(), &db, how | SQLITE_OPEN_FULLMUTEX, nullptr);
    Database opened(db, path);
    if (status != SQLITE_OK)
        return opened.fault("opened");
    sqlite3_busy_timeout(db, 5000);
    return opened;
}

Database::~Database() {
    sqlite3_close(db_);
}
Database::Database(Database &&other) noexcept
    : db_(std::exchange(other.db_, nullptr)), path_(std::move(other.path_)) {}
Database &Database::operator=(Database &&other) noexcept {
    std::swap(db_, other.db_);
    std::swap(path_, other.path_);
    return *this;
}

bool Database::run(const char *sql) {
    return sqlite3_exec(db_, sql, nullptr, nullptr, nullptr) == SQLITE_OK;
}

std::optional<std::int64_t> Database::number(const char *sql) const {
    auto s = prepare(sql);
    return s.ready() && s.next() ? std::optional(s.whole(0)) : std::nullopt;
}

bool Database::has_table(std::string_view name) const {
    auto s = prepare("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?1");
    return s.ready() && s.bind(1, name).next();
}

std::int64_t Database::last_row_id() const {
    return sqlite3_last_insert_rowid(db_);
}
bool Database::in_transaction() const {
    return sqlite3_get_autocommit(db_) == 0;
}
bool Database::disk_is_full() const {
    const int code = sqlite3_errcode(db_);
    return code == SQLITE_FULL || code == SQLITE_IOERR;
}

tl::unexpected<Fault> Database::fault(std::string_view doing, std::string kept) const {
    Fault fault{fmt::format("{} could not be {}: {}", path_.string(), doing, sqlite3_errmsg(db_)),
                std::move(kept),
                disk_is_full() ? "free some space on the disk, then try again"
                               : "check the folder and its permissions"};
    fault.of_disk = disk_is_full();
    return tl::unexpected<Fault>(std::move(fault));
}

Result<void> Database::back_up(const std::filesystem::path &to) const {
    auto copy = open(to, Mode::create);
    if (!copy)
        return tl::unexpected(copy.error());
    auto *backup = sqlite3_backup_init(copy->db_, "main", db_, "main");
    if (backup == nullptr)
        return copy->fault("copied");
    int status = SQLITE_OK;
    do {
        status = sqlite3_backup_step(backup, 4096);
        if (status == SQLITE_BUSY || status == SQLITE_LOCKED)
            sqlite3_sleep(20);
    } while (status == SQLITE_OK || status == SQLITE_BUSY || status == SQLITE_LOCKED);
    sqlite3_backup_finish(backup);
    if (status != SQLITE_DONE)
        return copy->fault("copied");
    return {};
}

} // namespace heron
