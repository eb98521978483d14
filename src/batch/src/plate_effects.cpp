#include "nuvat/batch/plate_effects.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"

#include <cmath>

namespace nuvat {

std::vector<PlacedValue> unknownsOn(const Batch& batch, const AnalyteEvaluation& evaluation, int carrier) {
    std::vector<PlacedValue> out;
    const auto found = batch.carriers.find(carrier);
    if (found == batch.carriers.end() || found->second.kind != CarrierKind::Plate) {
        return out;
    }
    int group = 0;
    for (const GroupValue& one : evaluation.groups) {
        ++group;
        // Further dilutions read lower by what they are, not by where they stand.
        if (one.group.role != Role::Unknown || one.group.preparation > 1) {
            continue;
        }
        for (const Place place : one.places) {
            const Response& response = evaluation.at(place);
            if (place.carrier == carrier && response.state == ResponseState::Used && response.value) {
                out.push_back({place.row, place.column, *response.value, group});
            }
        }
    }
    return out;
}

std::string largestEffects(const PositionEffects& effects) {
    const auto percent = [](double value) { return (value > 0 ? "+" : "") + formatFigures(value, 2) + " %"; };
    std::string out = "row " + rowLetters(static_cast<int>(*effects.row.index)) + " " + percent(effects.row.percent) +
                      ", column " + std::to_string(*effects.column.index + 1) + " " + percent(effects.column.percent);
    if (effects.edge) {
        out += ", edge " + percent(effects.edge->percent);
    }
    return out;
}

std::string sentence(const PositionEffects& effects) {
    const std::string p = " (p = " + formatFigures(effects.p, 2) + ").";
    if (!effects.isFound()) {
        return "No row, column or edge effect" + p;
    }
    const PositionEffect* largest = effects.row.p <= effects.column.p ? &effects.row : &effects.column;
    if (effects.edge && effects.edge->p < largest->p) {
        largest = &*effects.edge;
    }
    const std::string where = !largest->index ? "The edge of the plate reads "
                              : largest == &effects.row
                                  ? "Row " + rowLetters(static_cast<int>(*largest->index)) + " reads "
                                  : "Column " + std::to_string(*largest->index + 1) + " reads ";
    return where + formatPercent(std::abs(largest->percent)) + (largest->percent < 0 ? " below" : " above") +
           (largest->index ? " the rest of the plate" : " its middle") + p;
}

} // namespace nuvat
