#include "nuvat/batch/validate.h"

#include "nuvat/batch/derived_value.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace nuvat {

namespace {

bool isAbsentOr(const std::optional<double>& value, bool (*isGood)(double)) {
    return !value || isGood(*value);
}
bool isFinite(double v) {
    return std::isfinite(v);
}
bool isPositive(double v) {
    return v > 0 && std::isfinite(v);
}
bool isNotNegative(double v) {
    return v >= 0 && std::isfinite(v);
}

Result<void> validate(const RangeRule& range, const std::string& name) {
    const bool isOrdered = !range.lloq || !range.uloq || *range.lloq < *range.uloq;
    const bool isNumber = isAbsentOr(range.lloq, isNotNegative) && isAbsentOr(range.uloq, isPositive);
    if (!isPositive(range.extrapolation) || range.extrapolation < 1 || !isPositive(range.precisionPercent) ||
        !isOrdered || !isNumber) {
        return fail("method.range",
                    "The range of " + name +
                        " needs LLOQ below ULOQ, a precision above 0 % and an extrapolation of 1 or more.",
                    "Correct the range.");
    }
    return {};
}

Result<void> validate(const DecisionRule& rule, const std::string& name) {
    const bool isOrdered = std::ranges::adjacent_find(rule.limits, std::greater_equal<>()) == rule.limits.end();
    const std::size_t classes = rule.limits.empty() ? 0 : rule.limits.size() + 1;
    if (!isOrdered || !std::ranges::all_of(rule.limits, isFinite) || rule.classes.size() != classes) {
        return fail("method.decisions",
                    "The decision limits of " + name + " have to rise, with a class below, between and above them.",
                    "Type the limits in rising order, each once.");
    }
    return {};
}

Result<void> validate(const DerivedValue& derived) {
    if (derived.name.empty()) {
        return fail("method.derived", "A derived value needs a name.", "Type what it is, for example Content.");
    }
    if (auto formula = parseDerived(derived.formula); !formula) {
        return tl::unexpected(formula.error());
    }
    return {};
}

Result<void> validate(const KeptCurve& kept) {
    const auto areFinite = [](const std::vector<double>& values) { return std::ranges::all_of(values, isFinite); };
    if (kept.x.size() != kept.y.size() || kept.level.size() != kept.x.size() || !areFinite(kept.x) ||
        !areFinite(kept.y) || !isNotNegative(kept.blankSd) || !isAbsentOr(kept.validDays, isPositive)) {
        return fail("method.kept-curve", "The kept curve \"" + kept.name + "\" is damaged.",
                    "Keep it again in the batch that it comes from.");
    }
    return {};
}

Result<void> validate(const FigureSettings& figure) {
    const auto rises = [](const std::optional<double>& low, const std::optional<double>& high) {
        return isAbsentOr(low, isFinite) && isAbsentOr(high, isFinite) && (!low || !high || *low < *high);
    };
    if (!rises(figure.xLow, figure.xHigh) || !rises(figure.yLow, figure.yHigh)) {
        return fail("method.figure", "An axis of the figure has to rise from its lower end to its upper one.",
                    "Correct its ends, or leave them empty.");
    }
    constexpr double kSmallest = 0.2, kLargest = 4;
    if (!(figure.markerSize >= kSmallest && figure.markerSize <= kLargest)) {
        return fail("method.figure", "The markers of a figure are between 20 and 400 % of their usual size.",
                    "Type a number between them.");
    }
    return {};
}

Result<void> validate(const Analyte& analyte) {
    if (auto valid = validate(analyte.figure); !valid) {
        return valid;
    }
    if (auto valid = validate(analyte.decisions, analyte.name); !valid) {
        return valid;
    }
    if (auto valid = analyte.kept ? validate(*analyte.kept) : Result<void>{}; !valid) {
        return valid;
    }
    for (const DerivedValue& one : analyte.derived) {
        if (auto valid = validate(one); !valid) {
            return valid;
        }
    }
    if (analyte.source.additionStandard && !isPositive(*analyte.source.additionStandard)) {
        return fail("method.addition", "The concentration of the solution that is added must be above 0.",
                    "Correct it, or leave it empty where all volumes are equal.");
    }
    constexpr std::size_t kLongestFormula = 2000;
    if (valueFormula(analyte.source.rule).size() > kLongestFormula) {
        return fail("method.response", "The formula of the response of " + analyte.name + " is too long.",
                    "Write at most 2000 characters.");
    }
    if (const auto* peak = std::get_if<PeakRule>(&analyte.source.rule);
        peak &&
        (!isFinite(peak->expected) || !isPositive(peak->window) || !isPositive(peak->factor) || peak->reference < 0)) {
        return fail("method.response",
                    "The window and the factor of the peak of " + analyte.name + " have to be above 0.",
                    "Type where the peak is expected, and half the width of its window.");
    }
    if (const auto* band = std::get_if<BandRule>(&analyte.source.rule);
        band && (!isFinite(band->from) || !isFinite(band->to))) {
        return fail("method.response", "Where " + analyte.name + " is read on its trace is no number.",
                    "Type it in the unit of x.");
    }
    if (const auto* kinetic = std::get_if<KineticRule>(&analyte.source.rule);
        kinetic && (!isFinite(kinetic->from) || !isFinite(kinetic->to) || kinetic->from > kinetic->to)) {
        return fail("method.response", "The times of the response of " + analyte.name + " have to rise.",
                    "Type the earlier time first, in seconds.");
    }
    if (!isAbsentOr(analyte.addedConcentration, isPositive) || analyte.internal.analyte < 0) {
        return fail("method.internal-standard",
                    "The concentration of the internal standard " + analyte.name + " has to be above 0.",
                    "Type what every run holds of it, or leave it empty where all hold the same.");
    }
    for (const Qualifier& one : analyte.qualifiers) {
        if (!isNotNegative(one.tolerance) || !isAbsentOr(one.reference, isPositive) ||
            !isAbsentOr(one.expected, isFinite)) {
            return fail("method.qualifier",
                        "The ratio of a qualifier of " + analyte.name +
                            " needs a reference above 0 and a tolerance of 0 or more.",
                        "Type for example 30 %, and leave the reference empty to take the mean of the standards.");
        }
    }
    const FitOptions& fit = analyte.fit;
    if (!isAbsentOr(fit.heldA, isFinite) || !isAbsentOr(fit.heldD, isFinite) || !isFinite(fit.fixedX) ||
        !isFinite(fit.fixedY)) {
        return fail("method.not-finite", "A held parameter or the fixed point of " + analyte.name + " is no number.",
                    "Type a number.");
    }
    constexpr double kSteepest = 1.5;
    if (!isAbsentOr(fit.theta, [](double v) { return v >= 0 && v <= kSteepest; }) ||
        !isAbsentOr(fit.weightFloor, isNotNegative)) {
        return fail("method.weights",
                    "The weights of " + analyte.name +
                        " need an exponent of the variance function from 0 to 1.5 and a floor of 0 or more.",
                    "Correct the field, or leave it empty.");
    }
    return validate(analyte.range, analyte.name);
}

Result<void> validate(const CriteriaLimits& limits) {
    for (const auto& limit : {limits.backCalculated, limits.standardCv, limits.unknownCv, limits.qcRecovery,
                              limits.rSquared, limits.r, limits.qcWithin, limits.internalLow, limits.internalHigh}) {
        if (!isAbsentOr(limit, isPositive)) {
            return fail("method.limit", "A limit of a criterion has to be above 0.",
                        "Type a number above 0, or leave the criterion out.");
        }
    }
    for (const double limit : {limits.backCalculatedAtLowest, limits.backCalculatedAtHighest}) {
        if (!isPositive(limit)) {
            return fail("method.limit", "The limit of the lowest and of the highest level has to be above 0.",
                        "Type a number above 0.");
        }
    }
    for (const double share : {limits.levelsWithin, limits.qcWithinAtLevel, limits.qcWithin.value_or(0)}) {
        if (!(share >= 0 && share <= 100)) {
            return fail("method.limit", "A share has to lie between 0 and 100 %.", "Type a number from 0 to 100.");
        }
    }
    constexpr double kMedian = 100;
    if (limits.internalLow.value_or(0) >= kMedian || limits.internalHigh.value_or(2 * kMedian) <= kMedian) {
        return fail("method.limit", "The limits of an internal standard lie below and above 100 % of the median.",
                    "Type for example 50 and 150.");
    }
    if (limits.levelsAtLeast < 0) {
        return fail("method.limit", "The number of levels has to be a whole one, 0 or more.", "Type a whole number.");
    }
    return {};
}

} // namespace

