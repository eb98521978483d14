// Responses relative to others of the same run: to an internal standard, and of qualifiers to their quantifier.
#include "nuvat/core/stats/groups.h"
#include "stages.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

/// What another rule gives at each place. @param analyte that peaks are given to by hand
std::vector<Response> responsesBy(const Batch& batch, const Measured& measured, const AnalyteEvaluation& like,
                                  int analyte, const ResponseRule& rule, std::vector<Problem>& problems) {
    AnalyteEvaluation other;
    other.analyte = analyte;
    other.carrier = like.carrier;
    other.bracket = like.bracket;
    other.index = like.index;
    respondBy(batch, measured, rule, other);
    std::ranges::move(other.problems, std::back_inserter(problems));
    return std::move(other.responses);
}

void divide(Response& response, const std::optional<double>& internal) {
    response.own = response.raw;
    response.internal = internal;
    if (!response.raw) {
        return;
    }
    const bool isThere = internal && *internal != 0 && std::isfinite(*response.raw / *internal);
    response.raw = isThere ? std::optional(*response.raw / *internal) : std::nullopt;
    if (!isThere && response.state == ResponseState::Used) {
        response.state = ResponseState::Unusable;
        response.why = "no internal standard was found";
    }
}

/// The middle of what the internal standard gave with standards and QCs, against which each run is held.
void describeInternal(const Batch& batch, AnalyteEvaluation& evaluation) {
    std::vector<double> values;
    for (const Place place : placesOf(*evaluation.index)) {
        const Role role = batch.at(place).role;
        const Response& one = evaluation.at(place);
        if ((role == Role::Standard || hasNominal(role)) && one.internal &&
            !batch.isExcluded(place, evaluation.analyte)) {
            values.push_back(*one.internal);
        }
    }
    evaluation.internalMedian = median(values);
}

/// The rule of a qualifier: that of its quantifier in another channel, and where it says so at another place.
ResponseRule ruleOf(const Qualifier& qualifier, const ResponseRule& quantifier) {
    if (const auto* peak = std::get_if<PeakRule>(&quantifier)) {
        PeakRule out = *peak;
        out.channel = qualifier.channel;
        out.expected = qualifier.expected.value_or(peak->expected);
        return out;
    }
    if (const auto* band = std::get_if<BandRule>(&quantifier)) {
        BandRule out = *band;
        out.channel = qualifier.channel;
        return out;
    }
    return ValueRule{'"' + qualifier.channel + '"'}; // whatever it is called, it is one name
}

/// The ratios of one qualifier, and what they are held against.
QualifierValue qualify(const Batch& batch, const AnalyteEvaluation& evaluation, const Qualifier& qualifier,
                       const std::vector<Response>& responses) {
    QualifierValue out;
    std::vector<double> ofStandards;
    for (const Place place : placesOf(*evaluation.index)) {
        const Response& quantifier = evaluation.at(place);
        const auto& own = measuredOf(quantifier);
        const auto& other = responses.at(evaluation.index->find(place).value()).raw;
        if (!own || !other || *own == 0 || batch.at(place).role == Role::DoubleBlank) {
            continue;
        }
        const double ratio = 100 * *other / *own;
        if (!std::isfinite(ratio)) {
            continue;
        }
        out.ratios[place] = {ratio, true};
        if (batch.at(place).role == Role::Standard && quantifier.state == ResponseState::Used) {
            ofStandards.push_back(ratio);
        }
    }
    out.ofStandards = describe(ofStandards);
    const auto reference = qualifier.reference ? qualifier.reference : out.ofStandards.mean;
    if (reference) {
        out.window = windowAround(*reference, qualifier.tolerance, qualifier.toleranceOf);
        for (auto& [place, ratio] : out.ratios) {
            ratio.isWithin = out.window->holds(ratio.percent);
        }
    }
    return out;
}

} // namespace

void relate(const Batch& batch, const Measured& measured, AnalyteEvaluation& evaluation) {
    const Analyte& analyte = analyteOf(batch, evaluation);
    const int internal = internalOf(batch.method, evaluation.analyte);
    if (internal != 0) {
        const auto values = responsesBy(batch, measured, evaluation, internal,
                                        batch.method.analyte(internal).source.rule, evaluation.problems);
        for (std::size_t i = 0; i < evaluation.responses.size(); ++i) {
            divide(evaluation.responses[i], values[i].raw);
        }
        describeInternal(batch, evaluation);
    }
    for (const Qualifier& qualifier : analyte.qualifiers) {
        const auto values = responsesBy(batch, measured, evaluation, evaluation.analyte,
                                        ruleOf(qualifier, analyte.source.rule), evaluation.problems);
        evaluation.qualifiers.push_back(qualify(batch, evaluation, qualifier, values));
    }
}

std::optional<double> internalPercent(const AnalyteEvaluation& evaluation, Place place) {
    const auto& internal = evaluation.at(place).internal;
    const auto& median = evaluation.internalMedian;
    return internal && median && *median != 0 ? std::optional(100 * *internal / *median) : std::nullopt;
}

const std::optional<double>& measuredOf(const Response& response) {
    return response.own ? response.own : response.raw;
}

std::vector<Place> placesOf(const PlaceIndex& index) {
    std::vector<Place> out;
    for (const Assignment group : index.groups()) {
        std::ranges::copy(index.members(group), std::back_inserter(out));
    }
    std::ranges::sort(out);
    return out;
}

double internalShare(const Batch& batch, int analyte, Place place) {
    const int internal = internalOf(batch.method, analyte);
    const auto run = internal == 0 ? batch.runs.end() : batch.runs.find(place);
    if (run == batch.runs.end()) {
        return 1;
    }
    const auto& usual = batch.method.analyte(internal).addedConcentration;
    const auto its = run->second.added.find(internal);
    return usual && its != run->second.added.end() ? its->second / *usual : 1;
}

bool isInternalStandard(const Method& method, int analyte) {
    return std::ranges::any_of(method.analytes, [&](const Analyte& one) { return one.internal.analyte == analyte; });
}

bool isOnlyInternal(const Batch& batch, int analyte) {
    return isInternalStandard(batch.method, analyte) &&
           std::ranges::none_of(batch.levels, [analyte](const auto& entry) {
               return entry.first.analyte == analyte && entry.second.concentration;
           });
}

int internalOf(const Method& method, int analyte) {
    const int internal = method.analyte(analyte).internal.analyte;
    const bool isThere = internal >= 1 && internal <= static_cast<int>(method.analytes.size()) && internal != analyte;
    return isThere ? internal : 0;
}

} // namespace nuvat
