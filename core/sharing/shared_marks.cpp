#include "sharing/shared_marks.hpp"

#include "marks/mark_json.hpp"
#include "marks/pack.hpp"

#include <algorithm>

namespace heron {
namespace {

const std::string root = "young-heron/";

} // namespace

Mark overlaid(const Mark *own, const Mark &shared) {
    if (own == nullptr)
        return shared;
    Mark m = shared;
    // The guide's own word on who sees what holds against a field that was never sent.
    for (const auto &[field, level] : own->field_levels)
        if (level == Level::me)
            copy_field(field, *own, m);
    // Pictures of single looks do not travel.
    for (auto &s : m.sightings)
        for (const auto &o : own->sightings)
            if (s.time == o.time && s.side == o.side && s.source == o.source && s.chip.empty())
                s.chip = o.chip;
    return m;
}

SharedMarks::SharedMarks(std::string service, std::string screen, Role role)
    : service_(std::move(service)), role_(role), replica_(std::move(screen)) {}

std::string SharedMarks::topic(const std::string &service, Level audience, const std::string &id) {
    return root + service + "/" + std::string(name_of(audience)) + "/" + id;
}

std::vector<std::string> SharedMarks::topics() const {
    const auto level = role_ == Role::crew     ? Level::crew
                       : role_ == Role::client ? Level::client
                                               : Level::anyone;
    return {topic(service_, level, "+")};
}

// The crew's word, and what clients and anyone may see of the same mark; an empty word where they may see
// nothing.
std::vector<BrokerLink::Word> SharedMarks::words_of(const SharedMark &shared) {
    SharedMark crew = shared;
    if (crew.gone()) {
        // Of what is gone no word is left but that it is.
        crew.fields.clear();
        crew.stamps.clear();
    }
    std::vector<BrokerLink::Word> words{
        {topic(service_, Level::crew, shared.id), json_of(crew).dump(), true}};
    const auto mark = shared.gone() ? Result<Mark>(tl::unexpected(Fault())) : mark_of(shared);
    for (const auto audience : {Level::client, Level::anyone}) {
        std::string payload;
        if (mark)
            if (const auto seen = as_seen_by(*mark, audience))
                payload = json_of(*seen, true).dump(-1, ' ', false, nlohmann::json::error_handler_t::replace);
        words.push_back({topic(service_, audience, shared.id), payload, true});
    }
    return words;
}

std::vector<BrokerLink::Word> SharedMarks::edited(const Mark &mark, UnixNs wall) {
    if (role_ != Role::crew)
        return {};
    auto seen = as_seen_by(mark, Level::crew);
    if (!seen)
        return removed(mark.id, wall);
    for (auto &s : seen->sightings)
        s.chip = {};
    if (!replica_.edit(*seen, wall))
        return {};
    return words_of(*replica_.find(mark.id));
}

std::vector<BrokerLink::Word> SharedMarks::removed(const std::string &id, UnixNs wall) {
    if (role_ != Role::crew || !replica_.remove(id, wall))
        return {};
    return words_of(*replica_.find(id));
}

SharedMarks::Brought SharedMarks::heard(const BrokerLink::Word &word, const Mark *own, UnixNs wall) {
    Brought b;
    const auto parts_end = word.topic.rfind('/');
    const auto id = parts_end == std::string::npos ? std::string() : word.topic.substr(parts_end + 1);
    if (role_ != Role::crew) {
        if (word.payload.empty()) {
            b.gone = id;
            return b;
        }
        // What such a receiver is shown is whole and holds as it is.
        SharedMark shell;
        shell.id = id;
        try {
            auto m = mark_of_json(nlohmann::json::parse(word.payload));
            if (!m)
                b.refused = m.error();
            else if (m->id != id)
                b.refused = Fault{
                    told("a word on {} speaks of another mark", word.topic), told("it was not taken"), {}};
            else
                b.mark = std::move(*m);
        } catch (const nlohmann::json::exception &bad) {
            b.refused = Fault{told("a word from another screen is not lawful: {}", bad.what()),
                              told("it was not taken"),
                              {}};
        }
        return b;
    }
    if (word.payload.empty())
        return b; // somebody cleared the broker; what is known stays known
    auto shared = shared_mark_of_json(word.payload);
    if (!shared) {
        b.refused = shared.error();
        return b;
    }
    if (shared->id != id) {
        b.refused =
            Fault{told("a word on {} speaks of another mark", word.topic), told("it was not taken"), {}};
        return b;
    }
    const auto *known = replica_.find(id);
    const auto before = known != nullptr ? json_of(*known) : nlohmann::json();
    const auto &now = replica_.take(*shared, wall, &b.lost);
    const auto after = json_of(now);
    SharedMark told_now = now;
    if (told_now.gone()) {
        told_now.fields.clear();
        told_now.stamps.clear();
    }
    // Where this screen knows more, the broker gets the whole.
    if (json_of(told_now) != json_of(*shared))
        b.answer = words_of(now);
    if (after == before)
        return b;
    if (now.gone()) {
        b.gone = id;
        return b;
    }
    auto mark = mark_of(now);
    if (!mark) {
        b.refused = mark.error();
        return b;
    }
    // A mark that is kept closer here than it is shared stays as it is.
    if (own != nullptr && own->level == Level::me)
        return b;
    b.mark = overlaid(own, *mark);
    return b;
}

} // namespace heron
