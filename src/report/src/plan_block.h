#pragma once

#include "report_blocks.h"

namespace nuvat {

/// The pipetting plan of the standards; nothing for a method without one.
void addPlan(Pages& pages, const Content& content);

} // namespace nuvat
