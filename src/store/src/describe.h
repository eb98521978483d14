#pragma once

#include "nuvat/batch/document.h"

#include <concepts>
#include <type_traits>

// What every item of a batch keeps, said once. A visitor is called with a name and a field of each in turn; from these
// come the columns of its table (the name in snake_case), the statements that write, read and delete it, and its JSON
// in undo entries (the name as it stands). A new field takes a line here and a migration.

namespace nuvat {

template<class T, class Item>
concept Is = std::same_as<std::remove_const_t<T>, Item>;

/// An analyte or a custom criterion of a method, by its number from 1, or position from 0.
struct AnalyteKey {
    int number = 1;
};
struct CriterionKey {
    int position = 0;
};

/// Table of an item and its name in undo entries; the latter is empty for items that only live within another.
template<class T> struct Kept;
template<> struct Kept<BatchInfo> {
    static constexpr const char* kTable = "batch";
    static constexpr const char* kKind = "info";
};
template<> struct Kept<Method> {
    static constexpr const char* kTable = "method";
    static constexpr const char* kKind = "method";
};
template<> struct Kept<Analyte> { static constexpr const char* kTable = "analyte"; };
template<> struct Kept<Criterion> { static constexpr const char* kTable = "criterion"; };
template<> struct Kept<Reading> {
    static constexpr const char* kTable = "reading";
    static constexpr const char* kKind = "reading";
};
template<> struct Kept<Assignment> {
    static constexpr const char* kTable = "place";
    static constexpr const char* kKind = "place";
};
template<> struct Kept<Level> {
    static constexpr const char* kTable = "level";
    static constexpr const char* kKind = "level";
};
template<> struct Kept<QcSample> {
    static constexpr const char* kTable = "qc";
    static constexpr const char* kKind = "qc";
};
template<> struct Kept<Sample> {
    static constexpr const char* kTable = "sample";
    static constexpr const char* kKind = "sample";
};
template<> struct Kept<Preparation> {
    static constexpr const char* kTable = "preparation";
    static constexpr const char* kKind = "preparation";
};
template<> struct Kept<Exclusion> {
    static constexpr const char* kTable = "exclusion";
    static constexpr const char* kKind = "exclusion";
};
template<> struct Kept<Override> {
    static constexpr const char* kTable = "criterion_override";
    static constexpr const char* kKind = "override";
};
template<> struct Kept<Carrier> {
    static constexpr const char* kTable = "carrier";
    static constexpr const char* kKind = "carrier";
};
template<> struct Kept<Run> {
    static constexpr const char* kTable = "run";
    static constexpr const char* kKind = "run";
};
template<> struct Kept<HandEdits> {
    static constexpr const char* kTable = "hand_edit";
    static constexpr const char* kKind = "hand-edits";
};
template<> struct Kept<InUse> {
    static constexpr const char* kTable = "in_use";
    static constexpr const char* kKind = "in-use";
};

// Keys

template<class V> void describe(V& v, Is<WholeBatch> auto&) {
    v.constant("id", 1);
}
template<class V> void describe(V& v, Is<int> auto& key) {
    v("id", key);
}
template<class V> void describe(V& v, Is<CarrierKey> auto& key) {
    v("id", key.number);
}
template<class V> void describe(V& v, Is<AnalyteKey> auto& key) {
    v("number", key.number);
}
template<class V> void describe(V& v, Is<CriterionKey> auto& key) {
    v("position", key.position);
}
template<class V> void describe(V& v, Is<SampleKey> auto& key) {
    v("number", key.number);
}
template<class V> void describe(V& v, Is<LevelKey> auto& key) {
    v("number", key.number);
    v("analyte", key.analyte);
}
template<class V> void describe(V& v, Is<QcKey> auto& key) {
    v("number", key.number);
    v("analyte", key.analyte);
    v("role", key.role);
}
template<class V> void describe(V& v, Is<PreparationKey> auto& key) {
    v("number", key.number);
    v("preparation", key.preparation);
}
template<class V> void describe(V& v, Is<OverrideKey> auto& key) {
    v("analyte", key.analyte);
    v("criterion", key.criterion);
}
template<class V> void describe(V& v, Is<Place> auto& key) {
    v("carrier", key.carrier);
    v("row", key.row);
    v("column", key.column);
}
template<class V> void describe(V& v, Is<ExclusionKey> auto& key) {
    describe(v, key.place);
    v("analyte", key.analyte);
}
template<class V, Is<Slot> T> void describe(V& v, T& slot) {
    // A whole carrier is row -1: a key of a table has no absent parts.
    int row = slot.place ? slot.place->row : -1;
    int column = slot.place ? slot.place->column : -1;
    v("carrier", slot.carrier);
    v("row", row);
    v("column", column);
    v("channel", slot.channel);
    if constexpr (!std::is_const_v<T>) {
        slot.place = row < 0 ? std::nullopt : std::optional(Place{row, column, slot.carrier});
    }
}

// Rules of responses

template<class V> void describe(V& v, Is<ValueRule> auto& rule) {
    v("formula", rule.formula);
}
template<class V> void describe(V& v, Is<BandRule> auto& rule) {
    v("channel", rule.channel);
    v("from", rule.from);
    v("to", rule.to);
    v("quantity", rule.quantity);
}
template<class V> void describe(V& v, Is<KineticRule> auto& rule) {
    v("channel", rule.channel);
    v("from", rule.from);
    v("to", rule.to);
    v("quantity", rule.quantity);
}
template<class V> void describe(V& v, Is<PeakRule> auto& rule) {
    v("channel", rule.channel);
    v("expected", rule.expected);
    v("window", rule.window);
    v("windowOf", rule.windowOf);
    v("reference", rule.reference);
    v("quantity", rule.quantity);
    v("pick", rule.pick);
    v("factor", rule.factor);
    v("isWindowTaken", rule.isWindowTaken);
}
template<class V> void describe(V& v, Is<PopulationRule> auto& rule) {
    v("population", rule.population);
    v("parameter", rule.parameter);
    v("statistic", rule.statistic);
}
template<class V> void describe(V& v, Is<NamedRule> auto& rule) {
    v("calculation", rule.calculation);
    v("quantity", rule.quantity);
}

// Items

template<class V> void describe(V& v, Is<BatchInfo> auto& info) {
    v("uid", info.uid);
    v("title", info.title);
    v("laboratory", info.laboratory);
    v("channel", info.channel);
    v("note", info.note);
}
template<class V> void describe(V& v, Is<Analyte> auto& a) {
    v("name", a.name);
    v("unit", a.unit);
    v("responseName", a.responseName);
    v("rule", a.source.rule);
    v("curveOf", a.source.curve);
    v("additionStandard", a.source.additionStandard);
    v("model", a.fit.model);
    v("weighting", a.fit.weighting);
    v("weightFrom", a.fit.weightFrom);
    v("fitTo", a.fit.fitTo);
    v("heldA", a.fit.heldA);
    v("heldD", a.fit.heldD);
    v("fixedX", a.fit.fixedX);
    v("fixedY", a.fit.fixedY);
    v("isSplineInLogX", a.fit.isSplineInLogX);
    v("weightFloor", a.fit.weightFloor);
    v("theta", a.fit.theta);
    v("interval", a.interval);
    v("average", a.average);
    v("scatter", a.scatter);
    v("rangeBy", a.range.by);
    v("precisionPercent", a.range.precisionPercent);
    v("lloq", a.range.lloq);
    v("uloq", a.range.uloq);
    v("extrapolation", a.range.extrapolation);
    v("isConcentrationLogarithmic", a.isConcentrationLogarithmic);
    v("percentOf", a.percentOf);
    v("decisions", a.decisions);
    v("derived", a.derived);
    v("kept", a.kept);
    v("figure", a.figure);
    v("internalStandard", a.internal.analyte);
    v("isInternalBeforeDilution", a.internal.isBeforeDilution);
    v("addedConcentration", a.addedConcentration);
    v("qualifiers", a.qualifiers);
    v("suitability", a.suitability);
}
template<class V> void describe(V& v, Is<Criterion> auto& c) {
    v("title", c.title);
    v("scope", c.scope);
    v("quantity", c.quantity);
    v("comparison", c.comparison);
    v("limitValue", c.limit);
    v("asksForReview", c.asksForReview);
}
template<class V> void describe(V& v, Is<CriteriaLimits> auto& l) {
    v("backCalculated", l.backCalculated);
    v("backCalculatedAtLowest", l.backCalculatedAtLowest);
    v("backCalculatedAtHighest", l.backCalculatedAtHighest);
    v("levelsWithin", l.levelsWithin);
    v("standardsAtLevel", l.standardsAtLevel);
    v("levelsAtLeast", l.levelsAtLeast);
    v("standardCv", l.standardCv);
    v("unknownCv", l.unknownCv);
    v("qcRecovery", l.qcRecovery);
    v("rSquared", l.rSquared);
    v("correlation", l.r);
    v("qcWithin", l.qcWithin);
    v("qcWithinAtLevel", l.qcWithinAtLevel);
    v("isBlankBelowLloq", l.isBlankBelowLloq);
    v("blankOfLloq", l.blankOfLloq);
    v("internalLow", l.internalLow);
    v("internalHigh", l.internalHigh);
}
template<class V> void describe(V& v, Is<Method> auto& m) {
    v("title", m.title);
    v("revision", m.revision);
    v("subtractsBlank", m.subtractsBlank);
    v("blankEntersInterval", m.blankEntersInterval);
    v("dilutionRelativeSe", m.dilutionRelativeSe);
    v("confidence", m.confidence);
    v("keepBest", m.replicates.keepBest);
    v("outlierTest", m.replicates.outlierTest);
    v("outlierAlpha", m.replicates.alpha);
    v("criteriaName", m.criteriaName);
    v("reportBlocks", m.reportBlocks);
    v("signalRules", m.signalRules);
    v("traceRecipe", m.traceRecipe);
    v("plateRecipe", m.plateRecipe);
    v("blankBy", m.blankBy);
    v("leastDilution", m.leastDilution);
    v("resultColumns", m.resultColumns);
    v("reportTop", m.reportTop);
    v("reportFoot", m.reportFoot);
    v("fileName", m.fileName);
    v("whenComplete", m.whenComplete);
    v("nameRules", m.nameRules);
    v("runRule", m.runRule);
    v("standardPlan", m.plan);
    describe(v, m.limits);
    v.items("analytes", m.analytes);
    v.items("criteria", m.criteria);
}
template<class V> void describe(V& v, Is<Reading> auto& r) {
    v("source", r.source);
    v("checksum", r.checksum);
    v("understood", r.understood);
    v("takenInMillis", r.takenInMillis);
    describe(v, r.slot);
    v("payload", r.payload);
}
template<class V> void describe(V& v, Is<HandEdits> auto& edits) {
    v("edits", edits.list);
}
template<class V> void describe(V& v, Is<InUse> auto& use) {
    v("reading", use.reading);
}
template<class V> void describe(V& v, Is<Assignment> auto& a) {
    v("role", a.role);
    v("number", a.number);
    v("preparation", a.preparation);
}
template<class V> void describe(V& v, Is<Level> auto& level) {
    v("concentration", level.concentration);
    v("isAnchor", level.isAnchor);
}
template<class V> void describe(V& v, Is<QcSample> auto& qc) {
    v("name", qc.name);
    v("nominal", qc.nominal);
}
template<class V> void describe(V& v, Is<Sample> auto& sample) {
    v("name", sample.name);
    v("dilution", sample.dilution);
    v("note", sample.note);
    v("volume", sample.volume);
    v("mass", sample.mass);
    v("added", sample.added);
}
template<class V> void describe(V& v, Is<Preparation> auto& preparation) {
    v("dilution", preparation.dilution);
}
template<class V> void describe(V& v, Is<Exclusion> auto& exclusion) {
    v("reason", exclusion.reason);
    v("timeMillis", exclusion.timeMillis);
}
template<class V> void describe(V& v, Is<Override> auto& decision) {
    v("reason", decision.reason);
    v("timeMillis", decision.timeMillis);
    v("limitText", decision.limitText);
}
template<class V> void describe(V& v, Is<Carrier> auto& carrier) {
    v("kind", carrier.kind);
    v("name", carrier.name);
    v("rows", carrier.rows);
    v("columns", carrier.columns);
}
template<class V> void describe(V& v, Is<Run> auto& run) {
    v("name", run.name);
    v("vial", run.vial);
    v("file", run.file);
    v("injectedMicrolitres", run.injectedMicrolitres);
    v("injectedMillis", run.injectedMillis);
    v("state", run.state);
    v("added", run.added);
}

} // namespace nuvat
