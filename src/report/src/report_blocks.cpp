// What stands in each block of the report.
#include "report_blocks.h"

#include "addition_blocks.h"
#include "plan_block.h"
#include "plate_blocks.h"
#include "result_blocks.h"
#include "trace_blocks.h"

#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/report/calibration_figure.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

QString percent(const std::optional<double>& value, bool isSigned = false) {
    if (!value) {
        return QStringLiteral("–");
    }
    return shown((isSigned && *value > 0 ? "+" : "") + formatPercent(*value));
}

/// Readings that responses come from, each once, in the order of the analytes.
std::vector<const Reading*> readingsOf(const Batch& batch) {
    std::vector<const Reading*> out;
    for (int analyte = 1; analyte <= static_cast<int>(batch.method.analytes.size()); ++analyte) {
        for (const std::string& channel : batch.channelsOf(analyte)) {
            for (const auto& [number, carrier] : batch.carriers) {
                const Reading* reading = batch.reading(number, channel);
                if (reading == nullptr && batch.hasTraces(number)) { // the first of the runs stands for all
                    reading = batch.firstReading(analyte, number);
                }
                if (reading != nullptr && std::find(out.begin(), out.end(), reading) == out.end()) {
                    out.push_back(reading);
                }
            }
        }
    }
    return out;
}

/// "6 of 7 unknowns reported with a concentration." of one analyte.
QString reportedText(const AnalyteEvaluation& evaluation) {
    const auto isUnknown = [](const SampleResult& r) { return r.group.role == Role::Unknown; };
    const auto unknowns = std::count_if(evaluation.results.begin(), evaluation.results.end(), isUnknown);
    const auto reported = std::count_if(evaluation.results.begin(), evaluation.results.end(), [&](const auto& r) {
        return isUnknown(r) && (r.status == ResultStatus::Reported || r.status == ResultStatus::Extrapolated);
    });
    return QStringLiteral("%1 of %2 unknowns reported with a concentration.").arg(reported).arg(unknowns);
}

void addHeading(Pages& pages, const Content& c) {
    pages.need(60 * kUnit);
    pages.paragraph(text(c.batch.info.title), reportFont(17 * kUnit, QFont::Bold), lightTheme().ink);
    QStringList parts;
    if (!c.batch.info.laboratory.empty()) {
        parts << text(c.batch.info.laboratory);
    }
    parts << QStringLiteral("method %1, revision %2").arg(text(c.batch.method.title)).arg(c.batch.method.revision);
    for (const Reading* reading : readingsOf(c.batch)) {
        const int runs = reading->slot.place ? c.batch.carriers.at(reading->slot.carrier).rows : 0;
        const QString what = runs > 1 ? QStringLiteral("%1 runs, the first of").arg(runs) : QStringLiteral("reading");
        const QString part =
            QStringLiteral("%1 %2, imported %3").arg(what, text(reading->source), timeText(reading->takenInMillis));
        if (!parts.contains(part)) { // once a file, however many reads it holds
            parts << part;
        }
    }
    pages.paragraph(parts.join(QStringLiteral(" · ")), reportFont(kSmall), lightTheme().mute);
    pages.space(5);
    const double y = pages.y();
    pages.add([y](QPainter& painter) {
        painter.setPen(QPen(lightTheme().plum, 1.2 * kUnit));
        painter.drawLine(QPointF(kMargin, y), QPointF(kPageWidth - kMargin, y));
    });
    pages.space(8);
    pages.paragraph(text(verdictSentence(c.batch, c.whole)), reportFont(kText + 2, QFont::Bold),
                    lightTheme().outcome(c.whole.verdict));
    pages.space(2);
    const bool hasSeveral = c.whole.analytes.size() > 1;
    for (const AnalyteEvaluation& analyte : c.whole.analytes) {
        const QString owner = hasSeveral ? text(curveName(c.batch, analyte)) + QStringLiteral(": ") : QString();
        pages.paragraph(owner + reportedText(analyte), reportFont(kText), lightTheme().ink);
        for (const Problem& problem : analyte.problems) {
            pages.paragraph(owner + text(problem.message), reportFont(kText), lightTheme().brick);
        }
    }
    if (!c.batch.info.note.empty()) {
        pages.space(2);
        pages.paragraph(QStringLiteral("Note: ") + text(c.batch.info.note), reportFont(kText), lightTheme().ink);
    }
}

