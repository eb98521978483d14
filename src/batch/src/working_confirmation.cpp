// The internal standard and the qualifiers of a group, run by run.
#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/base/number.h"
#include "working_results.h"

namespace nuvat {

namespace {

constexpr int kFigures = 4;

void addInternal(const Batch& batch, const AnalyteEvaluation& evaluation, int internal,
                 const std::vector<Place>& places, Working& working) {
    WorkingStep step{"÷ internal standard " + batch.method.analyte(internal).name, {}, false};
    for (const Place place : places) {
        const Response& response = evaluation.at(place);
        const std::string name = evaluation.index->name(place) + "  ";
        if (!response.internal) {
            step.lines.push_back(name + "not found");
            continue;
        }
        const auto percent = internalPercent(evaluation, place);
        const double share = internalShare(batch, evaluation.analyte, place);
        step.lines.push_back(name + formatFigures(*response.internal, kFigures) +
                             (percent ? ", " + formatPercent(*percent) + " of the median" : std::string()) +
                             (share != 1 ? ", holds × " + formatFigures(share, kFigures) + " of it" : std::string()));
        if (response.raw) {
            step.lines.push_back("ratio " + formatFigures(*response.raw, kFigures));
        }
    }
    working.steps.push_back(std::move(step));
}

} // namespace

void addRelations(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                  Working& working) {
    if (const int internal = internalOf(batch.method, evaluation.analyte); internal != 0) {
        addInternal(batch, evaluation, internal, places, working);
    }
    for (std::size_t i = 0; i < evaluation.qualifiers.size(); ++i) {
        const QualifierValue& found = evaluation.qualifiers[i];
        WorkingStep step{"Ratio of qualifier " + analyteOf(batch, evaluation).qualifiers[i].channel, {}, false};
        for (const Place place : places) {
            if (const auto ratio = found.ratios.find(place); ratio != found.ratios.end()) {
                step.lines.push_back(evaluation.index->name(place) + "  " + formatPercent(ratio->second.percent) +
                                     (ratio->second.isWithin ? "" : ", outside"));
            }
        }
        if (found.window) {
            step.lines.push_back("expected " + formatFigures(found.window->low, 3) + " to " +
                                 formatFigures(found.window->high, 3) + " %");
        }
        working.steps.push_back(std::move(step));
    }
}

} // namespace nuvat
