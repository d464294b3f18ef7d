// Lakes that somebody wrote for the stand-in.
#include "sim/scene.hpp"
#include "fuzz/target.hpp"

using namespace heron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    const auto scene = sim::read_scene({reinterpret_cast<const char *>(data), size}, "fuzz.json");
    must(scene || !scene.error().happened.empty());
    return 0;
}
