#include "recording/damaged_pings.hpp"
#include "recording/recording.hpp"

namespace heron {

Result<Recording> read_recording(const std::filesystem::path &path) {
    auto reader = RecordingReader::open(path);
    if (!reader)
        return tl::unexpected(reader.error());
    Recording recording{reader->head(), {}, reader->warnings()};
    DamagedPings damaged;
    recording.pings.reserve(reader->size());
    for (std::size_t i = 0; i < reader->size(); ++i) {
        if (auto p = reader->ping(i))
            recording.pings.push_back(std::move(*p));
        else
            damaged.add(std::move(p.error()));
    }
    if (recording.pings.empty() && damaged.count() > 0)
        return tl::unexpected(damaged.as_refusal());
    damaged.tell(recording.warnings);
    return recording;
}

} // namespace heron
