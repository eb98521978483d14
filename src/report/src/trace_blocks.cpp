// Blocks of the report that show traces.
#include "trace_blocks.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "nuvat/report/trace_figure.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

constexpr int kAcross = 5;
constexpr double kGap = 6 * kUnit;
constexpr double kHeight = 74 * kUnit;
constexpr std::size_t kMostRuns = 200; ///< more would fill the report; the batch file has them all

QString runTitle(const Batch& batch, Place place) {
    const Assignment group = batch.at(place);
    const auto run = batch.runs.find(place);
    if (group.role == Role::Standard) {
        return text(shortName(batch, group));
    }
    const std::string full = group.role == Role::Empty ? std::string() : fullName(batch, group);
    return text(!full.empty()                                         ? full
                : run == batch.runs.end() || run->second.name.empty() ? placeName(batch, place)
                                                                      : run->second.name);
}

/// The stretch that is shown of every run: two widths of the window on each side of it, or the stretch of a band.
std::optional<Stretch> stretchOf(const ResponseRule& rule) {
    if (const auto* peak = std::get_if<PeakRule>(&rule)) {
        return Stretch{peak->expected - 4 * halfWindow(*peak), peak->expected + 4 * halfWindow(*peak)};
    }
    if (const auto* band = std::get_if<BandRule>(&rule)) {
        const double width = std::max(std::abs(band->to - band->from), std::abs(band->from) * 0.05);
        return Stretch{std::min(band->from, band->to) - width, std::max(band->from, band->to) + width};
    }
    return std::nullopt;
}

struct SmallTrace {
    Payload payload; ///< read when it is drawn: a report of hundreds of runs is laid out to be counted, more often
    std::shared_ptr<const MeasuredTrace> measured;
    Place place;
    QString title, value;
    std::optional<Peak> peak;
};

std::vector<SmallTrace> tracesOf(const Content& c, const std::string& channel) {
    std::vector<SmallTrace> out;
    for (const auto& [slot, measured] : c.whole.traces) {
        const Reading* reading = slot.channel == channel ? c.batch.reading(slot) : nullptr;
        if (!reading || !measured->problem.empty() || out.size() >= kMostRuns) {
            continue;
        }
        const Response& response = c.evaluation.at(*slot.place);
        const auto peak = c.evaluation.peaks.find(*slot.place);
        out.push_back({reading->payload, measured, *slot.place, runTitle(c.batch, *slot.place),
                       response.raw                                ? shown(formatFigures(*response.raw, 3))
                       : response.state == ResponseState::NotFound ? QStringLiteral("not found")
                                                                   : QStringLiteral("–"),
                       peak == c.evaluation.peaks.end() ? std::nullopt : std::optional(peak->second)});
    }
    return out;
}

void drawSmall(QPainter& painter, const QRectF& area, const SmallTrace& one, const Stretch& x, Role role) {
    const Theme& t = lightTheme();
    const QRectF head(area.left(), area.top(), area.width(), 11 * kUnit);
    if (role != Role::Empty) {
        drawRoleShape(painter, QPointF(head.left() + 3 * kUnit, head.center().y()), 2.2 * kUnit, role, t.role(role));
    }
    painter.setFont(reportFont(kSmall - kUnit, QFont::Bold));
    painter.setPen(t.ink);
    const double valueWidth = QFontMetricsF(painter.font()).horizontalAdvance(one.value) + 2 * kUnit;
    const QRectF name = head.adjusted(8 * kUnit, 0, -valueWidth, 0);
    painter.drawText(name, Qt::AlignLeft | Qt::AlignVCenter,
                     QFontMetricsF(painter.font()).elidedText(one.title, Qt::ElideRight, name.width()));
    painter.setPen(t.mute);
    painter.drawText(head, Qt::AlignRight | Qt::AlignVCenter, one.value);
    const auto trace = one.payload.trace();
    if (!trace) {
        painter.drawText(area.adjusted(0, 13 * kUnit, 0, 0), Qt::AlignLeft | Qt::TextWordWrap,
                         QStringLiteral("It cannot be read from the batch file."));
        return;
    }
    const double sign = one.measured->rules.signal.isCathodicPositive ? -1 : 1;
    const auto y = rangeOfY(*trace, x.from, x.to, sign).value_or(std::pair(0.0, 1.0));
    const double span = y.second > y.first ? y.second - y.first : 1;
    const TraceAxes axes{area.adjusted(0, 13 * kUnit, 0, -10 * kUnit),
                         {x.from, x.to, y.first - 0.06 * span, y.second + 0.12 * span}};
    painter.setPen(QPen(t.line, 0.6 * kUnit));
    painter.drawLine(axes.plot.bottomLeft(), axes.plot.bottomRight());
    const TraceStroke line{t.plum, 0.8 * kUnit, sign, 0};
    if (one.peak) {
        drawPeak(painter, axes, *trace, one.measured->features.peaks, *one.peak, t.plumSoft, line);
    }
    drawTrace(painter, axes, *trace, {t.ink, 0.8 * kUnit, sign, 0});
    painter.setFont(reportFont(kSmall - 1.5 * kUnit));
    painter.setPen(t.mute);
    const QRectF numbers(axes.plot.left(), axes.plot.bottom(), axes.plot.width(), 9 * kUnit);
    painter.drawText(numbers, Qt::AlignLeft | Qt::AlignTop, tickText(x.from, 4));
    painter.drawText(numbers, Qt::AlignRight | Qt::AlignTop, tickText(x.to, 4) + u' ' + text(one.measured->xUnit));
}

} // namespace

