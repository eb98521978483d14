// Commands that say what stands where: roles, levels, QCs and samples.
#include "command_parts.h"
#include "nuvat/batch/place_index.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>
#include <tuple>

namespace nuvat {

namespace {

std::string valueText(const std::optional<double>& value, const std::string& unit) {
    return value ? formatNumber(*value) + (unit.empty() ? "" : " " + unit) : "none";
}

/// The lines of a pasted column, without the empty ones at its end.
std::vector<std::string> pastedLines(const std::string& text) {
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
    return lines;
}

} // namespace

std::optional<double> parseDilution(const std::string& typed) {
    std::string plain = typed;
    if (const auto sign = plain.find("×"); sign != std::string::npos) {
        plain.erase(sign, std::string_view("×").size());
    }
    const auto plus = plain.find('+');
    if (plus == std::string::npos) {
        return parseTyped(plain);
    }
    const auto sample = parseTyped(plain.substr(0, plus)), with = parseTyped(plain.substr(plus + 1));
    return sample && with && *sample > 0 && *with >= 0 ? std::optional((*sample + *with) / *sample) : std::nullopt;
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

namespace {

std::string runName(const Batch& batch, Place place) {
    const auto found = batch.runs.find(place);
    return found == batch.runs.end() ? std::string() : found->second.name;
}

/// By how much the number of each place lies above the first's. Replicates are so many places in a row; in a list
/// whose runs have names, those in a row that have the same one.
std::vector<int> replicateSteps(const Batch& batch, const std::vector<Place>& ordered, int replicates) {
    std::vector<int> steps;
    int step = -1;
    int inGroup = 0;
    for (std::size_t i = 0; i < ordered.size(); ++i) {
        const std::string name = runName(batch, ordered[i]);
        const std::string before = i == 0 ? std::string() : runName(batch, ordered[i - 1]);
        const bool isNamed = !name.empty() || !before.empty();
        const bool isNew = i == 0 || (isNamed ? name != before : inGroup >= replicates);
        step += isNew ? 1 : 0;
        inGroup = isNew ? 1 : inGroup + 1;
        steps.push_back(step);
    }
    return steps;
}

} // namespace

namespace {

/// Blocks begin at the top left of all places: 2 × 2 of four replicates, 2 × 3 of six, 1 × 2 of two.
void sortInBlocks(std::vector<Place>& places, int replicates) {
    int top = places.empty() ? 0 : places.front().row, left = places.empty() ? 0 : places.front().column;
    for (const Place place : places) {
        top = std::min(top, place.row);
        left = std::min(left, place.column);
    }
    int high = static_cast<int>(std::sqrt(replicates));
    while (replicates % high != 0) {
        --high;
    }
    const int wide = replicates / high;
    std::sort(places.begin(), places.end(), [=](Place l, Place r) {
        const auto key = [=](Place p) {
            const int row = p.row - top, column = p.column - left;
            return std::tuple(p.carrier, column / wide, row / high, row % high, column % wide);
        };
        return key(l) < key(r);
    });
}

/// The places in the order in which they are counted, each once.
/// @return layout.replicates, layout.place
Result<std::vector<Place>> countedPlaces(const Batch& batch, const std::vector<Place>& places, int replicates,
                                         Direction direction) {
    if (replicates < 1 || replicates > 48) {
        return fail("layout.replicates", "The number of replicates must be from 1 to 48.",
                    "Choose how many there are.");
    }
    std::vector<Place> ordered = places;
    for (const Place place : ordered) {
        if (!batch.holds(place)) {
            return fail("layout.place", "There is no " + placeName(batch, place) + " in this batch.",
                        "Choose places that its carriers hold.");
        }
    }
    if (direction == Direction::Blocks) {
        sortInBlocks(ordered, replicates);
    } else {
        std::sort(ordered.begin(), ordered.end(), [direction](Place l, Place r) {
            return direction == Direction::Across ? l < r : std::pair(l.column, l.row) < std::pair(r.column, r.row);
        });
    }
    ordered.erase(std::unique(ordered.begin(), ordered.end()), ordered.end());
    return ordered;
}

/// The assignment of the places `step` groups after the first.
Assignment counted(Role role, int first, int step) {
    if (!isCounted(role)) {
        return {role, 0};
    }
    return role == Role::Addition ? Assignment{role, first, step + 1} : Assignment{role, first + step};
}

} // namespace

Result<Command> assignRole(const Batch& batch, const std::vector<Place>& places, Role role, int replicates,
                           Direction direction) {
    const auto found = countedPlaces(batch, places, replicates, direction);
    if (!found) {
        return tl::unexpected(found.error());
    }
    const std::vector<Place>& ordered = *found;
    int next = 1;
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role == role && std::find(ordered.begin(), ordered.end(), place) == ordered.end()) {
            next = std::max(next, assignment.number + 1);
        }
    }
    Command command;
    command.label = role == Role::Empty ? "Cleared " + placesText(batch, ordered)
                                        : placesText(batch, ordered) + " → " + std::string(roleWord(role));
    const std::vector<int> steps = replicateSteps(batch, ordered, replicates);
    std::map<int, std::string> names; // that lists give the samples
    for (std::size_t i = 0; i < ordered.size(); ++i) {
        const auto after = role == Role::Empty ? std::nullopt : std::optional(counted(role, next, steps[i]));
        if (after) {
            names.emplace(after->number, runName(batch, ordered[i]));
        }
        add(command, ordered[i], findOptional<Assignment>(batch.places, ordered[i]), after);
    }
    // What a number stands for exists from its first place on, and stays when its places are cleared: painting a
    // group away and back loses neither its name nor its concentration.
    const int last = ordered.empty() ? next - 1 : counted(role, next, steps.back()).number;
    for (int number = next; number <= last; ++number) {
        if (role == Role::Unknown && !batch.samples.contains(number)) {
            add(command, SampleKey{number}, std::optional<Sample>(), std::optional(Sample{names[number]}));
        } else if (role == Role::Standard && !batch.levels.contains(number)) {
            add(command, LevelKey{number}, std::optional<Level>(), std::optional(Level{}));
        } else if (const QcKey key{number, 1, role}; hasNominal(role) && !batch.qcs.contains(key)) {
            add(command, key, std::optional<QcSample>(), std::optional(QcSample{}));
        }
    }
    return command;
}

