#include "stages.h"

#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

/// What a dilution says by itself, and what it shares with the others.
struct Part {
    Dilution dilution;
    double common = 0; ///< SE of its result by curve and blank
};

Part partOf(const Batch& batch, const SampleResult& result) {
    const ReadOff& read = result.readOff;
    const double x = *read.x, ofDilution = result.dilution == 1 ? 0 : x * batch.method.dilutionRelativeSe;
    const double own = std::hypot(read.seResponse, ofDilution);
    return {{result.dilution, x, own > 0 ? own : read.se.value_or(0)},
            result.dilution * std::hypot(read.seCurve, read.seBlank)};
}

/// The combination with the common share: weighed as the dilutions are, since it moves them all one way.
void setValue(const Batch& batch, const Fit& fit, const std::vector<Part>& parts, CombinedSample& out) {
    if (out.found.reported.size() < 2 || !out.found.value) {
        return;
    }
    double weights = 0, common = 0;
    for (const std::size_t i : out.found.reported) {
        const double se = parts[i].dilution.se * parts[i].dilution.factor;
        weights += 1 / (se * se);
        common += parts[i].common / (se * se);
    }
    out.value = out.found.value;
    out.se = std::hypot(*out.found.se, common / weights);
    if (fit.df > 0) {
        const double half = studentFactor(batch.method.confidence, fit.df) * *out.se;
        out.low = *out.value - half;
        out.high = *out.value + half;
    }
}

CombinedSample combined(const Batch& batch, const AnalyteEvaluation& evaluation, int sample,
                        const std::vector<const SampleResult*>& results) {
    CombinedSample out;
    out.sample = sample;
    std::vector<Part> parts;
    std::vector<Dilution> dilutions;
    for (const SampleResult* result : results) {
        if (result->status != ResultStatus::Reported) {
            continue;
        }
        const Part part = partOf(batch, *result);
        if (part.dilution.se > 0) { // else nothing says how much it weighs
            parts.push_back(part);
            dilutions.push_back(part.dilution);
            out.dilutions.push_back(result->group);
        }
    }
    constexpr double kAny = std::numeric_limits<double>::infinity(); // in range they all are
    if (auto found = combineDilutions(dilutions, {-kAny, kAny})) {
        out.found = std::move(*found);
        setValue(batch, evaluation.fit, parts, out);
    }
    return out;
}

} // namespace

std::map<int, std::vector<const SampleResult*>> resultsBySample(const AnalyteEvaluation& evaluation) {
    std::map<int, std::vector<const SampleResult*>> out;
    for (const SampleResult& result : evaluation.results) {
        if (result.group.role == Role::Unknown) {
            out[result.group.number].push_back(&result);
        }
    }
    return out;
}

void combineSamples(const Batch& batch, AnalyteEvaluation& evaluation) {
    for (const auto& [sample, results] : resultsBySample(evaluation)) {
        if (results.size() > 1) {
            evaluation.combined.push_back(combined(batch, evaluation, sample, results));
        }
    }
}

Content contentOf(const AnalyteEvaluation& evaluation, int sample, const std::vector<const SampleResult*>& results) {
    const CombinedSample* combined = evaluation.combinedOf({Role::Unknown, sample});
    if (combined != nullptr && combined->value) {
        return {combined->value, combined->low, combined->high, combined->se.value_or(0), evaluation.fit.df};
    }
    const auto found = std::ranges::find_if(results, [](const SampleResult* one) { return one->result.has_value(); });
    return found == results.end()
               ? Content{}
               : Content{(*found)->result, (*found)->low, (*found)->high, (*found)->se, (*found)->df};
}

} // namespace nuvat
