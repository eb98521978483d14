#pragma once

#include "nuvat/batch/evaluation.h"

#include <functional>

namespace nuvat {

/// What stands in a table of results: in full for files, as people read it for window and report.
struct ResultCell {
    std::optional<double> number; ///< of columns of numbers, where there is one
    std::string text;             ///< '.' as decimal sign; for people
};

/// One column of the table of results.
struct ResultColumn {
    std::string key;   ///< stable, for methods: "result", "interval", "derived-1"
    std::string title; ///< with the unit where the column has one
    bool isNumber = false;
    std::function<ResultCell(const SampleResult&)> cell;
};

/// All columns that an analyte's results can have, in their usual order. They refer to batch and evaluation, which must
/// live as long.
std::vector<ResultColumn> allResultColumns(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Those that the method chooses, in its order; without a choice the usual ones: place, sample, response, read off, CV,
/// dilution, result, interval, status, and class and derived values where the analyte has them.
std::vector<ResultColumn> resultColumns(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Those that files have besides their own where nothing is chosen: class and derived values, where there are any.
std::vector<ResultColumn> addedResultColumns(const Batch& batch, const AnalyteEvaluation& evaluation);
/// Keys of the columns that resultColumns gives.
std::vector<std::string> resultColumnKeys(const Batch& batch, const AnalyteEvaluation& evaluation);

} // namespace nuvat
