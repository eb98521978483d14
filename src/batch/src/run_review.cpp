#include "nuvat/batch/run_review.h"

#include "command_parts.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "peak_figures.h"

#include <algorithm>
#include <array>

namespace nuvat {

namespace {

constexpr std::array kQuantities{
    RunQuantityInfo{RunQuantity::Concentration, "concentration", "Concentration"},
    RunQuantityInfo{RunQuantity::Response, "response", "Response"},
    RunQuantityInfo{RunQuantity::Time, "time", "Time"},
    RunQuantityInfo{RunQuantity::Shift, "shift", "Shift of the time"},
    RunQuantityInfo{RunQuantity::Height, "height", "Height"},
    RunQuantityInfo{RunQuantity::Area, "area", "Area"},
    RunQuantityInfo{RunQuantity::Width, "width", "Width at half height"},
    RunQuantityInfo{RunQuantity::Tailing, "tailing", "Tailing"},
    RunQuantityInfo{RunQuantity::Resolution, "resolution", "Resolution"},
    RunQuantityInfo{RunQuantity::SignalToNoise, "signal-to-noise", "Signal to noise"},
    RunQuantityInfo{RunQuantity::Ratio, "ratio", "Ratio of the qualifier, %"},
    RunQuantityInfo{RunQuantity::Internal, "internal-standard", "Internal standard, %"},
};

OverrideKey keyOf(int analyte, Place place) {
    return {analyte, "look-" + std::to_string(place.carrier) + "-" + std::to_string(place.row) + "-" +
                         std::to_string(place.column)};
}

/// What is kept beside an acceptance: it no longer holds when this changes. Digits are left out, so that an edit that
/// moves a figure a little does not ask again.
std::string stamp(const std::vector<std::string>& reasons) {
    std::string out;
    for (const std::string& reason : reasons) {
        for (const char c : reason) {
            if ((c < '0' || c > '9') && c != '.' && c != '-') {
                out += c;
            }
        }
        out += ';';
    }
    return out;
}

std::string remarkWords(PeakRemark remark) {
    switch (remark) {
    case PeakRemark::CutByEnd:
        return "The trace ends before the peak does.";
    case PeakRemark::Saturated:
        return "The peak has a flat top: the detector was saturated.";
    case PeakRemark::TouchesIgnored:
        return "The peak touches a stretch that is ignored.";
    case PeakRemark::NoApex:
        return "The peak has no apex of its own between start and end.";
    }
    return {};
}

void addPeakReasons(const AnalyteEvaluation& evaluation, Place place, std::vector<std::string>& out) {
    const Response& response = evaluation.at(place);
    if (response.isNearEdge && response.window && response.position) {
        out.push_back("The peak at " + formatFigures(*response.position, 4) + " lies near the edge of its window, " +
                      formatFigures(response.window->from, 4) + " to " + formatFigures(response.window->to, 4) + ".");
    }
    if (const auto peak = evaluation.peaks.find(place); peak != evaluation.peaks.end()) {
        for (const PeakRemark remark : peak->second.remarks) {
            out.push_back(remarkWords(remark));
        }
    }
}

void addRatioReasons(const Analyte& analyte, const AnalyteEvaluation& evaluation, Place place,
                     std::vector<std::string>& out) {
    for (std::size_t i = 0; i < evaluation.qualifiers.size(); ++i) {
        const QualifierValue& qualifier = evaluation.qualifiers[i];
        const auto ratio = qualifier.ratios.find(place);
        if (ratio != qualifier.ratios.end() && !ratio->second.isWithin && qualifier.window) {
            out.push_back("Ratio of qualifier " + analyte.qualifiers[i].channel + " is " +
                          formatPercent(ratio->second.percent) + ", expected " +
                          formatFigures(qualifier.window->low, 3) + " to " + formatFigures(qualifier.window->high, 3) +
                          " %.");
        }
    }
}

void addInternalReason(const Method& method, const AnalyteEvaluation& evaluation, Place place,
                       std::vector<std::string>& out) {
    const auto percent = internalPercent(evaluation, place);
    const bool isJudged = internalOf(method, evaluation.analyte) != 0 && method.limits.internalHigh;
    if (percent && isJudged &&
        (*percent < method.limits.internalLow.value_or(0) || *percent > *method.limits.internalHigh)) {
        out.push_back("Internal standard is " + formatPercent(*percent) + " of the median.");
    }
}

std::optional<double> readOffAt(const AnalyteEvaluation& evaluation, Place place) {
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.place == place) {
            return standard.backCalculated;
        }
    }
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (replicate.place == place) {
                return replicate.readOff.x;
            }
        }
    }
    return std::nullopt;
}

