#include "nuvat/report/report_file.h"

#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/report/calibration_figure.h"

#include <algorithm>
#include <cmath>
#include <QDateTime>
#include <QGuiApplication>
#include <QPageSize>
#include <QPdfWriter>
#include <QSaveFile>

namespace nuvat {

namespace {

// Layout unit: a quarter of a point, so that whole-pixel fonts are fine enough.
constexpr double kUnit = 4;
constexpr double kPageWidth = 595 * kUnit;
constexpr double kPageHeight = 842 * kUnit;
constexpr double kMargin = 48 * kUnit;
constexpr double kTop = 46 * kUnit;
constexpr double kBottom = 52 * kUnit;
constexpr double kText = 9 * kUnit;
constexpr double kSmall = 8 * kUnit;
constexpr double kRow = 15 * kUnit;

using Draw = std::function<void(QPainter&)>;

QFont reportFont(double size, QFont::Weight weight = QFont::Normal) {
    QFont font = uiFont(size, weight);
    font.setHintingPreference(QFont::PreferNoHinting);
    // A trace of letter spacing turns ligatures off, so that text copied from the PDF or searched in it is whole.
    font.setLetterSpacing(QFont::AbsoluteSpacing, 0.02);
    return font;
}

struct Column {
    QString heading;
    double width = 0; ///< in points
    bool isNumber = true;
    bool isBold = false;
};

/// Puts text, tables and figures below each other and begins a new page when one is full.
class Pages {
public:
    std::vector<std::vector<Draw>> take() { return std::move(m_pages); }

    double left() const { return kMargin; }
    double width() const { return kPageWidth - 2 * kMargin; }
    double y() const { return m_y; }
    void space(double points) { m_y += points * kUnit; }

    /// Begins a new page unless `height` (in units) is left on this one.
    void need(double height) {
        if (m_pages.empty() || m_y + height > kPageHeight - kBottom) {
            m_pages.emplace_back();
            m_y = kTop;
        }
    }

    void add(Draw draw) { m_pages.back().push_back(std::move(draw)); }

    /// A paragraph, wrapped to the width.
    void paragraph(const QString& what, const QFont& font, const QColor& colour) {
        const QFontMetricsF metrics(font);
        const QRectF bounds = metrics.boundingRect(QRectF(0, 0, width(), 1e6), Qt::TextWordWrap | Qt::AlignLeft, what);
        need(bounds.height());
        const QRectF area(left(), m_y, width(), bounds.height() + kUnit);
        add([=](QPainter& painter) {
            painter.setFont(font);
            painter.setPen(colour);
            painter.drawText(area, Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, what);
        });
        m_y += bounds.height();
    }

    /// Title of a block; stays with at least `following` units of what comes after it.
    void title(const QString& what, double following) {
        space(m_pages.empty() || m_y <= kTop ? 0 : 12);
        need(14 * kUnit + following);
        paragraph(what, reportFont(10.5 * kUnit, QFont::Bold), lightTheme().ink);
        space(3);
    }

    /// A table whose heading is repeated on every page; a row is never cut.
    void table(const std::vector<Column>& columns, const std::vector<QStringList>& rows) {
        const QFont headingFont = reportFont(kSmall, QFont::Bold);
        need(3 * kRow);
        drawHeading(columns, headingFont);
        for (const QStringList& row : rows) {
            const double height = rowHeight(columns, row);
            if (m_y + height > kPageHeight - kBottom) {
                need(kPageHeight);
                drawHeading(columns, headingFont);
            }
            drawRow(columns, row, height);
        }
    }

private:
    static QFont cellFont(const Column& column) {
        return reportFont(kSmall, column.isBold ? QFont::Bold : QFont::Normal);
    }

    static double rowHeight(const std::vector<Column>& columns, const QStringList& row) {
        double height = kRow;
        for (std::size_t i = 0; i < columns.size(); ++i) {
            const QFontMetricsF metrics(cellFont(columns[i]));
            const QRectF bounds = metrics.boundingRect(QRectF(0, 0, columns[i].width * kUnit - 6 * kUnit, 1e6),
                                                       Qt::TextWordWrap, row[static_cast<qsizetype>(i)]);
            height = std::max(height, bounds.height() + 5 * kUnit);
        }
        return height;
    }

