#include "kinds/plate/plate_values.h"

#include "nuvat/batch/kinetics.h"
#include "nuvat/batch/working.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"

namespace nuvat {

namespace {

/// Where a sample has no result its status stands: a number from beyond the range would rule the scale of all others.
void addConcentrations(const AnalyteEvaluation& evaluation, PlateValues& out) {
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (!result.result) {
                out.words[replicate.place] = {text(statusWord(result)), statusOutcome(result)};
            } else if (replicate.readOff.x) {
                out.numbers[replicate.place] = *replicate.readOff.x * result.factor();
            }
        }
    }
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.backCalculated) {
            out.numbers[standard.place] = *standard.backCalculated;
        }
    }
}

void addCvs(const AnalyteEvaluation& evaluation, std::map<Place, double>& out) {
    for (const GroupValue& group : evaluation.groups) {
        const SampleResult* result = evaluation.result(group.group);
        if (const auto cv = result ? result->concentration.cvPercent : group.response.cvPercent) {
            for (const Place place : group.places) {
                out[place] = *cv;
            }
        }
    }
}

void addStatus(const AnalyteEvaluation& evaluation, std::map<Place, PlateWord>& out) {
    for (const SampleResult& result : evaluation.results) {
        for (const ReplicateResult& replicate : result.replicates) {
            out[replicate.place] = {text(statusWord(result)), statusOutcome(result)};
        }
    }
    for (const LevelValue& level : evaluation.levels) {
        const GroupValue* group = evaluation.group({Role::Standard, level.number});
        if (group == nullptr || !level.backCalculated || level.isAnchor) {
            continue;
        }
        const Outcome outcome = level.isWithin ? Outcome::Pass : Outcome::Review;
        for (const Place place : group->places) {
            out[place] = {text(outcomeWord(outcome)), outcome};
        }
    }
}

void addClasses(const Batch& batch, const AnalyteEvaluation& evaluation, std::map<Place, PlateWord>& out) {
    const DecisionRule& rule = analyteOf(batch, evaluation).decisions;
    for (const SampleResult& result : evaluation.results) {
        const SampleDecision* decision = evaluation.decisionOf(result.group);
        for (const ReplicateResult& replicate : result.replicates) {
            if (decision == nullptr) {
                continue;
            }
            const auto classes = static_cast<double>(rule.limits.size());
            if (decision->isDecided()) {
                out[replicate.place] = {shown(className(rule, decision->lowest)), Outcome::NotApplicable,
                                        static_cast<double>(decision->lowest) / classes};
            } else { // which limits, the working says
                out[replicate.place] = {QObject::tr("spans"), Outcome::Review};
            }
        }
    }
}

/// The channel that the analyte's response is taken from, else the first that was read at times.
void addLines(const Batch& batch, const AnalyteEvaluation& evaluation, PlateValues& out) {
    const auto all = timedChannels(batch);
    const auto* rule = std::get_if<KineticRule>(&analyteOf(batch, evaluation).source.rule);
    const TimedChannel* timed = rule == nullptr ? nullptr : timedChannel(all, rule->channel);
    timed = timed == nullptr && !all.empty() ? &all.front() : timed;
    if (timed == nullptr) {
        return;
    }
    std::map<Place, WellTrace> traces;
    double low = 1e300, high = -1e300;
    for (const auto& [number, carrier] : batch.carriers) {
        std::vector<std::shared_ptr<const Grid>> held;
        std::vector<const Grid*> grids;
        for (const auto& [time, channel] : timed->reads) {
            const Reading* reading = batch.reading(number, channel);
            held.push_back(reading == nullptr ? nullptr : reading->payload.grid());
            grids.push_back(held.back().get());
        }
        for (int i = 0; i < carrier.rows * carrier.columns; ++i) {
            const Place place{i / carrier.columns, i % carrier.columns, number};
            WellTrace trace = wellTrace(*timed, grids, place);
            for (const double y : trace.y) {
                low = std::min(low, y);
                high = std::max(high, y);
            }
            traces[place] = std::move(trace);
        }
    }
    const double from = timed->reads.front().first, span = timed->reads.back().first - from;
    for (const auto& [place, trace] : traces) {
        auto& line = out.lines[place];
        for (std::size_t i = 0; i < trace.x.size(); ++i) {
            line.emplace_back((trace.x[i] - from) / span, high > low ? (trace.y[i] - low) / (high - low) : 0.5);
        }
    }
    if (rule != nullptr && timed->of == rule->channel) {
        const double until = rule->quantity == BandQuantity::Value ? rule->from + span / 100 : rule->to;
        out.taken = {std::clamp((rule->from - from) / span, 0.0, 1.0), std::clamp((until - from) / span, 0.0, 1.0)};
    }
}

} // namespace

PlateValues plateValues(const Batch& batch, const AnalyteEvaluation& evaluation, PlateQuantity quantity) {
    PlateValues out;
    if (quantity == PlateQuantity::Concentration) {
        addConcentrations(evaluation, out);
    } else if (quantity == PlateQuantity::Cv) {
        addCvs(evaluation, out.numbers);
    } else if (quantity == PlateQuantity::Status) {
        addStatus(evaluation, out.words);
    } else if (quantity == PlateQuantity::Class) {
        addClasses(batch, evaluation, out.words);
    } else if (quantity == PlateQuantity::OverTime) {
        addLines(batch, evaluation, out);
    }
    return out;
}

} // namespace nuvat
