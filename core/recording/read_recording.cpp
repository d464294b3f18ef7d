#include "recording/recording.hpp"

namespace heron {

Result<Recording> read_recording(const std::filesystem::path &path) {
    auto reader = RecordingReader::open(path);
    if (!reader)
        return tl::unexpected(reader.error());
    Recording recording{reader->head(), {}, reader->warnings()};
    std::size_t damaged = 0;
    recording.pings.reserve(reader->size());
    std::optional<Fault> fault;
    for (std::size_t i = 0; i < reader->size(); ++i) {
        if (auto p = reader->ping(i)) {
            recording.pings.push_back(std::move(*p));
        } else {
            ++damaged;
            fault = p.error();
        }
    }
    if (recording.pings.empty() && fault)
        return tl::unexpected(*fault);
    if (damaged > 0)
        recording.warnings.push_back(told("{} pings are damaged and were left out", damaged));
    return recording;
}

} // namespace heron
