#include "upgrade_commands.h"

#include "nuvat/core/base/checksum.h"
#include "payload_store.h"

#include <bit>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>

namespace nuvat {

using Json = nlohmann::json;

void rewriteCommands(Database& db, const std::function<void(std::int64_t position, Json& changes)>& change) {
    std::vector<std::pair<std::int64_t, std::string>> rewritten;
    {
        Statement s(db, "SELECT position, changes FROM command ORDER BY position");
        while (s.step()) {
            try {
                Json changes = Json::parse(s.text(1));
                change(s.integer64(0), changes);
                rewritten.emplace_back(s.integer64(0), changes.dump());
            } catch (const Json::exception&) { // left as it is
            }
        }
    }
    for (const auto& [position, changes] : rewritten) {
        Statement(db, "UPDATE command SET changes = ? WHERE position = ?").bind(changes, position).run();
    }
}

namespace {

Json carrierOf(const Json& info) {
    return info.is_null()
               ? Json(nullptr)
               : Json{{"kind", "plate"}, {"name", ""}, {"rows", info.at("rows")}, {"columns", info.at("columns")}};
}

} // namespace

namespace {

/// Calls `change` with every item of a kind that an undo entry holds.
void rewriteItems(Database& db, const char* kind, const std::function<void(Json& item)>& change) {
    rewriteCommands(db, [&](std::int64_t, Json& changes) {
        for (Json& one : changes) {
            for (const char* side : {"before", "after"}) {
                if (one.at("kind") == kind && !one.at(side).is_null()) {
                    change(one.at(side));
                }
            }
        }
    });
}

} // namespace

void addSignalRules(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        method["signalRules"] = "";
        method["traceRecipe"] = "";
        for (Json& analyte : method.at("analytes")) {
            Json rule = Json::parse(analyte.at("rule").get<std::string>());
            if (rule.at("kind") == "peak") {
                rule["pick"] = "nearest";
                rule["factor"] = 1.0;
                rule["isWindowTaken"] = false;
                analyte["rule"] = rule.dump();
            }
        }
    });
}

void addAdditionStandard(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        for (Json& analyte : method.at("analytes")) {
            analyte["additionStandard"] = nullptr;
        }
    });
}

void addDecisions(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        method.update({{"plateRecipe", ""},
                       {"blankBy", "carrier"},
                       {"leastDilution", 1.0},
                       {"resultColumns", Json::array()},
                       {"reportTop", ""},
                       {"reportFoot", ""},
                       {"fileName", ""},
                       {"whenComplete", Json::array()}});
        for (Json& analyte : method.at("analytes")) {
            analyte.update({{"percentOf", "nothing"}, {"decisions", ""}, {"derived", ""}, {"kept", ""}});
        }
    });
    rewriteItems(db, "sample", [](Json& sample) {
        sample.update({{"volume", nullptr}, {"mass", nullptr}, {"added", nullptr}});
    });
}

void addFigures(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        for (Json& analyte : method.at("analytes")) {
            analyte["figure"] = "";
        }
    });
}

void addInternalStandards(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        method.update({{"internalLow", 50.0}, {"internalHigh", 150.0}});
        for (Json& analyte : method.at("analytes")) {
            analyte.update({{"internalStandard", 0},
                            {"isInternalBeforeDilution", false},
                            {"addedConcentration", nullptr},
                            {"qualifiers", ""}});
        }
    });
    rewriteItems(db, "run", [](Json& run) { run["added"] = ""; });
}

void addRunLists(Database& db) {
    rewriteItems(db, "method", [](Json& method) {
        method.update({{"nameRules", ""}, {"runRule", ""}, {"standardPlan", ""}});
        for (Json& analyte : method.at("analytes")) {
            analyte["suitability"] = "";
        }
    });
}

void moveSizesToCarriers(Database& db) {
    rewriteCommands(db, [](std::int64_t, Json& changes) {
        Json out = Json::array();
        for (const Json& change : changes) {
            out.push_back(change);
            if (change.at("kind") != "info") {
                continue;
            }
            const Json before = carrierOf(change.at("before"));
            const Json after = carrierOf(change.at("after"));
            for (const char* side : {"before", "after"}) {
                if (!out.back().at(side).is_null()) {
                    out.back().at(side).erase("rows");
                    out.back().at(side).erase("columns");
                }
            }
            if (before != after) {
                out.push_back({{"kind", "carrier"}, {"key", 1}, {"before", before}, {"after", after}});
            }
        }
        changes = std::move(out);
    });
}

