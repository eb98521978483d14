#pragma once

#include "report_blocks.h"

namespace nuvat {

/// The peak of the analyte in every run, small, with its base line; nothing for an analyte that is read from no peaks.
void addTraces(Pages& pages, const Content& content);
/// The peaks of every run as a table; nothing without traces.
void addPeakTable(Pages& pages, const Content& content);

} // namespace nuvat
