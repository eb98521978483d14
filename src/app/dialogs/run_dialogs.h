#pragma once

#include "nuvat/batch/run_commands.h"

#include <optional>

class QWidget;

namespace nuvat {

/// Asks how the standards are made. What is typed is planned at once and shown below. @param batch with the levels
/// @return the plan to keep, nothing when cancelled
std::optional<StandardPlan> askPlan(QWidget* parent, const Batch& batch);
/// Asks for the blocks of a run list; what they give is shown at once. @return nothing when cancelled
std::optional<std::vector<PlannedRun>> askRunList(QWidget* parent, const Batch& batch);
/// Asks for the rules by which names of runs say a role, one a line: "QC * = QC". @return nothing when cancelled; none:
/// the usual
std::optional<std::vector<NameRule>> askNameRules(QWidget* parent, const Method& method);
/// Asks how lists are measured. @return nothing when cancelled
std::optional<RunRule> askRunRule(QWidget* parent, const RunRule& before);

} // namespace nuvat