Result<void> validate(const BatchInfo&) {
    return {};
}

Result<void> validate(const Carrier& carrier) {
    if (carrier.kind == CarrierKind::RunList) {
        if (carrier.rows < 1 || carrier.rows > kMostRuns || carrier.columns != 1) {
            return fail("batch.list-size", "A list has 1 to " + std::to_string(kMostRuns) + " runs.",
                        "Split it into several lists.");
        }
        return {};
    }
    if (carrier.rows < 1 || carrier.rows > kMostRows || carrier.columns < 1 || carrier.columns > kMostColumns) {
        return fail("batch.plate-size", "A plate has 1 to 32 rows and 1 to 48 columns.", "Choose another plate.");
    }
    return {};
}

Result<void> validate(const Run& run) {
    if (!isAbsentOr(run.injectedMicrolitres, isPositive)) {
        return fail("batch.injected", "The injected volume of a run has to be a number above 0.", "Type it in µL.");
    }
    for (const auto& [analyte, concentration] : run.added) {
        if (analyte < 1 || !isPositive(concentration)) {
            return fail("method.internal-standard",
                        "The concentration of an internal standard in a run has to be above 0.",
                        "Type it, or leave it empty for the usual one.");
        }
    }
    return {};
}

namespace {

Result<void> validate(const SuitabilityLimits& limits, const std::string& name) {
    for (const auto& limit :
         {limits.tailing, limits.plates, limits.resolution, limits.signalToNoise, limits.timeRsd, limits.carryOver}) {
        if (!isAbsentOr(limit, isPositive)) {
            return fail("method.suitability", "The limits of the separation of " + name + " have to be above 0.",
                        "Correct them, or leave those out that do not count.");
        }
    }
    return {};
}

Result<void> validate(const StandardPlan& plan) {
    const auto isTolerance = [](double v) { return v >= 0 && v < 1; };
    const PlanRules& rules = plan.rules;
    if (!isPositive(rules.stock) || !isPositive(rules.volume) || !isNotNegative(rules.leastVolume) ||
        !isTolerance(rules.stockTolerance) || !isTolerance(rules.volumeTolerance)) {
        return fail("method.plan",
                    "The plan of the standards needs a stock and a volume above 0, and tolerances below 100 %.",
                    "Correct the plan.");
    }
    return {};
}

/// What Method keeps on lists of runs.
Result<void> validateLists(const Method& method) {
    for (const NameRule& rule : method.nameRules) {
        if (trimmed(rule.pattern).empty()) {
            return fail("method.name-rule", "A rule of names has no pattern.",
                        "Type what the names have in common, for example QC *, or take the rule out.");
        }
    }
    for (const Analyte& analyte : method.analytes) {
        if (auto valid = validate(analyte.suitability, analyte.name); !valid) {
            return valid;
        }
    }
    return method.plan ? validate(*method.plan) : Result<void>{};
}

} // namespace

