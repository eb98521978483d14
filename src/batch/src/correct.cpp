// The blank and the percentage, area by area.
#include "nuvat/batch/kept_curve.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/stats/descriptive.h"
#include "stages.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace nuvat {

namespace {

using ByArea = std::map<BlankArea, std::vector<double>>;

BlankValue blankOf(const std::vector<double>& raw, bool isSubtracted) {
    BlankValue blank;
    blank.description = describe(raw);
    if (isSubtracted) {
        blank.subtracted = blank.description.mean.value_or(0);
        if (blank.description.sd) {
            blank.df = static_cast<double>(blank.description.n) - 1;
            blank.se = *blank.description.sd / std::sqrt(static_cast<double>(blank.description.n));
        }
    }
    return blank;
}

/// The scatter of blanks within their areas.
struct Within {
    double squares = 0, freedom = 0;
    void add(const Description& blank) {
        if (blank.sd) {
            const double df = static_cast<double>(blank.n) - 1;
            squares += df * *blank.sd * *blank.sd;
            freedom += df;
        }
    }
};

/// One blank for what is said of the whole: their mean, and the scatter within the areas, not between them.
BlankValue pooled(const std::map<BlankArea, BlankValue>& blanks) {
    if (blanks.size() == 1) {
        return blanks.begin()->second;
    }
    BlankValue out;
    double sum = 0, subtracted = 0;
    Within within;
    for (const auto& [area, blank] : blanks) {
        const auto n = static_cast<double>(blank.description.n);
        out.description.n += blank.description.n;
        sum += n * blank.description.mean.value_or(0);
        subtracted += n * blank.subtracted;
        within.add(blank.description);
    }
    const auto n = static_cast<double>(out.description.n);
    if (n > 0) {
        out.description.mean = sum / n;
        out.subtracted = subtracted / n;
    }
    if (within.freedom > 0) {
        out.df = within.freedom;
        out.description.sd = std::sqrt(within.squares / within.freedom);
        if (*out.description.mean != 0) {
            out.description.cvPercent = 100 * *out.description.sd / std::abs(*out.description.mean);
        }
    }
    return out;
}

/// Readings of the usable blanks.
ByArea blanksByArea(const Batch& batch, const AnalyteEvaluation& evaluation) {
    ByArea out;
    for (const Place place : evaluation.index->members({Role::Blank, 0})) {
        if (evaluation.at(place).state != ResponseState::Used) {
            continue;
        }
        const double raw = *evaluation.at(place).raw;
        out[{place.carrier, -1}].push_back(raw);
        if (batch.method.blankBy == BlankBy::Row || batch.method.blankBy == BlankBy::Column) {
            out[{place.carrier, batch.method.blankBy == BlankBy::Row ? place.row : place.column}].push_back(raw);
        }
    }
    return out;
}

/// SEs of rows or columns, which seldom hold enough blanks for one of their own.
void shareScatter(const ByArea& raw, AnalyteEvaluation& evaluation) {
    std::map<int, Within> within;
    for (const auto& [area, blank] : evaluation.blanks) {
        if (area.line >= 0) {
            within[area.carrier].add(blank.description);
        }
    }
    for (auto& [area, blank] : evaluation.blanks) {
        if (area.line < 0) {
            continue;
        }
        Within scatter = within[area.carrier];
        if (scatter.freedom < 1) {
            scatter.add(describe(raw.at({area.carrier, -1})));
        }
        if (scatter.freedom >= 1) {
            blank.df = scatter.freedom;
            blank.se = std::sqrt(scatter.squares / scatter.freedom / static_cast<double>(blank.description.n));
        }
    }
}

void warnOfMissingBlank(const Batch& batch, int number, AnalyteEvaluation& evaluation) {
    const std::string where =
        batch.carriers.size() > 1 ? "is on " + carrierName(batch.carriers, number) + "; nothing is subtracted there."
        : batch.carriers.begin()->second.kind == CarrierKind::Plate ? "is on the plate; nothing is subtracted."
                                                                    : "is in the list; nothing is subtracted.";
    evaluation.problems.push_back({"The method subtracts the blank, but no usable blank " + where, {}});
}

/// Rows or columns in which something is read but no blank.
void warnOfLines(const Batch& batch, const std::map<BlankArea, std::vector<Place>>& lines,
                 AnalyteEvaluation& evaluation) {
    for (const auto& [area, places] : lines) {
        const bool isRow = batch.method.blankBy == BlankBy::Row;
        const std::string line = isRow ? "row " + rowLetters(area.line) : "column " + std::to_string(area.line + 1);
        evaluation.problems.push_back(
            {"No usable blank is in " + line +
                 (batch.carriers.size() > 1 ? " of " + carrierName(batch.carriers, area.carrier) : std::string()) +
                 "; the mean of all blanks of the plate is subtracted there.",
             places});
    }
}

void findBlanks(const Batch& batch, AnalyteEvaluation& evaluation) {
    const ByArea raw = blanksByArea(batch, evaluation);
    for (const auto& [number, carrier] : batch.carriers) {
        const BlankArea whole{number, -1};
        if (evaluation.carrier != 0 && evaluation.carrier != number) {
            continue;
        }
        const bool isAny = raw.contains(whole);
        evaluation.blanks[whole] = blankOf(isAny ? raw.at(whole) : std::vector<double>{}, batch.method.subtractsBlank);
        if (batch.method.subtractsBlank && !isAny && batch.firstReading(evaluation.analyte, number) != nullptr) {
            warnOfMissingBlank(batch, number, evaluation);
        }
    }
    if (batch.method.blankBy == BlankBy::Carrier || !batch.method.subtractsBlank) {
        return;
    }
    for (const auto& [area, values] : raw) {
        if (area.line >= 0) {
            evaluation.blanks[area] = blankOf(values, true);
        }
    }
    shareScatter(raw, evaluation);
    std::map<BlankArea, std::vector<Place>> without;
    std::set<BlankArea> used;
    for (const auto& [place, assignment] : batch.places) {
        const int line = batch.method.blankBy == BlankBy::Row ? place.row : place.column;
        const bool isOnPlate = batch.carriers.at(place.carrier).kind == CarrierKind::Plate;
        if (assignment.role != Role::Empty && isOnPlate && evaluation.blanks.contains({place.carrier, -1}) &&
            evaluation.at(place).raw) {
            used.insert(blankAreaOf(batch.method, evaluation, place));
            if (!evaluation.blanks.contains({place.carrier, line}) && raw.contains({place.carrier, -1})) {
                without[{place.carrier, line}].push_back(place);
            }
        }
    }
    // A plate's mean that nothing is corrected by is no blank of its own.
    std::erase_if(evaluation.blanks, [&](const auto& entry) {
        return entry.first.line < 0 && !used.contains(entry.first) && raw.contains(entry.first);
    });
    warnOfLines(batch, without, evaluation);
}

/// The mean response that is 100 % on a carrier.
std::optional<PercentBase> percentBase(const Batch& batch, const AnalyteEvaluation& evaluation, int carrier) {
    const PercentOf of = analyteOf(batch, evaluation).percentOf;
    std::optional<Description> best;
    std::vector<double> zero;
    for (const Assignment group : evaluation.index->groupsOf(Role::Standard)) {
        std::vector<double> values;
        for (const Place place : evaluation.index->members(group)) {
            const Response& at = evaluation.at(place);
            if (place.carrier == carrier && at.state == ResponseState::Used && at.value) {
                values.push_back(*at.value);
            }
        }
        if (of == PercentOf::ZeroStandard) {
            const bool isZero = batch.concentration(group.number, evaluation.analyte) == 0;
            zero.insert(zero.end(), values.begin(), isZero ? values.end() : values.begin());
            continue;
        }
        const Description level = describe(values);
        if (level.mean && (!best || *level.mean > *best->mean)) {
            best = level;
        }
    }
    if (of == PercentOf::ZeroStandard) {
        best = describe(zero);
    }
    if (!best || !best->mean || *best->mean == 0) {
        return std::nullopt;
    }
    PercentBase out{*best->mean, 0, 0};
    if (best->sd) {
        out.df = static_cast<double>(best->n) - 1;
        out.relativeSe = *best->sd / std::sqrt(static_cast<double>(best->n)) / std::abs(*best->mean);
    }
    return out;
}

void findPercentBases(const Batch& batch, AnalyteEvaluation& evaluation) {
    const bool isOfZero = analyteOf(batch, evaluation).percentOf == PercentOf::ZeroStandard;
    double factors = 0;
    for (const auto& [number, carrier] : batch.carriers) {
        if (evaluation.carrier != 0 && evaluation.carrier != number) {
            continue;
        }
        if (const auto base = percentBase(batch, evaluation, number)) {
            evaluation.percentBases[number] = *base;
            factors += base->factor();
        } else if (batch.firstReading(evaluation.analyte, number) != nullptr) {
            evaluation.problems.push_back({std::string("Responses are to be in percent of ") +
                                               (isOfZero ? "the standard at concentration 0" : "the highest standard") +
                                               ", but " + carrierName(batch.carriers, number) +
                                               " has no usable one; there they have no value.",
                                           {}});
        }
    }
    if (!evaluation.percentBases.empty()) {
        evaluation.responseFactor = factors / static_cast<double>(evaluation.percentBases.size());
    }
}

/// In percent of what is 100 % on the own carrier; without one there is no response.
void takePercent(const Batch& batch, AnalyteEvaluation& evaluation) {
    std::size_t i = 0;
    for (const auto& [number, carrier] : batch.carriers) {
        const auto base = evaluation.percentBases.find(number);
        for (const std::size_t end = i + carrier.size(); i < end; ++i) {
            Response& at = evaluation.responses[i];
            if (at.value && base != evaluation.percentBases.end()) {
                *at.value *= base->second.factor();
            } else if (at.value) {
                at.value.reset();
                at.state = at.state == ResponseState::Used ? ResponseState::NotRead : at.state;
                at.why = "nothing on its plate is 100 %";
            }
        }
    }
}

} // namespace

