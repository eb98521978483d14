#include "change_json.h"
#include "items.h"
#include "nuvat/batch/validate.h"

#include <cmath>

namespace nuvat {

namespace {

template<class Enum> Enum requireKnown(std::optional<Enum> value) {
    if (!value) {
        throw std::runtime_error("a name in it is unknown");
    }
    return *value;
}

void require(bool isTrue, const char* otherwise) {
    if (!isTrue) {
        throw std::runtime_error(otherwise);
    }
}

/// The sentence of an Error without its full stop, to stand in another one.
std::string phrase(const Error& error) {
    std::string text = error.message;
    if (text.ends_with('.')) {
        text.pop_back();
    }
    return text;
}

void require(const Result<void>& valid) {
    if (!valid) {
        throw std::runtime_error(phrase(valid.error()));
    }
}

Analyte readAnalyte(const Statement& s) {
    const auto text = [&](const char* name) { return s.text(s.column(name)); };
    const auto number = [&](const char* name) { return s.number(s.column(name)); };
    const auto optional = [&](const char* name) { return s.optionalNumber(s.column(name)); };
    const auto isTrue = [&](const char* name) { return s.isTrue(s.column(name)); };
    Analyte a;
    a.name = text("name");
    a.unit = text("unit");
    a.responseName = text("response_name");
    a.source = {ValueRule{text("formula")}, requireKnown(curveOfFromName(text("curve_of")))};
    a.fit.model = requireKnown(modelFromName(text("model")));
    a.fit.weighting = requireKnown(weightingFromName(text("weighting")));
    a.fit.weightFrom = requireKnown(weightSourceFromName(text("weight_from")));
    a.fit.fitTo = requireKnown(fitToFromName(text("fit_to")));
    a.fit.heldA = optional("held_a");
    a.fit.heldD = optional("held_d");
    a.fit.fixedX = number("fixed_x");
    a.fit.fixedY = number("fixed_y");
    a.fit.isSplineInLogX = isTrue("is_spline_in_log_x");
    a.fit.weightFloor = optional("weight_floor");
    a.fit.theta = optional("theta");
    a.interval = requireKnown(intervalMethodFromName(text("interval")));
    a.average = requireKnown(averageOfFromName(text("average")));
    a.scatter = requireKnown(scatterFromFromName(text("scatter")));
    a.range = {requireKnown(rangeByFromName(text("range_by"))), number("precision_percent"), optional("lloq"),
               optional("uloq"), number("extrapolation")};
    a.isConcentrationLogarithmic = isTrue("is_concentration_logarithmic");
    return a;
}

CriteriaLimits readLimits(const Statement& s) {
    const auto number = [&](const char* name) { return s.number(s.column(name)); };
    const auto optional = [&](const char* name) { return s.optionalNumber(s.column(name)); };
    CriteriaLimits l;
    l.backCalculated = optional("back_calculated");
    l.backCalculatedAtLowest = number("back_calculated_at_lowest");
    l.backCalculatedAtHighest = number("back_calculated_at_highest");
    l.levelsWithin = number("levels_within");
    l.standardsAtLevel = number("standards_at_level");
    l.levelsAtLeast = s.integer(s.column("levels_at_least"));
    l.standardCv = optional("standard_cv");
    l.unknownCv = optional("unknown_cv");
    l.qcRecovery = optional("qc_recovery");
    l.rSquared = optional("r_squared");
    l.r = optional("correlation");
    l.qcWithin = optional("qc_within");
    l.qcWithinAtLevel = number("qc_within_at_level");
    l.isBlankBelowLloq = s.isTrue(s.column("is_blank_below_lloq"));
    l.blankOfLloq = optional("blank_of_lloq");
    return l;
}

void readMethod(Database& db, Method& m) {
    Statement s(db, "SELECT * FROM method");
    require(s.step(), "it has no method");
    m.title = s.text(s.column("title"));
    m.revision = s.integer(s.column("revision"));
    m.subtractsBlank = s.isTrue(s.column("subtracts_blank"));
    m.blankEntersInterval = s.isTrue(s.column("blank_enters_interval"));
    m.dilutionRelativeSe = s.number(s.column("dilution_relative_se"));
    m.confidence = s.number(s.column("confidence"));
    m.replicates = {s.integer(s.column("keep_best")),
                    requireKnown(outlierTestFromName(s.text(s.column("outlier_test")))),
                    s.number(s.column("outlier_alpha"))};
    m.criteriaName = s.text(s.column("criteria_name"));
    m.limits = readLimits(s);
    m.reportBlocks = splitNames(s.text(s.column("report_blocks")));
    m.analytes.clear();
    Statement a(db, "SELECT * FROM analyte ORDER BY number");
    const int number = a.column("number");
    while (a.step()) {
        require(a.integer(number) == std::ssize(m.analytes) + 1, "its analytes are not counted from 1");
        require(m.analytes.size() < kMostAnalytes, "it has more analytes than any method");
        m.analytes.push_back(readAnalyte(a));
    }
    Statement c(db, "SELECT title, scope, quantity, comparison, limit_value, asks_for_review FROM criterion "
                    "ORDER BY position");
    while (c.step()) {
        m.criteria.push_back({c.text(0), requireKnown(criterionScopeFromName(c.text(1))), c.text(2),
                              requireKnown(comparisonFromName(c.text(3))), c.number(4), c.isTrue(5)});
    }
    require(validate(m));
}

/// From four columns on: carrier, row, column, channel.
Slot slotFrom(const Statement& s, int first) {
    Slot slot{s.integer(first), std::nullopt, s.text(first + 3)};
    if (s.integer(first + 1) >= 0) {
        slot.place = Place{s.integer(first + 1), s.integer(first + 2), slot.carrier};
    }
    return slot;
}

void readReadings(Database& db, Batch& batch, const std::shared_ptr<PayloadSource>& payloads) {
    Statement s(db, "SELECT id, source, checksum, understood, taken_in_millis, payload, carrier, row, column, channel "
                    "FROM reading");
    while (s.step()) {
        Reading reading{s.text(1),      s.text(2),      s.text(3),
                        s.integer64(4), slotFrom(s, 6), Payload::stored(s.text(5), payloads)};
        batch.readings.emplace(s.integer(0), std::move(reading));
    }
    Statement u(db, "SELECT carrier, row, column, channel, reading FROM in_use");
    while (u.step()) {
        batch.inUse[slotFrom(u, 0)] = u.integer(4);
    }
    // What counts is evaluated at once anyway, so it is looked at now; the rest when it is asked for.
    for (const auto& [slot, key] : batch.inUse) {
        const auto found = batch.readings.find(key);
        if (found != batch.readings.end() && found->second->payload.grid() == nullptr) {
            throw std::runtime_error("values of the reading " + found->second->source +
                                     " are not those that were imported (their checksum differs)");
        }
    }
}

/// From the first three columns: carrier, row, column.
Place placeFrom(const Statement& s) {
    return {s.integer(1), s.integer(2), s.integer(0)};
}

void readCarriers(Database& db, Batch& batch) {
    batch.carriers.clear();
    Statement carrier(db, "SELECT id, kind, name, rows, columns FROM carrier");
    while (carrier.step()) {
        batch.carriers[carrier.integer(0)] = {requireKnown(carrierKindFromName(carrier.text(1))), carrier.text(2),
                                              carrier.integer(3), carrier.integer(4)};
    }
    Statement run(db, "SELECT carrier, row, column, name, vial, file, injected_microlitres, injected_millis, state "
                      "FROM run");
    while (run.step()) {
        batch.runs[placeFrom(run)] = {run.text(3),      run.text(4),
                                      run.text(5),      run.optionalNumber(6),
                                      run.integer64(7), requireKnown(runStateFromName(run.text(8)))};
    }
}

void readLayout(Database& db, Batch& batch) {
    Statement place(db, "SELECT carrier, row, column, role, number FROM place");
    while (place.step()) {
        batch.places[placeFrom(place)] = {requireKnown(roleFromName(place.text(3))), place.integer(4)};
    }
    Statement level(db, "SELECT number, analyte, concentration, is_anchor FROM level");
    while (level.step()) {
        batch.levels[{level.integer(0), level.integer(1)}] = {level.optionalNumber(2), level.isTrue(3)};
    }
    Statement qc(db, "SELECT number, analyte, name, nominal FROM qc");
    while (qc.step()) {
        batch.qcs[{qc.integer(0), qc.integer(1)}] = {qc.text(2), qc.optionalNumber(3)};
    }
    Statement sample(db, "SELECT number, name, dilution, note FROM sample");
    while (sample.step()) {
        batch.samples[sample.integer(0)] = {sample.text(1), sample.number(2), sample.text(3)};
    }
}

void readDecisions(Database& db, Batch& batch) {
    Statement exclusion(db, "SELECT carrier, row, column, reason, time_millis FROM exclusion");
    while (exclusion.step()) {
        batch.exclusions[placeFrom(exclusion)] = {exclusion.text(3), exclusion.integer64(4)};
    }
    Statement decision(db, "SELECT analyte, criterion, reason, time_millis, limit_text FROM criterion_override");
    while (decision.step()) {
        batch.overrides[{decision.integer(0), decision.text(1)}] = {decision.text(2), decision.integer64(3),
                                                                    decision.text(4)};
    }
}

/// One row of the table of commands.
struct Entry {
    std::int64_t position;
    bool isDone;
    std::optional<Command> command; ///< absent: it cannot be read
};

std::vector<Entry> readEntries(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    std::vector<Entry> entries;
    Statement s(db, "SELECT position, is_done, label, reason, time_millis, changes FROM command ORDER BY position");
    while (s.step()) {
        Entry entry{s.integer64(0), s.isTrue(1), std::nullopt};
        try {
            Command command{s.text(2), s.text(3), s.integer64(4), changesFromJson(s.text(5), payloads)};
            if (validate(command)) {
                entry.command = std::move(command);
            }
        } catch (const std::exception&) { // JSON, unknown names, wrong types: all the same to undo
        }
        entries.push_back(std::move(entry));
    }
    return entries;
}

bool isInOrder(const std::vector<Entry>& entries) {
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (entries[i].position != static_cast<std::int64_t>(i) ||
            (i > 0 && entries[i].isDone && !entries[i - 1].isDone)) {
            return false;
        }
    }
    return true;
}

} // namespace