namespace {

/// Readings of an older file, by key: what they were called, and which of them an analyte named as its own.
class OldReadings {
public:
    explicit OldReadings(Database& db) {
        Statement reading(db, "SELECT id, read_name FROM reading");
        while (reading.step()) {
            m_names[reading.integer(0)] = reading.text(1);
        }
        Statement analyte(db, "SELECT reading FROM analyte WHERE reading > 0");
        while (analyte.step()) {
            m_pinned.insert(analyte.integer(0));
        }
        Statement command(db, "SELECT changes FROM command");
        while (command.step()) {
            try {
                lookThrough(Json::parse(command.text(0)));
            } catch (const Json::exception&) { // left as it is
            }
        }
    }

    bool isPinned(int key) const { return m_pinned.contains(key) && m_names.contains(key); }

    /// Its name, made one of its own where an analyte needs to tell it from others.
    std::string channel(int key) const {
        const auto found = m_names.find(key);
        if (found == m_names.end()) {
            return "";
        }
        const bool isShared = std::any_of(m_names.begin(), m_names.end(), [&](const auto& other) {
            return other.first != key && other.second == found->second;
        });
        return !isPinned(key) || (!isShared && !found->second.empty())
                   ? found->second
                   : (found->second.empty() ? "reading" : found->second) + " " + std::to_string(key);
    }

private:
    void lookThrough(const Json& changes) {
        for (const Json& change : changes) {
            for (const char* side : {"before", "after"}) {
                const Json& item = change.at(side);
                if (!item.is_null() && change.at("kind") == "reading") {
                    m_names[change.at("key").get<int>()] = item.at("readName").get<std::string>();
                } else if (!item.is_null() && change.at("kind") == "method" && item.contains("analytes")) {
                    for (const Json& analyte : item.at("analytes")) {
                        if (const int own = analyte.at("reading"); own > 0) {
                            m_pinned.insert(own);
                        }
                    }
                }
            }
        }
    }