QString rangeText(const Content& c) {
    const Range& range = c.evaluation.range;
    if (range.lloq && range.uloq) {
        return QStringLiteral("Range of the curve %1 to %2 %3 (LLOQ to ULOQ).")
            .arg(number(range.lloq, 3), number(range.uloq, 3), c.unit);
    }
    switch (analyteOf(c.batch, c.evaluation).range.by) {
    case RangeBy::Hand:
        return QStringLiteral("The range is set by hand and incomplete: LLOQ %1, ULOQ %2.")
            .arg(range.lloq ? number(range.lloq, 3) : QStringLiteral("not set"),
                 range.uloq ? number(range.uloq, 3) : QStringLiteral("not set"));
    case RangeBy::Precision:
        return QStringLiteral(
            "No concentration is read off as precisely as the method asks, so the curve has no range.");
    case RangeBy::Levels:
        return QStringLiteral("The standards span no range, so the curve has none.");
    case RangeBy::Criteria:
        break;
    }
    return QStringLiteral("No level meets the criteria, so the curve has no range.");
}

void addMethod(Pages& pages, const Content& c) {
    pages.title(QStringLiteral("Method and curve"), 4 * kRow);
    const Fit& fit = c.evaluation.fit;
    const FitOptions& options = analyteOf(c.batch, c.evaluation).fit;
    QStringList lines;
    lines << QStringLiteral("%1, %2; weights %3; fitted to %4.")
                 .arg(text(modelTitle(options.model)), text(modelFormula(options.model)),
                      text(weightingTitle(options.weighting)),
                      options.fitTo == FitTo::Means ? QStringLiteral("the level means")
                                                    : QStringLiteral("each replicate"));
    if (c.batch.method.subtractsBlank && c.evaluation.blank.description.mean) {
        lines << (c.evaluation.blanks.size() > 1
                      ? QStringLiteral("The blank of each plate subtracted from its readings; mean %1 (n = %2%3).")
                      : QStringLiteral("Blank %1 (n = %2%3) subtracted from every reading."))
                     .arg(number(c.evaluation.blank.description.mean, 4))
                     .arg(c.evaluation.blank.description.n)
                     .arg(c.evaluation.blank.description.sd
                              ? QStringLiteral(", SD ") + number(c.evaluation.blank.description.sd, 2)
                              : QString());
    }
    if (fit.isUsable()) {
        const auto used = std::count_if(c.evaluation.standards.begin(), c.evaluation.standards.end(),
                                        [](const StandardValue& s) { return s.isUsed; });
        lines << QStringLiteral("%1 of %2 standards in the fit%7; R² %3%4; residual SD %5 with %6 degrees of freedom.")
                     .arg(used)
                     .arg(c.evaluation.standards.size())
                     .arg(fit.rSquared ? shown(formatDecimals(*fit.rSquared, 5)) : QStringLiteral("not defined"),
                          fit.model == Model::LineThroughOrigin ? QStringLiteral(" (about zero)")
                          : fit.model == Model::LineFixedPoint  ? QStringLiteral(" (about the fixed point)")
                                                                : QString(),
                          number(fit.s, 3))
                     .arg(fit.df)
                     .arg(options.fitTo == FitTo::Means ? QStringLiteral(" as %1 level means").arg(fit.n) : QString());
        lines << rangeText(c);
        const ReadOffOptions readOff = readOffOptions(c.batch, c.evaluation);
        lines << QStringLiteral("Intervals: %1 %, by %2 of the readings' scatter%3.")
                     .arg(shown(formatNumber(100 * c.batch.method.confidence)), text(intervalTitle(readOff.interval)),
                          readOff.blankSe > 0 ? QStringLiteral(", the curve and the blank")
                                              : QStringLiteral(" and the curve"));
        for (const std::string& warning : fit.warnings) {
            lines << text(warning);
        }
    } else {
        lines << text(fit.message);
    }
    addSentences(pages, lines);
}

