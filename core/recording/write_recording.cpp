#include "recording/write_recording.hpp"

namespace heron {

Result<void> write_recording(const std::filesystem::path &path, const RecordingHead &head,
                             std::span<const Ping> pings) {
    auto writer = RecordingWriter::create(path, head);
    if (!writer)
        return tl::unexpected(writer.error());
    for (const auto &ping : pings)
        if (auto added = writer->add(ping); !added)
            return added;
    return writer->finish();
}

} // namespace heron
