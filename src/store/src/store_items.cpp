#include "change_json.h"
#include "items.h"
#include "payload_store.h"

#include <initializer_list>

namespace nuvat {

namespace {

/// INSERT OR REPLACE with every column by its name.
template<class... Values>
void put(Database& db, const std::string& table, std::initializer_list<const char*> columns, const Values&... values) {
    if (columns.size() != sizeof...(values)) {
        throw std::logic_error("put: a value a column");
    }
    std::string names;
    std::string marks;
    for (const char* column : columns) {
        names += (names.empty() ? "" : ", ") + std::string(column);
        marks += marks.empty() ? "?" : ", ?";
    }
    Statement(db, "INSERT OR REPLACE INTO " + table + " (" + names + ") VALUES (" + marks + ")").bind(values...).run();
}

std::string kindName(EventKind kind) {
    return kind == EventKind::Done ? "done" : kind == EventKind::Undone ? "undone" : "redone";
}

void putAnalyte(Database& db, int number, const Analyte& a) {
    put(db, "analyte",
        {"number",
         "name",
         "unit",
         "response_name",
         "formula",
         "curve_of",
         "model",
         "weighting",
         "weight_from",
         "fit_to",
         "held_a",
         "held_d",
         "fixed_x",
         "fixed_y",
         "is_spline_in_log_x",
         "interval",
         "average",
         "range_by",
         "precision_percent",
         "lloq",
         "uloq",
         "extrapolation",
         "is_concentration_logarithmic",
         "weight_floor",
         "theta",
         "scatter"},
        number, a.name, a.unit, a.responseName, std::get<ValueRule>(a.source.rule).formula, name(a.source.curve),
        name(a.fit.model), name(a.fit.weighting), name(a.fit.weightFrom), name(a.fit.fitTo), a.fit.heldA, a.fit.heldD,
        a.fit.fixedX, a.fit.fixedY, a.fit.isSplineInLogX, name(a.interval), name(a.average), name(a.range.by),
        a.range.precisionPercent, a.range.lloq, a.range.uloq, a.range.extrapolation, a.isConcentrationLogarithmic,
        a.fit.weightFloor, a.fit.theta, name(a.scatter));
}

void removeAt(Database& db, const std::string& table, Place place) {
    Statement(db, "DELETE FROM " + table + " WHERE carrier = ? AND row = ? AND column = ?")
        .bind(place.carrier, place.row, place.column)
        .run();
}

template<class Key, class T, class Map> void storeAll(Database& db, const Map& map) {
    for (const auto& [key, value] : map) {
        storeItem(db, Key{key}, std::optional<T>(value));
    }
}

} // namespace

void storeItem(Database& db, WholeBatch, const std::optional<BatchInfo>& v) {
    const BatchInfo info = v.value_or(BatchInfo{});
    put(db, "batch", {"id", "uid", "title", "laboratory", "channel", "note"}, 1, info.uid, info.title, info.laboratory,
        info.channel, info.note);
}

void storeItem(Database& db, WholeBatch, const std::optional<Method>& v) {
    const Method m = v.value_or(Method{});
    const CriteriaLimits& l = m.limits;
    put(db, "method",
        {"id",
         "title",
         "revision",
         "subtracts_blank",
         "blank_enters_interval",
         "dilution_relative_se",
         "confidence",
         "keep_best",
         "outlier_test",
         "outlier_alpha",
         "criteria_name",
         "back_calculated",
         "back_calculated_at_lowest",
         "back_calculated_at_highest",
         "levels_within",
         "levels_at_least",
         "standard_cv",
         "unknown_cv",
         "qc_recovery",
         "r_squared",
         "correlation",
         "qc_within",
         "qc_within_at_level",
         "is_blank_below_lloq",
         "report_blocks",
         "blank_of_lloq",
         "standards_at_level"},
        1, m.title, m.revision, m.subtractsBlank, m.blankEntersInterval, m.dilutionRelativeSe, m.confidence,
        m.replicates.keepBest, name(m.replicates.outlierTest), m.replicates.alpha, m.criteriaName, l.backCalculated,
        l.backCalculatedAtLowest, l.backCalculatedAtHighest, l.levelsWithin, l.levelsAtLeast, l.standardCv, l.unknownCv,
        l.qcRecovery, l.rSquared, l.r, l.qcWithin, l.qcWithinAtLevel, l.isBlankBelowLloq, joinedNames(m.reportBlocks),
        l.blankOfLloq, l.standardsAtLevel);
    db.execute("DELETE FROM analyte; DELETE FROM criterion;");
    for (std::size_t i = 0; i < m.analytes.size(); ++i) {
        putAnalyte(db, static_cast<int>(i) + 1, m.analytes[i]);
    }
    for (std::size_t i = 0; i < m.criteria.size(); ++i) {
        const Criterion& c = m.criteria[i];
        put(db, "criterion", {"position", "title", "scope", "quantity", "comparison", "limit_value", "asks_for_review"},
            static_cast<int>(i), c.title, name(c.scope), c.quantity, name(c.comparison), c.limit, c.asksForReview);
    }
}

namespace {
/// Row and column of a slot as tables have them.
std::pair<int, int> placeOf(const Slot& slot) {
    return slot.place ? std::pair(slot.place->row, slot.place->column) : std::pair(-1, -1);
}
} // namespace

void storeItem(Database& db, int key, const std::optional<Reading>& v) {
    Statement(db, "DELETE FROM reading WHERE id = ?").bind(key).run();
    if (!v) {
        return;
    }
    storePayload(db, v->payload);
    const auto [row, column] = placeOf(v->slot);
    put(db, "reading",
        {"id", "source", "checksum", "understood", "taken_in_millis", "carrier", "row", "column", "channel", "payload"},
        key, v->source, v->checksum, v->understood, v->takenInMillis, v->slot.carrier, row, column, v->slot.channel,
        v->payload.id());
}

void storeItem(Database& db, const Slot& key, const std::optional<InUse>& v) {
    const auto [row, column] = placeOf(key);
    if (v) {
        put(db, "in_use", {"carrier", "row", "column", "channel", "reading"}, key.carrier, row, column, key.channel,
            v->reading);
    } else {
        Statement(db, "DELETE FROM in_use WHERE carrier = ? AND row = ? AND column = ? AND channel = ?")
            .bind(key.carrier, row, column, key.channel)
            .run();
    }
}

void storeItem(Database& db, Place key, const std::optional<Assignment>& v) {
    if (v) {
        put(db, "place", {"carrier", "row", "column", "role", "number"}, key.carrier, key.row, key.column,
            name(v->role), v->number);
    } else {
        removeAt(db, "place", key);
    }
}

void storeItem(Database& db, Place key, const std::optional<Exclusion>& v) {
    if (v) {
        put(db, "exclusion", {"carrier", "row", "column", "reason", "time_millis"}, key.carrier, key.row, key.column,
            v->reason, v->timeMillis);
    } else {
        removeAt(db, "exclusion", key);
    }
}

void storeItem(Database& db, Place key, const std::optional<Run>& v) {
    if (v) {
        put(db, "run",
            {"carrier", "row", "column", "name", "vial", "file", "injected_microlitres", "injected_millis", "state"},
            key.carrier, key.row, key.column, v->name, v->vial, v->file, v->injectedMicrolitres, v->injectedMillis,
            name(v->state));
    } else {
        removeAt(db, "run", key);
    }
}

void storeItem(Database& db, CarrierKey key, const std::optional<Carrier>& v) {
    if (v) {
        put(db, "carrier", {"id", "kind", "name", "rows", "columns"}, key.number, name(v->kind), v->name, v->rows,
            v->columns);
    } else {
        Statement(db, "DELETE FROM carrier WHERE id = ?").bind(key.number).run();
    }
}

void storeItem(Database& db, LevelKey key, const std::optional<Level>& v) {
    if (v) {
        put(db, "level", {"number", "analyte", "concentration", "is_anchor"}, key.number, key.analyte, v->concentration,
            v->isAnchor);
    } else {
        Statement(db, "DELETE FROM level WHERE number = ? AND analyte = ?").bind(key.number, key.analyte).run();
    }
}

void storeItem(Database& db, QcKey key, const std::optional<QcSample>& v) {
    if (v) {
        put(db, "qc", {"number", "analyte", "name", "nominal"}, key.number, key.analyte, v->name, v->nominal);
    } else {
        Statement(db, "DELETE FROM qc WHERE number = ? AND analyte = ?").bind(key.number, key.analyte).run();
    }
}

void storeItem(Database& db, SampleKey key, const std::optional<Sample>& v) {
    if (v) {
        put(db, "sample", {"number", "name", "dilution", "note"}, key.number, v->name, v->dilution, v->note);
    } else {
        Statement(db, "DELETE FROM sample WHERE number = ?").bind(key.number).run();
    }
}

void storeItem(Database& db, const OverrideKey& key, const std::optional<Override>& v) {
    if (v) {
        put(db, "criterion_override", {"analyte", "criterion", "reason", "time_millis", "limit_text"}, key.analyte,
            key.criterion, v->reason, v->timeMillis, v->limitText);
    } else {
        Statement(db, "DELETE FROM criterion_override WHERE analyte = ? AND criterion = ?")
            .bind(key.analyte, key.criterion)
            .run();
    }
}

void storeCommand(Database& db, const Command& command, std::int64_t position, bool isDone) {
    put(db, "command", {"position", "is_done", "label", "reason", "time_millis", "changes"}, position, isDone,
        command.label, command.reason, command.timeMillis, changesToJson(command.changes));
    for (const Payload& payload : payloadsOf(command)) {
        storePayload(db, payload);
        put(db, "command_payload", {"position", "payload"}, position, payload.id());
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
    storeAll<Place, Exclusion>(db, batch.exclusions);
    storeAll<OverrideKey, Override>(db, batch.overrides);
    for (std::size_t i = 0; i < state.commands.size(); ++i) {
        storeCommand(db, state.commands[i], static_cast<std::int64_t>(i), i < state.done);
    }
    for (const HistoryLine& line : state.history) {
        storeLine(db, line);
    }
    freePayloads(db); // of another file, what nothing names here
}

} // namespace nuvat
