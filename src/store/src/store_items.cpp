#include "change_json.h"
#include "items.h"
#include "payload_store.h"

namespace nuvat {

namespace {

std::string kindName(EventKind kind) {
    return kind == EventKind::Done ? "done" : kind == EventKind::Undone ? "undone" : "redone";
}

template<class Key, class T, class Map> void storeAll(Database& db, const Map& map) {
    for (const auto& [key, value] : map) {
        storeItem(db, Key{key}, std::optional<T>(value));
    }
}

} // namespace

void storeItem(Database& db, WholeBatch key, const std::optional<Method>& v) {
    const Method method = v.value_or(Method{});
    storeRow(db, key, std::optional(method));
    db.execute("DELETE FROM analyte; DELETE FROM criterion;");
    for (std::size_t i = 0; i < method.analytes.size(); ++i) {
        storeRow(db, AnalyteKey{static_cast<int>(i) + 1}, std::optional(method.analytes[i]));
    }
    for (std::size_t i = 0; i < method.criteria.size(); ++i) {
        storeRow(db, CriterionKey{static_cast<int>(i)}, std::optional(method.criteria[i]));
    }
}

void storeItem(Database& db, int key, const std::optional<Reading>& v) {
    if (v) {
        storePayload(db, v->payload);
    }
    storeRow(db, key, v);
}

void storeCommand(Database& db, const Command& command, std::int64_t position, bool isDone) {
    Statement(db, "INSERT OR REPLACE INTO command (position, is_done, label, reason, time_millis, changes) "
                  "VALUES (?, ?, ?, ?, ?, ?)")
        .bind(position, isDone, command.label, command.reason, command.timeMillis, changesToJson(command.changes))
        .run();
    for (const Payload& payload : payloadsOf(command)) {
        storePayload(db, payload);
        Statement(db, "INSERT OR REPLACE INTO command_payload (position, payload) VALUES (?, ?)")
            .bind(position, payload.id())
            .run();
    }
}

void storeLine(Database& db, const HistoryLine& line) {
    Statement(db, "INSERT INTO history (time_millis, kind, label, reason, subject) VALUES (?, ?, ?, ?, ?)")
        .bind(line.timeMillis, kindName(line.kind), line.label, line.reason, name(line.subject))
        .run();
}

void storeState(Database& db, const DocumentState& state, bool hasSource) {
    const Batch& batch = state.batch;
    if (hasSource) {
        db.execute("INSERT OR IGNORE INTO payload SELECT * FROM source.payload");
    }
    storeItem(db, WholeBatch{}, std::optional(batch.info));
    storeItem(db, WholeBatch{}, std::optional(batch.method));
    storeAll<CarrierKey, Carrier>(db, batch.carriers);
    storeAll<Place, Run>(db, batch.runs);
    for (const auto& [key, reading] : batch.readings) {
        storeItem(db, key, std::optional(*reading));
    }
    for (const auto& [slot, key] : batch.inUse) {
        storeItem(db, slot, std::optional(InUse{key}));
    }
    storeAll<Place, Assignment>(db, batch.places);
    storeAll<LevelKey, Level>(db, batch.levels);
    storeAll<QcKey, QcSample>(db, batch.qcs);
    storeAll<SampleKey, Sample>(db, batch.samples);
    storeAll<PreparationKey, Preparation>(db, batch.preparations);
    storeAll<ExclusionKey, Exclusion>(db, batch.exclusions);
    storeAll<OverrideKey, Override>(db, batch.overrides);
    storeAll<Slot, HandEdits>(db, batch.handEdits);
    for (std::size_t i = 0; i < state.commands.size(); ++i) {
        storeCommand(db, state.commands[i], static_cast<std::int64_t>(i), i < state.done);
    }
    for (const HistoryLine& line : state.history) {
        storeLine(db, line);
    }
    freePayloads(db); // of another file, what nothing names here
}

} // namespace nuvat