Result<void> validate(const Method& method) {
    if (method.analytes.empty()) {
        return fail("method.no-analyte", "A method needs one analyte or more.", "Add one.");
    }
    if (method.analytes.size() > kMostAnalytes) {
        return fail("method.analytes", "A method has at most " + std::to_string(kMostAnalytes) + " analytes.",
                    "Split it into several methods.");
    }
    for (const auto& [channel, signal] : method.signalRules) {
        if (auto valid = validate(signal); !valid) {
            return valid;
        }
    }
    if (!(method.confidence >= 0.5 && method.confidence <= 0.9999)) {
        return fail("method.confidence", "The confidence has to lie between 50 and 99.99 %.", "Type for example 95.");
    }
    if (!(method.replicates.alpha > 0 && method.replicates.alpha < 1)) {
        return fail("method.alpha", "The significance of the outlier test has to lie between 0 and 1.",
                    "Type for example 0.05.");
    }
    constexpr int kMostReplicates = 1536;
    if (method.replicates.keepBest < 0 || method.replicates.keepBest == 1 ||
        method.replicates.keepBest > kMostReplicates) {
        return fail("method.keep-best", "\"Keep the best\" takes 0 or a whole number from 2 on.",
                    "Type for example 2.");
    }
    if (!isPositive(method.leastDilution) || method.leastDilution < 1) {
        return fail("method.least-dilution", "The least dilution of a method has to be 1 or more.",
                    "Type for example 4, or leave it empty.");
    }
    if (!isNotNegative(method.dilutionRelativeSe) || method.dilutionRelativeSe > 10) {
        return fail("method.dilution-se", "The uncertainty of a dilution has to be 0 % or more.",
                    "Type for example 1.");
    }
    for (const Analyte& analyte : method.analytes) {
        if (auto valid = validate(analyte); !valid) {
            return valid;
        }
    }
    for (const Criterion& criterion : method.criteria) {
        if (criterion.title.empty()) {
            return fail("criterion.title", "A criterion needs a title.", "Type what it checks.");
        }
        if (!isFinite(criterion.limit)) {
            return fail("criterion.limit", "The limit of \"" + criterion.title + "\" is no number.", "Type a number.");
        }
    }
    if (auto valid = validateLists(method); !valid) {
        return valid;
    }
    return validate(method.limits);
}