    void drawHeading(const std::vector<Column>& columns, const QFont& font) {
        double height = kRow;
        for (const Column& column : columns) {
            const QRectF bounds = QFontMetricsF(font).boundingRect(QRectF(0, 0, (column.width - 6) * kUnit, 1e6),
                                                                   Qt::TextWordWrap, column.heading);
            height = std::max(height, bounds.height() + 5 * kUnit);
        }
        cells(
            columns, height, [&columns](std::size_t i) { return columns[i].heading; },
            [font](std::size_t) { return font; }, lightTheme().mute, Qt::AlignBottom);
        rule(1.2, lightTheme().mute);
    }

    void drawRow(const std::vector<Column>& columns, const QStringList& row, double height) {
        cells(
            columns, height, [&row](std::size_t i) { return row[static_cast<qsizetype>(i)]; },
            [&columns](std::size_t i) { return cellFont(columns[i]); }, lightTheme().ink, Qt::AlignVCenter);
        rule(0.5, lightTheme().line);
    }

    template<class TextOf, class FontOf>
    void cells(const std::vector<Column>& columns, double height, TextOf textOf, FontOf fontOf, const QColor& colour,
               Qt::Alignment vertical) {
        double x = left();
        for (std::size_t i = 0; i < columns.size(); ++i) {
            const double w = columns[i].width * kUnit;
            const QRectF area(x + 3 * kUnit, m_y, w - 6 * kUnit, height - 1.5 * kUnit);
            const auto flags = (columns[i].isNumber ? Qt::AlignRight : Qt::AlignLeft) | vertical;
            add([=, what = textOf(i), font = fontOf(i)](QPainter& painter) {
                painter.setFont(font);
                painter.setPen(colour);
                painter.drawText(area, static_cast<int>(flags) | Qt::TextWordWrap, what);
            });
            x += w;
        }
        m_tableWidth = x - left();
        m_y += height;
    }

    void rule(double points, const QColor& colour) {
        const QLineF at(left(), m_y, left() + m_tableWidth, m_y);
        add([=](QPainter& painter) {
            painter.setPen(QPen(colour, points * kUnit / 2));
            painter.drawLine(at);
        });
    }

