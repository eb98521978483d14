#pragma once

#include "models/columns_model.h"
#include "session/workspace.h"

namespace nuvat {

/// Rows of results: one a sample, or one a replicate.
struct ResultRow {
    std::size_t result = 0;               ///< index into the evaluation's results
    std::optional<std::size_t> replicate; ///< of it, where rows are replicates
};

/// The columns that the method chooses, over rows that `at` and `replicateAt` give.
/// @param isByReplicate what of a sample differs from replicate to replicate is that of each
std::vector<ColumnSpec> resultSpecs(Workspace& workspace, const std::function<const SampleResult&(int row)>& at,
                                    const std::function<const ReplicateResult*(int row)>& replicateAt);

} // namespace nuvat
