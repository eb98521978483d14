#include "nuvat/batch/command.h"

#include "criteria.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <sstream>

namespace nuvat {

namespace {

template<class Map, class Key, class T> void put(Map& map, const Key& key, const std::optional<T>& value) {
    if (value) {
        map.insert_or_assign(key, *value);
    } else {
        map.erase(key);
    }
}

void assign(Batch& batch, const WholeBatch&, const std::optional<BatchInfo>& v) {
    batch.info = v.value_or(BatchInfo{});
}
void assign(Batch& batch, const WholeBatch&, const std::optional<Method>& v) {
    batch.method = v.value_or(Method{});
}
void assign(Batch& batch, int key, const std::optional<Reading>& v) {
    put(batch.readings, key, v);
}
void assign(Batch& batch, Place key, const std::optional<Assignment>& v) {
    put(batch.places, key, v);
}
void assign(Batch& batch, LevelKey key, const std::optional<Level>& v) {
    put(batch.levels, key, v);
}
void assign(Batch& batch, QcKey key, const std::optional<QcSample>& v) {
    put(batch.qcs, key, v);
}
void assign(Batch& batch, SampleKey key, const std::optional<Sample>& v) {
    put(batch.samples, key.number, v);
}
void assign(Batch& batch, Place key, const std::optional<Exclusion>& v) {
    put(batch.exclusions, key, v);
}
void assign(Batch& batch, const OverrideKey& key, const std::optional<Override>& v) {
    put(batch.overrides, key, v);
}

template<class T, class Map, class Key> std::optional<T> existing(const Map& map, const Key& key) {
    const auto found = map.find(key);
    return found == map.end() ? std::nullopt : std::optional<T>(found->second);
}

/// Adds a change unless it changes nothing.
template<class Key, class T>
void add(Command& command, Key key, const std::optional<T>& before, const std::optional<T>& after) {
    if (before != after) {
        command.changes.push_back(ItemChange<Key, T>{key, before, after});
    }
}

/// Adds what leads from one map to the other.
template<class Key, class T>
void addDifferences(Command& command, const std::map<Key, T>& before, const std::map<Key, T>& after) {
    std::map<Key, T> all = before;
    all.insert(after.begin(), after.end());
    for (const auto& [key, value] : all) {
        add(command, key, existing<T>(before, key), existing<T>(after, key));
    }
}

std::string placesText(std::vector<Place> places) {
    std::sort(places.begin(), places.end());
    std::string text;
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (i == 4 && places.size() > 5) {
            return text + " and " + std::to_string(places.size() - i) + " more";
        }
        text += (i == 0 ? "" : ", ") + wellName(places[i]);
    }
    return text;
}

std::string roleWord(Role role) {
    switch (role) {
    case Role::Empty:
        return "empty";
    case Role::Standard:
        return "standard";
    case Role::Blank:
        return "blank";
    case Role::Qc:
        return "QC";
    case Role::Unknown:
        return "unknown";
    }
    return {};
}

std::string valueText(const std::optional<double>& value, const std::string& unit) {
    return value ? formatNumber(*value) + (unit.empty() ? "" : " " + unit) : "none";
}

/// What differs between two analytes; empty when nothing does that has words of its own.
std::string analyteLabel(const Analyte& before, const Analyte& after) {
    if (before.fit.model != after.fit.model) {
        return "Model " + modelTitle(before.fit.model) + " → " + modelTitle(after.fit.model);
    }
    if (before.fit.weighting != after.fit.weighting) {
        return "Weighting " + weightingTitle(before.fit.weighting) + " → " + weightingTitle(after.fit.weighting);
    }
    if (before.fit != after.fit) {
        return "Fit of the curve changed";
    }
    if (before.interval != after.interval) {
        return "Interval → " + intervalTitle(after.interval);
    }
    if (before.average != after.average) {
        return after.average == AverageOf::Concentrations ? "Replicates are averaged as concentrations"
                                                          : "Replicates are averaged as responses";
    }
    if (before.range != after.range) {
        return "Range of the curve changed";
    }
    if (before.isConcentrationLogarithmic != after.isConcentrationLogarithmic) {
        return after.isConcentrationLogarithmic ? "Concentration axis → logarithmic" : "Concentration axis → linear";
    }
    if (before.unit != after.unit) {
        return "Unit → " + after.unit;
    }
    if (before.name != after.name) {
        return "Analyte → " + after.name;
    }
    if (before.responseName != after.responseName) {
        return "Response → " + after.responseName;
    }
    return before.reading != after.reading ? "Reading of " + after.name + " changed" : "";
}

/// What differs between two methods, for the history.
std::string methodLabel(const Method& before, const Method& after) {
    if (before.analytes.size() != after.analytes.size()) {
        return after.analytes.size() > before.analytes.size() ? "Analyte " + after.analytes.back().name + " added"
                                                              : "Analyte " + before.analytes.back().name + " removed";
    }
    for (std::size_t i = 0; i < before.analytes.size(); ++i) {
        if (std::string label = analyteLabel(before.analytes[i], after.analytes[i]); !label.empty()) {
            return (before.analytes.size() > 1 ? after.analytes[i].name + ": " : "") + label;
        }
    }
    if (before.subtractsBlank != after.subtractsBlank) {
        return after.subtractsBlank ? "Blank is subtracted" : "Blank is not subtracted";
    }
    if (before.replicates != after.replicates) {
        return "Rule for replicates changed";
    }
    if (before.criteriaName != after.criteriaName) {
        return "Criteria → " + after.criteriaName;
    }
    if (before.limits != after.limits) {
        return "Limits of the criteria changed";
    }
    if (before.criteria != after.criteria) {
        return "Criteria of one's own changed";
    }
    if (before.reportBlocks != after.reportBlocks) {
        return "Blocks of the report changed";
    }
    return "Method changed";
}

} // namespace