BlankArea blankAreaOf(const Method& method, const AnalyteEvaluation& evaluation, Place place) {
    const BlankArea own{place.carrier, method.blankBy == BlankBy::Carrier ? -1
                                       : method.blankBy == BlankBy::Row   ? place.row
                                                                          : place.column};
    return evaluation.blanks.contains(own) ? own : BlankArea{place.carrier, -1};
}

void correct(const Batch& batch, AnalyteEvaluation& evaluation) {
    findBlanks(batch, evaluation);
    evaluation.blank = pooled(evaluation.blanks);
    std::size_t i = 0;
    for (const auto& [number, carrier] : batch.carriers) {
        const bool isByLine = batch.method.blankBy != BlankBy::Carrier && carrier.kind == CarrierKind::Plate;
        const auto whole = evaluation.blanks.find({number, -1});
        for (std::size_t at = 0; at < carrier.size(); ++at, ++i) {
            Response& value = evaluation.responses[i];
            if (!value.raw) {
                continue;
            }
            const auto columns = static_cast<std::size_t>(carrier.columns);
            const Place place{static_cast<int>(at / columns), static_cast<int>(at % columns), number};
            const auto blank = isByLine ? evaluation.blanks.find(blankAreaOf(batch.method, evaluation, place)) : whole;
            value.value = *value.raw - (blank == evaluation.blanks.end() ? 0 : blank->second.subtracted);
        }
    }
    if (analyteOf(batch, evaluation).percentOf != PercentOf::Nothing) {
        findPercentBases(batch, evaluation);
        takePercent(batch, evaluation);
    }
}

