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
    std::string option; ///< of ReportBlock::options; empty: the usual
};

using AddBlock = void (*)(Pages&, const Content&);
struct BlockEntry {
    ReportBlock block;
    AddBlock add;
    bool isOfAnalyte = true;          ///< once for each analyte, else once
    bool isListed = true;             ///< has a switch of its own; else it goes with the block of the same key
    AddBlock addByAddition = nullptr; ///< in its place where results come from standard addition; nullptr: the same
    bool isExtra = false;             ///< only where the method asks for it

    void addTo(Pages& pages, const Content& content) const {
        const bool isByAddition = addByAddition && !content.evaluation.additions.empty();
        (isByAddition ? addByAddition : add)(pages, content);
    }
};

/// A number of a table; a dash where it is not defined.
QString number(const std::optional<double>& value, int figures);
/// Each as a paragraph.
void addSentences(Pages& pages, const QStringList& sentences);
/// Draws a curve with the sizes of a report.
void drawCurve(QPainter& painter, const QRectF& area, const Batch& batch, const AnalyteEvaluation& evaluation);

/// All blocks in the order of the report.
const std::vector<BlockEntry>& blockEntries();

} // namespace nuvat
