// The wall at the edge of a thread: what is thrown behind it becomes a fault that is told.
#pragma once

#include "fault/fault.hpp"

#include <exception>
#include <new>
#include <optional>
#include <string>

namespace heron {

/// What the exception that is being handled means to a guide. `doing`: what was being done, as in "the
/// picture was read". Call it only inside a catch block.
inline Fault fault_of_exception(const std::string &doing) {
    const std::string happened = doing + " broke off: ";
    try {
        throw;
    } catch (const std::bad_alloc &) {
        return {happened + "this machine ran out of memory", "all else goes on; what was saved is safe",
                "close other programs"};
    } catch (const std::exception &e) {
        return {happened + e.what(), "all else goes on; what was saved is safe",
                "if it comes again, start the program anew"};
    } catch (...) {
        return {happened + "the reason is not known", "all else goes on; what was saved is safe",
                "if it comes again, start the program anew"};
    }
}

/// Runs `work`; the fault of what it throws, nothing when it ends well.
template <class Work>
std::optional<Fault> guarded(const std::string &doing, Work &&work) {
    try {
        work();
        return std::nullopt;
    } catch (...) {
        return fault_of_exception(doing);
    }
}

/// The same for work that answers with a result.
template <class Work>
auto guarded_result(const std::string &doing, Work &&work) -> decltype(work()) {
    try {
        return work();
    } catch (...) {
        return tl::unexpected<Fault>(fault_of_exception(doing));
    }
}

} // namespace heron
