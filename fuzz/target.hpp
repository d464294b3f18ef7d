// A reader given whatever bytes there are: it answers, and what it takes holds. One function a target, as
// libFuzzer calls it; `replay.cpp` gives it the seeds where there is no fuzzer.
#pragma once

#include <cstddef>
#include <cstdint>
#include <cstdlib>
#include <span>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size);

/// What holds for all input; the fuzzer keeps the input for which it does not.
inline void must(bool holds) {
    if (!holds)
        std::abort();
}
