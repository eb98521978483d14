// Commands about traces: runs that are taken in, how channels are looked at, what is drawn by hand.
#include "command_parts.h"
#include "nuvat/batch/validate.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// The run list that further runs go on, and how many it has that are in use.
struct ListTarget {
    int carrier = 0; ///< 0: a new one
    int runs = 0;
};

bool isUntouched(const Batch& batch) {
    return batch.carriers.size() == 1 && batch.readings.empty() && !isLaidOut(batch, batch.carriers.begin()->first);
}

/// The last list that holds traces; the first carrier of a batch in which nothing is.
ListTarget targetOf(const Batch& batch) {
    for (auto it = batch.carriers.rbegin(); it != batch.carriers.rend(); ++it) {
        const int number = it->first;
        if (it->second.kind == CarrierKind::RunList && batch.hasTraces(number)) {
            return {number, it->second.rows};
        }
    }
    return isUntouched(batch) ? ListTarget{batch.carriers.begin()->first, 0} : ListTarget{};
}

Result<void> makeRoom(const Batch& batch, ListTarget& target, int runs, Command& command) {
    const Carrier after{CarrierKind::RunList, "", target.runs + runs, 1};
    if (auto valid = validate(after); !valid) {
        return valid;
    }
    if (target.carrier != 0) {
        const Carrier& before = batch.carriers.at(target.carrier);
        Carrier grown = after;
        grown.name = before.name;
        add(command, CarrierKey{target.carrier}, std::optional(before), std::optional(grown));
        return {};
    }
    if (batch.carriers.size() >= kMostCarriers) {
        return fail("batch.carriers", "A batch has at most " + std::to_string(kMostCarriers) + " plates and run lists.",
                    "Split it into several batches.");
    }
    target.carrier = batch.carriers.rbegin()->first + 1;
    add(command, CarrierKey{target.carrier}, std::optional<Carrier>(), std::optional(after));
    return {};
}

std::string withoutEnding(const std::string& file) {
    const std::size_t dot = file.rfind('.');
    return dot == std::string::npos || dot == 0 ? file : file.substr(0, dot);
}

} // namespace

Result<Command> importRuns(const Batch& batch, const std::vector<ImportedRun>& runs, std::int64_t nowMillis) {
    const bool isEmpty =
        std::all_of(runs.begin(), runs.end(), [](const ImportedRun& run) { return run.channels.empty(); });
    if (runs.empty() || isEmpty) {
        return fail("batch.reading", "There is no trace to import.", "Choose files that hold traces.");
    }
    Command command;
    command.label =
        runs.size() == 1 ? "Imported " + runs.front().source : "Imported " + std::to_string(runs.size()) + " runs";
    ListTarget target = targetOf(batch);
    if (auto room = makeRoom(batch, target, static_cast<int>(runs.size()), command); !room) {
        return tl::unexpected(room.error());
    }
    int key = batch.readings.empty() ? 0 : batch.readings.rbegin()->first;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        const Place place{target.runs + static_cast<int>(i), 0, target.carrier};
        Run run;
        run.name = runs[i].name.empty() ? withoutEnding(runs[i].source) : runs[i].name;
        run.file = runs[i].source;
        add(command, place, std::optional<Run>(), std::optional(run));
        for (const auto& [channel, payload] : runs[i].channels) {
            const Slot slot{target.carrier, place, channel};
            Reading reading{runs[i].source, runs[i].checksum, runs[i].understood, nowMillis, slot, payload};
            add(command, ++key, std::optional<Reading>(), std::optional(reading));
            add(command, slot, std::optional<InUse>(), std::optional(InUse{key}));
        }
    }
    if (batch.readings.empty()) {
        BatchInfo info = batch.info;
        info.channel = runs.front().channels.empty() ? "" : runs.front().channels.front().first;
        add(command, WholeBatch{}, std::optional(batch.info), std::optional(info));
    }
    return command;
}

Result<Command> setSignal(const Batch& batch, const std::string& channel, const SignalRule& rule) {
    Method method = batch.method;
    method.signalRules[channel] = rule;
    return setMethod(batch, method, "How peaks of " + (channel.empty() ? "traces" : channel) + " are found");
}

namespace {

std::string givenWords(const Batch& batch, int analyte) {
    return analyte == 0 ? "Peak is of no analyte" : "Peak is " + batch.method.analyte(analyte).name;
}

} // namespace

