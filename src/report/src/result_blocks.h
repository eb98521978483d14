#pragma once

#include "report_blocks.h"

namespace nuvat {

// Blocks on results: tables with the columns that the method chooses, plates as matrices, classes, notes.

void addResults(Pages& pages, const Content& content);
void addReplicates(Pages& pages, const Content& content);
void addResultMatrix(Pages& pages, const Content& content);
void addResponseMatrix(Pages& pages, const Content& content);
void addDecisions(Pages& pages, const Content& content);
void addNotes(Pages& pages, const Content& content);

} // namespace nuvat
