#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/core/base/error.h"

#include <optional>
#include <string>
#include <vector>

namespace nuvat {

/// One analyte in one run, as a table of peaks has it.
struct PeakRow {
    int line = 0; ///< of the file
    std::string injection, name, level, analyte, internalStandard;
    Role role = Role::Empty;
    std::optional<double> nominal;               ///< of a standard or QC
    std::optional<double> internalConcentration; ///< in this run
    std::optional<double> time, internalTime;    ///< retention times; absent where there is no peak
    std::optional<double> area, qualifierArea, internalArea;
    double dilution = 1;
};

/// What responses of a table of peaks are.
enum class PeakResponse {
    Ratio,                ///< area over that of the internal standard, against the ratio of concentrations
    RatioByConcentration, ///< the same against the concentration
    Area,                 ///< the area against the concentration
};

struct PeakTableRules {
    PeakResponse response = PeakResponse::Ratio;
    FitOptions fit{.model = Model::Line};
    Qualifier qualifier; ///< tolerance and reference; its channel is set
};

/// Where a row of the table stands in the batch made of it.
struct PeakTablePlace {
    int analyte = 0;
    Place place;
};

struct PeakTableBatch {
    Batch batch;
    std::vector<PeakTablePlace> rows; ///< one for each row of the table
};

/// A batch of runs of a table with one row for each analyte in each run: a list of runs in the order in which they
/// stand in the table, an analyte for each name (internal standards come after them), levels, QCs and unknowns by role
/// and level. Rows of one role and level are replicates.
/// @return peaks.empty without rows, peaks.twice for an analyte that stands twice in a run, peaks.nominal where
/// standards of one level differ in their nominals, with the line
Result<PeakTableBatch> batchOfPeaks(const std::vector<PeakRow>& rows, const PeakTableRules& rules);

} // namespace nuvat