Result<Command> fillRest(const Batch& batch, Role role, int replicates, Direction direction) {
    std::vector<Place> rest;
    for (const Place place : placesOf(batch)) {
        if (batch.at(place).role == Role::Empty) {
            rest.push_back(place);
        }
    }
    if (rest.empty()) {
        return fail("layout.nothing-left", "No place is empty, so there is nothing left to fill.",
                    "Select the places you want to change and choose a role.");
    }
    auto command = assignRole(batch, rest, role, replicates, direction);
    if (command) {
        command->label = "Filled the rest with " + std::string(roleWord(role)) + (isBlank(role) ? "s" : " places");
    }
    return command;
}

Result<Command> addPreparations(const Batch& batch, const std::vector<Place>& places, int replicates,
                                Direction direction) {
    const auto ordered = countedPlaces(batch, places, replicates, direction);
    if (!ordered) {
        return tl::unexpected(ordered.error());
    }
    const std::set<Place> taken(ordered->begin(), ordered->end());
    std::map<int, int> last; // preparation of each sample that is laid out elsewhere
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role == Role::Unknown && !taken.contains(place)) {
            last[assignment.number] = std::max(last[assignment.number], assignment.preparation);
        }
    }
    if (last.empty()) {
        return fail("layout.no-sample", "There is no unknown yet that a further dilution could be of.",
                    "Assign unknowns first.");
    }
    Command command;
    command.label = placesText(batch, *ordered) + " → further dilution";
    const std::vector<int> steps = replicateSteps(batch, *ordered, replicates);
    Assignment group;
    for (std::size_t i = 0; i < ordered->size(); ++i) {
        if (i == 0 || steps[i] != steps[i - 1]) {
            const auto least = std::min_element(last.begin(), last.end(),
                                                [](const auto& a, const auto& b) { return a.second < b.second; });
            const double before = batch.dilution({Role::Unknown, least->first, least->second});
            group = {Role::Unknown, least->first, ++least->second};
            if (const PreparationKey key{group.number, group.preparation}; !batch.preparations.contains(key)) {
                add(command, key, std::optional<Preparation>(), std::optional(Preparation{before}));
            }
        }
        add(command, (*ordered)[i], findOptional<Assignment>(batch.places, (*ordered)[i]), std::optional(group));
    }
    return command;
}

