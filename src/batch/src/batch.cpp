#include "nuvat/batch/batch.h"

#include <array>
#include <stdexcept>

namespace nuvat {

namespace {
constexpr std::array<std::string_view, 5> kRoleNames{"empty", "standard", "blank", "qc", "unknown"};
constexpr std::array<std::string_view, 5> kScopeNames{"batch", "analyte", "level", "sample", "qc"};
constexpr std::array<std::string_view, 2> kComparisonNames{"at-most", "at-least"};
constexpr std::array<std::string_view, 3> kOutlierTestNames{"none", "grubbs", "dixon"};
constexpr std::array<std::string_view, 4> kRangeByNames{"criteria", "precision", "hand", "levels"};
constexpr std::array<std::string_view, 3> kScatterFromNames{"batch", "curve", "sample"};

template<class Enum, std::size_t N>
std::optional<Enum> named(const std::array<std::string_view, N>& names, std::string_view text) {
    for (std::size_t i = 0; i < N; ++i) {
        if (names[i] == text) {
            return static_cast<Enum>(i);
        }
    }
    return std::nullopt;
}
} // namespace

std::string_view name(Role role) {
    return kRoleNames.at(static_cast<std::size_t>(role));
}

std::optional<Role> roleFromName(std::string_view text) {
    return named<Role>(kRoleNames, text);
}

std::string_view name(CriterionScope scope) {
    return kScopeNames.at(static_cast<std::size_t>(scope));
}
std::optional<CriterionScope> criterionScopeFromName(std::string_view text) {
    return named<CriterionScope>(kScopeNames, text);
}
std::string_view name(Comparison comparison) {
    return kComparisonNames.at(static_cast<std::size_t>(comparison));
}
std::optional<Comparison> comparisonFromName(std::string_view text) {
    return named<Comparison>(kComparisonNames, text);
}
std::string_view name(OutlierTest test) {
    return kOutlierTestNames.at(static_cast<std::size_t>(test));
}
std::optional<OutlierTest> outlierTestFromName(std::string_view text) {
    return named<OutlierTest>(kOutlierTestNames, text);
}
std::string_view name(RangeBy by) {
    return kRangeByNames.at(static_cast<std::size_t>(by));
}
std::optional<RangeBy> rangeByFromName(std::string_view text) {
    return named<RangeBy>(kRangeByNames, text);
}

std::string_view name(ScatterFrom from) {
    return kScatterFromNames.at(static_cast<std::size_t>(from));
}
std::optional<ScatterFrom> scatterFromFromName(std::string_view text) {
    return named<ScatterFrom>(kScatterFromNames, text);
}

const std::vector<CriteriaSet>& shippedCriteria() {
    static const std::vector<CriteriaSet> sets = [] {
        const CriteriaLimits ligandBinding;
        CriteriaLimits chromatographic = ligandBinding;
        chromatographic.backCalculated = 15;
        chromatographic.backCalculatedAtLowest = 20;
        chromatographic.backCalculatedAtHighest = 15;
        chromatographic.standardCv = 15;
        chromatographic.unknownCv = 15;
        chromatographic.qcRecovery = 15;
        chromatographic.blankOfLloq = 20;
        CriteriaLimits line;
        line.qcWithin.reset();
        line.backCalculated.reset();
        line.standardCv = 15;
        line.unknownCv = 15;
        line.rSquared.reset();
        line.r = 0.995;
        line.isBlankBelowLloq = true;
        return std::vector<CriteriaSet>{{"Chromatographic, ICH M10", chromatographic},
                                        {"Ligand binding, ICH M10", ligandBinding},
                                        {"Line, common practice", line}};
    }();
    return sets;
}

const ReadingWell* Reading::at(Place place) const {
    const bool isInside =
        place.carrier == 1 && place.row >= 0 && place.row < rows && place.column >= 0 && place.column < columns;
    const auto index = static_cast<std::size_t>(isInside ? place.row * columns + place.column : 0);
    return isInside && index < wells.size() ? &wells[index] : nullptr;
}

const Reading* Batch::reading(int analyte) const {
    const int own = method.analyte(analyte).reading;
    const auto found = readings.find(own != 0 ? own : info.readingInUse);
    return found == readings.end() ? nullptr : &found->second;
}

std::optional<double> Batch::concentration(int level, int analyte) const {
    const auto found = levels.find({level, analyte});
    return found == levels.end() ? std::nullopt : found->second.concentration;
}

std::optional<double> Batch::nominal(int qc, int analyte) const {
    const auto found = qcs.find({qc, analyte});
    return found == qcs.end() ? std::nullopt : found->second.nominal;
}

Assignment Batch::at(Place place) const {
    const auto found = places.find(place);
    return found == places.end() ? Assignment{} : found->second;
}

std::string shortName(const Batch& batch, Assignment group) {
    switch (group.role) {
    case Role::Empty:
        return "Empty";
    case Role::Blank:
        return "Blank";
    case Role::Standard:
        return "S" + std::to_string(group.number);
    case Role::Qc: {
        const auto qc = batch.qcs.find(group.number);
        return qc == batch.qcs.end() || qc->second.name.empty() ? "QC " + std::to_string(group.number)
                                                                : qc->second.name;
    }
    case Role::Unknown:
        return std::string(group.number < 10 ? "U0" : "U") + std::to_string(group.number);
    }
    throw std::invalid_argument("shortName: not a role");
}

std::string fullName(const Batch& batch, Assignment group) {
    if (group.role == Role::Unknown) {
        const auto sample = batch.samples.find(group.number);
        if (sample != batch.samples.end() && !sample->second.name.empty()) {
            return sample->second.name;
        }
    }
    return shortName(batch, group);
}

std::string wellName(Place place) {
    return wellName(place.row, place.column);
}

} // namespace nuvat
