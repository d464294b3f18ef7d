// All that comes in live, in one thread: links hand over what they hear, the journal keeps it, the queue
// takes it to the window. Rows get their numbers here.
#pragma once

#include "ingest/ingest_queue.hpp"
#include "ingest/source_config.hpp"

#include <QObject>
#include <vector>

namespace heron::app {

class NmeaLink;
class SounderLink;

class LiveIntake : public QObject {
    Q_OBJECT
  public:
    /// `trips`: the folder in which trips are kept; empty: nothing is kept.
    LiveIntake(IngestQueue &queue, int feeder, std::vector<SourceConfig> sources, QString trips, QString water);
    ~LiveIntake() override;

  public slots:
    void start();
    void ask(const heron::SoundingSettings &settings);

  public:
    // For the links.
    void heard(int link, std::string line);
    void greeted(SounderHello hello);
    void told(const SoundingSettings &settings);
    void sounded(WirePing ping);
    void say(LinkState state) { push(std::move(state)); }
    void push(IngestContent content) { queue_.push({feeder_, std::move(content)}); }

  private:
    void beginTrip(UnixNs time);

    IngestQueue &queue_;
    int feeder_;
    std::vector<SourceConfig> sources_;
    QString trips_, water_;
    std::vector<SounderLink *> sounders_;
    std::optional<SounderHello> hello_;
    RowAssembler assembler_;
    std::shared_ptr<Journal> journal_;
    bool trip_failed_ = false;
    std::size_t rows_ = 0;
};

} // namespace heron::app
Q_DECLARE_METATYPE(heron::SoundingSettings)