Result<Command> drawOn(const Batch& batch, const std::vector<Slot>& traces, const HandEdit& edit) {
    const bool isPoint = edit.edit.kind == PeakEditKind::Remove || edit.edit.kind == PeakEditKind::Split ||
                         edit.edit.kind == PeakEditKind::Give;
    const bool hasExtent = isPoint || edit.edit.from < edit.edit.to;
    if (!hasExtent) {
        return fail("peaks.no-edit", "What was drawn begins and ends at the same place.", "Draw it again.");
    }
    if (edit.edit.owner < 0 || edit.edit.owner > static_cast<int>(batch.method.analytes.size())) {
        return fail("peaks.no-edit", "There is no such analyte.", "Choose one of the batch.");
    }
    Command command;
    const std::string what = edit.edit.kind == PeakEditKind::Bounds   ? "Peak start and end"
                             : edit.edit.kind == PeakEditKind::Line   ? "Baseline"
                             : edit.edit.kind == PeakEditKind::Add    ? "Peak added"
                             : edit.edit.kind == PeakEditKind::Remove ? "Peak taken away"
                             : edit.edit.kind == PeakEditKind::Split  ? "Peak split"
                             : edit.edit.kind == PeakEditKind::Give   ? givenWords(batch, edit.edit.owner)
                                                                      : "Peaks joined";
    for (const Slot& slot : traces) {
        if (batch.reading(slot) == nullptr) {
            return fail("batch.reading", "There is no trace of " + slot.channel + " there.",
                        "Choose one of the batch.");
        }
        const auto before = findOptional<HandEdits>(batch.handEdits, slot);
        HandEdits after = before.value_or(HandEdits{});
        // A peak that is dragged again and again is one decision, the last.
        const bool isRedrawn = !after.list.empty() && after.list.back().edit.kind == edit.edit.kind &&
                               (edit.edit.kind == PeakEditKind::Bounds || edit.edit.kind == PeakEditKind::Line) &&
                               after.list.back().edit.at == edit.edit.at;
        if (isRedrawn) {
            after.list.pop_back();
        }
        after.list.push_back(edit);
        add(command, slot, before, std::optional(after));
    }
    command.label = what + (traces.size() == 1 ? " by hand: " + placeTitle(batch, *traces.front().place)
                                               : " by hand on " + std::to_string(traces.size()) + " traces");
    command.reason = edit.reason;
    return command;
}

namespace {

/// Whether an analyte is still the one that a new batch begins with.
bool isUntouchedAnalyte(const Batch& batch) {
    return batch.method.analytes.size() == 1 && batch.method.analyte().source == AnalyteSource{} &&
           batch.method.analyte().name.empty() && batch.levels.empty();
}

bool isTaken(const Batch& batch, const std::string& channel, double apex) {
    return std::any_of(batch.method.analytes.begin(), batch.method.analytes.end(), [&](const Analyte& analyte) {
        const auto* rule = std::get_if<PeakRule>(&analyte.source.rule);
        return rule && rule->channel == channel && isInWindow(*rule, apex);
    });
}

/// Half the way to the nearest neighbour, but no more than the peak is wide at half height, or 2 % of x.
double windowFor(const std::vector<Peak>& peaks, std::size_t i) {
    const Peak& peak = peaks[i];
    double half = std::max(peak.width50.value_or(0), 0.02 * std::abs(peak.apex));
    for (const std::size_t other : {i - 1, i + 1}) { // i - 1 of the first wraps around, and is none
        if (other < peaks.size()) {
            half = std::min(half, std::abs(peaks[other].apex - peak.apex) / 2);
        }
    }
    return half > 0 ? half : peak.end - peak.start;
}

double roundedTo(double value, double step) {
    return step > 0 ? std::round(value / step) * step : value;
}

} // namespace

Result<Command> takePeaks(const Batch& batch, const std::string& channel, const std::vector<Peak>& peaks) {
    Method method = batch.method;
    Analyte plain = isUntouchedAnalyte(batch) || !batch.hasTraces() ? Analyte{} : method.analyte();
    if (isUntouchedAnalyte(batch)) {
        method.analytes.clear();
        method.subtractsBlank = false; // a blank run has a trace of its own, not a response to be taken off
        plain.fit = FitOptions{.model = Model::Line, .weighting = Weighting::InverseX};
        plain.isConcentrationLogarithmic = false;
        method.criteriaName = shippedCriteria().front().name;
        method.limits = shippedCriteria().front().limits;
    }
    std::size_t taken = 0;
    for (std::size_t i = 0; i < peaks.size(); ++i) {
        if (!method.analytes.empty() && isTaken(batch, channel, peaks[i].apex)) {
            continue;
        }
        const double half = windowFor(peaks, i);
        // Positions in steps that a person would type: a hundredth of the window.
        const double step = std::pow(10, std::floor(std::log10(half)) - 2);
        Analyte analyte = plain;
        PeakRule rule;
        rule.channel = channel;
        rule.expected = roundedTo(peaks[i].apex, step);
        rule.window = roundedTo(half, step);
        analyte.source.rule = rule;
        analyte.responseName = "Area";
        analyte.name = "Peak " + std::to_string(method.analytes.size() + 1);
        method.analytes.push_back(std::move(analyte));
        ++taken;
    }
    if (taken == 0) {
        return fail("peaks.no-edit", "There is no further peak in this trace that could be an analyte.",
                    "Lower the least height, or choose another run.");
    }
    return setMethod(batch, method,
                     taken == 1 ? "A peak taken as analyte" : std::to_string(taken) + " peaks taken as analytes");
}

Result<Command> withdrawEdit(const Batch& batch, const Slot& slot, std::size_t index) {
    const auto before = findOptional<HandEdits>(batch.handEdits, slot);
    if (!before || index >= before->list.size()) {
        return fail("batch.reading", "There is no such decision on that trace.", "Choose one from the list.");
    }
    HandEdits after = *before;
    after.list.erase(after.list.begin() + static_cast<std::ptrdiff_t>(index));
    Command command;
    command.label = "Drawn by hand, taken back: " + placeTitle(batch, *slot.place);
    add(command, slot, before, after.list.empty() ? std::optional<HandEdits>() : std::optional(after));
    return command;
}

} // namespace nuvat
