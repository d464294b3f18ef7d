// Sets of questions that others made.
#include "fuzz/target.hpp"
#include "practice/guest_set.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t *data, std::size_t size) {
    using namespace heron;
    const auto set = guest_set_of({reinterpret_cast<const char *>(data), size}, "fuzz");
    if (!set)
        return 0;
    // What was taken is written and read again as it was.
    const auto again = guest_set_of(text_of(*set), "fuzz");
    must(again.has_value());
    must(again->questions.size() == set->questions.size());
    for (std::size_t i = 0; i < set->questions.size(); ++i)
        must(again->questions[i].choices == set->questions[i].choices &&
             again->questions[i].right == set->questions[i].right);
    return 0;
}
