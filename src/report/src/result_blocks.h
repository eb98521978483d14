#pragma once

#include "report_blocks.h"

namespace nuvat {

// Blocks on results: tables with the columns that the method chooses, classes, notes.

void addResults(Pages& pages, const Content& content);
void addReplicates(Pages& pages, const Content& content);
void addDecisions(Pages& pages, const Content& content);
void addNotes(Pages& pages, const Content& content);

} // namespace nuvat
