#pragma once

#include "nuvat/batch/analyte_list.h"
#include "nuvat/batch/run_commands.h"

#include <string>

namespace nuvat {

/// Expected analytes from a text, CSV or spreadsheet. Headings: name (or analyte, compound), time (retention time,
/// expected, rt), window, quantifier (channel), qualifier (as often as wanted), ratio (one for each qualifier, in
/// percent), internal standard, added, start (first level, top), factor, levels, unit. A unit in brackets behind
/// "start" is that of the analytes.
/// @return list.empty, list.no-heading, list.number
Result<std::vector<ListedAnalyte>> analytesFromText(const std::string& bytes, const std::string& source);

/// Whether the first line of a text has the heading of such a list: what decides between a list and data.
bool isListOfAnalytes(const std::string& text);

/// Whether it has those of a list of runs: a name, and a vial or a role.
bool isListOfRuns(const std::string& text);

/// Runs to be measured from a text, CSV or spreadsheet. Headings: name (or sample), vial (position), role (type), level
/// (concentration, nominal), dilution, injections, volume. Roles are those of files ("standard", "qc", "unknown",
/// "blank", …); without one the name says it. A row with n injections gives n runs.
/// @return list.empty, list.no-heading, list.number, list.role
Result<std::vector<PlannedRun>> runsFromText(const std::string& bytes, const std::string& source,
                                             const std::vector<NameRule>& rules = {});

} // namespace nuvat