void applyChanges(Batch& batch, const Command& command, bool isUndo) {
    const auto applyOne = [&](const Change& change) {
        std::visit([&](const auto& item) { assign(batch, item.key, isUndo ? item.before : item.after); }, change);
    };
    if (isUndo) {
        std::for_each(command.changes.rbegin(), command.changes.rend(), applyOne);
    } else {
        std::for_each(command.changes.begin(), command.changes.end(), applyOne);
    }
}

Result<std::vector<double>> seriesConcentrations(const Series& series) {
    if (!(series.first > 0) || !std::isfinite(series.first)) {
        return fail("series.first", "The concentration of S1 must be a number above 0.", "Type it, for example 500.");
    }
    if (!(series.factor > 1) || !std::isfinite(series.factor)) {
        return fail("series.factor", "The step between levels must be a number above 1.",
                    "Choose divided by or multiplied by, and type for example 2.");
    }
    if (series.levels < 1 || series.levels > 48) {
        return fail("series.levels", "The number of levels must be from 1 to 48.", "Type how many levels there are.");
    }
    std::vector<double> out;
    for (int i = 0; i < series.levels; ++i) {
        const double step = std::pow(series.factor, i);
        out.push_back(series.isDivided ? series.first / step : series.first * step);
    }
    return out;
}

Result<Command> assignRole(const Batch& batch, const std::vector<Place>& places, Role role, int replicates,
                           Direction direction) {
    if (replicates < 1 || replicates > 48) {
        return fail("layout.replicates", "The number of replicates must be from 1 to 48.",
                    "Choose how many there are.");
    }
    std::vector<Place> ordered = places;
    for (const Place place : ordered) {
        if (!batch.holds(place)) {
            return fail("layout.place", "Well " + wellName(place) + " is not on this plate.",
                        "Choose wells on the plate.");
        }
    }
    std::sort(ordered.begin(), ordered.end(), [direction](Place l, Place r) {
        return direction == Direction::Across ? l < r : std::pair(l.column, l.row) < std::pair(r.column, r.row);
    });
    ordered.erase(std::unique(ordered.begin(), ordered.end()), ordered.end());

    int next = 1;
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role == role && std::find(ordered.begin(), ordered.end(), place) == ordered.end()) {
            next = std::max(next, assignment.number + 1);
        }
    }
    Command command;
    command.label =
        role == Role::Empty ? "Cleared " + placesText(ordered) : placesText(ordered) + " → " + roleWord(role);
    int index = 0;
    for (const Place place : ordered) {
        std::optional<Assignment> after;
        if (role == Role::Blank) {
            after = Assignment{role, 0};
        } else if (role != Role::Empty) {
            after = Assignment{role, next + index / replicates};
        }
        add(command, place, existing<Assignment>(batch.places, place), after);
        if (role == Role::Empty) {
            add(command, place, existing<Exclusion>(batch.exclusions, place), std::optional<Exclusion>());
        }
        ++index;
    }
    // What a number stands for exists from its first place on, and stays when its places are cleared: painting a
    // group away and back loses neither its name nor its concentration.
    const int last = next + (static_cast<int>(ordered.size()) - 1) / replicates;
    for (int number = next; number <= last && !ordered.empty(); ++number) {
        if (role == Role::Unknown && !batch.samples.contains(number)) {
            add(command, SampleKey{number}, std::optional<Sample>(), std::optional(Sample{}));
        } else if (role == Role::Standard && !batch.levels.contains(number)) {
            add(command, LevelKey{number}, std::optional<Level>(), std::optional(Level{}));
        } else if (role == Role::Qc && !batch.qcs.contains(number)) {
            add(command, QcKey{number}, std::optional<QcSample>(), std::optional(QcSample{}));
        }
    }
    return command;
}

