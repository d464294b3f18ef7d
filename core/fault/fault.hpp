// What a caller gets when something at the edge of the program (a file, a socket, a device) goes wrong.
#pragma once

#include "fault/told.hpp"

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace heron {

/// A failure told so that a guide can act on it. Each part is one sentence without its full stop;
/// `kept` and `to_do` may be empty when there was nothing to keep or nothing can be done.
struct Fault {
    std::string happened;
    std::string kept;
    std::string to_do;
    bool of_disk = false; ///< the disk is full or fails: worth trying again later

    /// All parts on one line, as the command line prints them.
    std::string line() const {
        std::string text = happened;
        if (!kept.empty())
            text += "; " + kept;
        if (!to_do.empty())
            text += "; " + to_do;
        return text;
    }
};

template <class T>
using Result = tl::expected<T, Fault>;

/// Each part in English, as it stands or put together by `told`; the window's language comes with
/// `translator`.
inline tl::unexpected<Fault> fail(const std::string &happened, const std::string &kept = {},
                                  const std::string &to_do = {}) {
    const auto said = [](const std::string &english) {
        return translator() == nullptr || english.empty() ? english : translator()(english.c_str());
    };
    return tl::unexpected<Fault>(Fault{said(happened), said(kept), said(to_do)});
}

} // namespace heron