Result<Command> setDilution(const Batch& batch, Assignment group, double dilution) {
    const auto sample = batch.samples.find(group.number);
    if (group.role != Role::Unknown || sample == batch.samples.end()) {
        return fail("layout.no-sample", shortName(batch, group) + " is no sample, so it has no dilution.",
                    "Choose an unknown.");
    }
    if (group.preparation == 1) {
        Sample changed = sample->second;
        changed.dilution = dilution;
        return setSample(batch, group.number, changed);
    }
    if (auto valid = validate(Preparation{dilution}); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    command.label = "Dilution of " + shortName(batch, group) + " × " + formatNumber(batch.dilution(group)) + " → × " +
                    formatNumber(dilution);
    const PreparationKey key{group.number, group.preparation};
    add(command, key, findOptional<Preparation>(batch.preparations, key), std::optional(Preparation{dilution}));
    return command;
}

Result<Command> setSeries(const Batch& batch, const Series& series, int analyte) {
    const auto concentrations = seriesConcentrations(series);
    const auto known = requireAnalyte(batch, analyte);
    if (!concentrations || !known) {
        return tl::unexpected(!known ? known.error() : concentrations.error());
    }
    Command command;
    command.label = "Series " + formatNumber(series.first) + (series.isDivided ? " divided by " : " multiplied by ") +
                    formatNumber(series.factor) + ", " + std::to_string(series.levels) + " levels";
    int number = 1;
    for (const double concentration : *concentrations) {
        const LevelKey key{number, analyte};
        add(command, key, findOptional<Level>(batch.levels, key),
            std::optional(Level{concentration, isAnchor(batch, key)}));
        ++number;
    }
    for (const auto& [key, level] : batch.levels) {
        if (key.analyte == analyte && key.number > series.levels && level.concentration.value_or(0) != 0) {
            add(command, key, std::optional(level), std::optional(Level{}));
        }
    }
    return command;
}

Result<Command> setLevel(const Batch& batch, int number, std::optional<double> concentration, int analyte) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    if (auto valid = validate(Level{concentration}); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    command.label = "Concentration of S" + std::to_string(number) + " → " +
                    valueText(concentration, batch.method.analyte(analyte).unit);
    const LevelKey key{number, analyte};
    add(command, key, findOptional<Level>(batch.levels, key),
        std::optional(Level{concentration, isAnchor(batch, key)}));
    return command;
}

Result<Command> setAnchor(const Batch& batch, int number, bool isAnchor, int analyte) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Command command;
    command.label = "S" + std::to_string(number) + (isAnchor ? " is an anchor" : " is no anchor any more");
    const LevelKey key{number, analyte};
    const auto before = findOptional<Level>(batch.levels, key);
    Level after = before.value_or(Level{});
    after.isAnchor = isAnchor;
    add(command, key, before, std::optional(after));
    return command;
}

Result<Command> pasteLevels(const Batch& batch, int first, const std::string& text, int analyte) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    std::vector<int> numbers = PlaceIndex(batch).numbersOf(Role::Standard);
    std::erase_if(numbers, [first](int number) { return number < first; });
    const std::vector<std::string> lines = pastedLines(text);
    if (lines.empty()) {
        return fail("layout.levels-empty", "The clipboard holds no concentrations.",
                    "Copy a column of concentrations and paste again.");
    }
    if (lines.size() > numbers.size()) {
        return fail("layout.levels-too-many",
                    "The pasted column has " + std::to_string(lines.size()) + " concentrations, but from S" +
                        std::to_string(first) + " on there are " + std::to_string(numbers.size()) + " levels.",
                    "Select the level of the first concentration, or assign more standards.");
    }
    Command command;
    command.label = std::to_string(lines.size()) + (lines.size() == 1 ? " concentration" : " concentrations") +
                    " pasted from S" + std::to_string(first) + " on";
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const std::string_view cell = trimmed(lines[i]);
        const LevelKey key{numbers[i], analyte};
        Level after{parseTyped(cell), isAnchor(batch, key)};
        if (!cell.empty() && !after.concentration) {
            return fail("layout.levels-number",
                        "Line " + std::to_string(i + 1) + " of the pasted block: \"" + std::string(cell) +
                            "\" is not a concentration.",
                        "Copy the column of concentrations alone, without its heading.");
        }
        if (auto valid = validate(after); !valid) {
            return tl::unexpected(valid.error());
        }
        add(command, key, findOptional<Level>(batch.levels, key), std::optional(after));
    }
    return command;
}