Batch readBatch(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    Batch batch;
    Statement info(db, "SELECT uid, title, laboratory, channel, note FROM batch");
    require(info.step(), "it has no batch");
    batch.info = {info.text(0), info.text(1), info.text(2), info.text(3), info.text(4)};
    readCarriers(db, batch);
    readMethod(db, batch.method);
    readReadings(db, batch, payloads);
    readLayout(db, batch);
    readDecisions(db, batch);
    require(validate(batch));
    return batch;
}

std::vector<HistoryLine> readHistory(Database& db) {
    std::vector<HistoryLine> lines;
    Statement s(db, "SELECT time_millis, kind, label, reason, subject FROM history ORDER BY id");
    while (s.step()) {
        const std::string kind = s.text(1);
        lines.push_back({s.integer64(0),
                         kind == "done"     ? EventKind::Done
                         : kind == "undone" ? EventKind::Undone
                                            : EventKind::Redone,
                         s.text(2), s.text(3), requireKnown(subjectFromName(s.text(4)))});
    }
    return lines;
}

UndoEntries readUndoEntries(Database& db, const std::shared_ptr<PayloadSource>& payloads) {
    UndoEntries out;
    std::vector<Entry> entries;
    bool isReadable = true;
    try {
        entries = readEntries(db, payloads);
        isReadable = isInOrder(entries);
    } catch (const SqliteError&) {
        throw; // the file, not an entry
    } catch (const std::exception&) {
        isReadable = false;
    }
    if (!isReadable) {
        out.firstPosition = 0;
        out.lost = "Its undo entries cannot be read, so earlier edits cannot be undone; the batch itself is whole.";
        return out;
    }
    // What is done is undone from its end, what is undone is redone from its beginning: an entry that cannot be read
    // is a wall for either.
    std::size_t done = 0;
    while (done < entries.size() && entries[done].isDone) {
        ++done;
    }
    std::size_t first = done;
    while (first > 0 && entries[first - 1].command) {
        --first;
    }
    std::size_t end = done;
    while (end < entries.size() && entries[end].command) {
        ++end;
    }
    for (std::size_t i = first; i < end; ++i) {
        out.commands.push_back(std::move(*entries[i].command));
    }
    out.done = done - first;
    out.firstPosition = static_cast<std::int64_t>(first);
    const std::size_t lost = first + (entries.size() - end);
    if (lost > 0) {
        out.lost = std::to_string(lost) +
                   (lost == 1 ? " undo entry cannot be read or reached" : " undo entries cannot be read or reached") +
                   ", so those edits cannot be undone or redone; the batch itself is whole.";
    }
    return out;
}

} // namespace nuvat
