#pragma once

#include "report_blocks.h"

namespace nuvat {

// What stands in the place of curve, parameters and standards where results come from standard addition.

/// How contents are found, in sentences.
void addAdditionMethod(Pages& pages, const Content& content);
/// The line of every sample, two beside each other.
void addAdditionFigures(Pages& pages, const Content& content);
/// Intercept, slope and content of every line.
void addAdditionLines(Pages& pages, const Content& content);
/// The responses that every line goes through.
void addAdditionPoints(Pages& pages, const Content& content);

} // namespace nuvat
