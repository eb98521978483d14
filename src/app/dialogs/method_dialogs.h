#pragma once

#include "nuvat/batch/evaluation.h"

#include <optional>

class QWidget;

namespace nuvat {

/// Asks for what the two lists above the curve do not hold: reading, points, weights' y, held parameters, interval,
/// averages, range, extrapolation, replicates. @return the method with the analyte changed, or nothing when cancelled
std::optional<Method> askCurveSettings(QWidget* parent, const Batch& batch, int analyte);

/// Asks for a custom criterion: a new one, or one of the method's to change or remove. The formula is checked
/// while it is typed. @return the method with its criteria changed, or nothing when cancelled
std::optional<Method> askCriterion(QWidget* parent, const Method& method);

} // namespace nuvat
