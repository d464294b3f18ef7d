#include "trip/trip_file.hpp"

#include "files/atomic_file.hpp"
#include "files/geopackage.hpp"
#include "files/identifier.hpp"
#include "files/json.hpp"
#include "trip/nav_codec.hpp"
#include "trip/trip_codec.hpp"
#include "trip/trip_schema.hpp"
#include "version/version.hpp"

#include <algorithm>
#include <cerrno>
#include <charconv>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <map>
#include <mutex>
#include <set>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <zstd.h>

namespace heron {

using namespace trip_codec;

namespace {

using nlohmann::json;

// Locks against a second writer. The descriptors are kept open until the program ends: closing one would drop
// the locks that SQLite itself holds on the same file.
class WriterLocks {
  public:
    /// A descriptor that holds the lock, or −1 where another one has it.
    int take(const std::filesystem::path &path) {
        const std::scoped_lock hold(mutex_);
        struct stat about {};
        if (::stat(path.c_str(), &about) != 0)
            return -1;
        auto [at, fresh] = descriptors_.try_emplace({about.st_dev, about.st_ino}, -1);
        if (fresh)
            at->second = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
        if (held_.contains(at->second) || ::flock(at->second, LOCK_EX | LOCK_NB) != 0)
            return -1;
        held_.insert(at->second);
        return at->second;
    }
    void give_back(int descriptor) {
        const std::scoped_lock hold(mutex_);
        if (held_.erase(descriptor) > 0)
            ::flock(descriptor, LOCK_UN);
    }

