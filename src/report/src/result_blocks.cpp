#include "result_blocks.h"

#include "nuvat/batch/result_table.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"

#include <algorithm>

namespace nuvat {

namespace {

constexpr double kWidth = 499; // of a page, in points

/// What a column takes before all of them are brought to the width of the page.
double widthOf(const ResultColumn& column) {
    static const std::map<std::string, double> kWidths{
        {"place", 36}, {"sample", 116},  {"wells", 60},  {"response", 48}, {"read-off", 44},
        {"cv", 34},    {"dilution", 42}, {"result", 76}, {"interval", 66}, {"status", 44},
        {"class", 60}, {"note", 90},     {"remark", 110}};
    const auto found = kWidths.find(column.key);
    return found == kWidths.end() ? 52 : found->second;
}

std::vector<Column> pageColumns(const std::vector<ResultColumn>& columns) {
    double all = 0;
    for (const ResultColumn& column : columns) {
        all += widthOf(column);
    }
    std::vector<Column> out;
    for (const ResultColumn& column : columns) {
        out.push_back({text(column.title), widthOf(column) * kWidth / all, column.isNumber,
                       column.key == "place" || column.key == "result"});
    }
    return out;
}

void addRemarks(Pages& pages, const Content& c) {
    QStringList remarks;
    for (const SampleResult& r : c.evaluation.results) {
        if (!hasNominal(r.group.role) && !r.remark.empty()) {
            remarks << text(shortName(c.batch, r.group)) + QStringLiteral(": ") + shown(r.remark);
        }
    }
    if (!remarks.isEmpty()) {
        pages.space(4);
        pages.paragraph(remarks.join(QStringLiteral("  ")), reportFont(kSmall), lightTheme().mute);
    }
}

/// Whether the option of the block wants the sample.
bool isAsked(const Content& c, const SampleResult& r) {
    return c.option == "given" ? r.result.has_value() : c.option != "review" || r.needsReview || !r.result;
}

/// Says that samples are left out, so that nobody takes the table for the whole.
QString shareText(const Content& c, std::size_t shown) {
    const auto all =
        std::ranges::count_if(c.evaluation.results, [](const SampleResult& r) { return !hasNominal(r.group.role); });
    return (c.option == "given" ? QStringLiteral("%1 of %2 samples: those with a result.")
                                : QStringLiteral("%1 of %2 samples: those to look at, and those without a result."))
        .arg(shown)
        .arg(all);
}

} // namespace

void addResults(Pages& pages, const Content& c) {
    const auto columns = resultColumns(c.batch, c.evaluation);
    std::vector<QStringList> rows;
    for (const SampleResult& r : c.evaluation.results) {
        if (hasNominal(r.group.role) || !isAsked(c, r)) {
            continue;
        }
        QStringList row;
        for (const ResultColumn& column : columns) {
            row << shown(column.cell(r).text);
        }
        rows.push_back(row);
    }
    const bool isPart = !c.option.empty();
    if (columns.empty() || (rows.empty() && !isPart)) {
        return;
    }
    pages.title(QStringLiteral("Results, by sample"), 4 * kRow);
    if (isPart) {
        pages.paragraph(shareText(c, rows.size()), reportFont(kSmall), lightTheme().mute);
        pages.space(2);
    }
    if (rows.empty()) {
        return;
    }
    pages.table(pageColumns(columns), rows);
    QStringList together;
    for (const CombinedSample& sample : c.evaluation.combined) {
        together << shown(combinedText(c.batch, c.evaluation, sample));
    }
    if (!together.isEmpty()) {
        pages.title(QStringLiteral("Dilutions taken together"), 2 * kRow);
        addSentences(pages, together);
    }
    addRemarks(pages, c);
}

void addReplicates(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const SampleResult& r : c.evaluation.results) {
        for (const ReplicateResult& replicate : r.replicates) {
            const ReadOff& read = replicate.readOff;
            rows.push_back({text(shortName(c.batch, r.group)), text(fullName(c.batch, r.group)),
                            text(placeName(c.batch, replicate.place)), number(replicate.response, 4),
                            read.x ? shown(concentrationText(read)) : QStringLiteral("–"),
                            read.x ? number(*read.x * r.factor(), 4) : QStringLiteral("–"),
                            replicate.state == ResponseState::Used ? QString() : QStringLiteral("not used")});
        }
    }
    if (rows.empty()) {
        return;
    }
    pages.title(QStringLiteral("Results, by replicate"), 4 * kRow);
    pages.table({{QStringLiteral("Place"), 50, false, true},
                 {QStringLiteral("Sample"), 140, false},
                 {QStringLiteral("Well"), 69, false},
                 {QStringLiteral("Response"), 60},
                 {QStringLiteral("Read off, ") + c.unit, 60},
                 {QStringLiteral("Times dilution"), 60},
                 {QStringLiteral("Remark"), 60, false}},
                rows);
}

void addDecisions(Pages& pages, const Content& c) {
    const DecisionRule& rule = analyteOf(c.batch, c.evaluation).decisions;
    if (rule.limits.empty() || c.evaluation.decisions.empty()) {
        return;
    }
    pages.title(QStringLiteral("Decisions"), 4 * kRow);
    const auto counts = countClasses(rule, c.evaluation.decisions);
    std::vector<QStringList> rows;
    for (std::size_t i = 0; i <= rule.limits.size(); ++i) {
        const QString from =
            i == 0 ? QStringLiteral("up to %1").arg(shown(formatNumber(rule.limits[0])))
            : i == rule.limits.size()
                ? QStringLiteral("above %1").arg(shown(formatNumber(rule.limits.back())))
                : QStringLiteral("above %1 up to %2")
                      .arg(shown(formatNumber(rule.limits[i - 1])), shown(formatNumber(rule.limits[i])));
        rows.push_back({text(className(rule, i)), from, QString::number(counts[i])});
    }
    rows.push_back(
        {QStringLiteral("not decided"), QStringLiteral("the interval holds a limit"), QString::number(counts.back())});
    pages.table({{QStringLiteral("Class"), 140, false, true},
                 {QStringLiteral("Limits, ") + c.unit, 160, false},
                 {QStringLiteral("Samples"), 60}},
                rows);
    QStringList open;
    for (const SampleDecision& one : c.evaluation.decisions) {
        if (!one.isDecided()) {
            open << text(fullName(c.batch, {Role::Unknown, one.sample})) + QStringLiteral(" ") +
                        shown(decisionText(rule, one));
        }
    }
    if (!open.isEmpty()) {
        pages.space(4);
        pages.paragraph(QStringLiteral("Not decided: ") + open.join(QStringLiteral(", ")) + QStringLiteral("."),
                        reportFont(kSmall), lightTheme().mute);
    }
}

void addNotes(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    for (const auto& [number, sample] : c.batch.samples) {
        if (!sample.note.empty()) {
            rows.push_back({text(fullName(c.batch, {Role::Unknown, number})), text(sample.note)});
        }
    }
    if (rows.empty() && c.batch.info.note.empty()) {
        return;
    }
    pages.title(QStringLiteral("Notes"), 3 * kRow);
    if (!c.batch.info.note.empty()) {
        pages.paragraph(text(c.batch.info.note), reportFont(kText), lightTheme().ink);
        pages.space(4);
    }
    if (!rows.empty()) {
        pages.table({{QStringLiteral("Sample"), 160, false, true}, {QStringLiteral("Note"), 339, false}}, rows);
    }
}

} // namespace nuvat