std::optional<double> expectedOf(const Response& response) {
    return response.window ? std::optional((response.window->from + response.window->to) / 2) : std::nullopt;
}

} // namespace

std::span<const RunQuantityInfo> runQuantities() {
    return kQuantities;
}

RunReview::RunReview(const Batch& batch, const Evaluation& evaluation) : m_batch(batch), m_evaluation(evaluation) {
    for (const auto& [place, group] : batch.places) {
        const auto carrier = batch.carriers.find(place.carrier);
        const bool isRun = carrier != batch.carriers.end() && carrier->second.kind == CarrierKind::RunList;
        if (isRun && group.role != Role::Empty) {
            m_runs.push_back(place);
        }
    }
    for (int analyte = 1; analyte <= analytes(); ++analyte) {
        const auto* rule = std::get_if<PeakRule>(&batch.method.analyte(analyte).source.rule);
        m_blanks.push_back(rule ? blankTrace(batch, rule->channel) : nullptr);
        for (const Place place : m_runs) {
            if (auto reasons = reasonsOf(analyte, place); !reasons.empty()) {
                m_reasons.emplace(std::pair(analyte, place), std::move(reasons));
            }
        }
    }
}

std::vector<std::string> RunReview::reasonsOf(int analyte, Place place) const {
    const AnalyteEvaluation& evaluation = of(analyte, place);
    const Response& response = evaluation.at(place);
    const Role role = m_batch.at(place).role;
    std::vector<std::string> out;
    if (response.state == ResponseState::Excluded || response.state == ResponseState::NotRead) {
        return out;
    }
    // That nothing is found in a sample is an answer; of a standard, a QC and an internal standard it is asked.
    const bool isExpected = !isOfSample(role) || isInternalStandard(m_batch.method, analyte);
    if (response.state == ResponseState::NotFound && !isBlank(role) && isExpected) {
        out.push_back("There is " + response.why + ".");
    } else if (response.state == ResponseState::Unusable) {
        out.push_back("It has no response: " + response.why + ".");
    } else if (response.state == ResponseState::SetAside) {
        out.push_back(response.why);
    }
    if (!isBlank(role)) {
        addPeakReasons(evaluation, place, out);
        addRatioReasons(m_batch.method.analyte(analyte), evaluation, place, out);
    }
    if (role != Role::DoubleBlank) {
        addInternalReason(m_batch.method, evaluation, place, out);
    }
    return out;
}

std::optional<double> RunReview::value(RunQuantity quantity, int analyte, Place place) const {
    const AnalyteEvaluation& evaluation = of(analyte, place);
    const Response& response = evaluation.at(place);
    const auto found = evaluation.peaks.find(place);
    const Peak* peak = found == evaluation.peaks.end() ? nullptr : &found->second;
    const auto ofPeak = [&](auto figure) { return peak ? std::optional<double>(peak->*figure) : std::nullopt; };
    switch (quantity) {
    case RunQuantity::Concentration:
        return readOffAt(evaluation, place);
    case RunQuantity::Response:
        return response.raw;
    case RunQuantity::Time:
        return response.position;
    case RunQuantity::Shift: {
        const auto expected = expectedOf(response);
        return response.position && expected ? std::optional(*response.position - *expected) : std::nullopt;
    }
    case RunQuantity::Height:
        return ofPeak(&Peak::height);
    case RunQuantity::Area:
        return ofPeak(&Peak::area);
    case RunQuantity::Width:
        return peak ? peak->width50 : std::nullopt;
    case RunQuantity::Tailing:
        return peak ? peak->tailing5 : std::nullopt;
    case RunQuantity::Resolution:
        return peak ? peak->resolutionHalf : std::nullopt;
    case RunQuantity::SignalToNoise:
        return peak ? signalToNoise(*peak, m_blanks[static_cast<std::size_t>(analyte) - 1].get()) : std::nullopt;
    case RunQuantity::Ratio: {
        if (evaluation.qualifiers.empty()) {
            return std::nullopt;
        }
        const auto& ratios = evaluation.qualifiers.front().ratios;
        const auto ratio = ratios.find(place);
        return ratio == ratios.end() ? std::nullopt : std::optional(ratio->second.percent);
    }
    case RunQuantity::Internal:
        return internalPercent(evaluation, place);
    }
    return std::nullopt;
}

