// The trip: one GeoPackage that holds what a day on the water brought. docs/trip-file.md describes it.
#pragma once

#include "fault/fault.hpp"
#include "files/database.hpp"
#include "geo/position.hpp"
#include "picture/overview.hpp"
#include "picture/row_facts.hpp"
#include "picture/stretches.hpp"
#include "sonar/nav_track.hpp"
#include "sonar/sounded_row.hpp"
#include "sonar/stream.hpp"

#include <array>
#include <filesystem>
#include <string>
#include <utility>
#include <vector>

namespace heron {

struct TripHead {
    std::string water;   ///< the name of the lake or river
    std::string sounder; ///< what sounded
    UnixNs started = 0;
    Installation installation;
    std::string id = {}; ///< given once, whatever water or file are called; `create` gives one where empty
};

/// A sentence as it came, and from which source.
struct HeardSentence {
    UnixNs time = 0;
    std::uint8_t source = 0;
    std::string line;
};

/// What was set, by whom, why, and how the picture looked before and after.
struct SettingChange {
    std::int64_t id = 0;
    UnixNs time = 0;
    std::size_t row = 0;
    std::string by;     ///< "guide", "advice", "tune", "depth"
    std::string what;   ///< "gain", "range", "band", "window", …
    std::string reason; ///< one line
    std::string before, after;
    std::vector<std::uint8_t> picture_before, picture_after; ///< see `pack_chip` in picture/chip.hpp
    std::string verdict;                                     ///< "", "better", "worse"
};

struct TripConditions {
    std::string wind, sky, clarity, level;
    std::optional<double> temperature_c;
    bool operator==(const TripConditions &) const = default;
};

/// One connection to a trip. Not for several threads at once; each thread opens its own.
class TripFile {
  public:
    static constexpr int schema_version = 3;
    static constexpr const char *suffix = ".trip.gpkg";

    /// A new trip; refuses a path at which something stands.
    static Result<TripFile> create(const std::filesystem::path &path, const TripHead &head);
    /// An existing trip to write to; upgrades an older schema on a copy that then takes its place. Refuses
    /// newer schemas, other files, and trips that another program has open to write.
    static Result<TripFile> open(const std::filesystem::path &path);
    /// To read only, beside whoever writes.
    static Result<TripFile> open_read_only(const std::filesystem::path &path);
    /// What a trip of any known schema says of itself; nothing is changed or upgraded.
    struct Glance {
        TripHead head;
        int schema = 0;
    };
    static Result<Glance> glance(const std::filesystem::path &path);
    /// `open`, or read only where the file or its folder cannot be written to.
    static Result<TripFile> open_or_read_only(const std::filesystem::path &path);
    TripFile(TripFile &&) noexcept;
    TripFile &operator=(TripFile &&) noexcept;
    ~TripFile(); ///< a writer folds the log into the one file

    const std::filesystem::path &path() const { return db_.path(); }
    const TripHead &head() const { return head_; }
    bool writes() const { return writes_; }
    Result<void> set_value(const std::string &key, const std::string &value);
    std::string value(const std::string &key) const;

    // Writing; each is one transaction, on the disk when it returns.
    struct Batch {
        StreamId stream = StreamId::side;
        std::size_t first_row = 0;
        std::vector<SoundedRow> rows;
        std::vector<HeardSentence> sentences;
    };
    Result<void> append(const Batch &batch);
    /// What became known of rows: facts with the settings they refer to, nav samples, overview lines.
    struct Knowledge {
        StreamId stream = StreamId::side;
        std::size_t first_row = 0;
        std::vector<RowFacts> facts;
        std::vector<SoundingSettings> settings; ///< all so far; new ones are added
        NavTrack nav;                           ///< samples since the last time
        std::vector<OverviewLine> overview;     ///< lines since the last time
    };
    Result<void> append(const Knowledge &knowledge);
    Result<void> append(const std::vector<Stretch> &stretches);
    Result<std::int64_t> log(const SettingChange &change); ///< its id
    Result<void> judge(std::int64_t change, const std::string &verdict,
                       const std::vector<std::uint8_t> &picture_after = {});
    Result<void> note(UnixNs time, std::size_t row, const std::string &text);
    Result<void> set_conditions(UnixNs time, const TripConditions &conditions);

    // Reading, one stream at a time.
    std::size_t rows(StreamId stream = StreamId::side) const; ///< number of the row after the last one kept
    /// Which rows the file can hold: what claims more is passed over.
    struct Extent {
        std::size_t rows = 0; ///< number of the row after the last one
        std::vector<std::pair<std::size_t, std::size_t>>
            blocks;                  ///< first row of each and the row after its last
        std::size_t passed_over = 0; ///< blocks and facts that make no sense
    };
    Extent extent(StreamId stream = StreamId::side) const;
    std::vector<SoundedRow> fetch(std::size_t first, std::size_t count,
                                  StreamId stream = StreamId::side) const;
    Result<std::vector<RowFacts>> facts(StreamId stream = StreamId::side) const;
    std::vector<SoundingSettings> settings(StreamId stream = StreamId::side) const;
    /// Where the transducer of a stream hangs; the head's own says that of the side-looking one.
    Installation installation(StreamId stream) const;
    Result<void> set_installation(StreamId stream, const Installation &installation);
    NavTrack nav() const;
    std::vector<OverviewLine> overview(StreamId stream = StreamId::side) const;
    std::vector<SettingChange> changes(bool with_pictures = true) const;
    std::optional<TripConditions> conditions() const;
    std::vector<HeardSentence> sentences(UnixNs from, UnixNs to) const;

    Database &database() { return db_; }
    const Database &database() const { return db_; }

  private:
    TripFile(Database db, int lock, bool writes) : db_(std::move(db)), lock_(lock), writes_(writes) {}
    void read_values();
    Result<void> read_head();
    std::size_t most_unpacked() const;
    Database db_;
    int lock_ = -1;
    bool writes_ = false;
    TripHead head_;
    std::array<std::size_t, stream_count> settings_written_{};
};

/// zstd, level 1.
std::vector<std::uint8_t> squeeze(std::span<const std::uint8_t> bytes);
/// Nothing for bytes that are no frame, or one that claims more than `most` bytes.
std::optional<std::vector<std::uint8_t>> unsqueeze(std::span<const std::uint8_t> bytes,
                                                   std::size_t most = 256u << 20);

} // namespace heron