bool hasOwnShares(const Batch& batch, const AnalyteEvaluation& evaluation) {
    return keptCurve(analyteOf(batch, evaluation)) != nullptr || evaluation.blanks.size() > 1 ||
           evaluation.percentBases.size() > 1;
}

BlankShare blankShare(const Batch& batch, const AnalyteEvaluation& evaluation, std::span<const Place> places,
                      double follows, double y) {
    std::map<BlankArea, double> moved; // the response, by each blank
    std::map<int, double> turned;      // and by each carrier's 100 %
    const auto used = static_cast<double>(std::count_if(evaluation.standards.begin(), evaluation.standards.end(),
                                                        [](const auto& s) { return s.isUsed; }));
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed) {
            moved[blankAreaOf(batch.method, evaluation, standard.place)] += follows / used;
            turned[standard.place.carrier] += 1 / used;
        }
    }
    for (const Place place : places) {
        moved[blankAreaOf(batch.method, evaluation, place)] -= 1 / static_cast<double>(places.size());
        turned[place.carrier] -= 1 / static_cast<double>(places.size());
    }
    double variance = 0;
    double spread = 0; // of the variance, by Welch and Satterthwaite
    const auto add = [&](double se, double df) {
        variance += se * se;
        spread += se * se * se * se / df;
    };
    for (const auto& [area, blank] : evaluation.blanks) {
        if (blank.se && batch.method.blankEntersInterval) {
            const auto base = evaluation.percentBases.find(area.carrier);
            add(moved[area] * *blank.se * (base == evaluation.percentBases.end() ? 1 : base->second.factor()),
                blank.df);
        }
    }
    const KeptCurve* kept = keptCurve(analyteOf(batch, evaluation));
    if (kept != nullptr && kept->blankDf > 0 && batch.method.subtractsBlank && batch.method.blankEntersInterval) {
        add(follows * kept->blankSd / std::sqrt(kept->blankDf + 1), kept->blankDf);
    }
    for (const auto& [carrier, base] : evaluation.percentBases) {
        if (base.df > 0) {
            add(turned[carrier] * y * base.relativeSe, base.df);
        }
    }
    return {std::sqrt(variance), spread > 0 ? variance * variance / spread : 0};
}

} // namespace nuvat
