#include "sharing/replica.hpp"

#include "files/json_in.hpp"
#include "marks/mark_json.hpp"

#include <algorithm>
#include <set>

namespace heron {
namespace {

using nlohmann::json;

bool is_set(const std::string &field) {
    return field == "sightings" || field == "outcomes";
}

// The elements of both, each once, in an order that hangs on nothing but themselves.
json united(const json &a, const json &b) {
    std::set<std::string> seen;
    std::vector<std::pair<std::string, json>> all;
    for (const auto *list : {&a, &b})
        if (list->is_array())
            for (const auto &x : *list) {
                auto key =
                    x.value("time", std::string()) + x.dump(-1, ' ', false, json::error_handler_t::replace);
                if (seen.insert(key).second)
                    all.emplace_back(std::move(key), x);
            }
    std::sort(all.begin(), all.end(), [](const auto &x, const auto &y) { return x.first < y.first; });
    if (all.empty())
        return nullptr;
    json out = json::array();
    for (auto &[key, x] : all)
        out.push_back(std::move(x));
    return out;
}

} // namespace

bool SharedMark::gone() const {
    if (!removed)
        return false;
    return std::none_of(stamps.begin(), stamps.end(), [&](const auto &s) { return s.second > *removed; });
}

std::vector<LostEdit> merge(SharedMark &into, const SharedMark &other) {
    std::vector<LostEdit> lost;
    for (const auto &[field, value] : other.fields) {
        const auto stamp_at = other.stamps.find(field);
        if (stamp_at == other.stamps.end())
            continue;
        const auto &stamp = stamp_at->second;
        const auto own = into.fields.find(field);
        if (own == into.fields.end()) {
            into.fields[field] = value;
            into.stamps[field] = stamp;
            continue;
        }
        auto &own_stamp = into.stamps[field];
        if (is_set(field)) {
            own->second = united(own->second, value);
            own_stamp = std::max(own_stamp, stamp);
            continue;
        }
        const bool later = stamp > own_stamp || (stamp == own_stamp && value.dump() > own->second.dump());
        if (own->second != value) {
            lost.push_back(later ? LostEdit{into.id, field, own->second, own_stamp}
                                 : LostEdit{into.id, field, value, stamp});
        }
        if (later) {
            own->second = value;
            own_stamp = stamp;
        }
    }
    if (other.removed && (!into.removed || *other.removed > *into.removed))
        into.removed = other.removed;
    return lost;
}

json json_of(const SharedMark &m) {
    json j{{"id", m.id}};
    for (const auto &[field, value] : m.fields)
        j["fields"][field] = value;
    for (const auto &[field, stamp] : m.stamps)
        j["stamps"][field] = text_of(stamp);
    if (m.removed)
        j["removed"] = text_of(*m.removed);
    return j;
}

Result<SharedMark> shared_mark_of_json(std::string_view text, std::size_t most_bytes) {
    constexpr std::size_t most_fields = 60;
    const auto refused = [](const std::string &why) {
        return fail(told("a word from another screen is not lawful: {}", why), told("it was not taken"),
                    told(""));
    };
    try {
        const auto j = parse_json(text, most_bytes, 12);
        SharedMark m;
        if (!j.is_object() || !j.contains("id") || !j["id"].is_string())
            return refused(told("it names no mark"));
        m.id = j["id"].get<std::string>();
        if (m.id.empty() || m.id.size() > MarkBounds::id ||
            !std::all_of(m.id.begin(), m.id.end(),
                         [](unsigned char c) { return std::isalnum(c) != 0 || c == '-'; }))
            return refused(told("its id is none"));
        const auto fields = j.value("fields", json::object()), stamps = j.value("stamps", json::object());
        if (!fields.is_object() || !stamps.is_object() || fields.size() > most_fields ||
            stamps.size() != fields.size())
            return refused(told("its fields and stamps do not go together"));
        for (const auto &[field, value] : fields.items()) {
            const auto at = stamps.find(field);
            const auto stamp =
                at != stamps.end() && at->is_string() ? stamp_of(at->get<std::string>()) : std::nullopt;
            if (!stamp || field.size() > 40)
                return refused(told("'{}' has no lawful stamp", field.substr(0, 40)));
            m.fields[field] = value;
            m.stamps[field] = *stamp;
        }
        if (j.contains("removed")) {
            const auto stamp =
                j["removed"].is_string() ? stamp_of(j["removed"].get<std::string>()) : std::nullopt;
            if (!stamp)
                return refused(told("its removal has no lawful stamp"));
            m.removed = stamp;
        }
        // What its fields make must be a lawful mark by itself.
        if (!m.fields.empty())
            if (auto whole = mark_of(m); !whole)
                return tl::unexpected(whole.error());
        return m;
    } catch (const json::exception &bad) {
        return refused(bad.what());
    }
}

std::map<std::string, json> fields_of(const Mark &mark, bool chips) {
    const auto j = json_of(mark, chips);
    std::map<std::string, json> fields;
    for (const auto &[name, value] : j.items())
        if (name != "id")
            fields[name] = value;
    return fields;
}

Result<Mark> mark_of(const SharedMark &shared) {
    json j{{"id", shared.id}};
    for (const auto &[name, value] : shared.fields)
        if (!value.is_null())
            j[name] = value;
    return mark_of_json(j);
}

const SharedMark *Replica::find(const std::string &id) const {
    const auto at = marks_.find(id);
    return at == marks_.end() ? nullptr : &at->second;
}

std::optional<SharedMark> Replica::edit(const Mark &mark, UnixNs wall) {
    auto &own = marks_[mark.id];
    own.id = mark.id;
    const auto fields = fields_of(mark, true);
    SharedMark change;
    change.id = mark.id;
    std::optional<Stamp> stamp;
    const auto put = [&](const std::string &name, const json &value) {
        if (!stamp)
            stamp = clock_.now(wall);
        own.fields[name] = change.fields[name] = value;
        own.stamps[name] = change.stamps[name] = *stamp;
    };
    const bool was_gone = own.gone();
    for (const auto &[name, value] : fields) {
        const auto known = own.fields.find(name);
        if (known == own.fields.end() || known->second != value || was_gone)
            put(name, value);
    }
    std::vector<std::string> emptied;
    for (const auto &[name, value] : own.fields)
        if (!fields.contains(name) && !value.is_null())
            emptied.push_back(name);
    for (const auto &name : emptied)
        put(name, nullptr);
    if (change.fields.empty())
        return std::nullopt;
    return change;
}

std::optional<SharedMark> Replica::remove(const std::string &id, UnixNs wall) {
    const auto at = marks_.find(id);
    if (at == marks_.end() || at->second.gone())
        return std::nullopt;
    at->second.removed = clock_.now(wall);
    SharedMark change;
    change.id = id;
    change.removed = at->second.removed;
    return change;
}

const SharedMark &Replica::take(const SharedMark &other, UnixNs wall, std::vector<LostEdit> *lost) {
    for (const auto &[field, stamp] : other.stamps)
        clock_.seen(stamp, wall);
    if (other.removed)
        clock_.seen(*other.removed, wall);
    auto &own = marks_[other.id];
    own.id = other.id;
    auto overruled = merge(own, other);
    if (lost != nullptr)
        lost->insert(lost->end(), overruled.begin(), overruled.end());
    return own;
}

std::string Replica::state() const {
    std::string out;
    for (const auto &[id, m] : marks_)
        out += json_of(m).dump(-1, ' ', false, json::error_handler_t::replace) + "\n";
    return out;
}

std::size_t Replica::load(std::string_view state) {
    std::size_t passed_over = 0;
    for (std::size_t from = 0; from < state.size();) {
        const auto end = std::min(state.find('\n', from), state.size());
        if (const auto line = state.substr(from, end - from); !line.empty()) {
            if (auto m = shared_mark_of_json(line))
                take(*m, 0);
            else
                ++passed_over;
        }
        from = end + 1;
    }
    return passed_over;
}

} // namespace heron
