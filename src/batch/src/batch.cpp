#include "nuvat/batch/batch.h"

#include <algorithm>
#include <array>
#include <stdexcept>

namespace nuvat {

namespace {
constexpr std::array<std::string_view, 6> kScopeNames{"batch", "analyte", "level", "sample", "qc", "peak"};
constexpr std::array<std::string_view, 2> kComparisonNames{"at-most", "at-least"};
constexpr std::array<std::string_view, 3> kOutlierTestNames{"none", "grubbs", "dixon"};
constexpr std::array<std::string_view, 4> kRangeByNames{"criteria", "precision", "hand", "levels"};
constexpr std::array<std::string_view, 3> kScatterFromNames{"batch", "curve", "sample"};

constexpr std::array<std::string_view, 2> kCarrierKindNames{"plate", "run-list"};
constexpr std::array<std::string_view, 6> kCurveOfNames{"batch", "carrier", "sample", "none", "kept", "bracket"};
constexpr std::array<std::string_view, 4> kDecisionByNames{"interval", "value", "shown-above", "shown-below"};
constexpr std::array<std::string_view, 3> kPercentOfNames{"nothing", "zero-standard", "highest"};
constexpr std::array<std::string_view, 3> kBlankByNames{"carrier", "row", "column"};
constexpr std::array<std::string_view, 4> kBandQuantityNames{"value", "mean", "difference", "slope"};
constexpr std::array<std::string_view, 5> kPeakQuantityNames{"area", "height", "charge", "sample-height",
                                                             "area-percent"};
constexpr std::array<std::string_view, 4> kPeakPickNames{"nearest", "largest", "first", "all"};
constexpr std::array<std::string_view, 3> kColumnsAreNames{"guessed", "channels", "runs"};
constexpr std::array<std::string_view, 2> kWindowOfNames{"x", "percent"};
constexpr std::array<std::string_view, 6> kRuleNames{"value", "band", "peak", "population", "named", "kinetic"};
static_assert(kRuleNames.size() == std::variant_size_v<ResponseRule>);
constexpr std::array<std::string_view, 5> kRunStateNames{"planned", "running", "done", "failed", "set-aside"};
constexpr std::array<std::string_view, 3> kAfterFailureNames{"go-on", "repeat-then-stop", "stop"};

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

std::string_view name(CarrierKind kind) {
    return kCarrierKindNames.at(static_cast<std::size_t>(kind));
}
std::optional<CarrierKind> carrierKindFromName(std::string_view text) {
    return named<CarrierKind>(kCarrierKindNames, text);
}
std::string_view name(CurveOf curve) {
    return kCurveOfNames.at(static_cast<std::size_t>(curve));
}
std::optional<CurveOf> curveOfFromName(std::string_view text) {
    return named<CurveOf>(kCurveOfNames, text);
}
std::string_view name(BandQuantity quantity) {
    return kBandQuantityNames.at(static_cast<std::size_t>(quantity));
}
std::optional<BandQuantity> bandQuantityFromName(std::string_view text) {
    return named<BandQuantity>(kBandQuantityNames, text);
}
std::string_view name(PeakQuantity quantity) {
    return kPeakQuantityNames.at(static_cast<std::size_t>(quantity));
}
std::optional<PeakQuantity> peakQuantityFromName(std::string_view text) {
    return named<PeakQuantity>(kPeakQuantityNames, text);
}
std::string_view name(PeakPick pick) {
    return kPeakPickNames.at(static_cast<std::size_t>(pick));
}
std::optional<PeakPick> peakPickFromName(std::string_view text) {
    return named<PeakPick>(kPeakPickNames, text);
}
std::string_view name(ColumnsAre columns) {
    return kColumnsAreNames.at(static_cast<std::size_t>(columns));
}
std::optional<ColumnsAre> columnsAreFromName(std::string_view text) {
    return named<ColumnsAre>(kColumnsAreNames, text);
}
std::string_view name(WindowOf of) {
    return kWindowOfNames.at(static_cast<std::size_t>(of));
}
std::optional<WindowOf> windowOfFromName(std::string_view text) {
    return named<WindowOf>(kWindowOfNames, text);
}
std::string_view name(DecisionBy by) {
    return kDecisionByNames.at(static_cast<std::size_t>(by));
}
std::optional<DecisionBy> decisionByFromName(std::string_view text) {
    return named<DecisionBy>(kDecisionByNames, text);
}
std::string_view name(PercentOf of) {
    return kPercentOfNames.at(static_cast<std::size_t>(of));
}
std::optional<PercentOf> percentOfFromName(std::string_view text) {
    return named<PercentOf>(kPercentOfNames, text);
}
std::string_view name(BlankBy by) {
    return kBlankByNames.at(static_cast<std::size_t>(by));
}
std::optional<BlankBy> blankByFromName(std::string_view text) {
    return named<BlankBy>(kBlankByNames, text);
}
const ReadRecipe* PlateRecipe::find(const std::string& read) const {
    const auto found =
        std::find_if(reads.begin(), reads.end(), [&](const ReadRecipe& one) { return one.read == read; });
    return found == reads.end() ? nullptr : &*found;
}
const ColumnRecipe* TraceRecipe::find(const std::string& column) const {
    const auto found =
        std::find_if(corrected.begin(), corrected.end(), [&](const ColumnRecipe& one) { return one.column == column; });
    return found == corrected.end() ? nullptr : &*found;
}
double halfWindow(const PeakRule& rule, double shift) {
    return rule.windowOf == WindowOf::Percent ? std::abs(rule.expected * shift) * rule.window / 100 : rule.window;
}
bool isInWindow(const PeakRule& rule, double x, double shift) {
    return std::abs(x - rule.expected * shift) <= halfWindow(rule, shift);
}
std::string_view kindName(const ResponseRule& rule) {
    return kRuleNames.at(rule.index());
}
const std::string& valueFormula(const ResponseRule& rule) {
    static const std::string none;
    const auto* value = std::get_if<ValueRule>(&rule);
    return value == nullptr ? none : value->formula;
}
std::string_view name(RunState state) {
    return kRunStateNames.at(static_cast<std::size_t>(state));
}
std::string_view name(AfterFailure what) {
    return kAfterFailureNames.at(static_cast<std::size_t>(what));
}
std::optional<AfterFailure> afterFailureFromName(std::string_view text) {
    return named<AfterFailure>(kAfterFailureNames, text);
}
std::optional<RunState> runStateFromName(std::string_view text) {
    return named<RunState>(kRunStateNames, text);
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

const SignalRule& Method::signal(const std::string& channel) const {
    static const SignalRule plain;
    const auto found = signalRules.find(channel);
    return found == signalRules.end() ? plain : found->second;
}

bool Batch::hasTraces(int carrier) const {
    return std::any_of(inUse.begin(), inUse.end(), [carrier](const auto& entry) {
        return entry.first.place.has_value() && (carrier == 0 || entry.first.carrier == carrier);
    });
}

const Reading* Batch::reading(int carrier, const std::string& channel) const {
    return reading(Slot{carrier, std::nullopt, channel});
}

const Reading* Batch::reading(const Slot& slot) const {
    const auto key = inUse.find(slot);
    const auto found = key == inUse.end() ? readings.end() : readings.find(key->second);
    return found == readings.end() ? nullptr : &*found->second;
}

std::optional<double> Batch::concentration(int level, int analyte) const {
    const auto found = levels.find({level, analyte});
    return found == levels.end() ? std::nullopt : found->second.concentration;
}

std::optional<double> Batch::nominal(Assignment group, int analyte) const {
    const auto found = qcs.find({group.number, analyte, group.role});
    return found == qcs.end() ? std::nullopt : found->second.nominal;
}

double Batch::dilution(Assignment group) const {
    if (!isOfSample(group.role)) {
        return 1;
    }
    // Additions are counted in the same place, but are all of the sample as it was first prepared.
    const auto further = preparations.find({group.number, group.preparation});
    if (group.role != Role::Addition && group.preparation > 1 && further != preparations.end()) {
        return further->second.dilution;
    }
    const auto sample = samples.find(group.number);
    return sample == samples.end() ? 1 : sample->second.dilution;
}

const Exclusion* Batch::exclusion(Place place, int analyte) const {
    auto found = exclusions.find({place});
    if (found == exclusions.end() && analyte != 0) {
        found = exclusions.find({place, analyte});
    }
    return found == exclusions.end() ? nullptr : &found->second;
}

bool Batch::holds(Place place) const {
    const auto carrier = carriers.find(place.carrier);
    return carrier != carriers.end() && carrier->second.holds(place.row, place.column);
}

Assignment Batch::at(Place place) const {
    const auto found = places.find(place);
    return found == places.end() ? Assignment{} : found->second;
}

namespace {

std::string sampleNumber(int number) {
    return std::string(number < 10 ? "U0" : "U") + std::to_string(number);
}

std::string nameOfKnown(const Batch& batch, Assignment group, const std::string& otherwise) {
    const auto known = batch.qcs.find({group.number, 1, group.role});
    return known == batch.qcs.end() || known->second.name.empty() ? otherwise + std::to_string(group.number)
                                                                  : known->second.name;
}

} // namespace

std::string shortName(const Batch& batch, Assignment group) {
    const std::string further = group.preparation > 1 ? "." + std::to_string(group.preparation) : "";
    switch (group.role) {
    case Role::Empty:
        return "Empty";
    case Role::Blank:
        return "Blank";
    case Role::DoubleBlank:
        return "Double blank";
    case Role::ReagentBlank:
        return "Reagent blank";
    case Role::Standard:
        return "S" + std::to_string(group.number);
    case Role::Qc:
        return nameOfKnown(batch, group, "QC ");
    case Role::CheckStandard:
        return nameOfKnown(batch, group, "Check ");
    case Role::NegativeControl:
        return "Neg " + std::to_string(group.number);
    case Role::Unknown:
        return sampleNumber(group.number) + further;
    case Role::Spike:
        return sampleNumber(group.number) + further + " sp";
    case Role::Addition:
        return sampleNumber(group.number) + " +" + std::to_string(group.preparation);
    }
    throw std::invalid_argument("shortName: not a role");
}

std::string fullName(const Batch& batch, Assignment group) {
    const auto sample = batch.samples.find(group.number);
    if (!isOfSample(group.role) || sample == batch.samples.end() || sample->second.name.empty()) {
        return shortName(batch, group);
    }
    const std::string& given = sample->second.name;
    const std::string further = group.preparation > 1 ? ", dilution " + std::to_string(group.preparation) : "";
    return given + (group.role == Role::Addition ? ", addition " + std::to_string(group.preparation)
                    : group.role == Role::Spike  ? ", spiked" + further
                                                 : further);
}

bool isAnchor(const Batch& batch, LevelKey level) {
    const auto found = batch.levels.find(level);
    return found != batch.levels.end() && found->second.isAnchor;
}

bool isLaidOut(const Batch& batch, int carrier) {
    const auto isOn = [carrier](const auto& entry) { return entry.first.carrier == carrier; };
    const auto isOutOn = [carrier](const auto& entry) { return entry.first.place.carrier == carrier; };
    return std::any_of(batch.places.begin(), batch.places.end(), isOn) ||
           std::any_of(batch.exclusions.begin(), batch.exclusions.end(), isOutOn);
}

std::vector<Place> placesOf(const Batch& batch) {
    std::vector<Place> places;
    for (const auto& [number, carrier] : batch.carriers) {
        for (int row = 0; row < carrier.rows; ++row) {
            for (int column = 0; column < carrier.columns; ++column) {
                places.emplace_back(row, column, number);
            }
        }
    }
    return places;
}

namespace {

bool isRunList(const std::map<int, Carrier>& carriers, int number) {
    const auto found = carriers.find(number);
    return found != carriers.end() && found->second.kind == CarrierKind::RunList;
}

} // namespace

std::string carrierName(const std::map<int, Carrier>& carriers, int number) {
    const auto carrier = carriers.find(number);
    if (carrier != carriers.end() && !carrier->second.name.empty()) {
        return carrier->second.name;
    }
    return (isRunList(carriers, number) ? "Run list " : "Plate ") + std::to_string(number);
}

std::string placeNameWithin(const std::map<int, Carrier>& carriers, Place place) {
    return isRunList(carriers, place.carrier) ? "run " + std::to_string(place.row + 1)
                                              : wellName(place.row, place.column);
}

std::string placeName(const std::map<int, Carrier>& carriers, Place place) {
    const std::string within = placeNameWithin(carriers, place);
    return carriers.size() > 1 ? carrierName(carriers, place.carrier) + " · " + within : within;
}

namespace {

/// Runs of one list as people say them: "runs 3 and 5", "runs 18 to 35".
/// @param most stretches that are named
std::string runNames(const std::vector<Place>& places, std::size_t most) {
    std::vector<std::string> parts;
    std::size_t i = 0;
    while (i < places.size() && parts.size() < most) {
        std::size_t last = i;
        while (last + 1 < places.size() && places[last + 1].row == places[last].row + 1) {
            ++last;
        }
        const std::string first = std::to_string(places[i].row + 1);
        if (last < i + 2) { // two are no stretch
            parts.push_back(first);
            ++i;
        } else {
            parts.push_back(first + " to " + std::to_string(places[last].row + 1));
            i = last + 1;
        }
    }
    if (i < places.size()) {
        parts.push_back(std::to_string(places.size() - i) + " more");
    }
    std::string text = places.size() == 1 ? "run " : "runs ";
    for (std::size_t part = 0; part < parts.size(); ++part) {
        text += (part == 0 ? "" : part + 1 == parts.size() ? " and " : ", ") + parts[part];
    }
    return text;
}

} // namespace

std::string placeNames(const std::map<int, Carrier>& carriers, const std::vector<Place>& places, std::size_t most) {
    const bool isOneList =
        !places.empty() && isRunList(carriers, places.front().carrier) &&
        std::all_of(places.begin(), places.end(), [&](Place p) { return p.carrier == places.front().carrier; });
    if (isOneList) {
        return (carriers.size() > 1 ? carrierName(carriers, places.front().carrier) + " · " : "") +
               runNames(places, most);
    }
    const std::size_t named = places.size() > most ? most - 1 : places.size();
    std::string text;
    for (std::size_t i = 0; i < named; ++i) {
        const bool isNew = i == 0 || places[i].carrier != places[i - 1].carrier;
        const bool isLast = i + 1 == places.size() || places[i + 1].carrier != places[i].carrier;
        text += i == 0 ? "" : isNew || !isLast || named < places.size() ? ", " : " and ";
        text += isNew ? placeName(carriers, places[i]) : placeNameWithin(carriers, places[i]);
    }
    return named < places.size() ? text + " and " + std::to_string(places.size() - named) + " more" : text;
}

std::string countOfPlaces(const Batch& batch, const std::vector<Place>& places) {
    std::size_t runs = 0;
    for (const Place place : places) {
        runs += isRunList(batch.carriers, place.carrier) ? 1u : 0u;
    }
    const std::string what = runs == 0 ? " well" : runs == places.size() ? " run" : " place";
    return std::to_string(places.size()) + what + (places.size() == 1 ? "" : "s");
}

std::string shortPlaceName(const Batch& batch, Place place) {
    const std::string within = placeNameWithin(batch.carriers, place);
    return batch.carriers.size() > 1 ? std::to_string(place.carrier) + " · " + within : within;
}

std::string placeTitle(const Batch& batch, Place place) {
    std::string title = placeName(batch, place);
    if (batch.carriers.size() == 1 && batch.carriers.begin()->second.kind == CarrierKind::Plate) {
        return "Well " + title;
    }
    if (title.starts_with("run ")) {
        title.front() = 'R';
    }
    return title;
}

std::string placeName(const Batch& batch, Place place) {
    return placeName(batch.carriers, place);
}

} // namespace nuvat
