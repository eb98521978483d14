#pragma once

#include "kinds/reading_kind.h"

#include <map>
#include <optional>
#include <QPointF>
#include <vector>

namespace nuvat {

/// A word in the place of a number, and how its well is marked.
struct PlateWord {
    QString text;
    Outcome outcome = Outcome::NotApplicable;
    std::optional<double> depth = std::nullopt; ///< of a class: 0 for the lowest, 1 for the highest
};

/// What wells hold of a quantity that is not a reading. CVs are those of the replicate group, concentrations those of
/// each well, after dilution, and words where a sample has no result; of standards what the curve gives back.
struct PlateValues {
    std::map<Place, double> numbers;
    std::map<Place, PlateWord> words;
    /// Over time: points from (0, 0) to (1, 1), on one scale for all wells; y grows upwards.
    std::map<Place, std::vector<QPointF>> lines;
    std::optional<std::pair<double, double>> taken; ///< the times that the response is taken from, on that scale
};
PlateValues plateValues(const Batch& batch, const AnalyteEvaluation& evaluation, PlateQuantity quantity);

} // namespace nuvat
