#include "kinds/trace/trace_cards.h"

#include "kinds/trace/trace_look.h"
#include "nuvat/report/trace_figure.h"
#include "theme/style.h"

#include <algorithm>
#include <set>

namespace nuvat {

namespace {

/// Three runs, one above the other.
void drawSome(QPainter& painter, const QRectF& area, Workspace& workspace) {
    const TraceLook& look = TraceLook::of(workspace);
    const Theme& t = theme();
    const int rows = workspace.carrier().rows;
    constexpr int kShown = 3;
    const QColor colours[kShown] = {t.plum, t.slate, t.ink};
    for (int i = 0; i < std::min(kShown, rows); ++i) {
        const int row = rows <= kShown ? i : (i + 1) * rows / (kShown + 1);
        const auto trace = look.trace({row, 0, workspace.carrierNumber()});
        if (!trace || trace->size() < 2) {
            continue;
        }
        const double height = area.height() / kShown;
        double from = trace->xAt(0);
        for (const Stretch& ignored :
             look.rule().peaks.ignored) { // a solvent at the beginning would be all that is seen
            from = ignored.contains(from) ? ignored.to : from;
        }
        TraceWindow window = wholeWindow(*trace);
        window.xLow = from;
        if (const auto y = rangeOfY(*trace, from, window.xHigh, look.sign())) {
            const double span = std::max(y->second - y->first, 1e-300);
            window.yLow = y->first - 0.05 * span;
            window.yHigh = y->second + 0.05 * span;
        }
        const TraceAxes axes{QRectF(area.left(), area.top() + i * height, area.width(), height), window};
        drawTrace(painter, axes, *trace, {colours[i], 1.1, look.sign(), 0});
    }
}

/// The peak of the analyte in the run that is looked at, or in the first that has it.
void drawOwnPeak(QPainter& painter, const QRectF& area, Workspace& workspace) {
    const TraceLook& look = TraceLook::of(workspace);
    Place place = look.run();
    const auto hasPeak = [&](Place at) { return workspace.evaluation().at(at).stretch.has_value(); };
    for (int row = 0; row < workspace.carrier().rows && !hasPeak(place); ++row) {
        place.row = row;
    }
    const auto trace = look.trace(place);
    const auto stretch = workspace.evaluation().at(place).stretch;
    if (!trace || trace->size() < 2 || !stretch) {
        return drawSome(painter, area, workspace);
    }
    const double width = std::max(stretch->to - stretch->from, 1e-300);
    const Stretch x{stretch->from - width, stretch->to + width};
    const auto y = rangeOfY(*trace, x.from, x.to, look.sign()).value_or(std::pair(0.0, 1.0));
    const double span = std::max(y.second - y.first, 1e-300);
    const TraceAxes axes{area, {x.from, x.to, y.first - 0.05 * span, y.second + 0.08 * span}};
    const auto measured = look.measured(place);
    const auto position = workspace.evaluation().at(place).position;
    for (const Peak& peak : measured->features.peaks) {
        if (position && peak.apex == *position) {
            QColor fill = theme().plum;
            fill.setAlphaF(0.25F);
            drawPeak(painter, axes, *trace, measured->features.peaks, peak, fill, {theme().plum, 1.2, look.sign(), 0});
        }
    }
    drawTrace(painter, axes, *trace, {theme().ink, 1.3, look.sign(), 0});
}

} // namespace

bool drawTracePicture(ChainPage page, QPainter& painter, const QRectF& area, Workspace& workspace) {
    if (page == ChainPage::Data) {
        drawSome(painter, area, workspace);
    } else if (page == ChainPage::Response) {
        drawOwnPeak(painter, area, workspace);
    }
    return page == ChainPage::Data || page == ChainPage::Response;
}

QString traceSummary(ChainPage page, const Batch& batch, const Evaluation& whole, int analyte) {
    if (page == ChainPage::Data) {
        std::set<std::string> channels;
        std::set<Place> runs;
        for (const auto& [slot, key] : batch.inUse) {
            if (slot.place) {
                channels.insert(slot.channel);
                runs.insert(*slot.place);
            }
        }
        return QObject::tr("%1 runs · %2")
            .arg(runs.size())
            .arg(channels.size() == 1 ? QObject::tr("1 channel") : QObject::tr("%1 channels").arg(channels.size()));
    }
    if (page != ChainPage::Response) {
        return {};
    }
    const AnalyteEvaluation& evaluation = whole.analyte(analyte);
    const auto count = [&](ResponseState state) {
        return std::count_if(evaluation.responses.begin(), evaluation.responses.end(),
                             [&](const Response& one) { return one.state == state; });
    };
    const auto found = count(ResponseState::Used) + count(ResponseState::Excluded) + count(ResponseState::SetAside);
    const auto missing = count(ResponseState::NotFound) + count(ResponseState::Unusable);
    return missing > 0 ? QObject::tr("%1 found · %2 not found").arg(found).arg(missing)
                       : QObject::tr("found in %1 runs").arg(found);
}

} // namespace nuvat