void addFigure(Pages& pages, const Content& c) {
    const double height = (c.option == "tall" ? 380 : 190) * kUnit;
    pages.space(8);
    pages.need(height + 8 * kUnit);
    const QRectF area(pages.left(), pages.y(), pages.width(), height);
    // Copies, so that a page can be painted when batch and evaluation are gone.
    pages.add([area, batch = c.batch, evaluation = c.evaluation](QPainter& painter) {
        drawCurve(painter, area, batch, evaluation);
    });
    pages.space(height / kUnit);
}

void addParameters(Pages& pages, const Content& c) {
    const Fit& fit = c.evaluation.fit;
    if (!fit.isUsable() || fit.size() == 0) {
        return;
    }
    pages.title(QStringLiteral("Parameters"), 3 * kRow);
    const double t = fit.df > 0 ? studentFactor(c.batch.method.confidence, fit.df) : 0;
    std::vector<QStringList> rows;
    for (std::size_t i = 0; i < fit.size(); ++i) {
        const double half = fit.df > 0 ? t * fit.se[i] : 0;
        const double v = fit.parameters[i];
        QString title = text(parameterTitle(fit.model, i));
        if (fit.parameterNames[i] == "c" && !c.unit.isEmpty()) {
            title += QStringLiteral(", ") + c.unit;
        }
        rows.push_back({title, shown(formatFigures(v, std::max(4, figuresForInterval(v, half)))),
                        half > 0 ? number(fit.se[i], 2) : QStringLiteral("–"),
                        shown(intervalText(v, v - half, v + half))});
    }
    pages.table({{QStringLiteral("Parameter"), 190, false},
                 {QStringLiteral("Value"), 90},
                 {QStringLiteral("SE"), 80},
                 {shown(formatNumber(100 * c.batch.method.confidence)) + QStringLiteral(" % interval"), 139}},
                rows);
}

void addStandards(Pages& pages, const Content& c) {
    if (c.evaluation.standards.empty()) {
        return;
    }
    pages.title(QStringLiteral("Standards, back-calculated"), 4 * kRow);
    const double wells = c.batch.carriers.size() > 1 ? 66 : 36; // with the name of the plate
    std::vector<QStringList> rows;
    for (const StandardValue& s : c.evaluation.standards) {
        QString note;
        if (const auto* found = c.batch.exclusion(s.place, c.evaluation.analyte)) {
            note = QStringLiteral("excluded: ") + text(found->reason);
        } else if (isAnchor(c.batch, {s.level, c.evaluation.analyte})) {
            note = QStringLiteral("anchor, not judged");
        }
        rows.push_back({QStringLiteral("S%1").arg(s.level), text(placeName(c.batch, s.place)), number(s.x, 4),
                        number(s.y, 4), number(s.normalisedWeight, 3), number(s.backCalculated, 4),
                        percent(s.errorPercent, true), note});
    }
    pages.table({{QStringLiteral("Level"), 36, false, true},
                 {QStringLiteral("Well"), wells, false},
                 {QStringLiteral("Nominal, ") + c.unit, 68},
                 {QStringLiteral("Response"), 62},
                 {QStringLiteral("Weight"), 54},
                 {QStringLiteral("Back-calculated, ") + c.unit, 84},
                 {QStringLiteral("Error"), 54},
                 {QStringLiteral("Note"), 141 - wells, false}},
                rows);
}

/// The levels, each with the mean of its standards.
void addLevels(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const LevelValue& level : c.evaluation.levels) {
        rows.push_back({QStringLiteral("S%1").arg(level.number), number(level.x, 4), QString::number(level.response.n),
                        number(level.response.mean, 4), percent(level.cvPercent), number(level.backCalculated, 4),
                        percent(level.errorPercent, true),
                        level.isAnchor     ? QStringLiteral("anchor, not judged")
                        : level.isAccepted ? QStringLiteral("accepted")
                                           : QString()});
    }
    if (rows.empty()) {
        return;
    }
    pages.title(QStringLiteral("Standards, level by level"), 4 * kRow);
    pages.table({{QStringLiteral("Level"), 40, false, true},
                 {QStringLiteral("Nominal, ") + c.unit, 72},
                 {QStringLiteral("Replicates"), 56},
                 {QStringLiteral("Response"), 66},
                 {QStringLiteral("CV"), 50},
                 {QStringLiteral("Back-calculated, ") + c.unit, 86},
                 {QStringLiteral("Error"), 54},
                 {QStringLiteral("Note"), 75, false}},
                rows);
}

