#include "criteria.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/descriptive.h"
#include "peak_figures.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr std::array kBatchVariables{
    CriterionVariable{"analytes", "number of analytes"},
    CriterionVariable{"accepted", "analytes that are accepted"},
    CriterionVariable{"failed", "analytes that failed"},
    CriterionVariable{"reported", "results that are reported, all analytes together"},
    CriterionVariable{"samples", "unknowns, all analytes together"},
};
constexpr std::array kAnalyteVariables{
    CriterionVariable{"r2", "R squared"},
    CriterionVariable{"r", "correlation of a straight line"},
    CriterionVariable{"s", "residual standard deviation"},
    CriterionVariable{"n", "points in the fit"},
    CriterionVariable{"levels", "levels above zero"},
    CriterionVariable{"levels_within", "levels within their limit"},
    CriterionVariable{"worst_error", "largest absolute error of a level in percent"},
    CriterionVariable{"lloq", "lower limit of the range"},
    CriterionVariable{"uloq", "upper limit of the range"},
    CriterionVariable{"blank_mean", "mean of the blanks as read"},
    CriterionVariable{"blank_sd", "standard deviation of the blanks"},
    CriterionVariable{"blank_cv", "CV of the blanks in percent"},
    CriterionVariable{"pooled_cv", "CV pooled over all replicate groups in percent"},
    CriterionVariable{"response_low", "fitted response at the lowest standard"},
    CriterionVariable{"response_high", "fitted response at the highest standard"},
};
constexpr std::array kLevelVariables{
    CriterionVariable{"x", "nominal concentration"},
    CriterionVariable{"n", "usable replicates"},
    CriterionVariable{"mean", "mean response"},
    CriterionVariable{"sd", "standard deviation of the response"},
    CriterionVariable{"cv", "CV of the response in percent"},
    CriterionVariable{"back", "back-calculated concentration"},
    CriterionVariable{"error", "error of the back-calculated concentration in percent"},
};
constexpr std::array kSampleVariables{
    CriterionVariable{"n", "usable replicates"},
    CriterionVariable{"mean", "mean response"},
    CriterionVariable{"cv", "CV of the replicates' concentrations in percent"},
    CriterionVariable{"x", "concentration read off, before dilution"},
    CriterionVariable{"se", "its standard error"},
    CriterionVariable{"result", "reported concentration"},
    CriterionVariable{"dilution", "dilution factor"},
    CriterionVariable{"interval", "half-width of the interval in percent of the concentration"},
};
constexpr std::array kQcVariables{
    CriterionVariable{"n", "usable replicates"},
    CriterionVariable{"mean", "mean response"},
    CriterionVariable{"cv", "CV of the replicates' concentrations in percent"},
    CriterionVariable{"x", "concentration read off"},
    CriterionVariable{"se", "its standard error"},
    CriterionVariable{"nominal", "nominal concentration"},
    CriterionVariable{"recovery", "recovery in percent"},
};

constexpr std::array kPeakVariables{
    CriterionVariable{"time", "where its apex lies"},
    CriterionVariable{"shift", "its apex less where it is expected"},
    CriterionVariable{"window_share", "shift in percent of half the window"},
    CriterionVariable{"height", "height above the baseline"},
    CriterionVariable{"area", "area above the baseline"},
    CriterionVariable{"width", "width at half height"},
    CriterionVariable{"asymmetry", "asymmetry at 10 % of the height"},
    CriterionVariable{"tailing", "tailing at 5 % of the height"},
    CriterionVariable{"plates", "theoretical plates from the half width"},
    CriterionVariable{"resolution", "resolution to the peak before, from half widths"},
    CriterionVariable{"valley", "peak to valley, to the peak before"},
    CriterionVariable{"retention", "retention factor"},
    CriterionVariable{"snr", "signal to noise, 2H/h against the first blank run"},
};

using Values = std::vector<double>; ///< one a variable of the scope, NaN where not defined

double orMissing(const std::optional<double>& value) {
    return value.value_or(std::numeric_limits<double>::quiet_NaN());
}

double numberOf(std::size_t count) {
    return static_cast<double>(count);
}

Values analyteValues(const AnalyteEvaluation& e) {
    std::size_t levels = 0;
    std::size_t within = 0;
    std::optional<double> worst;
    for (const LevelValue& level : e.levels) {
        if (!isJudged(level)) {
            continue;
        }
        ++levels;
        within += level.isWithin ? 1u : 0u;
        if (level.errorPercent) {
            worst = std::max(worst.value_or(0), std::abs(*level.errorPercent));
        }
    }
    const bool hasFit = e.fit.isUsable();
    const auto fitted = [&](double x) { return hasFit ? std::optional(response(e.fit, x)) : std::nullopt; };
    return {orMissing(e.fit.rSquared),
            orMissing(e.fit.r),
            orMissing(hasFit ? std::optional(e.fit.s) : std::nullopt),
            numberOf(e.fit.n),
            numberOf(levels),
            numberOf(within),
            orMissing(worst),
            orMissing(e.range.lloq),
            orMissing(e.range.uloq),
            orMissing(e.blank.description.mean),
            orMissing(e.blank.description.sd),
            orMissing(e.blank.description.cvPercent),
            orMissing(e.pooledCvPercent),
            orMissing(fitted(e.fit.lowestX)),
            orMissing(fitted(e.fit.highestX))};
}

