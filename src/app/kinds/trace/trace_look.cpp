#include "kinds/trace/trace_look.h"

#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "theme/style.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

TraceLook& TraceLook::of(Workspace& workspace) {
    auto* found = workspace.findChild<TraceLook*>(QString(), Qt::FindDirectChildrenOnly);
    return *(found ? found : new TraceLook(workspace));
}

TraceLook::TraceLook(Workspace& workspace) : QObject(&workspace), m_workspace(workspace) {
    connect(&workspace, &Workspace::opened, this, [this] {
        m_channel.clear();
        m_zoom.reset();
    });
}

const RunReview& TraceLook::review() const {
    if (!m_review || m_reviewedRevision != m_workspace.revision()) {
        m_review.reset();
        m_reviewed = m_workspace.snapshot();
        m_reviewedRevision = m_workspace.revision();
        m_review = std::make_unique<RunReview>(*m_reviewed.batch, *m_reviewed.evaluation);
    }
    return *m_review;
}

std::vector<std::string> TraceLook::channels() const {
    std::vector<std::string> out;
    for (const auto& [slot, key] : m_workspace.batch().inUse) {
        if (slot.carrier == m_workspace.carrierNumber() && slot.place &&
            std::ranges::find(out, slot.channel) == out.end()) {
            out.push_back(slot.channel);
        }
    }
    return out;
}

std::string TraceLook::channel() const {
    const auto all = channels();
    const auto isThere = [&](const std::string& one) { return std::ranges::find(all, one) != all.end(); };
    if (isThere(m_channel)) {
        return m_channel;
    }
    const auto own = m_workspace.batch().channelsOf(m_workspace.analyteNumber());
    return !own.empty() && isThere(own.front()) ? own.front() : all.empty() ? std::string() : all.front();
}

void TraceLook::showChannel(const std::string& channel) {
    m_channel = channel;
    m_zoom.reset();
    Q_EMIT changed();
}

void TraceLook::setZoom(std::optional<Stretch> zoom) {
    if (zoom != m_zoom) {
        m_zoom = zoom;
        Q_EMIT changed();
    }
}

Place TraceLook::run() const {
    const auto& places = m_workspace.selection().places;
    const auto found = std::ranges::find_if(places, [this](Place place) {
        return place.carrier == m_workspace.carrierNumber() && place.row < m_workspace.carrier().rows;
    });
    return found == places.end() ? Place{0, 0, m_workspace.carrierNumber()} : *found;
}

void TraceLook::stepRun(int by) {
    Place next = run();
    next.row = std::clamp(next.row + by, 0, m_workspace.carrier().rows - 1);
    m_workspace.select({next});
}

std::shared_ptr<const Trace> TraceLook::trace(Place place) const {
    const Reading* reading = m_workspace.batch().reading(slot(place));
    return reading ? reading->payload.trace() : nullptr;
}

std::shared_ptr<const MeasuredTrace> TraceLook::measured(Place place) const {
    const auto& traces = m_workspace.wholeEvaluation().traces;
    const auto found = traces.find(slot(place));
    return found == traces.end() ? nullptr : found->second;
}

std::vector<int> TraceLook::analytesOfPeaks(Place place) const {
    return takersOf(m_workspace.batch(), m_workspace.wholeEvaluation(), slot(place));
}

std::vector<PeakLabel> TraceLook::peakLabels(Place place) const {
    std::vector<PeakLabel> out;
    const auto found = measured(place);
    const auto analytes = analytesOfPeaks(place);
    for (std::size_t i = 0; i < analytes.size(); ++i) {
        if (analytes[i] > 0) {
            const bool isChosen = analytes[i] == m_workspace.analyteNumber();
            out.push_back({found->features.peaks[i].apex, text(m_workspace.batch().method.analyte(analytes[i]).name),
                           isChosen ? theme().plum : theme().slate, isChosen});
        }
    }
    return out;
}

std::optional<Stretch> TraceLook::expected() const {
    const auto* rule = std::get_if<PeakRule>(&m_workspace.analyte().source.rule);
    if (!rule || rule->channel != channel()) {
        return std::nullopt;
    }
    return m_workspace.evaluation().at(run()).window.value_or(
        Stretch{rule->expected - halfWindow(*rule), rule->expected + halfWindow(*rule)});
}

QString TraceLook::runName(Place place) const {
    const Batch& batch = m_workspace.batch();
    const Assignment group = batch.at(place);
    if (group.role == Role::Addition) {
        const auto added = batch.concentration(group.preparation, m_workspace.analyteNumber());
        const std::string& unit = m_workspace.analyte().unit;
        return added ? QStringLiteral("+ ") + shown(formatFigures(*added, 3) + (unit.empty() ? "" : " " + unit))
                     : tr("addition %1").arg(group.preparation);
    }
    const auto run = batch.runs.find(place);
    if (isOfSample(group.role) || hasNominal(group.role)) {
        const std::string full = fullName(batch, group);
        if (full != shortName(batch, group)) {
            return text(full);
        }
    }
    return run == batch.runs.end() || run->second.name.empty() ? tr("Run %1").arg(place.row + 1)
                                                               : text(run->second.name);
}

} // namespace nuvat
