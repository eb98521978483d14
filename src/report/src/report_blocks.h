#pragma once

#include "nuvat/report/report_file.h"
#include "pages.h"

namespace nuvat {

/// Everything the blocks look at.
struct Content {
    const Batch& batch;
    const Evaluation& whole;
    const AnalyteEvaluation& evaluation; ///< of the analyte the blocks are about
    const std::vector<HistoryLine>& history;
    std::int64_t printedMillis;
    QString unit;
};

using AddBlock = void (*)(Pages&, const Content&);
struct BlockEntry {
    ReportBlock block;
    AddBlock add;
    bool isOfAnalyte = true; ///< once for each analyte, else once
    bool isListed = true;    ///< has a switch of its own; else it goes with the block of the same key
};

/// All blocks in the order of the report.
const std::vector<BlockEntry>& blockEntries();

} // namespace nuvat
