#include "addition_blocks.h"

#include "nuvat/core/base/number.h"
#include "pages.h"

#include <algorithm>
#include <memory>
#include <utility>

namespace nuvat {

namespace {

QString sampleName(const Content& c, int sample) {
    return text(fullName(c.batch, {Role::Unknown, sample}));
}

} // namespace

void addAdditionMethod(Pages& pages, const Content& c) {
    pages.title(QStringLiteral("Method and curve"), 4 * kRow);
    const auto& standard = analyteOf(c.batch, c.evaluation).source.additionStandard;
    QStringList lines;
    lines << QStringLiteral(
                 "Standard addition: a straight line for each sample through its own responses and those of its "
                 "additions, by least squares without weights.")
          << QStringLiteral("The content is where the line meets response 0; limits of %1 % by Fieller's theorem.")
                 .arg(shown(formatNumber(100 * c.batch.method.confidence)))
          << (standard ? QStringLiteral("Responses are corrected for the volume of the added solution of %1 %2.")
                             .arg(shown(formatNumber(*standard)), c.unit)
                       : QStringLiteral("The volume of a sample and of its additions is the same."));
    addSentences(pages, lines);
}

void addAdditionFigures(Pages& pages, const Content& c) {
    constexpr int kAcross = 2;
    const double height = 150 * kUnit, gap = 14 * kUnit;
    const double width = (pages.width() - (kAcross - 1) * gap) / kAcross;
    std::vector<int> samples;
    for (const AdditionLine& line : c.evaluation.additions) {
        if (line.line) {
            samples.push_back(line.sample);
        }
    }
    // One copy for all of them; a page can be painted when batch and evaluation are gone.
    const auto shared = std::make_shared<const std::pair<Batch, AnalyteEvaluation>>(c.batch, c.evaluation);
    for (std::size_t i = 0; i < samples.size(); i += kAcross) {
        pages.space(8);
        pages.need(height + 8 * kUnit);
        for (std::size_t j = i; j < std::min(i + kAcross, samples.size()); ++j) {
            const QRectF area(pages.left() + static_cast<double>(j - i) * (width + gap), pages.y(), width, height);
            pages.add([area, shared, sample = samples[j], title = sampleName(c, samples[j])](QPainter& painter) {
                painter.setFont(reportFont(kText, QFont::Bold));
                painter.setPen(lightTheme().ink);
                painter.drawText(area, Qt::AlignLeft | Qt::AlignTop, title);
                drawCurve(painter, area.adjusted(0, 14 * kUnit, 0, 0), shared->first,
                          withLineOf(shared->first, shared->second, sample));
            });
        }
        pages.space(height / kUnit);
    }
}

void addAdditionLines(Pages& pages, const Content& c) {
    pages.title(QStringLiteral("Lines"), 3 * kRow);
    std::vector<QStringList> rows;
    QStringList without;
    for (const AdditionLine& one : c.evaluation.additions) {
        if (!one.line) {
            without << sampleName(c, one.sample) + QStringLiteral(": ") + text(one.problem);
            continue;
        }
        const StandardAddition& line = *one.line;
        rows.push_back({sampleName(c, one.sample), QString::number(line.n),
                        number(line.a, 4) + QStringLiteral(" ± ") + number(line.seA, 2),
                        number(line.b, 4) + QStringLiteral(" ± ") + number(line.seB, 2),
                        shown(formatDecimals(line.rSquared, 5)), number(line.content, 4)});
    }
    pages.table({{QStringLiteral("Sample"), 120, false, true},
                 {QStringLiteral("n"), 40},
                 {QStringLiteral("Intercept a"), 100},
                 {QStringLiteral("Slope b"), 110},
                 {QStringLiteral("R²"), 55},
                 {QStringLiteral("a ÷ b, ") + c.unit, 74}},
                rows);
    addSentences(pages, without);
}

void addAdditionPoints(Pages& pages, const Content& c) {
    pages.title(QStringLiteral("Additions"), 4 * kRow);
    std::vector<QStringList> rows;
    for (const AdditionLine& line : c.evaluation.additions) {
        for (std::size_t i = 0; i < line.places.size(); ++i) {
            const double fitted = line.line ? line.line->a + line.line->b * line.added[i] : 0;
            rows.push_back({i == 0 ? sampleName(c, line.sample) : QString(), text(placeName(c.batch, line.places[i])),
                            number(line.added[i], 4), number(line.response[i], 4),
                            line.line ? number(fitted, 4) : QStringLiteral("–"),
                            line.line ? number(line.response[i] - fitted, 2) : QStringLiteral("–")});
        }
    }
    pages.table({{QStringLiteral("Sample"), 120, false, true},
                 {QStringLiteral("Place"), 76, false},
                 {QStringLiteral("Added, ") + c.unit, 76},
                 {QStringLiteral("Response"), 76},
                 {QStringLiteral("On the line"), 76},
                 {QStringLiteral("Residual"), 75}},
                rows);
}

} // namespace nuvat
