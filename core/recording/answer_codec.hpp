// What the child that opens a recording answers with, as bytes. Read back with doubt: what it read may have
// misled it.
#pragma once

#include "recording/recording_file.hpp"
#include "sonar/ping_codec.hpp"

namespace heron {

/// A recording without its samples, as the process knows it that asked.
struct RecordingFacts {
    RecordingHead head;
    std::vector<std::string> warnings;
    std::vector<std::string> groups; ///< where each lies in the file
    struct At {
        UnixNs time = 0;
        std::uint32_t group = 0; ///< of `groups`
        std::size_t row = 0;
    };
    std::vector<At> order; ///< one a ping
};

std::vector<std::uint8_t> facts_answer(const Result<RecordingFile> &file);
/// Nothing for bytes that are no such answer; the fault where the file was refused.
std::optional<Result<RecordingFacts>> read_facts_answer(std::span<const std::uint8_t> bytes);

std::vector<std::uint8_t> ping_answer(const Result<Ping> &ping);
std::optional<Result<Ping>> read_ping_answer(std::span<const std::uint8_t> bytes);

} // namespace heron
