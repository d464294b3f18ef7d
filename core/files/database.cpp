#include "files/database.hpp"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>
#include <sqlite3.h>
#include <utility>

namespace heron {

namespace {

// The work of one statement is bounded by what a file of its size can hold: a row takes 4 bytes at least and
// some tens of operations.
constexpr int operations_a_look = 100'000;
constexpr std::int64_t least_operations = 50'000'000, operations_a_byte = 16;
constexpr int longest_value = 300 << 20, longest_sql = 1 << 20;

} // namespace

struct Database::Work {
    std::int64_t most = least_operations, left = least_operations;
    static int look(void *work) {
        auto &w = *static_cast<Work *>(work);
        w.left -= operations_a_look;
        return w.left < 0 ? 1 : 0;
    }
};

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
    opened.harden();
    return opened;
}

Database::Database(sqlite3 *db, std::filesystem::path path)
    : db_(db), path_(std::move(path)), work_(std::make_unique<Work>()) {}
Database::~Database() {
    sqlite3_close(db_);
}
Database::Database(Database &&other) noexcept
    : db_(std::exchange(other.db_, nullptr)), path_(std::move(other.path_)), work_(std::move(other.work_)) {}
Database &Database::operator=(Database &&other) noexcept {
    std::swap(db_, other.db_);
    std::swap(path_, other.path_);
    std::swap(work_, other.work_);
    return *this;
}

// https://www.sqlite.org/security.html, "Untrusted SQLite Database Files".
void Database::harden() {
    sqlite3_db_config(db_, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    for (const int off :
         {SQLITE_DBCONFIG_TRUSTED_SCHEMA, SQLITE_DBCONFIG_ENABLE_TRIGGER, SQLITE_DBCONFIG_ENABLE_VIEW})
        sqlite3_db_config(db_, off, 0, nullptr);
    sqlite3_limit(db_, SQLITE_LIMIT_LENGTH, longest_value);
    sqlite3_limit(db_, SQLITE_LIMIT_SQL_LENGTH, longest_sql);
    sqlite3_limit(db_, SQLITE_LIMIT_ATTACHED, 1); // VACUUM wants one
    sqlite3_limit(db_, SQLITE_LIMIT_TRIGGER_DEPTH, 1);
    sqlite3_limit(db_, SQLITE_LIMIT_WORKER_THREADS, 0);
    work_->most = least_operations + operations_a_byte * static_cast<std::int64_t>(bytes());
    work_->left = work_->most;
    sqlite3_progress_handler(db_, operations_a_look, &Work::look, work_.get());
    run("PRAGMA cell_size_check = ON; PRAGMA mmap_size = 0");
}

std::uintmax_t Database::bytes() const {
    std::uintmax_t all = 0;
    for (const char *suffix : {"", "-wal"}) {
        auto file = path_;
        file += suffix;
        std::error_code error;
        if (const auto size = std::filesystem::file_size(file, error); !error)
            all += size;
    }
    return all;
}

Statement Database::prepare(const char *sql) const {
    work_->left = work_->most;
    return Statement(db_, sql);
}

bool Database::has_only_plain(std::initializer_list<std::string_view> names) const {
    const auto meant = [&names](std::string_view name) {
        return std::any_of(names.begin(), names.end(), [name](std::string_view n) {
            return n.ends_with('*') ? name.starts_with(n.substr(0, n.size() - 1)) : name == n;
        });
    };
    std::vector<std::string> tables, indices;
    auto s = prepare("SELECT type, lower(tbl_name), lower(name), sql FROM sqlite_master");
    while (s.next()) {
        const auto type = s.text(0), name = s.text(2);
        if (!meant(s.text(1)) && !meant(name))
            continue;
        if (type == "table") {
            auto how = s.text(3);
            how.resize(std::min<std::size_t>(how.size(), 12));
            std::transform(how.begin(), how.end(), how.begin(),
                           [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
            if (how != "CREATE TABLE")
                return false; // virtual
            tables.push_back(name);
        } else if (type == "index" && !s.is_null(3)) {
            indices.push_back(name);
        } else if (type == "view") {
            return false;
        }
    }
    if (!s.done())
        return false;
    // A column or an index that is computed does work of the maker's choosing.
    const auto computed = [this](const char *sql, const std::string &name) {
        auto q = prepare(sql);
        return !q.ready() || !q.bind(1, name).next() || q.whole(0) != 0;
    };
    return std::none_of(tables.begin(), tables.end(),
                        [&](const std::string &t) {
                            return computed("SELECT count(*) FROM pragma_table_xinfo(?1) WHERE hidden <> 0",
                                            t);
                        }) &&
           std::none_of(indices.begin(), indices.end(), [&](const std::string &i) {
               return computed("SELECT count(*) FROM pragma_index_xinfo(?1) WHERE cid = -2", i);
           });
}

bool Database::run(const char *sql) {
    work_->left = std::max(work_->most, static_cast<std::int64_t>(bytes()) * operations_a_byte);
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
    const auto why = sqlite3_errcode(db_) == SQLITE_INTERRUPT
                         ? std::string("that never ends, so it is damaged")
                         : std::string(sqlite3_errmsg(db_));
    Fault fault{fmt::format("{} could not be {}: {}", path_.string(), doing, why), std::move(kept),
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