Values levelValues(const LevelValue& level) {
    return {orMissing(level.x),           numberOf(level.response.n),          orMissing(level.response.mean),
            orMissing(level.response.sd), orMissing(level.response.cvPercent), orMissing(level.backCalculated),
            orMissing(level.errorPercent)};
}

Values sampleValues(const SampleResult& r) {
    std::optional<double> half;
    if (r.readOff.x && r.readOff.low && r.readOff.high && *r.readOff.x != 0) {
        half = 100 * (*r.readOff.high - *r.readOff.low) / 2 / std::abs(*r.readOff.x);
    }
    return {numberOf(r.response.n),
            orMissing(r.response.mean),
            orMissing(r.concentration.cvPercent),
            orMissing(r.readOff.x),
            orMissing(r.readOff.se),
            orMissing(r.result),
            r.dilution,
            orMissing(half)};
}

Values qcValues(const SampleResult& r) {
    return {numberOf(r.response.n),      orMissing(r.response.mean), orMissing(r.concentration.cvPercent),
            orMissing(r.readOff.x),      orMissing(r.readOff.se),    orMissing(r.nominal),
            orMissing(r.recoveryPercent)};
}

Values peakValues(const PeakRule& rule, const Peak& peak, const Trace* blank) {
    const double shift = peak.apex - rule.expected;
    return {peak.apex,
            shift,
            100 * std::abs(shift) / halfWindow(rule),
            peak.height,
            peak.area,
            orMissing(peak.width50),
            orMissing(peak.asymmetry10),
            orMissing(peak.tailing5),
            orMissing(peak.platesHalf),
            orMissing(peak.resolutionHalf),
            orMissing(peak.peakToValley),
            orMissing(peak.retentionFactor),
            orMissing(signalToNoise(peak, blank))};
}

/// One thing that a criterion is asked of.
struct Target {
    Values values;
    std::string name; ///< "S3"
    std::optional<Assignment> group;
    SampleResult* sample = nullptr; ///< an unknown that a review marks
    std::optional<Place> place{};   ///< of a run
};

std::string limitTextOf(const Criterion& criterion) {
    return (criterion.comparison == Comparison::AtMost ? "at most " : "at least ") + formatNumber(criterion.limit);
}

bool isMet(const Criterion& criterion, double found) {
    return criterion.comparison == Comparison::AtMost ? found <= criterion.limit : found >= criterion.limit;
}

/// Found over limit where less is better, the other way round where more is; 1 is just met.
double usedOf(const Criterion& criterion, double found) {
    const bool isScaled = criterion.limit > 0 && found >= 0;
    const bool isLess = isMet(criterion, found) == (criterion.comparison == Comparison::AtMost);
    return isScaled ? found / criterion.limit : isLess ? 0.5 : 1.5;
}

CriterionResult judgeOwn(const Criterion& criterion, std::size_t index, std::vector<Target> targets,
                         const AnalyteEvaluation* evaluation) {
    CriterionResult out;
    out.key = ownCriterionKey(index);
    out.title = criterion.title;
    out.limitText = criterion.quantity + " " + limitTextOf(criterion);
    out.isFloor = criterion.comparison == Comparison::AtLeast;
    out.why = "A criterion of the laboratory's own.";
    const auto formula = quantityOf(criterion);
    if (!formula) {
        out.outcome = Outcome::Review;
        out.foundText = "cannot be read";
        out.where = formula.error().text();
        return out;
    }
    std::optional<double> worst; // of used, on the bad side
    std::vector<std::string> missed;
    for (const Target& target : targets) {
        const double found = formula->value(std::span<const double>(target.values));
        if (!std::isfinite(found)) {
            continue; // something it needs is not defined here
        }
        const double used = usedOf(criterion, found);
        if (!worst || (out.isFloor ? used < *worst : used > *worst)) {
            worst = used;
            out.foundText = formatFigures(found, 4);
        }
        if (isMet(criterion, found)) {
            continue;
        }
        missed.push_back(target.name.empty() ? formatFigures(found, 4) : target.name + " " + formatFigures(found, 4));
        if (target.place) {
            out.places.push_back(*target.place);
        } else if (target.group && evaluation != nullptr) {
            addPlaces(*evaluation, *target.group, out.places);
        }
        if (target.sample != nullptr && criterion.asksForReview) {
            target.sample->needsReview = true;
            if (target.sample->remark.empty()) {
                target.sample->remark =
                    criterion.title + ": " + formatFigures(found, 4) + " is not " + limitTextOf(criterion) + ".";
            }
        }
    }
    if (!worst) {
        return out;
    }
    out.used = *worst;
    out.outcome = missed.empty() ? Outcome::Pass : criterion.asksForReview ? Outcome::Review : Outcome::Fail;
    out.where = joined(missed);
    return out;
}