Result<void> validate(const Reading& reading) {
    constexpr std::size_t kIdentity = 64;
    if (reading.slot.carrier < 1 || reading.payload.id().size() != kIdentity) {
        return fail("batch.reading", reading.source + " is no reading of a plate or a list.", "Import it again.");
    }
    return {};
}

Result<void> validate(const Grid& grid, const std::string& source) {
    const bool isColumn = grid.columns == 1 && grid.rows > kMostRows;
    const Carrier carrier{isColumn ? CarrierKind::RunList : CarrierKind::Plate, "", grid.rows, grid.columns};
    if (auto valid = validate(carrier); !valid) {
        return valid;
    }
    if (grid.wells.size() != carrier.size()) {
        return fail("batch.reading", source + " does not have one value a well.", "Import it again.");
    }
    for (const ReadingWell& well : grid.wells) {
        if (!isAbsentOr(well.value, isFinite)) {
            return fail("batch.reading", source + " holds a value that is no finite number.", "Import it again.");
        }
    }
    return {};
}

Result<void> validate(const Trace& trace, const std::string& source) {
    const auto areFinite = [](const std::vector<double>& values) {
        return std::all_of(values.begin(), values.end(), [](double value) { return std::isfinite(value); });
    };
    bool isRising = trace.x.empty() || trace.x.size() == trace.y.size();
    for (std::size_t i = 1; isRising && i < trace.size(); ++i) {
        isRising = trace.xAt(i) > trace.xAt(i - 1);
    }
    const bool isMask = std::is_sorted(trace.missing.begin(), trace.missing.end()) &&
                        (trace.missing.empty() || trace.missing.back() < trace.size());
    if (!isRising || !isMask || !areFinite(trace.x) || !areFinite(trace.y) || !std::isfinite(trace.x0) ||
        !std::isfinite(trace.step)) {
        return fail("batch.reading", source + " holds no trace with rising x and finite numbers.", "Import it again.");
    }
    return {};
}

Result<void> validate(const SignalRule& rule) {
    const PeakRules& peaks = rule.peaks;
    const auto isSmoothing = [](const Smoothing& s) {
        return s.window >= 5 && s.window <= 999 && s.window % 2 == 1 && s.order >= 2 && s.order <= 4;
    };
    const bool isRule = peaks.leastHeight.value > 0 && peaks.leastValley.value > 0 && peaks.leastWidth >= 0 &&
                        peaks.leastArea >= 0 && peaks.skimRatio >= 0 && peaks.baseline.order >= 1 &&
                        peaks.baseline.order <= 5 && peaks.baseline.lambda > 0 && peaks.baseline.asymmetry > 0 &&
                        peaks.baseline.asymmetry < 1 && (!peaks.smoothing || isSmoothing(*peaks.smoothing)) &&
                        isAbsentOr(rule.scanRate, isPositive) && isAbsentOr(peaks.deadTime, isPositive);
    if (!isRule) {
        return fail("method.signal", "How peaks are found holds a number that is out of its range.",
                    "Type heights above 0, an odd smoothing window from 5 to 999, and orders from 1 to 5.");
    }
    return {};
}

