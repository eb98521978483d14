#pragma once

#include "nuvat/batch/working.h"

namespace nuvat {

/// "12.3 µg/L"; the text alone without a unit, nothing for nothing.
std::string withUnit(const std::string& text, const Analyte& analyte);
/// What a response is divided by, and what the channels that confirm it say; nothing where there are neither.
void addRelations(const Batch& batch, const AnalyteEvaluation& evaluation, const std::vector<Place>& places,
                  Working& working);
/// What the other dilutions of the sample say: taken together, and as a curve of their own against the standards.
void addCombined(const Batch& batch, const AnalyteEvaluation& evaluation, Assignment group, Working& working);
/// What is made of a result: recovery of a spike, derived values, the class among the decision limits, and what a kept
/// curve comes from.
void addResultSteps(const Batch& batch, const SampleResult& result, const AnalyteEvaluation& evaluation,
                    Working& working);

} // namespace nuvat