Result<Command> fillRest(const Batch& batch, Role role, int replicates, Direction direction) {
    std::vector<Place> rest;
    for (int row = 0; row < batch.info.rows; ++row) {
        for (int column = 0; column < batch.info.columns; ++column) {
            const Place place{row, column};
            if (batch.at(place).role == Role::Empty) {
                rest.push_back(place);
            }
        }
    }
    if (rest.empty()) {
        return fail("layout.nothing-left", "No well is empty, so there is nothing left to fill.",
                    "Select the wells you want to change and choose a role.");
    }
    auto command = assignRole(batch, rest, role, replicates, direction);
    if (command) {
        command->label = "Filled the rest with " + roleWord(role) + (role == Role::Blank ? "s" : " places");
    }
    return command;
}

Result<Command> setSeries(const Batch& batch, const Series& series, int analyte) {
    const auto concentrations = seriesConcentrations(series);
    if (!concentrations) {
        return tl::unexpected(concentrations.error());
    }
    Command command;
    command.label = "Series " + formatNumber(series.first) + (series.isDivided ? " divided by " : " multiplied by ") +
                    formatNumber(series.factor) + ", " + std::to_string(series.levels) + " levels";
    int number = 1;
    for (const double concentration : *concentrations) {
        const LevelKey key{number, analyte};
        add(command, key, existing<Level>(batch.levels, key), std::optional(Level{concentration}));
        ++number;
    }
    return command;
}

Result<Command> setLevel(const Batch& batch, int number, std::optional<double> concentration, int analyte) {
    if (concentration && (!(*concentration >= 0) || !std::isfinite(*concentration))) {
        return fail("layout.concentration",
                    "The concentration of S" + std::to_string(number) + " must be a number of 0 or more.",
                    "Type it in the method's unit.");
    }
    Command command;
    command.label = "Concentration of S" + std::to_string(number) + " → " +
                    valueText(concentration, batch.method.analyte(analyte).unit);
    const LevelKey key{number, analyte};
    add(command, key, existing<Level>(batch.levels, key), std::optional(Level{concentration}));
    return command;
}

Result<Command> setQc(const Batch& batch, int number, const QcSample& qc, int analyte) {
    if (qc.nominal && (!(*qc.nominal > 0) || !std::isfinite(*qc.nominal))) {
        return fail("layout.concentration", "The nominal concentration of a QC must be a number above 0.",
                    "Type it in the method's unit.");
    }
    Command command;
    command.label = "QC " + std::to_string(number) + " → " + (qc.name.empty() ? "" : qc.name + ", ") +
                    valueText(qc.nominal, batch.method.analyte(analyte).unit);
    const QcKey key{number, analyte};
    add(command, key, existing<QcSample>(batch.qcs, key), std::optional(qc));
    return command;
}

Result<Command> setSample(const Batch& batch, int number, const Sample& sample) {
    if (!(sample.dilution > 0) || !std::isfinite(sample.dilution)) {
        return fail("layout.dilution", "The dilution factor must be a number above 0.",
                    "Type how many times the sample was diluted, for example 5; 1 for undiluted.");
    }
    Command command;
    const std::string itsName = shortName(batch, {Role::Unknown, number});
    const auto before = existing<Sample>(batch.samples, number);
    command.label = itsName + " changed";
    if (!before || before->name != sample.name) {
        command.label = itsName + " → " + (sample.name.empty() ? "no name" : sample.name);
    } else if (before->dilution != sample.dilution) {
        command.label =
            "Dilution of " + itsName + " × " + formatNumber(before->dilution) + " → × " + formatNumber(sample.dilution);
    } else if (before->note != sample.note) {
        command.label = "Note on " + itsName;
    }
    add(command, SampleKey{number}, before, std::optional(sample));
    return command;
}

