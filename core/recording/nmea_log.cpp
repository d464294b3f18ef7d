#include "recording/nmea_log.hpp"

#include "fault/told.hpp"
#include "files/atomic_file.hpp"
#include "recording/nmea_feed.hpp"

#include <algorithm>
#include <string_view>

namespace heron {

Result<NavTrack> track_of_log(const std::string &file) {
    constexpr std::uintmax_t most_bytes = 512u << 20;
    const auto text = read_whole_file(file, most_bytes);
    if (!text)
        return tl::unexpected(text.error());
    NavTrack track;
    NmeaFeed feed;
    std::size_t lines = 0;
    constexpr UnixNs a_line = 1'000'000; // heard so long after one another: no host was there to tell
    for (std::size_t from = 0; from < text->size();) {
        const auto end = std::min(text->find('\n', from), text->size());
        auto line = std::string_view(*text).substr(from, end - from);
        while (!line.empty() && (line.back() == '\r' || line.back() == ' '))
            line.remove_suffix(1);
        // A log may put a time before each sentence.
        if (const auto begins = line.find_first_of("$!"); begins != std::string_view::npos)
            feed.take(line.substr(begins), static_cast<UnixNs>(++lines) * a_line, track);
        from = end + 1;
    }
    if (lines == 0)
        return fail(told("{}: it holds no sentence", file), told("nothing was read"),
                    told("name a log of NMEA 0183 sentences"));
    return track;
}

} // namespace heron
