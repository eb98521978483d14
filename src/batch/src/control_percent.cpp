// Responses in percent of those of the negative controls: of enzyme inhibition, cell viability, binding.
#include "stages.h"

#include <algorithm>

namespace nuvat {

namespace {

VarianceGrowth growthOf(Weighting weighting) {
    switch (weighting) {
    case Weighting::InverseX:
    case Weighting::InverseY:
        return VarianceGrowth::WithMean;
    case Weighting::InverseX2:
    case Weighting::InverseY2:
        return VarianceGrowth::WithMeanSquare;
    default:
        return VarianceGrowth::Constant;
    }
}

} // namespace

void addPercentOfControl(const Batch& batch, AnalyteEvaluation& evaluation) {
    // Of several blanks each belongs to its own readings; then there is none that all have in common.
    const bool isCommon = batch.method.subtractsBlank && evaluation.blanks.size() == 1;
    const auto valuesOf = [&](const std::vector<Place>& places) {
        std::vector<double> out;
        for (const Place place : places) {
            const Response& one = evaluation.at(place);
            const auto& value = isCommon ? one.raw : one.value;
            if (one.state == ResponseState::Used && value) {
                out.push_back(*value);
            }
        }
        return out;
    };
    std::vector<double> control, blank;
    for (const GroupValue& group : evaluation.groups) {
        auto& into = group.group.role == Role::NegativeControl ? control : blank;
        if (group.group.role == Role::NegativeControl || (isCommon && group.group.role == Role::Blank)) {
            std::ranges::copy(valuesOf(group.places), std::back_inserter(into));
        }
    }
    if (control.empty()) {
        return;
    }
    std::vector<SampleResult*> samples;
    std::vector<std::vector<double>> values;
    for (SampleResult& result : evaluation.results) {
        std::vector<Place> places;
        for (const ReplicateResult& replicate : result.replicates) {
            places.push_back(replicate.place);
        }
        if (auto its = valuesOf(places); result.group.role != Role::NegativeControl && !its.empty()) {
            samples.push_back(&result);
            values.push_back(std::move(its));
        }
    }
    const auto found = percentOfControl(control, blank, values, batch.method.confidence,
                                        growthOf(analyteOf(batch, evaluation).fit.weighting));
    for (std::size_t i = 0; found && i < samples.size(); ++i) {
        samples[i]->ofControl = found->samples[i];
    }
}

} // namespace nuvat
