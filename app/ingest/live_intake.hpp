// All that comes in live, in one thread: links hand over what they hear, each stream's clock stamps it, the
// journal keeps it, the queue takes it to the window. Rows get their numbers and their times here.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "ingest/source_config.hpp"
#include "sonar/stream_clock.hpp"

#include <QObject>
#include <array>
#include <map>
#include <set>
#include <vector>

namespace heron::app {

class NmeaLink;
class SounderLink;

class LiveIntake : public QObject {
    Q_OBJECT
  public:
    /// `trips`: the folder in which trips are kept; empty: nothing is kept.
    LiveIntake(IngestQueue &queue, int feeder, std::vector<SourceConfig> sources, QString trips,
               QString water);
    ~LiveIntake() override;

  public slots:
    void start();
    void ask(heron::StreamId stream, const heron::SoundingSettings &settings);
    void steer(heron::StreamId stream, heron::Helm helm);

  public:
    // For the links.
    void heard(int link, std::string line);
    void greeted(int link, SounderHello hello);
    void told(int link, const SoundingSettings &settings);
    void sounded(int link, WirePing ping);
    void say(LinkState state);
    void push(IngestContent content) { queue_.push({feeder_, std::move(content)}); }

  private:
    /// One sonar: which link sounds it, its rows and its clock.
    struct Stream {
        std::optional<int> link;
        std::optional<SounderHello> hello;
        RowAssembler assembler;
        StreamClock clock;
        std::optional<double> told_difference_s;
        std::size_t rows = 0;
    };
    Stream &of(StreamId stream) { return streams_[static_cast<std::size_t>(stream)]; }
    /// The stream that this link sounds; nothing for a second sounder of a kind.
    std::optional<StreamId> claim(int link, StreamId stream);
    std::optional<StreamId> stream_of_link(int link) const;
    /// Whether another sounder than this has the sides.
    bool asideOf(int link);
    void beginTrip(UnixNs time);

    IngestQueue &queue_;
    int feeder_;
    std::vector<SourceConfig> sources_;
    QString trips_, water_;
    std::map<int, SounderLink *> sounders_;
    std::array<Stream, stream_count> streams_;
    std::map<int, SounderHello> greetings_; ///< of links whose stream is not known yet
    std::map<int, SoundingSettings> first_settings_;
    std::map<int, NmeaFeed> feeds_;
    std::set<int> spare_; ///< links that were told to be a second of a kind
    std::shared_ptr<Journal> journal_;
    bool trip_failed_ = false;
};

} // namespace heron::app
Q_DECLARE_METATYPE(heron::SoundingSettings)
Q_DECLARE_METATYPE(heron::StreamId)