Result<Command> pasteSampleNames(const Batch& batch, int first, const std::string& text) {
    std::vector<int> numbers = batch.numbersOf(Role::Unknown);
    std::erase_if(numbers, [first](int number) { return number < first; });
    std::istringstream stream(text);
    std::string line;
    std::vector<std::string> lines;
    while (std::getline(stream, line)) {
        if (!line.empty() && line.back() == '\r') {
            line.pop_back();
        }
        lines.push_back(line);
    }
    while (!lines.empty() && trimmed(lines.back()).empty()) {
        lines.pop_back();
    }
    if (lines.empty()) {
        return fail("layout.names-empty", "The clipboard holds no names.",
                    "Copy a column of sample names and paste again.");
    }
    if (lines.size() > numbers.size()) {
        return fail("layout.names-too-many",
                    "The pasted column has " + std::to_string(lines.size()) + " names, but from " +
                        shortName(batch, {Role::Unknown, first}) + " on there are " + std::to_string(numbers.size()) +
                        " unknowns.",
                    "Select the place of the first name, or assign more unknowns.");
    }
    Command command;
    command.label = std::to_string(lines.size()) + (lines.size() == 1 ? " sample named" : " samples named");
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto before = existing<Sample>(batch.samples, numbers[i]);
        Sample after = before.value_or(Sample{});
        const auto tab = lines[i].find('\t');
        after.name = std::string(trimmed(std::string_view(lines[i]).substr(0, tab)));
        if (tab != std::string::npos) {
            const std::string_view cell = trimmed(std::string_view(lines[i]).substr(tab + 1));
            const auto dilution = parseTyped(cell);
            if (!dilution || !(*dilution > 0)) {
                return fail("layout.dilution",
                            "Line " + std::to_string(i + 1) + " of the pasted block: \"" + std::string(cell) +
                                "\" is not a dilution factor above 0.",
                            "Correct it, or paste the names alone.");
            }
            after.dilution = *dilution;
        }
        add(command, SampleKey{numbers[i]}, before, std::optional(after));
    }
    return command;
}

Result<Command> excludePlaces(const Batch& batch, const std::vector<Place>& places, const std::string& reason,
                              std::int64_t timeMillis) {
    if (trimmed(reason).empty()) {
        return fail("exclusion.reason", "An exclusion needs a reason.", "Type why, for example: bubble in well.");
    }
    Command command;
    command.reason = std::string(trimmed(reason));
    std::vector<Place> excluded;
    for (const Place place : places) {
        if (batch.exclusions.contains(place) || batch.at(place).role == Role::Empty) {
            continue;
        }
        excluded.push_back(place);
        add(command, place, std::optional<Exclusion>(), std::optional(Exclusion{command.reason, timeMillis}));
    }
    command.label = placesText(excluded) +
                    (excluded.size() == 1 ? " (" + shortName(batch, batch.at(excluded.front())) + ")" : "") +
                    " excluded";
    return command;
}

Result<Command> restorePlaces(const Batch& batch, const std::vector<Place>& places) {
    Command command;
    std::vector<Place> restored;
    for (const Place place : places) {
        const auto before = existing<Exclusion>(batch.exclusions, place);
        if (before) {
            restored.push_back(place);
            add(command, place, before, std::optional<Exclusion>());
        }
    }
    command.label = placesText(restored) + " restored";
    return command;
}

namespace {

/// A method that evaluate() could not work with. @return the sentence, or nothing
std::optional<Error> whyNotUsable(const Method& method) {
    if (method.analytes.empty()) {
        return Error{"method.no-analyte", "A method needs one analyte or more.", "Add one."};
    }
    for (const Analyte& analyte : method.analytes) {
        const RangeRule& range = analyte.range;
        const bool isOrdered = !range.lloq || !range.uloq || *range.lloq < *range.uloq;
        if (!(range.extrapolation >= 1) || !(range.precisionPercent > 0) || !isOrdered) {
            return Error{"method.range",
                         "The range of " + analyte.name +
                             " needs LLOQ below ULOQ, a precision above 0 % and an extrapolation of 1 or more.",
                         "Correct the range."};
        }
    }
    for (const Criterion& criterion : method.criteria) {
        if (criterion.title.empty()) {
            return Error{"criterion.title", "A criterion needs a title.", "Type what it checks."};
        }
        if (const auto quantity = quantityOf(criterion); !quantity) {
            return Error{"criterion.formula", quantity.error().text(), "Correct the formula."};
        }
    }
    return std::nullopt;
}

} // namespace

