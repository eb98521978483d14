#pragma once

#include "report_blocks.h"

namespace nuvat {

// Plates as matrices, one after the other, of one quantity each; nothing for lists.

void addLayoutMatrix(Pages& pages, const Content& content);
void addReadingMatrix(Pages& pages, const Content& content);
void addResponseMatrix(Pages& pages, const Content& content);
void addResultMatrix(Pages& pages, const Content& content);
/// Of samples the CV of their concentrations, of other groups that of their responses.
void addCvMatrix(Pages& pages, const Content& content);
void addStatusMatrix(Pages& pages, const Content& content);

} // namespace nuvat