void addStandardsOrLevels(Pages& pages, const Content& c) {
    c.option == "levels" ? addLevels(pages, c) : addStandards(pages, c);
}

void addQc(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const SampleResult& r : c.evaluation.results) {
        if (!hasNominal(r.group.role)) {
            continue;
        }
        rows.push_back({text(shortName(c.batch, r.group)), number(r.nominal, 3), number(r.response.mean, 4),
                        r.readOff.x ? shown(concentrationText(r.readOff)) : QStringLiteral("–"),
                        percent(r.concentration.cvPercent),
                        r.readOff.x ? shown(intervalText(*r.readOff.x, r.readOff.low, r.readOff.high)) : QString(),
                        percent(r.recoveryPercent)});
    }
    if (rows.empty()) {
        return;
    }
    pages.title(QStringLiteral("QC"), 3 * kRow);
    pages.table({{QStringLiteral("QC"), 90, false, true},
                 {QStringLiteral("Nominal, ") + c.unit, 72},
                 {QStringLiteral("Response"), 66},
                 {QStringLiteral("Read off, ") + c.unit, 72},
                 {QStringLiteral("CV"), 50},
                 {shown(formatNumber(100 * c.batch.method.confidence)) + QStringLiteral(" % interval"), 90},
                 {QStringLiteral("Recovery"), 59}},
                rows);
}

void addCriteria(Pages& pages, const QString& title, const std::vector<CriterionResult>& criteria) {
    std::vector<QStringList> rows;
    for (const CriterionResult& criterion : criteria) {
        if (criterion.outcome != Outcome::NotApplicable) {
            rows.push_back(
                {text(criterion.title), shown(criterion.limitText), shown(criterion.foundText),
                 criterion.isOverridden() ? QStringLiteral("Overridden") : text(outcomeWord(criterion.outcome)),
                 criterion.isOverridden() ? text(criterion.overrideReason) : shown(criterion.where)});
        }
    }
    if (rows.empty()) {
        return;
    }
    pages.title(title, 4 * kRow);
    pages.table({{QStringLiteral("Criterion"), 118, false, true},
                 {QStringLiteral("Limit"), 150, false},
                 {QStringLiteral("Found"), 56},
                 {QStringLiteral("Outcome"), 50, false, true},
                 {QStringLiteral("Where"), 125, false}},
                rows);
}

void addChecks(Pages& pages, const Content& c) {
    addCriteria(pages, QStringLiteral("Checks: ") + text(c.batch.method.criteriaName), c.evaluation.criteria);
}

void addBatchChecks(Pages& pages, const Content& c) {
    addCriteria(pages, QStringLiteral("Checks of the batch"), c.whole.criteria);
}

void addHistory(Pages& pages, const Content& c) {
    const bool isAll = c.option == "all";
    pages.title(isAll ? QStringLiteral("History") : QStringLiteral("History of exclusions and overrides"), 3 * kRow);
    std::vector<QStringList> rows;
    for (const HistoryLine& line : c.history) {
        if (isAll || line.subject != Subject::Edit) {
            const QString prefix = line.kind == EventKind::Undone   ? QStringLiteral("Undone: ")
                                   : line.kind == EventKind::Redone ? QStringLiteral("Redone: ")
                                                                    : QString();
            rows.push_back({timeText(line.timeMillis), prefix + text(line.label), text(line.reason)});
        }
    }
    if (rows.empty()) {
        pages.paragraph(isAll ? QStringLiteral("Nothing was changed.")
                              : QStringLiteral("Nothing was excluded or overridden."),
                        reportFont(kText), lightTheme().ink);
        return;
    }
    pages.table({{QStringLiteral("Time"), 120, false},
                 {QStringLiteral("What"), 180, false},
                 {QStringLiteral("Reason"), 199, false}},
                rows);
}