const std::vector<std::string>& RunReview::reasons(int analyte, Place place) const {
    static const std::vector<std::string> none;
    const auto found = m_reasons.find({analyte, place});
    return found == m_reasons.end() ? none : found->second;
}

bool RunReview::isAccepted(int analyte, Place place) const {
    const auto found = m_batch.overrides.find(keyOf(analyte, place));
    return found != m_batch.overrides.end() && found->second.limitText == stamp(reasons(analyte, place));
}

std::size_t RunReview::countToLookAt(int analyte) const {
    const auto first = m_reasons.lower_bound({analyte, Place{-1, -1, 0}});
    const auto end = m_reasons.lower_bound({analyte + 1, Place{-1, -1, 0}});
    return static_cast<std::size_t>(
        std::count_if(first, end, [&](const auto& one) { return !isAccepted(analyte, one.first.second); }));
}

std::optional<std::pair<int, Place>> RunReview::next(int analyte, std::optional<Place> place) const {
    std::vector<std::pair<int, Place>> open;
    for (const auto& [key, reasons] : m_reasons) {
        if (!isAccepted(key.first, key.second)) {
            open.push_back(key);
        }
    }
    if (open.empty()) {
        return std::nullopt;
    }
    const std::pair here{analyte, place.value_or(Place{-1, -1, 0})};
    const auto after = std::ranges::upper_bound(open, here);
    return after == open.end() ? open.front() : *after;
}

std::string runFailure(const Batch& batch, const Evaluation& evaluation, Place place) {
    const Role role = batch.at(place).role;
    if (role != Role::Standard && !hasNominal(role)) {
        return {};
    }
    const RunReview review(batch, evaluation);
    for (int analyte = 1; analyte <= review.analytes(); ++analyte) {
        if (review.asksForLook(analyte, place)) {
            return batch.method.analyte(analyte).name + ": " + review.reasons(analyte, place).front();
        }
        for (const CriterionResult& criterion : evaluation.at(analyte, place).criteria) {
            const bool isOfRun = std::ranges::find(criterion.places, place) != criterion.places.end();
            const bool isOfQc = criterion.key.starts_with("qc-") || criterion.key.starts_with("check-");
            if (isOfRun && isOfQc && criterion.outcome == Outcome::Fail && !criterion.isOverridden()) {
                return batch.method.analyte(analyte).name + ": " + criterion.title + " " + criterion.foundText + ", " +
                       criterion.limitText + ".";
            }
        }
    }
    return {};
}

Result<Command> acceptRun(const Batch& batch, const RunReview& review, int analyte, Place place,
                          const std::string& reason, std::int64_t timeMillis) {
    if (trimmed(reason).empty()) {
        return fail("override.reason", "Accepting it needs a reason.", "Type why it may stand.");
    }
    const auto& reasons = review.reasons(analyte, place);
    if (reasons.empty()) {
        return fail("review.nothing", "Nothing asks for a look at " + placeName(batch, place) + ".",
                    "Go to the next one to look at with the Space key.");
    }
    Command command;
    command.reason = std::string(trimmed(reason));
    command.label = batch.method.analyte(analyte).name + " of " + placeName(batch, place) + " accepted";
    const OverrideKey key = keyOf(analyte, place);
    add(command, key, findOptional<Override>(batch.overrides, key),
        std::optional(Override{command.reason, timeMillis, stamp(reasons)}));
    return command;
}

Result<Command> withdrawAcceptance(const Batch& batch, int analyte, Place place) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Command command;
    command.label =
        "Acceptance of " + batch.method.analyte(analyte).name + " of " + placeName(batch, place) + " withdrawn";
    const OverrideKey key = keyOf(analyte, place);
    add(command, key, findOptional<Override>(batch.overrides, key), std::optional<Override>());
    return command;
}

} // namespace nuvat
