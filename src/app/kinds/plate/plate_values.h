#pragma once

#include "kinds/reading_kind.h"

#include <map>

namespace nuvat {

/// What wells hold of a quantity that is not a reading. CVs are those of the replicate group, concentrations those of
/// each well, after dilution, and words where a sample has no result; of standards what the curve gives back.
struct PlateValues {
    std::map<Place, double> numbers;
    std::map<Place, std::pair<QString, Outcome>> words;
};
PlateValues plateValues(const Batch& batch, const AnalyteEvaluation& evaluation, PlateQuantity quantity);

} // namespace nuvat