void addSignatures(Pages& pages, const Content&) {
    pages.space(26);
    pages.need(52 * kUnit);
    const double y = pages.y() + 30 * kUnit;
    pages.add([y](QPainter& painter) {
        const double width = 215 * kUnit;
        const double second = kPageWidth - kMargin - width;
        painter.setPen(QPen(lightTheme().ink, 0.6 * kUnit));
        for (const double x : {kMargin, second}) {
            painter.drawLine(QPointF(x, y), QPointF(x + width, y));
        }
        painter.setFont(reportFont(kSmall));
        painter.setPen(lightTheme().mute);
        painter.drawText(QPointF(kMargin, y + 11 * kUnit), QStringLiteral("Done by: name, date, signature"));
        painter.drawText(QPointF(second, y + 11 * kUnit), QStringLiteral("Checked by: name, date, signature"));
    });
    pages.space(48);
}

} // namespace

QString number(const std::optional<double>& value, int figures) {
    return value ? shown(formatFigures(*value, figures)) : QStringLiteral("–");
}

void addSentences(Pages& pages, const QStringList& sentences) {
    for (const QString& sentence : sentences) {
        pages.paragraph(sentence, reportFont(kText), lightTheme().ink);
        pages.space(2.5);
    }
}

void drawCurve(QPainter& painter, const QRectF& area, const Batch& batch, const AnalyteEvaluation& evaluation) {
    FigureOptions options;
    options.textPixels = kSmall;
    options.lineWidth = 1.4 * kUnit;
    options.pointRadius = 2.9 * kUnit;
    drawCalibration(painter, area, batch, evaluation, lightTheme(), options);
}

const std::vector<BlockEntry>& blockEntries() {
    const std::vector<BlockOption> figure{{"", "usual height"}, {"tall", "half a page"}};
    const std::vector<BlockOption> standards{{"", "each standard"}, {"levels", "level by level"}};
    const std::vector<BlockOption> results{{"", "all samples"}, {"given", "with a result"}, {"review", "to look at"}};
    const std::vector<BlockOption> history{{"", "exclusions, overrides"}, {"all", "everything"}};
    static const std::vector<BlockEntry> entries{
        {{"heading", "Heading"}, addHeading, false},
        {{"method", "Method and curve"}, addMethod, true, true, addAdditionMethod},
        {{"plan", "How the standards are made"}, addPlan, false},
        {{"figure", "Calibration figure", figure}, addFigure, true, true, addAdditionFigures},
        {{"traces", "Traces"}, addTraces},
        {{"parameters", "Parameters"}, addParameters, true, true, addAdditionLines},
        {{"standards", "Standards, back-calculated", standards}, addStandardsOrLevels, true, true, addAdditionPoints},
        {{"qc", "QC"}, addQc},
        {{"results", "Results, by sample", results}, addResults},
        {{"decisions", "Decisions"}, addDecisions},
        {{"replicates", "Results, by replicate"}, addReplicates, true, true, nullptr, true},
        {{"plate-layout", "Plate, layout"}, addLayoutMatrix, false, true, nullptr, true},
        {{"plate-readings", "Plate, readings"}, addReadingMatrix, true, true, nullptr, true},
        {{"plate-responses", "Plate, responses"}, addResponseMatrix, true, true, nullptr, true},
        {{"plate-results", "Plate, results"}, addResultMatrix, true, true, nullptr, true},
        {{"plate-cv", "Plate, CV"}, addCvMatrix, true, true, nullptr, true},
        {{"plate-status", "Plate, status"}, addStatusMatrix, true, true, nullptr, true},
        {{"checks", "Checks and verdict"}, addChecks},
        {{"checks", "Checks of the batch"}, addBatchChecks, false, false},
        {{"peaks", "Peak table"}, addPeakTable, false},
        {{"history", "History", history}, addHistory, false},
        {{"notes", "Notes"}, addNotes, false, true, nullptr, true},
        {{"signatures", "Signature lines"}, addSignatures, false},
    };
    return entries;
}

} // namespace nuvat