  private:
    std::mutex mutex_;
    std::map<std::pair<dev_t, ino_t>, int> descriptors_;
    std::set<int> held_;
};

WriterLocks &writer_locks() {
    static WriterLocks locks;
    return locks;
}

// Which schema a trip has; nothing for a file that is none: it does not say that it is a GeoPackage, or what
// should be a table is something else.
std::optional<std::int64_t> schema_of(const Database &db) {
    if (!is_geopackage(db) || !db.has_only_plain({"heron_*", "track", "lanes", "marks"}))
        return std::nullopt;
    const auto schema = db.number("SELECT value FROM heron_trip WHERE key = 'schema'");
    return schema && *schema >= 1 ? schema : std::nullopt;
}

tl::unexpected<Fault> too_new(const std::filesystem::path &path, std::int64_t schema) {
    return fail(told("{} was written by a newer Young Heron (schema {}, this one knows {})", path.string(),
                     schema, TripFile::schema_version),
                "it was left as it is", "open it with the newer program");
}

tl::unexpected<Fault> no_trip(const std::filesystem::path &path) {
    return fail(told("{} is no trip of Young Heron, or it is damaged", path.string()), "it was left as it is",
                "choose a file that ends in .trip.gpkg");
}

} // namespace

std::vector<std::uint8_t> squeeze(std::span<const std::uint8_t> bytes) {
    std::vector<std::uint8_t> out(ZSTD_compressBound(bytes.size()));
    const auto n = ZSTD_compress(out.data(), out.size(), bytes.data(), bytes.size(), 1);
    out.resize(ZSTD_isError(n) != 0 ? 0 : n);
    return out;
}

std::optional<std::vector<std::uint8_t>> unsqueeze(std::span<const std::uint8_t> bytes, std::size_t most) {
    const auto size = ZSTD_getFrameContentSize(bytes.data(), bytes.size());
    // zstd packs a block of 128 KiB into 3 bytes at the least.
    if (size == ZSTD_CONTENTSIZE_ERROR || size == ZSTD_CONTENTSIZE_UNKNOWN || size > most ||
        size / 65536 > bytes.size())
        return std::nullopt;
    std::vector<std::uint8_t> out(size);
    const auto n = ZSTD_decompress(out.data(), out.size(), bytes.data(), bytes.size());
    if (ZSTD_isError(n) != 0 || n != size)
        return std::nullopt;
    return out;
}

Result<TripFile> TripFile::create(const std::filesystem::path &path, const TripHead &head) {
    std::error_code error;
    if (std::filesystem::exists(path, error))
        return fail(told("{} stands there already", path.string()), "it was left as it is",
                    "choose another name");
    auto db = Database::open(path, Database::Mode::create);
    if (!db)
        return tl::unexpected(db.error());
    db->run("PRAGMA journal_mode = WAL");
    db->run("PRAGMA synchronous = FULL");
    {
        Transaction change(*db);
        if (!change.begun() || !make_trip_schema(*db) || !change.commit()) {
            auto fault = db->fault("set up", "nothing was there before");
            std::filesystem::remove(path, error);
            return fault;
        }
    }
    TripFile trip(std::move(*db), writer_locks().take(path), true);
    trip.head_ = head;
    if (trip.head_.id.empty())
        trip.head_.id = new_identifier();
    for (const auto &[key, value] : {std::pair<std::string, std::string>{"water", head.water},
                                     {"sounder", head.sounder},
                                     {"started", std::to_string(head.started)},
                                     {"made_by", program_and_version},
                                     {"id", trip.head_.id},
                                     {"installation", text_of(head.installation)}})
        if (auto r = trip.set_value(key, value); !r)
            return tl::unexpected(r.error());
    return trip;
}

void TripFile::read_values() {
    head_.water = value("water");
    head_.sounder = value("sounder");
    head_.started = whole_in(value("started"));
    head_.installation = installation_in(value("installation"));
    head_.id = value("id");
}

Result<void> TripFile::read_head() {
    read_values();
    for (const auto stream : all_streams)
        settings_written_[static_cast<std::size_t>(stream)] = static_cast<std::size_t>(
            number_of(db_, "SELECT count(*) FROM heron_sounding WHERE stream = ?1", stream));
    return {};
}

Result<TripFile> TripFile::open(const std::filesystem::path &path) {
    std::error_code error;
    if (!std::filesystem::exists(path, error))
        return fail(told("{}: there is no such file", path.string()));
    if (!std::filesystem::is_regular_file(path, error))
        return fail(told("{} is no file", path.string()), "it was left as it is");
    if (::access(path.c_str(), R_OK) != 0)
        return fail(told("{} cannot be read: {}", path.string(), std::strerror(errno)),
                    "it was left as it is", "check who may read the file");
    const int lock = writer_locks().take(path);
    if (lock < 0)
        return fail(told("{} is open in another window", path.string()), "it goes on there undisturbed",
                    "close it there first");
    auto db = Database::open(path, Database::Mode::write);
    std::optional<std::int64_t> schema;
    if (db)
        schema = schema_of(*db);
    if (!db || !schema) {
        writer_locks().give_back(lock);
        return no_trip(path);
    }
    if (*schema > schema_version) {
        writer_locks().give_back(lock);
        return too_new(path, *schema);
    }
    if (*schema < schema_version) {
        auto moved = std::move(*db);
        const auto upgraded = upgrade_on_a_copy(moved, *schema);
        { const auto gone = std::move(moved); }
        writer_locks().give_back(lock);
        if (!upgraded)
            return tl::unexpected(upgraded.error());
        return open(path);
    }
    db->run("PRAGMA journal_mode = WAL");
    db->run("PRAGMA synchronous = FULL");
    TripFile trip(std::move(*db), lock, true);
    if (auto r = trip.read_head(); !r)
        return tl::unexpected(r.error());
    return trip;
}

Result<TripFile> TripFile::open_read_only(const std::filesystem::path &path) {
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        return fail(told("{} is no file", path.string()));
    auto db = Database::open(path, Database::Mode::read);
    if (!db)
        return tl::unexpected(db.error());
    const auto schema = schema_of(*db);
    if (!schema)
        return no_trip(path);
    if (*schema != schema_version)
        return fail(told("{} has schema {}, this program reads {}", path.string(), *schema, schema_version),
                    "it was left as it is", "open it to write once, so that it is upgraded");
    TripFile trip(std::move(*db), -1, false);
    if (auto r = trip.read_head(); !r)
        return tl::unexpected(r.error());
    return trip;
}

Result<TripFile> TripFile::open_or_read_only(const std::filesystem::path &path) {
    auto trip = open(path);
    if (!trip && ::access(path.c_str(), R_OK) == 0 &&
        (::access(path.c_str(), W_OK) != 0 || ::access(path.parent_path().c_str(), W_OK) != 0))
        return open_read_only(path);
    return trip;
}

Result<TripFile::Glance> TripFile::glance(const std::filesystem::path &path) {
    std::error_code error;
    if (!std::filesystem::is_regular_file(path, error))
        return fail(told("{} is no file", path.string()));
    auto db = Database::open(path, Database::Mode::read);
    if (!db)
        return tl::unexpected(db.error());
    const auto schema = schema_of(*db);
    if (!schema)
        return no_trip(path);
    if (*schema > schema_version)
        return too_new(path, *schema);
    TripFile trip(std::move(*db), -1, false);
    trip.read_values();
    return Glance{trip.head_, static_cast<int>(*schema)};
}

TripFile::TripFile(TripFile &&other) noexcept
    : db_(std::move(other.db_)), lock_(std::exchange(other.lock_, -1)),
      writes_(std::exchange(other.writes_, false)), head_(std::move(other.head_)),
      settings_written_(other.settings_written_) {}

TripFile &TripFile::operator=(TripFile &&other) noexcept {
    std::swap(db_, other.db_);
    std::swap(lock_, other.lock_);
    std::swap(writes_, other.writes_);
    std::swap(head_, other.head_);
    std::swap(settings_written_, other.settings_written_);
    return *this;
}

TripFile::~TripFile() {
    // Whoever closes last folds the log; others who still look keep it open, and it folds with them.
    if (writes_)
        db_.run("PRAGMA wal_checkpoint(TRUNCATE); PRAGMA journal_mode = DELETE");
    { const auto gone = std::move(db_); }
    if (lock_ >= 0)
        writer_locks().give_back(lock_);
}

Result<void> TripFile::set_value(const std::string &key, const std::string &text) {
    auto s = db_.prepare("INSERT OR REPLACE INTO heron_trip VALUES (?1, ?2)");
    if (!s.ready() || !s.bind(1, key).bind(2, text).run())
        return db_.fault("written");
    return {};
}

std::string TripFile::value(const std::string &key) const {
    auto s = db_.prepare("SELECT value FROM heron_trip WHERE key = ?1");
    return s.ready() && s.bind(1, key).next() ? s.text(0) : std::string();
}

Result<void> TripFile::append(const Batch &batch) {
    Transaction change(db_);
    if (!change.begun())
        return db_.fault("written");
    if (!batch.rows.empty()) {
        ByteWriter w;
        for (const auto &r : batch.rows)
            append_row(w, r);
        const auto payload = squeeze(w.bytes);
        auto block =
            db_.prepare("INSERT INTO heron_block (first_row, rows, time_first, time_last, bytes, stream) "
                        "VALUES (?1, ?2, ?3, ?4, ?5, ?6)");
        if (!block.ready() || !block.bind(1, batch.first_row)
                                   .bind(2, batch.rows.size())
                                   .bind(3, batch.rows.front().ping.time)
                                   .bind(4, batch.rows.back().ping.time)
                                   .bind(5, payload.size())
                                   .bind(6, number_of(batch.stream))
                                   .run())
            return db_.fault("written");
        auto pings = db_.prepare("INSERT INTO heron_pings VALUES (?1, ?2)");
        if (!pings.ready() || !pings.bind(1, db_.last_row_id()).bind_blob(2, payload).run())
            return db_.fault("written");
    }
    if (!batch.sentences.empty()) {
        std::string text;
        for (const auto &s : batch.sentences)
            text += fmt::format("{}\t{}\t{}\n", s.time, s.source, s.line);
        const auto payload = squeeze({reinterpret_cast<const std::uint8_t *>(text.data()), text.size()});
        auto s =
            db_.prepare("INSERT INTO heron_sentences (time_first, time_last, payload) VALUES (?1, ?2, ?3)");
        if (!s.ready() || !s.bind(1, batch.sentences.front().time)
                               .bind(2, batch.sentences.back().time)
                               .bind_blob(3, payload)
                               .run())
            return db_.fault("written");
    }
    if (!change.commit())
        return db_.fault("written");
    return {};
}

Result<void> TripFile::append(const Knowledge &k) {
    Transaction change(db_);
    if (!change.begun())
        return db_.fault("written");
    bool good = true;
    if (!k.facts.empty()) {
        auto s = db_.prepare("INSERT OR REPLACE INTO heron_facts VALUES (?4, ?1, ?2, ?3)");
        good = s.ready() && s.bind(1, k.first_row)
                                .bind(2, k.facts.size())
                                .bind_blob(3, squeeze(pack_facts(k.facts)))
                                .bind(4, number_of(k.stream))
                                .run();
    }
    auto &all_written = settings_written_[static_cast<std::size_t>(k.stream)];
    auto written = all_written;
    for (; good && written < k.settings.size(); ++written) {
        ByteWriter w;
        append_settings(w, k.settings[written]);
        auto s = db_.prepare("INSERT OR REPLACE INTO heron_sounding VALUES (?3, ?1, ?2)");
        good = s.ready() && s.bind(1, written).bind_blob(2, w.bytes).bind(3, number_of(k.stream)).run();
    }
    const auto &nav = k.nav;
    if (good && !(nav.positions().empty() && nav.attitudes().empty() && nav.depths().empty() &&
                  nav.speeds().empty())) {
        auto s = db_.prepare("INSERT INTO heron_nav (payload) VALUES (?1)");
        good = s.ready() && s.bind_blob(1, squeeze(pack_nav(nav))).run();
    }
    if (good && !k.overview.empty()) {
        auto s = db_.prepare("INSERT INTO heron_overview (payload, stream) VALUES (?1, ?2)");
        good =
            s.ready() && s.bind_blob(1, {k.overview.front().data(), k.overview.size() * sizeof(OverviewLine)})
                             .bind(2, number_of(k.stream))
                             .run();
    }
    if (!good || !change.commit())
        return db_.fault("written");
    all_written = written;
    return {};
}

Result<void> TripFile::append(const std::vector<Stretch> &stretches) {
    Transaction change(db_);
    if (!change.begun())
        return db_.fault("written");
    auto s = db_.prepare(
        "INSERT INTO track (geom, started, ended, straight, speed_m_s, depth_m, first_row, last_row) "
        "VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)");
    for (const auto &t : stretches) {
        if (t.line.size() < 2)
            continue;
        std::vector<LonLat> line;
        line.reserve(t.line.size());
        for (const auto &p : t.line)
            line.emplace_back(p.longitude_deg, p.latitude_deg);
        s.reset();
        if (!s.ready() || !s.bind_blob(1, line_blob(line))
                               .bind(2, print_rfc3339(t.from))
                               .bind(3, print_rfc3339(t.to))
                               .bind(4, t.straight ? 1 : 0)
                               .bind(5, t.speed_m_s)
                               .bind(6, t.depth_m)
                               .bind(7, t.first_row)
                               .bind(8, t.last_row)
                               .run())
            return db_.fault("written");
    }
    if (!touch_layer(db_, "track") || !change.commit())
        return db_.fault("written");
    return {};
}

Result<std::int64_t> TripFile::log(const SettingChange &c) {
    auto s =
        db_.prepare("INSERT INTO heron_changes (time, row, by, what, reason, before, after, picture_before, "
                    "picture_after, verdict) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10)");
    if (!s.ready() || !s.bind(1, c.time)
                           .bind(2, c.row)
                           .bind(3, c.by)
                           .bind(4, c.what)
                           .bind(5, c.reason)
                           .bind(6, c.before)
                           .bind(7, c.after)
                           .bind_blob(8, c.picture_before)
                           .bind_blob(9, c.picture_after)
                           .bind(10, c.verdict)
                           .run())
        return db_.fault("written");
    return db_.last_row_id();
}

Result<void> TripFile::judge(std::int64_t change, const std::string &verdict,
                             const std::vector<std::uint8_t> &picture_after) {
    auto s = db_.prepare("UPDATE heron_changes SET verdict = ?2, picture_after = coalesce(?3, picture_after) "
                         "WHERE id = ?1");
    if (!s.ready() || !s.bind(1, change).bind(2, verdict).bind_blob(3, picture_after).run())
        return db_.fault("written");
    return {};
}

Result<void> TripFile::note(UnixNs time, std::size_t row, const std::string &text) {
    auto s = db_.prepare("INSERT INTO heron_notes (time, row, text) VALUES (?1, ?2, ?3)");
    if (!s.ready() || !s.bind(1, time).bind(2, row).bind(3, text).run())
        return db_.fault("written");
    return {};
}

Result<void> TripFile::set_conditions(UnixNs time, const TripConditions &c) {
    json what{{"wind", c.wind}, {"sky", c.sky}, {"clarity", c.clarity}, {"level", c.level}};
    if (c.temperature_c)
        what["temperature_c"] = *c.temperature_c;
    auto s = db_.prepare("INSERT INTO heron_conditions (time, what) VALUES (?1, ?2)");
    if (!s.ready() || !s.bind(1, time).bind(2, what.dump()).run())
        return db_.fault("written");
    return {};
}

} // namespace heron
