// The blank, carrier by carrier.
#include "nuvat/core/stats/descriptive.h"
#include "stages.h"

#include <algorithm>
#include <cmath>

namespace nuvat {

namespace {

BlankValue blankOf(const std::vector<double>& raw, bool isSubtracted) {
    BlankValue blank;
    blank.description = describe(raw);
    if (isSubtracted) {
        blank.subtracted = blank.description.mean.value_or(0);
        if (blank.description.sd) {
            blank.se = *blank.description.sd / std::sqrt(static_cast<double>(blank.description.n));
        }
    }
    return blank;
}

/// One blank for what is said of the whole: their mean, and the scatter within the carriers, not between them.
BlankValue pooled(const std::map<int, BlankValue>& blanks) {
    if (blanks.size() == 1) {
        return blanks.begin()->second;
    }
    BlankValue out;
    double sum = 0, subtracted = 0, squares = 0, freedom = 0;
    for (const auto& [carrier, blank] : blanks) {
        const auto n = static_cast<double>(blank.description.n);
        out.description.n += blank.description.n;
        sum += n * blank.description.mean.value_or(0);
        subtracted += n * blank.subtracted;
        if (blank.description.sd) {
            squares += (n - 1) * *blank.description.sd * *blank.description.sd;
            freedom += n - 1;
        }
    }
    const auto n = static_cast<double>(out.description.n);
    if (n > 0) {
        out.description.mean = sum / n;
        out.subtracted = subtracted / n;
    }
    if (freedom > 0) {
        out.description.sd = std::sqrt(squares / freedom);
        if (*out.description.mean != 0) {
            out.description.cvPercent = 100 * *out.description.sd / std::abs(*out.description.mean);
        }
    }
    return out;
}

} // namespace

void correct(const Batch& batch, AnalyteEvaluation& evaluation) {
    std::map<int, std::vector<double>> raw;
    for (const auto& [number, carrier] : batch.carriers) {
        if (evaluation.carrier == 0 || evaluation.carrier == number) {
            raw[number];
        }
    }
    for (const Place place : evaluation.index->members({Role::Blank, 0})) {
        if (evaluation.at(place).state == ResponseState::Used) {
            raw[place.carrier].push_back(*evaluation.at(place).raw);
        }
    }
    for (const auto& [number, values] : raw) {
        evaluation.blanks[number] = blankOf(values, batch.method.subtractsBlank);
        if (batch.method.subtractsBlank && values.empty() &&
            batch.firstReading(evaluation.analyte, number) != nullptr) {
            const std::string where =
                batch.carriers.size() > 1
                    ? "is on " + carrierName(batch.carriers, number) + "; nothing is subtracted there."
                : batch.carriers.begin()->second.kind == CarrierKind::Plate ? "is on the plate; nothing is subtracted."
                                                                            : "is in the list; nothing is subtracted.";
            evaluation.problems.push_back({"The method subtracts the blank, but no usable blank " + where, {}});
        }
    }
    evaluation.blank = pooled(evaluation.blanks);
    std::size_t i = 0;
    for (const auto& [number, carrier] : batch.carriers) {
        const auto blank = evaluation.blanks.find(number);
        const double subtracted = blank == evaluation.blanks.end() ? 0 : blank->second.subtracted;
        for (const std::size_t end = i + carrier.size(); i < end; ++i) {
            Response& value = evaluation.responses[i];
            if (value.raw) {
                value.value = *value.raw - subtracted;
            }
        }
    }
}

BlankShare blankShare(const AnalyteEvaluation& evaluation, std::span<const Place> places, double follows) {
    std::map<int, double> moved; // the response, by each carrier's blank
    const auto used = static_cast<double>(std::count_if(evaluation.standards.begin(), evaluation.standards.end(),
                                                        [](const auto& s) { return s.isUsed; }));
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            moved[standard.place.carrier] += follows / used;
        }
    }
    for (const Place place : places) {
        moved[place.carrier] -= 1 / static_cast<double>(places.size());
    }
    double variance = 0;
    double spread = 0; // of the variance, by Welch and Satterthwaite
    for (const auto& [number, blank] : evaluation.blanks) {
        if (const double share = moved[number]; blank.se) {
            const double part = share * share * *blank.se * *blank.se;
            variance += part;
            spread += part * part / (static_cast<double>(blank.description.n) - 1);
        }
    }
    return {std::sqrt(variance), spread > 0 ? variance * variance / spread : 0};
}

} // namespace nuvat
