// What follows from results: recoveries of spikes, values by formula; and what samples should have been diluted.
#include "nuvat/batch/derived_value.h"
#include "nuvat/core/base/number.h"
#include "stages.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr std::size_t kVolume = 2, kMass = 3; // among the variables

const Sample* sampleOf(const Batch& batch, Assignment group) {
    const auto found = batch.samples.find(group.number);
    return found == batch.samples.end() ? nullptr : &found->second;
}

void setRecoveries(const Batch& batch, AnalyteEvaluation& evaluation) {
    const auto results = resultsBySample(evaluation);
    for (SampleResult& result : evaluation.results) {
        const Sample* sample = sampleOf(batch, result.group);
        if (result.group.role != Role::Spike || sample == nullptr || !sample->added) {
            continue;
        }
        const int number = result.group.number;
        const auto unspiked = results.find(number);
        const auto without =
            unspiked == results.end() ? std::nullopt : contentOf(evaluation, number, unspiked->second).value;
        if (result.result && without) {
            result.recoveryPercent = 100 * (*result.result - *without) / *sample->added;
        }
    }
}

DerivedResult derived(const Formula& formula, const SampleResult& result, const Sample& sample) {
    DerivedResult out;
    if ((formula.uses(kVolume) && !sample.volume) || (formula.uses(kMass) && !sample.mass) || !result.result) {
        return out;
    }
    const auto at = [&](const std::optional<double>& x) -> std::optional<double> {
        if (!x) {
            return std::nullopt;
        }
        const std::array<double, 4> values{*x, result.dilution, sample.volume.value_or(0), sample.mass.value_or(0)};
        const double value = formula.value(values);
        return std::isfinite(value) ? std::optional(value) : std::nullopt;
    };
    out.value = at(result.result);
    out.low = at(result.low);
    out.high = at(result.high);
    if (out.low && out.high && *out.low > *out.high) { // a formula that falls with the result
        std::swap(out.low, out.high);
    }
    return out;
}

void addDerived(const Batch& batch, AnalyteEvaluation& evaluation) {
    for (const DerivedValue& value : analyteOf(batch, evaluation).derived) {
        const auto formula = parseDerived(value.formula);
        for (SampleResult& result : evaluation.results) {
            if (isOfSample(result.group.role)) {
                const Sample* sample = sampleOf(batch, result.group);
                result.derived.push_back(formula ? derived(*formula, result, sample ? *sample : Sample{})
                                                 : DerivedResult{});
            }
        }
    }
}

void warnOfDilutions(const Batch& batch, AnalyteEvaluation& evaluation) {
    const double least = batch.method.leastDilution;
    for (const SampleResult& result : evaluation.results) {
        if (result.group.role == Role::Unknown && batch.dilution(result.group) < least) {
            std::vector<Place> places;
            for (const ReplicateResult& replicate : result.replicates) {
                places.push_back(replicate.place);
            }
            evaluation.problems.push_back(
                {shortName(batch, result.group) + " is diluted × " + formatNumber(batch.dilution(result.group)) +
                     ", but the method needs × " + formatNumber(least) +
                     " at least. The factor to type is the whole dilution, the least one included.",
                 places});
        }
    }
}

/// A sample is multiplied by one share; runs with different amounts of internal standard are no replicates.
void warnOfInternalStandards(const Batch& batch, AnalyteEvaluation& evaluation) {
    const CurveOf curve = analyteOf(batch, evaluation).source.curve;
    if (curve == CurveOf::Sample || curve == CurveOf::None) {
        return; // their ratios are taken as they are
    }
    for (const SampleResult& result : evaluation.results) {
        std::vector<Place> others;
        for (const ReplicateResult& replicate : result.replicates) {
            if (internalShare(batch, evaluation.analyte, replicate.place) != result.internalShare) {
                others.push_back(replicate.place);
            }
        }
        if (!others.empty()) {
            evaluation.problems.push_back(
                {"The runs of " + shortName(batch, result.group) +
                     " hold different concentrations of the internal standard, and the first one counts for all. Give "
                     "them numbers of their own under Layout.",
                 others});
        }
    }
}

} // namespace

const std::vector<std::string>& derivedVariables() {
    static const std::vector<std::string> names{"result", "dilution", "volume", "mass"};
    return names;
}

Result<Formula> parseDerived(const std::string& text) {
    return Formula::parse(text, derivedVariables(), "The formula");
}

void addExtras(const Batch& batch, AnalyteEvaluation& evaluation) {
    setRecoveries(batch, evaluation);
    addPercentOfControl(batch, evaluation);
    addDerived(batch, evaluation);
    warnOfDilutions(batch, evaluation);
    warnOfInternalStandards(batch, evaluation);
}

} // namespace nuvat