Result<void> validate(const HandEdits& edits) {
    for (const HandEdit& edit : edits.list) {
        for (const double value : {edit.edit.at, edit.edit.from, edit.edit.to, edit.edit.fromY, edit.edit.toY}) {
            if (!std::isfinite(value)) {
                return fail("batch.reading", "What was drawn on a trace is no finite number.", "Draw it again.");
            }
        }
    }
    return {};
}

Result<void> validate(const InUse& use) {
    if (use.reading < 1) {
        return fail("batch.reading", "A reading in use is not one of the batch.",
                    "Choose one from the list of readings.");
    }
    return {};
}

Result<void> validate(const Assignment& assignment) {
    const bool isNumbered = isCounted(assignment.role) ? assignment.number >= 1 : assignment.number == 0;
    const bool hasPreparation = isOfSample(assignment.role) ? assignment.preparation >= 1 : assignment.preparation == 1;
    if (assignment.role == Role::Empty || !isNumbered || !hasPreparation) {
        return fail("layout.number", "Standards, QCs and samples are counted from 1, blanks are not counted.",
                    "Assign the place again.");
    }
    return {};
}

Result<void> validate(const Level& level) {
    if (!isAbsentOr(level.concentration, isNotNegative)) {
        return fail("layout.concentration", "A concentration must be a number of 0 or more.",
                    "Type it in the method's unit.");
    }
    return {};
}

Result<void> validate(const QcSample& qc) {
    if (!isAbsentOr(qc.nominal, isPositive)) {
        return fail("layout.concentration", "The nominal concentration of a QC must be a number above 0.",
                    "Type it in the method's unit.");
    }
    return {};
}

Result<void> validate(const Sample& sample) {
    if (!isPositive(sample.dilution)) {
        return fail("layout.dilution", "The dilution factor must be a number above 0.",
                    "Type how many times the sample was diluted, for example 5; 1 for undiluted.");
    }
    for (const auto& value : {sample.volume, sample.mass, sample.added}) {
        if (!isAbsentOr(value, isPositive)) {
            return fail("layout.sample-value", "Volume, mass and what is added to a sample have to be above 0.",
                        "Type a number above 0, or leave it empty.");
        }
    }
    return {};
}

Result<void> validate(const Preparation& preparation) {
    return validate(Sample{.dilution = preparation.dilution});
}

Result<void> validate(const Exclusion&) {
    return {};
}

Result<void> validate(const Override&) {
    return {};
}

Result<void> validate(const Command& command) {
    for (const Change& change : command.changes) {
        auto valid = std::visit(
            [](const auto& item) -> Result<void> {
                for (const auto& one : {item.before, item.after}) {
                    if (one) {
                        if (auto good = validate(*one); !good) {
                            return good;
                        }
                    }
                }
                return {};
            },
            change);
        if (!valid) {
            return valid;
        }
    }
    return {};
}

namespace {
template<class T> Result<void> validateItem(const T& item) {
    return validate(item);
}
Result<void> validateItem(const Shared<Reading>& item) {
    return validate(*item);
}
} // namespace

Result<void> validate(const Batch& batch) {
    const auto all = [](const auto& items) -> Result<void> {
        for (const auto& [key, item] : items) {
            if (auto valid = validateItem(item); !valid) {
                return valid;
            }
        }
        return {};
    };
    if (batch.carriers.empty() || batch.carriers.begin()->first < 1 || batch.carriers.size() > kMostCarriers) {
        return fail("batch.carriers", "A batch has 1 to " + std::to_string(kMostCarriers) + " plates and run lists.",
                    "Split it into several batches.");
    }
    for (const auto& valid : {validate(batch.info), validate(batch.method), all(batch.carriers), all(batch.runs),
                              all(batch.readings), all(batch.places), all(batch.levels), all(batch.qcs),
                              all(batch.samples), all(batch.preparations), all(batch.handEdits)}) {
        if (!valid) {
            return valid;
        }
    }
    const auto isHeld = [&](const auto& entry) { return batch.holds(entry.first); };
    if (!std::all_of(batch.places.begin(), batch.places.end(), isHeld) ||
        !std::ranges::all_of(batch.exclusions, [&](const auto& one) { return batch.holds(one.first.place); }) ||
        !std::all_of(batch.runs.begin(), batch.runs.end(), isHeld)) {
        return fail("layout.place", "A place of the layout lies outside its plate or list.",
                    "Assign the places again.");
    }
    return {};
}

} // namespace nuvat