void addTraces(Pages& pages, const Content& c) {
    const ResponseRule& rule = analyteOf(c.batch, c.evaluation).source.rule;
    const auto stretch = stretchOf(rule);
    const auto channels = c.batch.channelsOf(c.evaluation.analyte);
    const auto traces = stretch && !channels.empty() ? tracesOf(c, channels.front()) : std::vector<SmallTrace>{};
    if (traces.empty()) {
        return;
    }
    pages.title(QStringLiteral("Traces, %1").arg(text(channels.front())), kHeight);
    const double width = (pages.width() - (kAcross - 1) * kGap) / kAcross;
    for (std::size_t i = 0; i < traces.size(); i += kAcross) {
        pages.need(kHeight);
        const double y = pages.y();
        for (std::size_t j = i; j < std::min(i + kAcross, traces.size()); ++j) {
            const QRectF area(pages.left() + static_cast<double>(j - i) * (width + kGap), y, width,
                              kHeight - 6 * kUnit);
            const Role role = c.batch.at(traces[j].place).role;
            pages.add([area, one = traces[j], x = *stretch, role](QPainter& painter) {
                drawSmall(painter, area, one, x, role);
            });
        }
        pages.space(kHeight / kUnit);
    }
    if (traces.size() == kMostRuns) {
        pages.paragraph(QStringLiteral("The first %1 runs are shown; the batch file holds all.").arg(kMostRuns),
                        reportFont(kSmall), lightTheme().mute);
    }
}

void addPeakTable(Pages& pages, const Content& c) {
    std::vector<QStringList> rows;
    std::size_t runs = 0;
    for (const auto& [slot, measured] : c.whole.traces) {
        if (++runs > kMostRuns) {
            break;
        }
        const std::vector<int> takers = takersOf(c.batch, c.whole, slot);
        for (std::size_t i = 0; i < takers.size(); ++i) {
            const Peak& peak = measured->features.peaks[i];
            rows.push_back({i == 0 ? runTitle(c.batch, *slot.place) : QString(),
                            takers[i] == 0 ? QStringLiteral("not named") : text(c.batch.method.analyte(takers[i]).name),
                            number(peak.apex, 5), number(peak.start, 4), number(peak.end, 4), number(peak.height, 4),
                            number(peak.area, 4), number(peak.areaPercent, 3), number(peak.tailing5, 3),
                            number(peak.platesHalf, 4), number(peak.resolutionHalf, 3)});
        }
    }
    if (rows.empty()) {
        return;
    }
    pages.title(QStringLiteral("Peaks of every run"), 4 * kRow);
    pages.table({{QStringLiteral("Run"), 84, false, true},
                 {QStringLiteral("Peak"), 76, false},
                 {QStringLiteral("Apex"), 42},
                 {QStringLiteral("Start"), 40},
                 {QStringLiteral("End"), 40},
                 {QStringLiteral("Height"), 44},
                 {QStringLiteral("Area"), 44},
                 {QStringLiteral("%"), 34},
                 {QStringLiteral("Tailing"), 36},
                 {QStringLiteral("Plates"), 38},
                 {QStringLiteral("Resol."), 34}},
                rows);
}

} // namespace nuvat
