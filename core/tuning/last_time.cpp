#include "tuning/last_time.hpp"

#include <algorithm>

namespace heron {
namespace {

TripSummary summary_of(const std::filesystem::path &path) {
    TripSummary s;
    s.path = path;
    std::error_code ignored;
    s.bytes = std::filesystem::file_size(path, ignored);
    const auto glance = TripFile::glance(path);
    if (!glance) {
        s.fault = glance.error().happened;
        return s;
    }
    const auto opened = Database::open(path, Database::Mode::read);
    if (!opened)
        return s;
    s.water = glance->head.water;
    s.started = glance->head.started;
    s.older = glance->schema < TripFile::schema_version;
    const auto &db = *opened;
    s.rows = static_cast<std::size_t>(db.number("SELECT max(first_row + rows) FROM heron_block").value_or(0));
    s.seconds = seconds_between(db.number("SELECT min(time_first) FROM heron_block").value_or(0),
                                db.number("SELECT max(time_last) FROM heron_block").value_or(0));
    if (db.has_table("marks"))
        s.marks = static_cast<std::size_t>(db.number("SELECT count(*) FROM marks").value_or(0));
    return s;
}

} // namespace

std::vector<TripSummary> trips_in(const std::filesystem::path &folder) {
    std::vector<TripSummary> all;
    std::error_code error;
    for (const auto &e : std::filesystem::directory_iterator(folder, error))
        if (e.path().string().ends_with(TripFile::suffix))
            all.push_back(summary_of(e.path()));
    std::sort(all.begin(), all.end(),
              [](const TripSummary &a, const TripSummary &b) { return a.started > b.started; });
    return all;
}

std::optional<LastTime> last_time(const std::filesystem::path &folder, const std::string &water,
                                  const std::filesystem::path &except) {
    for (const auto &s : trips_in(folder)) {
        if (!s.fault.empty() || s.water != water || s.path == except || s.rows == 0)
            continue;
        auto trip = TripFile::open_read_only(s.path);
        if (!trip)
            continue;
        LastTime l;
        l.trip = s.path;
        l.when = s.started;
        l.conditions = trip->conditions();
        const auto rows = trip->fetch(s.rows - 1, 1);
        if (rows.empty())
            continue;
        l.settings = rows.back().settings;
        auto changes = trip->changes(false);
        for (auto i = changes.begin(); i != changes.end(); ++i) {
            auto &c = *i;
            if (c.verdict == "better") {
                // A change shows some rows after it was asked: what it led to was in force at the next one.
                const auto next =
                    std::find_if(i, changes.end(), [&](const auto &n) { return n.row > c.row; });
                const auto at = next == changes.end() ? s.rows - 1 : std::min(next->row, s.rows - 1);
                if (const auto then = trip->fetch(at, 1); !then.empty())
                    l.settings = then.back().settings;
                l.better.insert(l.better.begin(), c);
            } else if (c.verdict == "worse") {
                l.worse.insert(l.worse.begin(), std::move(c));
            }
        }
        return l;
    }
    return std::nullopt;
}

} // namespace heron