    std::map<int, std::string> m_names;
    std::set<int> m_pinned;
};

Json slotJson(const std::string& channel) {
    return {{"carrier", 1}, {"channel", channel}};
}

Json inUseChange(const std::string& channel, const Json& before, const Json& after) {
    return {{"kind", "in-use"}, {"key", slotJson(channel)}, {"before", before}, {"after", after}};
}

Json usedBy(int key) {
    return {{"reading", key}};
}

/// A formula that is one channel.
std::string formulaOf(const OldReadings& readings, int key) {
    if (key == 0) {
        return "";
    }
    const std::string channel = readings.channel(key);
    return channel.empty() ? "reading " + std::to_string(key) : channel;
}

/// The head of a reading, its wells put among the payloads.
Json withoutWells(Database& db, const OldReadings& readings, int key, const Json& item, std::int64_t position) {
    if (item.is_null()) {
        return item;
    }
    Grid grid{item.at("rows"), item.at("columns"), {}};
    for (const Json& well : item.at("wells")) {
        grid.wells.push_back({well.at(0).is_null() ? std::nullopt : std::optional(well.at(0).get<double>()),
                              well.at(1).get<std::string>(), well.at(2).get<int>(), well.at(3).get<int>()});
    }
    const Payload payload = Payload::of(std::move(grid));
    storePayload(db, payload);
    Statement(db, "INSERT OR IGNORE INTO command_payload (position, payload) VALUES (?, ?)")
        .bind(position, payload.id())
        .run();
    return {{"source", item.at("source")},
            {"checksum", item.at("checksum")},
            {"understood", item.at("understood")},
            {"takenInMillis", item.at("takenInMillis")},
            {"slot", slotJson(readings.channel(key))},
            {"payload", payload.id()}};
}

/// What one change of an older version is now: one change, or more.
void appendUpgraded(Database& db, const OldReadings& readings, std::int64_t position, Json change, Json& out) {
    const std::string kind = change.at("kind");
    Json& before = change.at("before");
    Json& after = change.at("after");
    if (kind == "reading") {
        const int key = change.at("key");
        before = withoutWells(db, readings, key, before, position);
        after = withoutWells(db, readings, key, after, position);
        out.push_back(change);
        if (readings.isPinned(key) && before.is_null() != after.is_null()) {
            out.push_back(inUseChange(readings.channel(key), before.is_null() ? Json(nullptr) : usedBy(key),
                                      after.is_null() ? Json(nullptr) : usedBy(key)));
        }
        return;
    }
    if (kind == "method") {
        for (Json* side : {&before, &after}) {
            if (!side->is_null() && side->contains("analytes")) {
                for (Json& analyte : side->at("analytes")) {
                    analyte["formula"] = formulaOf(readings, analyte.at("reading"));
                    analyte["curveOf"] = "batch";
                    analyte.erase("reading");
                }
            }
        }
        out.push_back(change);
        return;
    }
    if (kind != "info") {
        out.push_back(change);
        return;
    }
    std::array<int, 2> used{0, 0};
    for (std::size_t i = 0; i < 2; ++i) {
        Json& side = i == 0 ? before : after;
        if (!side.is_null()) {
            used[i] = side.at("readingInUse");
            side["channel"] = readings.channel(used[i]);
            side.erase("readingInUse");
        }
    }
    out.push_back(change);
    const auto [was, is] = used;
    if (was == is) {
        return;
    }
    const bool isSameSlot = was > 0 && is > 0 && readings.channel(was) == readings.channel(is);
    if (isSameSlot) {
        out.push_back(inUseChange(readings.channel(is), usedBy(was), usedBy(is)));
        return;
    }
    if (was > 0 && !readings.isPinned(was)) {
        out.push_back(inUseChange(readings.channel(was), usedBy(was), nullptr));
    }
    if (is > 0 && !readings.isPinned(is)) {
        out.push_back(inUseChange(readings.channel(is), nullptr, usedBy(is)));
    }
}

/// FNV-1a of the values, as versions 3 to 5 kept it of each reading.
std::string oldChecksum(const Grid& grid) {
    std::string bytes;
    const auto add = [&bytes](std::uint64_t value) {
        for (unsigned shift = 0; shift < 64; shift += 8) {
            bytes += static_cast<char>(value >> shift & 0xffu);
        }
    };
    add(static_cast<std::uint64_t>(grid.rows));
    add(static_cast<std::uint64_t>(grid.columns));
    for (const ReadingWell& well : grid.wells) {
        add(well.value ? 1 : 0);
        add(std::bit_cast<std::uint64_t>(well.value.value_or(0)));
        bytes += well.text;
        bytes += '\0';
    }
    return fnv1a(bytes);
}

Grid oldGrid(Database& db, int id, int rows, int columns) {
    constexpr int kMost = 48;
    if (rows < 1 || rows > kMost || columns < 1 || columns > kMost) {
        throw std::runtime_error("a plate of it has a size that no plate has");
    }
    Grid grid{rows, columns, std::vector<ReadingWell>(static_cast<std::size_t>(rows * columns))};
    Statement w(db, "SELECT row, column, value, text, source_line, source_cell FROM reading_well WHERE reading_id = ?");
    w.bind(id);
    while (w.step()) {
        const int row = w.integer(0);
        const int column = w.integer(1);
        if (row < 0 || row >= rows || column < 0 || column >= columns) {
            throw std::runtime_error("a well lies outside its plate");
        }
        grid.wells[static_cast<std::size_t>(row * columns + column)] = {w.optionalNumber(2), w.text(3), w.integer(4),
                                                                        w.integer(5)};
    }
    return grid;
}

void moveReadings(Database& db, const OldReadings& readings) {
    Statement s(db, "SELECT id, source, checksum, understood, taken_in_millis, rows, columns, values_checksum "
                    "FROM reading");
    while (s.step()) {
        const int id = s.integer(0);
        Grid grid = oldGrid(db, id, s.integer(5), s.integer(6));
        if (const std::string kept = s.text(7); !kept.empty() && kept != oldChecksum(grid)) {
            throw std::runtime_error("values of the reading " + s.text(1) +
                                     " are not those that were imported (their checksum differs)");
        }
        const Payload payload = Payload::of(std::move(grid));
        storePayload(db, payload);
        Statement(db, "INSERT INTO new_reading VALUES (?, ?, ?, ?, ?, 1, -1, -1, ?, ?)")
            .bind(id, s.text(1), s.text(2), s.text(3), s.integer64(4), readings.channel(id), payload.id())
            .run();
        if (readings.isPinned(id)) {
            Statement(db, "INSERT INTO in_use VALUES (1, -1, -1, ?, ?)").bind(readings.channel(id), id).run();
        }
    }
}

} // namespace

void moveWellsToPayloads(Database& db) {
    const OldReadings readings(db);
    moveReadings(db, readings);
    int used = 0;
    {
        Statement batch(db, "SELECT reading_in_use FROM batch");
        used = batch.step() ? batch.integer(0) : 0;
    }
    Statement(db, "UPDATE batch SET channel = ?").bind(readings.channel(used)).run();
    if (used > 0) {
        Statement(db, "INSERT OR REPLACE INTO in_use VALUES (1, -1, -1, ?, ?)")
            .bind(readings.channel(used), used)
            .run();
    }
    std::vector<std::pair<int, int>> own;
    {
        Statement analyte(db, "SELECT number, reading FROM analyte WHERE reading > 0");
        while (analyte.step()) {
            own.emplace_back(analyte.integer(0), analyte.integer(1));
        }
    }
    for (const auto& [number, reading] : own) {
        Statement(db, "UPDATE analyte SET formula = ? WHERE number = ?")
            .bind(formulaOf(readings, reading), number)
            .run();
    }
    rewriteCommands(db, [&](std::int64_t position, Json& changes) {
        Json out = Json::array();
        for (const Json& change : changes) {
            appendUpgraded(db, readings, position, change, out);
        }
        changes = std::move(out);
    });
}

} // namespace nuvat
