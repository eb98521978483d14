#pragma once

#include <optional>
#include <qcustomplot.h>

namespace nuvat {

/// Fonts, lines and grid of an axis, as every plot has them.
void styleAxis(QCPAxis& axis);
/// Round numbers over the axis's range, on its scale. @param zero where x = 0 is drawn on a logarithmic axis
/// @param wanted about how many, on a linear one
void setTicks(QCPAxis& axis, const std::optional<double>& zero, int wanted);

} // namespace nuvat