bool hasGapsInStandards(const Batch& batch) {
    const auto numbers = PlaceIndex(batch).numbersOf(Role::Standard);
    return !numbers.empty() && numbers.back() != static_cast<int>(numbers.size());
}

Result<Command> renumberStandards(const Batch& batch) {
    const auto numbers = PlaceIndex(batch).numbersOf(Role::Standard);
    Command command;
    command.label = "Standards numbered S1 to S" + std::to_string(numbers.size());
    const auto newNumber = [&numbers](int number) {
        const auto found = std::lower_bound(numbers.begin(), numbers.end(), number);
        return static_cast<int>(found - numbers.begin()) + 1;
    };
    for (const auto& [place, assignment] : batch.places) {
        if (assignment.role == Role::Standard) {
            add(command, place, std::optional(assignment),
                std::optional(Assignment{Role::Standard, newNumber(assignment.number)}));
        }
    }
    // The concentration of a level that no well uses any more has no number left to stand under.
    std::map<LevelKey, Level> after;
    for (const auto& [key, level] : batch.levels) {
        if (std::binary_search(numbers.begin(), numbers.end(), key.number)) {
            after[{newNumber(key.number), key.analyte}] = level;
        }
    }
    addDifferences(command, batch.levels, after);
    return command;
}

Result<Command> setQc(const Batch& batch, int number, const QcSample& qc, int analyte, Role role) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    if (auto valid = validate(qc); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    command.label = (role == Role::Qc ? "QC " : "Check standard ") + std::to_string(number) + " → " +
                    (qc.name.empty() ? "" : qc.name + ", ") + valueText(qc.nominal, batch.method.analyte(analyte).unit);
    const QcKey key{number, analyte, role};
    add(command, key, findOptional<QcSample>(batch.qcs, key), std::optional(qc));
    return command;
}

Result<Command> setSample(const Batch& batch, int number, const Sample& sample) {
    if (auto valid = validate(sample); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    const std::string sampleName = shortName(batch, {Role::Unknown, number});
    const auto before = findOptional<Sample>(batch.samples, number);
    command.label = sampleName + " changed";
    if (!before || before->name != sample.name) {
        command.label = sampleName + " → " + (sample.name.empty() ? "no name" : sample.name);
    } else if (before->dilution != sample.dilution) {
        command.label = "Dilution of " + sampleName + " × " + formatNumber(before->dilution) + " → × " +
                        formatNumber(sample.dilution);
    } else if (before->note != sample.note) {
        command.label = "Note on " + sampleName;
    }
    add(command, SampleKey{number}, before, std::optional(sample));
    return command;
}

Result<Command> pasteSampleNames(const Batch& batch, int first, const std::string& text) {
    std::vector<int> numbers = PlaceIndex(batch).numbersOf(Role::Unknown);
    std::erase_if(numbers, [first](int number) { return number < first; });
    const std::vector<std::string> lines = pastedLines(text);
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
        const auto before = findOptional<Sample>(batch.samples, numbers[i]);
        Sample after = before.value_or(Sample{});
        const auto tab = lines[i].find('\t');
        after.name = std::string(trimmed(std::string_view(lines[i]).substr(0, tab)));
        if (tab != std::string::npos) {
            const std::string_view cell = trimmed(std::string_view(lines[i]).substr(tab + 1));
            const auto dilution = parseDilution(std::string(cell)); // a factor, or parts
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

} // namespace nuvat
