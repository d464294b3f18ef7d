// Asks a child process for what the file holds: this process never opens it.
#include "recording/answer_codec.hpp"
#include "recording/answering_child.hpp"
#include "recording/damaged_pings.hpp"
#include "recording/recording.hpp"

#include <algorithm>
#include <memory>
#include <unordered_set>

namespace heron {
namespace {

// What the child is asked for.
enum class Ask : std::uint8_t {
    facts,      // all but the samples
    again,      // the same, opened once more and not told
    ping,       // one
    among_many, // one, with those of its part fetched together
};
constexpr double open_limit_s = 60, ping_limit_s = 60;
constexpr std::size_t most_facts_bytes = 256u << 20, most_ping_bytes = 64u << 20;
constexpr std::size_t most_broken = 40; ///< in one part; the rest of it is not tried then

std::vector<std::uint8_t> question(Ask what, std::size_t ping = 0) {
    ByteWriter out;
    out.put(static_cast<std::uint8_t>(what));
    out.put(static_cast<std::uint64_t>(ping));
    return out.bytes;
}

// In the child: the file is opened by the first question.
std::vector<std::uint8_t> answer(std::optional<Result<RecordingFile>> &file,
                                 const std::filesystem::path &path, std::span<const std::uint8_t> asked) {
    ByteReader in(asked);
    const auto what = static_cast<Ask>(in.get<std::uint8_t>());
    const auto i = in.get<std::uint64_t>();
    if (!file)
        file.emplace(RecordingFile::open(path));
    if (what == Ask::again)
        return {};
    if (what == Ask::facts || !*file)
        return facts_answer(*file);
    if (what == Ask::among_many)
        (*file)->fetch_together(i / RecordingFile::rows_a_part);
    return ping_answer((*file)->ping(i));
}

std::optional<AnsweringChild> start_child(const std::filesystem::path &path) {
    return AnsweringChild::start(
        [path, file = std::make_shared<std::optional<Result<RecordingFile>>>()](
            std::span<const std::uint8_t> asked) { return answer(*file, path, asked); });
}

tl::unexpected<Fault> no_child(const std::filesystem::path &path) {
    return fail(told("{}: no process could be started to read it in", path.string()), "nothing was read",
                "close other programs and open it again");
}

} // namespace

struct RecordingReader::State {
    std::filesystem::path path;
    RecordingFacts facts;
    std::optional<AnsweringChild> child;
    std::vector<bool> alone; ///< parts whose pings are fetched one by one: together they broke a child
    std::unordered_set<std::size_t> broken;
    std::vector<std::size_t> broken_in; ///< of each part

    static std::size_t part_of(std::size_t i) { return i / RecordingFile::rows_a_part; }
    std::size_t parts() const { return part_of(facts.order.size() - 1) + 1; }
    bool has_child();
    std::optional<Result<Ping>> ask_ping(std::size_t i);
};

RecordingReader::RecordingReader(std::unique_ptr<State> state) : state_(std::move(state)) {}
RecordingReader::RecordingReader(RecordingReader &&) noexcept = default;
RecordingReader &RecordingReader::operator=(RecordingReader &&) noexcept = default;
RecordingReader::~RecordingReader() = default;
const RecordingHead &RecordingReader::head() const {
    return state_->facts.head;
}
const std::vector<std::string> &RecordingReader::warnings() const {
    return state_->facts.warnings;
}
std::size_t RecordingReader::size() const {
    return state_->facts.order.size();
}
UnixNs RecordingReader::time_of(std::size_t i) const {
    return state_->facts.order.at(i).time;
}

Result<RecordingReader> RecordingReader::open(const std::filesystem::path &path) {
    auto child = start_child(path);
    if (!child)
        return no_child(path);
    const auto reply = child->ask(question(Ask::facts), open_limit_s, most_facts_bytes);
    auto facts = reply.end == AnsweringChild::End::answered ? read_facts_answer(reply.bytes) : std::nullopt;
    if (!facts)
        return fail(told("{}: this is no netCDF file, or it is damaged: reading it {}", path.string(),
                         reply.end == AnsweringChild::End::stuck ? "came to no end" : "broke down"),
                    "nothing was read", "copy it again from where it was recorded");
    if (!*facts)
        return tl::unexpected(facts->error());
    auto state = std::make_unique<State>();
    state->path = path;
    state->facts = std::move(**facts);
    state->child = std::move(child);
    state->alone.resize(state->parts());
    state->broken_in.resize(state->parts());
    RecordingReader reader(std::move(state));
    DamagedPings damaged;
    const auto check = reader.look_through(damaged);
    if (damaged.count() == reader.size())
        return tl::unexpected(damaged.as_refusal());
    if (check.nothing_heard())
        return fail(told("{}: {}: {}", path.string(), reader.state_->facts.groups.front() + "/backscatter_r",
                         "no ping holds any samples"),
                    "nothing was read");
    for (auto &w : check.warnings())
        reader.state_->facts.warnings.push_back(std::move(w));
    return reader;
}

// All pings of a short recording; of a long one those of its beginning, its end and two places between.
SampleCheck RecordingReader::look_through(DamagedPings &damaged) const {
    SampleCheck check;
    constexpr auto rows = RecordingFile::rows_a_part;
    const auto parts = state_->parts();
    for (std::size_t part = 0; part < parts; ++part) {
        if (parts > 4 && part != 0 && part != parts - 1 && part != parts / 3 && part != 2 * parts / 3)
            continue;
        for (auto i = part * rows; i < std::min(size(), (part + 1) * rows); ++i)
            if (auto p = ping(i))
                check.add(i, *p);
            else
                damaged.add(std::move(p.error()));
    }
    return check;
}

// One that has the file open: a new one where the last broke down.
bool RecordingReader::State::has_child() {
    if (child)
        return true;
    child = start_child(path);
    if (child && child->ask(question(Ask::again), open_limit_s, 0).end != AnsweringChild::End::answered)
        child.reset();
    return child.has_value();
}

// Nothing where it broke the child.
std::optional<Result<Ping>> RecordingReader::State::ask_ping(std::size_t i) {
    if (!has_child())
        return no_child(path);
    const auto how = alone[part_of(i)] ? Ask::ping : Ask::among_many;
    const auto reply = child->ask(question(how, i), ping_limit_s, most_ping_bytes);
    auto ping = reply.end == AnsweringChild::End::answered ? read_ping_answer(reply.bytes) : std::nullopt;
    if (!ping)
        child.reset();
    return ping;
}

// A ping that breaks a child among many is asked for alone; one that does so alone is damaged.
Result<Ping> RecordingReader::ping(std::size_t i) const {
    auto &s = *state_;
    const auto &at = s.facts.order.at(i);
    const auto part = State::part_of(i);
    if (!s.broken.contains(i) && s.broken_in[part] <= most_broken) {
        auto ping = s.ask_ping(i);
        if (!ping && !s.alone[part]) {
            s.alone[part] = true;
            ping = s.ask_ping(i);
        }
        if (ping)
            return std::move(*ping);
        s.broken.insert(i);
        ++s.broken_in[part];
    }
    return fail(told("{}: {}: ping {} is damaged", s.path.string(), s.facts.groups[at.group], at.row),
                "the pings before it and after it are read");
}

} // namespace heron