std::vector<Target> targetsOf(const Batch& batch, AnalyteEvaluation& evaluation, CriterionScope scope) {
    std::vector<Target> out;
    if (scope == CriterionScope::Analyte) {
        out.push_back({analyteValues(evaluation), "", std::nullopt, nullptr});
    }
    for (const LevelValue& level : evaluation.levels) {
        if (scope == CriterionScope::Level && level.x && level.response.n > 0) {
            const Assignment group{Role::Standard, level.number};
            out.push_back({levelValues(level), shortName(batch, group), group, nullptr});
        }
    }
    for (SampleResult& result : evaluation.results) {
        if (scope == CriterionScope::Sample && result.group.role == Role::Unknown) {
            out.push_back({sampleValues(result), shortName(batch, result.group), result.group, &result});
        } else if (scope == CriterionScope::Qc && result.group.role == Role::Qc) {
            out.push_back({qcValues(result), shortName(batch, result.group), result.group, nullptr});
        }
    }
    const auto* rule = std::get_if<PeakRule>(&analyteOf(batch, evaluation).source.rule);
    if (scope == CriterionScope::Peak && rule) {
        const auto blank = blankTrace(batch, rule->channel);
        for (const auto& [place, peak] : evaluation.peaks) {
            if (evaluation.at(place).state == ResponseState::Used) {
                out.push_back({peakValues(*rule, peak, blank.get()), evaluation.index->name(place), std::nullopt,
                               nullptr, place});
            }
        }
    }
    return out;
}

Target batchTarget(const Evaluation& evaluation) {
    std::size_t accepted = 0;
    std::size_t failed = 0;
    std::size_t reported = 0;
    std::size_t samples = 0;
    for (const AnalyteEvaluation& analyte : evaluation.analytes) {
        accepted += analyte.verdict == Outcome::Pass ? 1u : 0u;
        failed += analyte.verdict == Outcome::Fail ? 1u : 0u;
        for (const SampleResult& result : analyte.results) {
            samples += result.group.role == Role::Unknown ? 1u : 0u;
            reported += result.group.role == Role::Unknown && result.status == ResultStatus::Reported ? 1u : 0u;
        }
    }
    return {{numberOf(evaluation.analytes.size()), numberOf(accepted), numberOf(failed), numberOf(reported),
             numberOf(samples)},
            "",
            std::nullopt,
            nullptr};
}

} // namespace

std::span<const CriterionVariable> criterionVariables(CriterionScope scope) {
    switch (scope) {
    case CriterionScope::Batch:
        return kBatchVariables;
    case CriterionScope::Analyte:
        return kAnalyteVariables;
    case CriterionScope::Level:
        return kLevelVariables;
    case CriterionScope::Sample:
        return kSampleVariables;
    case CriterionScope::Qc:
        return kQcVariables;
    case CriterionScope::Peak:
        return kPeakVariables;
    }
    return {};
}

std::string ownCriterionKey(std::size_t index) {
    return "own-" + std::to_string(index + 1);
}

Result<Formula> quantityOf(const Criterion& criterion) {
    std::vector<std::string> names;
    for (const CriterionVariable& variable : criterionVariables(criterion.scope)) {
        names.emplace_back(variable.name);
    }
    return Formula::parse(criterion.quantity, names, "The quantity of \"" + criterion.title + "\"");
}

std::vector<CriterionResult> ownCriteria(const Batch& batch, AnalyteEvaluation& evaluation) {
    std::vector<CriterionResult> out;
    for (std::size_t i = 0; i < batch.method.criteria.size(); ++i) {
        const Criterion& criterion = batch.method.criteria[i];
        if (criterion.scope != CriterionScope::Batch) {
            out.push_back(judgeOwn(criterion, i, targetsOf(batch, evaluation, criterion.scope), &evaluation));
        }
    }
    return out;
}

std::vector<CriterionResult> ownBatchCriteria(const Batch& batch, const Evaluation& evaluation) {
    std::vector<CriterionResult> out;
    for (std::size_t i = 0; i < batch.method.criteria.size(); ++i) {
        if (batch.method.criteria[i].scope == CriterionScope::Batch) {
            out.push_back(judgeOwn(batch.method.criteria[i], i, {batchTarget(evaluation)}, nullptr));
        }
    }
    return out;
}

Result<std::vector<CriterionValue>> criterionValues(const Batch& batch, const Evaluation& evaluation, int analyte,
                                                    const Criterion& criterion) {
    const auto formula = quantityOf(criterion);
    if (!formula) {
        return tl::unexpected(formula.error());
    }
    AnalyteEvaluation copy = evaluation.analyte(analyte); // targets name samples that a judgement would mark
    const std::vector<Target> targets = criterion.scope == CriterionScope::Batch
                                            ? std::vector<Target>{batchTarget(evaluation)}
                                            : targetsOf(batch, copy, criterion.scope);
    std::vector<CriterionValue> out;
    for (const Target& target : targets) {
        const double value = formula->value(std::span<const double>(target.values));
        const bool isDefined = std::isfinite(value);
        out.push_back({target.name, target.group, isDefined ? std::optional(value) : std::nullopt,
                       !isDefined || isMet(criterion, value)});
    }
    return out;
}

} // namespace nuvat