Result<Command> setMethod(const Batch& batch, const Method& method, std::string label) {
    if (auto why = whyNotUsable(method)) {
        return tl::unexpected(std::move(*why));
    }
    Command command;
    command.label = label.empty() ? methodLabel(batch.method, method) : std::move(label);
    add(command, WholeBatch{}, std::optional(batch.method), std::optional(method));
    // An override follows the criterion it was given for, and goes with it.
    std::map<OverrideKey, Override> after;
    const auto& old = batch.method.criteria;
    for (const auto& [key, value] : batch.overrides) {
        std::string criterion = key.criterion;
        for (std::size_t i = 0; i < old.size(); ++i) {
            if (key.criterion == ownCriterionKey(i)) {
                const auto found = std::find(method.criteria.begin(), method.criteria.end(), old[i]);
                criterion = found == method.criteria.end()
                                ? std::string()
                                : ownCriterionKey(static_cast<std::size_t>(found - method.criteria.begin()));
            }
        }
        if (!criterion.empty()) {
            after.insert_or_assign({key.analyte, criterion}, value);
        }
    }
    addDifferences(command, batch.overrides, after);
    return command;
}

Result<Command> removeAnalyte(const Batch& batch, int analyte) {
    Method method = batch.method;
    const std::string itsName = method.analyte(analyte).name;
    method.analytes.erase(method.analytes.begin() + analyte - 1);
    auto command = setMethod(batch, method, "Analyte " + itsName + " removed");
    if (!command) {
        return command;
    }
    const auto moveUp = [&](const auto& items, auto example) {
        using Key = decltype(example);
        using T = typename std::decay_t<decltype(items)>::mapped_type;
        std::map<Key, T> after;
        for (const auto& [key, value] : items) {
            Key moved = key;
            moved.analyte -= key.analyte > analyte ? 1 : 0;
            if (key.analyte != analyte) {
                after.emplace(moved, value);
            }
        }
        addDifferences(*command, items, after);
    };
    moveUp(batch.levels, LevelKey{});
    moveUp(batch.qcs, QcKey{});
    moveUp(batch.overrides, OverrideKey{});
    return command;
}

Result<Command> overrideCriterion(const Batch& batch, int analyte, const CriterionResult& criterion,
                                  const std::string& reason, std::int64_t timeMillis) {
    if (trimmed(reason).empty()) {
        return fail("override.reason", "An override needs a reason.", "Type why the criterion does not count here.");
    }
    Command command;
    command.reason = std::string(trimmed(reason));
    command.label = criterion.title + " overridden";
    const OverrideKey key{analyte, criterion.key};
    add(command, key, existing<Override>(batch.overrides, key), std::optional(Override{command.reason, timeMillis}));
    return command;
}

Result<Command> withdrawOverride(const Batch& batch, int analyte, const CriterionResult& criterion) {
    Command command;
    command.label = "Override of " + criterion.title + " withdrawn";
    const OverrideKey key{analyte, criterion.key};
    add(command, key, existing<Override>(batch.overrides, key), std::optional<Override>());
    return command;
}

Result<Command> setTitle(const Batch& batch, const std::string& title) {
    if (trimmed(title).empty()) {
        return fail("batch.title", "A batch needs a name.", "Type one, for example: Patulin in juice, week 38.");
    }
    Command command;
    BatchInfo after = batch.info;
    after.title = std::string(trimmed(title));
    command.label = "Batch named " + after.title;
    add(command, WholeBatch{}, std::optional(batch.info), std::optional(after));
    return command;
}

Result<Command> addReading(const Batch& batch, Reading reading) {
    BatchInfo info = batch.info;
    if (reading.rows != info.rows || reading.columns != info.columns) {
        if (!batch.places.empty()) {
            return fail("import.plate-size",
                        reading.source + " is a plate of " + std::to_string(reading.rows) + " × " +
                            std::to_string(reading.columns) + " wells, but the layout of this batch is for " +
                            std::to_string(info.rows) + " × " + std::to_string(info.columns) + ".",
                        "Start a new batch for this plate.");
        }
        info.rows = reading.rows;
        info.columns = reading.columns;
    }
    Command command;
    const int key = batch.readings.empty() ? 1 : batch.readings.rbegin()->first + 1;
    info.readingInUse = key;
    command.label = reading.source + " taken in";
    add(command, key, std::optional<Reading>(), std::optional(std::move(reading)));
    add(command, WholeBatch{}, std::optional(batch.info), std::optional(info));
    return command;
}

Result<Command> useReading(const Batch& batch, int key) {
    const auto found = batch.readings.find(key);
    if (found == batch.readings.end()) {
        return fail("batch.reading", "There is no reading " + std::to_string(key) + " in this batch.",
                    "Choose one from the list of readings.");
    }
    Command command;
    BatchInfo info = batch.info;
    info.readingInUse = key;
    command.label = "Uses the reading " + found->second.source;
    add(command, WholeBatch{}, std::optional(batch.info), std::optional(info));
    return command;
}

} // namespace nuvat