    std::vector<std::vector<Draw>> m_pages;
    double m_y = 0;
    double m_tableWidth = 0;
};

QString number(const std::optional<double>& value, int figures) {
    return value ? shown(formatFigures(*value, figures)) : QStringLiteral("–");
}

QString percent(const std::optional<double>& value, bool isSigned = false) {
    if (!value) {
        return QStringLiteral("–");
    }
    return shown((isSigned && *value > 0 ? "+" : "") + formatPercent(*value));
}

/// Everything the blocks look at.
struct Content {
    const Batch& batch;
    const Evaluation& whole;
    const AnalyteEvaluation& evaluation; ///< of the analyte the blocks are about
    const std::vector<HistoryLine>& history;
    std::int64_t printedMillis;
    QString unit;
};

/// Readings that responses come from, each once, in the order of the analytes.
std::vector<const Reading*> readingsOf(const Batch& batch) {
    std::vector<const Reading*> out;
    for (int analyte = 1; analyte <= static_cast<int>(batch.method.analytes.size()); ++analyte) {
        const Reading* reading = batch.reading(analyte);
        if (reading != nullptr && std::find(out.begin(), out.end(), reading) == out.end()) {
            out.push_back(reading);
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
        parts << QStringLiteral("reading %1, imported %2").arg(text(reading->source), timeText(reading->takenInMillis));
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
        const QString owner = hasSeveral ? text(analyteOf(c.batch, analyte).name) + QStringLiteral(": ") : QString();
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
        lines << QStringLiteral("Blank %1 (n = %2%3) subtracted from every reading.")
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
        lines << QStringLiteral("Intervals: %1 %, by %2 of the readings' scatter, the curve%3.")
                     .arg(shown(formatNumber(100 * c.batch.method.confidence)),
                          text(intervalTitle(readOffOptions(c.batch, c.evaluation).interval)),
                          c.batch.method.blankEntersInterval && c.evaluation.blank.se ? QStringLiteral(" and the blank")
                                                                                      : QString());
        for (const std::string& warning : fit.warnings) {
            lines << text(warning);
        }
    } else {
        lines << text(fit.message);
    }
    for (const QString& line : lines) {
        pages.paragraph(line, reportFont(kText), lightTheme().ink);
        pages.space(2.5);
    }
}

void addFigure(Pages& pages, const Content& c) {
    const double height = 190 * kUnit;
    pages.space(8);
    pages.need(height + 8 * kUnit);
    const QRectF area(pages.left(), pages.y(), pages.width(), height);
    // Copies, so that a page can be painted when batch and evaluation are gone.
    pages.add([area, batch = c.batch, evaluation = c.evaluation](QPainter& painter) {
        FigureOptions options;
        options.textPixels = kSmall;
        options.lineWidth = 1.4 * kUnit;
        options.pointRadius = 2.9 * kUnit;
        drawCalibration(painter, area, batch, evaluation, lightTheme(), options);
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
    std::vector<QStringList> rows;
    for (const StandardValue& s : c.evaluation.standards) {
        QString note;
        if (const auto found = c.batch.exclusions.find(s.place); found != c.batch.exclusions.end()) {
            note = QStringLiteral("excluded: ") + text(found->second.reason);
        }
        rows.push_back({QStringLiteral("S%1").arg(s.level), text(wellName(s.place)), number(s.x, 4), number(s.y, 4),
                        number(s.normalisedWeight, 3), number(s.backCalculated, 4), percent(s.errorPercent, true),
                        note});
    }
    pages.table({{QStringLiteral("Level"), 36, false, true},
                 {QStringLiteral("Well"), 36, false},
                 {QStringLiteral("Nominal, ") + c.unit, 68},
                 {QStringLiteral("Response"), 62},
                 {QStringLiteral("Weight"), 54},
                 {QStringLiteral("Back-calculated, ") + c.unit, 84},
                 {QStringLiteral("Error"), 54},
                 {QStringLiteral("Note"), 105, false}},
                rows);
}

QStringList resultRow(const Content& c, const SampleResult& r) {
    return {text(shortName(c.batch, r.group)),
            text(fullName(c.batch, r.group)),
            number(r.response.mean, 4),
            r.readOff.x ? shown(concentrationText(r.readOff)) : QStringLiteral("–"),
            r.concentration.cvPercent ? shown(formatDecimals(*r.concentration.cvPercent, 1)) : QStringLiteral("–"),
            QStringLiteral("× ") + shown(formatNumber(r.dilution)),
            shown(resultText(r, c.evaluation.range)),
            r.result ? shown(intervalText(*r.result, r.low, r.high)) : QString(),
            text(statusWord(r))};
}

void addQc(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const SampleResult& r : c.evaluation.results) {
        if (r.group.role != Role::Qc) {
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

void addResults(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const SampleResult& r : c.evaluation.results) {
        if (r.group.role == Role::Unknown) {
            rows.push_back(resultRow(c, r));
        }
    }
    if (rows.empty()) {
        return;
    }
    pages.title(QStringLiteral("Results, by sample"), 4 * kRow);
    pages.table({{QStringLiteral("Place"), 36, false, true},
                 {QStringLiteral("Sample"), 116, false},
                 {QStringLiteral("Response"), 48},
                 {QStringLiteral("Read off, ") + c.unit, 44},
                 {QStringLiteral("CV, %"), 34},
                 {QStringLiteral("Dilution"), 42},
                 {QStringLiteral("Result, ") + c.unit, 76, true, true},
                 {shown(formatNumber(100 * c.batch.method.confidence)) + QStringLiteral(" % interval"), 66},
                 {QStringLiteral("Status"), 37, false}},
                rows);
    QStringList remarks;
    for (const SampleResult& r : c.evaluation.results) {
        if (r.group.role == Role::Unknown && !r.remark.empty()) {
            remarks << text(shortName(c.batch, r.group)) + QStringLiteral(": ") + shown(r.remark);
        }
    }
    if (!remarks.isEmpty()) {
        pages.space(4);
        pages.paragraph(remarks.join(QStringLiteral("  ")), reportFont(kSmall), lightTheme().mute);
    }
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
    pages.title(QStringLiteral("History of exclusions and overrides"), 3 * kRow);
    std::vector<QStringList> rows;
    for (const HistoryLine& line : c.history) {
        if (line.subject != Subject::Edit) {
            const QString prefix = line.kind == EventKind::Undone   ? QStringLiteral("Undone: ")
                                   : line.kind == EventKind::Redone ? QStringLiteral("Redone: ")
                                                                    : QString();
            rows.push_back({timeText(line.timeMillis), prefix + text(line.label), text(line.reason)});
        }
    }
    if (rows.empty()) {
        pages.paragraph(QStringLiteral("Nothing was excluded or overridden."), reportFont(kText), lightTheme().ink);
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

using AddBlock = void (*)(Pages&, const Content&);
struct BlockEntry {
    ReportBlock block;
    AddBlock add;
    bool isOfAnalyte = true; ///< once for each analyte, else once
    bool isListed = true;    ///< has a switch of its own; else it goes with the block of the same key
};

const std::vector<BlockEntry>& blockEntries() {
    static const std::vector<BlockEntry> entries{
        {{"heading", "Heading"}, addHeading, false},
        {{"method", "Method and curve"}, addMethod},
        {{"figure", "Calibration figure"}, addFigure},
        {{"parameters", "Parameters"}, addParameters},
        {{"standards", "Standards, back-calculated"}, addStandards},
        {{"qc", "QC"}, addQc},
        {{"results", "Results, by sample"}, addResults},
        {{"checks", "Checks and verdict"}, addChecks},
        {{"checks", "Checks of the batch"}, addBatchChecks, false, false},
        {{"history", "History of exclusions and overrides"}, addHistory, false},
        {{"signatures", "Signature lines"}, addSignatures, false},
    };
    return entries;
}

void drawFooter(QPainter& painter, const QString& left, int page, int pages) {
    const QRectF area(kMargin, kPageHeight - kBottom + 16 * kUnit, kPageWidth - 2 * kMargin, 14 * kUnit);
    painter.setPen(QPen(lightTheme().line, 0.5 * kUnit));
    painter.drawLine(area.topLeft() - QPointF(0, 4 * kUnit), area.topRight() - QPointF(0, 4 * kUnit));
    painter.setFont(reportFont(kSmall));
    painter.setPen(lightTheme().mute);
    painter.drawText(area, Qt::AlignLeft | Qt::AlignVCenter, left);
    painter.drawText(area, Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("%1 of %2").arg(page + 1).arg(pages));
}

} // namespace

const std::vector<ReportBlock>& reportBlocks() {
    static const std::vector<ReportBlock> blocks = [] {
        std::vector<ReportBlock> out;
        for (const BlockEntry& entry : blockEntries()) {
            if (entry.isListed) {
                out.push_back(entry.block);
            }
        }
        return out;
    }();
    return blocks;
}

bool hasBlock(const Method& method, const std::string& key) {
    return key == "heading" || method.reportBlocks.empty() ||
           std::find(method.reportBlocks.begin(), method.reportBlocks.end(), key) != method.reportBlocks.end();
}

Method withBlock(Method method, const std::string& key, bool isOn) {
    std::vector<std::string> on;
    bool isAll = true;
    for (const ReportBlock& block : reportBlocks()) {
        const bool stays = block.key == "heading" || (block.key == key ? isOn : hasBlock(method, block.key));
        isAll = isAll && stays;
        if (stays) {
            on.push_back(block.key);
        }
    }
    method.reportBlocks = isAll ? std::vector<std::string>{} : on;
    return method;
}

struct Report::Page {
    std::vector<Draw> draws;
};

Report::Report(const Batch& batch, const Evaluation& evaluation, const std::vector<HistoryLine>& history,
               std::int64_t printedMillis) {
    loadFonts();
    const auto contentOf = [&](const AnalyteEvaluation& analyte) {
        return Content{batch, evaluation, analyte, history, printedMillis, text(analyteOf(batch, analyte).unit)};
    };
    Pages pages;
    const auto& entries = blockEntries();
    for (std::size_t i = 0; i < entries.size(); ++i) {
        if (!entries[i].isOfAnalyte) {
            if (hasBlock(batch.method, entries[i].block.key)) {
                entries[i].add(pages, contentOf(evaluation.analytes.front()));
            }
            continue;
        }
        // The run of blocks that every analyte has, analyte by analyte.
        const auto end = std::find_if(entries.begin() + static_cast<std::ptrdiff_t>(i), entries.end(),
                                      [](const BlockEntry& e) { return !e.isOfAnalyte; });
        const auto last = static_cast<std::size_t>(end - entries.begin());
        for (const AnalyteEvaluation& analyte : evaluation.analytes) {
            if (evaluation.analytes.size() > 1) {
                pages.title(text(analyteOf(batch, analyte).name), 6 * kRow);
            }
            for (std::size_t k = i; k < last; ++k) {
                if (hasBlock(batch.method, entries[k].block.key)) {
                    entries[k].add(pages, contentOf(analyte));
                }
            }
        }
        i = last - 1;
    }
    auto laidOut = pages.take();
    const QString footer = QStringLiteral("Nuvat · %1 · batch %2 · printed %3")
                               .arg(text(batch.info.title), text(batch.info.uid), timeText(printedMillis));
    const int count = static_cast<int>(laidOut.size());
    for (int i = 0; i < count; ++i) {
        auto& draws = laidOut[static_cast<std::size_t>(i)];
        draws.emplace_back([=](QPainter& painter) { drawFooter(painter, footer, i, count); });
        m_pages.push_back({std::move(draws)});
    }
}

Report::~Report() = default;
Report::Report(Report&&) noexcept = default;
Report& Report::operator=(Report&&) noexcept = default;
int Report::pageCount() const {
    return static_cast<int>(m_pages.size());
}
QSizeF Report::pageSize() {
    return {kPageWidth / kUnit, kPageHeight / kUnit};
}

void Report::paint(QPainter& painter, int page, const QRectF& target) const {
    painter.save();
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::TextAntialiasing);
    painter.translate(target.topLeft());
    painter.scale(target.width() / kPageWidth, target.height() / kPageHeight);
    for (const Draw& draw : m_pages.at(static_cast<std::size_t>(page)).draws) {
        painter.save();
        draw(painter);
        painter.restore();
    }
    painter.restore();
}

Result<void> Report::writePdf(const std::filesystem::path& path, const QString& title) const {
    QSaveFile file(QString::fromStdString(path.string()));
    const auto cannot = [&] {
        return fail("report.cannot-write",
                    path.string() + " cannot be written (" + file.errorString().toStdString() + ").",
                    "Check that the disk has room and that you may write there, or choose another place.");
    };
    if (!file.open(QIODevice::WriteOnly)) {
        return cannot();
    }
    {
        QPdfWriter writer(&file);
        writer.setTitle(title);
        writer.setCreator(QStringLiteral("Nuvat"));
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageMargins(QMarginsF(0, 0, 0, 0));
        writer.setResolution(288);
        QPainter painter(&writer);
        if (!painter.isActive()) {
            return cannot();
        }
        for (int page = 0; page < pageCount(); ++page) {
            if (page > 0) {
                writer.newPage();
            }
            paint(painter, page, QRectF(0, 0, writer.width(), writer.height()));
        }
    }
    if (!file.commit()) {
        return cannot();
    }
    return {};
}

Result<void> writeReportPdf(const Document& document, const std::filesystem::path& path, std::int64_t printedMillis) {
    std::unique_ptr<QGuiApplication> application;
    if (QCoreApplication::instance() == nullptr) {
        qputenv("QT_QPA_PLATFORM", "offscreen");
        static int argc = 1;
        static char name[] = "nuvat";
        static char* argv[] = {name, nullptr};
        application = std::make_unique<QGuiApplication>(argc, argv);
    }
    const Evaluation evaluation = evaluate(document.batch());
    const Report report(document.batch(), evaluation, document.history(), printedMillis);
    return report.writePdf(path, text(document.batch().info.title));
}

QString reportFileName(const Batch& batch, std::int64_t millis, const QString& ending) {
    QString name;
    for (const QChar c : text(batch.info.title).toLower()) {
        if (c.isLetterOrNumber()) {
            name += c;
        } else if (!name.isEmpty() && !name.endsWith(u'-')) {
            name += u'-';
        }
    }
    while (name.endsWith(u'-')) {
        name.chop(1);
    }
    return QDateTime::fromMSecsSinceEpoch(millis).toString(QStringLiteral("yyyy-MM-dd")) + QStringLiteral("_") +
           (name.isEmpty() ? QStringLiteral("batch") : name) + ending;
}

} // namespace nuvat
