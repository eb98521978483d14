#include "samples.h"

#include "stages.h"

#include "nuvat/core/base/number.h"

namespace nuvat {

namespace {

/// Where one read-off lies.
ResultStatus statusOf(const Fit& fit, const SampleInput& input, const ReadOff& read) {
    switch (read.status) {
    case ReadOffStatus::AboveCurve:
        return ResultStatus::AboveCurve;
    case ReadOffStatus::BelowCurve:
        return ResultStatus::BelowCurve;
    case ReadOffStatus::NotDefined:
        return ResultStatus::NotDefined;
    case ReadOffStatus::Ok:
        break;
    }
    // Without a range nothing could be said to lie inside it.
    if (!input.lloq || !input.uloq) {
        return ResultStatus::NotDefined;
    }
    const double x = *read.x;
    const double lloq = *input.lloq;
    const double uloq = *input.uloq;
    const double k = isInterpolation(fit.model) ? 1 : input.extrapolation;
    if (x < lloq) {
        return x >= lloq / k ? ResultStatus::Extrapolated : ResultStatus::BelowRange;
    }
    if (x > uloq) {
        return x <= uloq * k ? ResultStatus::Extrapolated : ResultStatus::AboveRange;
    }
    return ResultStatus::Reported;
}

/// -1 below what is reported, 1 above it, 0 inside; nothing where that cannot be said.
std::optional<int> sideOf(ResultStatus status) {
    switch (status) {
    case ResultStatus::BelowRange:
    case ResultStatus::BelowCurve:
        return -1;
    case ResultStatus::Reported:
    case ResultStatus::Extrapolated:
        return 0;
    case ResultStatus::AboveRange:
    case ResultStatus::AboveCurve:
        return 1;
    case ResultStatus::AcrossLimit:
    case ResultStatus::NotDefined:
        break;
    }
    return std::nullopt;
}

/// Status of a sample: replicates on both sides of a limit have no mean, since that of those that remain would be on
/// the side of the limit; replicates that are all beyond one give no number either.
ResultStatus statusOf(const Fit& fit, const SampleInput& input, const SampleResult& sample) {
    std::optional<int> side;
    bool isBeyondCurve = false;
    for (const ReplicateResult& replicate : sample.replicates) {
        if (replicate.state != ResponseState::Used) {
            continue;
        }
        const ResultStatus status = statusOf(fit, input, replicate.readOff);
        const auto its = sideOf(status);
        if (!its) {
            return ResultStatus::NotDefined;
        }
        if (side && *side != *its) {
            return ResultStatus::AcrossLimit;
        }
        side = its;
        isBeyondCurve = isBeyondCurve || status == ResultStatus::BelowCurve || status == ResultStatus::AboveCurve;
    }
    if (!side) {
        return ResultStatus::NotDefined;
    }
    if (*side == 0) {
        return statusOf(fit, input, sample.readOff);
    }
    return *side < 0 ? (isBeyondCurve ? ResultStatus::BelowCurve : ResultStatus::BelowRange)
                     : (isBeyondCurve ? ResultStatus::AboveCurve : ResultStatus::AboveRange);
}

/// "Its replicates lie on both sides of a limit (52.6, above the range), so there is no mean of them."
std::string acrossText(const SampleResult& sample) {
    std::string values;
    for (const ReplicateResult& replicate : sample.replicates) {
        if (replicate.state != ResponseState::Used) {
            continue;
        }
        const ReadOff& read = replicate.readOff;
        values += (values.empty() ? "" : ", ") + (read.x ? formatFigures(*read.x, 3)
                                                  : read.status == ReadOffStatus::AboveCurve
                                                      ? std::string("above the curve")
                                                      : std::string("below the curve"));
    }
    return "Its replicates lie on both sides of a limit of the range (" + values + "), so there is no mean of them.";
}

/// The interval that the sample's own replicates would give, beside the one of the batch.
void setOwnInterval(const Fit& fit, const SampleInput& input, const std::vector<double>& responses,
                    const ReadOffOptions& options, SampleResult& sample) {
    if (!input.unchosen.sd || !fit.isUsable() || !(fit.df > 0) || sample.readOff.status != ReadOffStatus::Ok) {
        return;
    }
    sample.scatter.emplace();
    if (!(*input.unchosen.sd > 0)) {
        return; // equal readings say nothing of their scatter
    }
    ReadOffOptions own = options;
    own.interval = IntervalMethod::Propagation;
    own.scatterVariance = *input.unchosen.sd * *input.unchosen.sd;
    own.scatterDf = static_cast<double>(input.unchosen.n) - 1;
    const ReadOff read = readOffMean(fit, responses, own);
    if (read.low && read.high) {
        sample.scatter->low = *read.low * sample.factor();
        sample.scatter->high = *read.high * sample.factor();
    }
}

} // namespace

SampleInput sampleInput(const Batch& batch, const AnalyteEvaluation& evaluation, const GroupValue& group,
                        const ReadOffOptions& options, const BatchScatter& scatter) {
    SampleInput input;
    input.group = group.group;
    input.response = group.response;
    input.places = group.places;
    for (const Place place : group.places) {
        input.values.push_back(evaluation.at(place));
    }
    input.confidence = options.confidence;
    input.blankSe = options.blankSe;
    input.blankDf = options.blankDf;
    input.unchosen = group.unchosen;
    input.varianceFactor = group.varianceFactor;
    if (group.response.mean && evaluation.fit.isUsable()) {
        const auto x = readOffPoint(evaluation.fit, *group.response.mean).x;
        const auto variance = scatter.of(group, x.value_or(evaluation.fit.highestX), *group.response.mean);
        input.scatterVariance = variance.value;
        input.scatterDf = variance.df;
    }
    const bool counts = batch.method.blankEntersInterval || evaluation.percentBases.size() > 1;
    if (hasOwnShares(batch, evaluation) && counts && evaluation.fit.isUsable()) {
        std::vector<Place> used;
        std::copy_if(group.places.begin(), group.places.end(), std::back_inserter(used),
                     [&](Place place) { return evaluation.at(place).state == ResponseState::Used; });
        const auto x = group.response.mean ? readOffPoint(evaluation.fit, *group.response.mean).x : std::nullopt;
        const double follows = options.sharedBlank && x ? 1 - options.sharedBlank->share(*x) : 1;
        const BlankShare share = blankShare(batch, evaluation, used, follows, group.response.mean.value_or(0));
        input.hasOwnBlank = true;
        input.blankSe = share.se;
        input.blankDf = share.df;
    }
    input.interval = options.interval;
    input.average = options.average;
    input.factor = options.factor;
    input.lloq = evaluation.range.lloq;
    input.uloq = evaluation.range.uloq;
    input.extrapolation = batch.method.analyte(evaluation.analyte).range.extrapolation;
    input.dilutionRelativeSe = batch.method.dilutionRelativeSe;
    input.dilution =
        analyteOf(batch, evaluation).internal.isBeforeDilution && internalOf(batch.method, evaluation.analyte) != 0
            ? 1
            : batch.dilution(group.group);
    input.internalShare = group.places.empty() ? 1 : internalShare(batch, evaluation.analyte, group.places.front());
    input.nominal = batch.nominal(group.group, evaluation.analyte);
    return input;
}

SampleResult readSample(const Fit& fit, const SampleInput& input, const ReadOffOptions& ofCurve) {
    ReadOffOptions options = ofCurve;
    options.scatterVariance = input.scatterVariance;
    options.scatterDf = input.scatterDf;
    if (input.hasOwnBlank) {
        options.blankSe = input.blankSe;
        options.blankDf = input.blankDf;
        options.sharedBlank = nullptr;
    }
    SampleResult sample;
    sample.group = input.group;
    sample.response = input.response;
    sample.dilution = input.dilution;
    sample.internalShare = input.internalShare;
    sample.nominal = input.nominal;
    std::vector<double> responses;
    std::vector<double> concentrations;
    std::vector<double> all; // also of replicates that do not take part
    for (const Response& value : input.values) {
        if (value.value) {
            all.push_back(*value.value);
        }
    }
    const std::vector<ReadOff> reads = readOffs(fit, all, options);
    auto next = reads.begin();
    for (std::size_t i = 0; i < input.places.size(); ++i) {
        const Response& value = input.values[i];
        ReplicateResult replicate{input.places[i], value.state, value.value, {}};
        if (value.value) {
            replicate.readOff = *next++;
        }
        if (value.state == ResponseState::Used) {
            responses.push_back(*value.value);
            if (replicate.readOff.x) {
                concentrations.push_back(*replicate.readOff.x);
            }
        }
        sample.replicates.push_back(replicate);
    }
    sample.concentration = describe(concentrations);
    options.varianceFactor = input.varianceFactor;
    sample.readOff = readOffMean(fit, responses, options);
    sample.status = statusOf(fit, input, sample);
    setOwnInterval(fit, input, responses, options, sample);
    if (sample.status == ResultStatus::Reported || sample.status == ResultStatus::Extrapolated) {
        const double relativeSe = sample.dilution == 1 ? 0 : input.dilutionRelativeSe;
        const ReadOff result = scaled(sample.readOff, sample.factor(), relativeSe, options.factor);
        sample.result = result.x;
        sample.se = result.se.value_or(0);
        sample.df = result.df;
        sample.low = result.low;
        sample.high = result.high;
    }
    // The recovery of a QC is that of its read-off, also where that lies outside the range: a QC above ULOQ is a
    // finding.
    if (sample.nominal && sample.readOff.x) {
        sample.recoveryPercent = 100 * *sample.readOff.x * sample.internalShare / *sample.nominal;
    }
    const std::size_t placed = input.places.size();
    if (responses.empty()) {
        sample.remark = "No replicate is usable.";
    } else if (responses.size() < placed && sample.status != ResultStatus::AcrossLimit) {
        sample.remark = "From " + std::to_string(responses.size()) + " of " + std::to_string(placed) + " replicates.";
    } else if (!fit.isUsable()) {
        sample.remark = "There is no curve to read it off.";
    } else if (sample.status == ResultStatus::AcrossLimit) {
        sample.remark = acrossText(sample);
    } else if (sample.status == ResultStatus::Extrapolated) {
        sample.remark = "Extrapolated beyond the range of the curve.";
    } else if (sample.status == ResultStatus::NotDefined) {
        sample.remark = input.lloq || input.uloq ? "The range of the curve has only one limit, so nothing can be said "
                                                   "to lie inside it."
                                                 : "The curve has no range, so nothing can be said to lie inside it.";
    }
    return sample;
}

} // namespace nuvat
