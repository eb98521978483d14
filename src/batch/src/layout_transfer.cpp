#include "nuvat/batch/layout_transfer.h"

#include "command_parts.h"
#include "nuvat/batch/place_index.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"

#include <algorithm>
#include <array>
#include <charconv>
#include <iterator>
#include <set>
#include <sstream>

namespace nuvat {

namespace {

/// What a code begins with, by role; longer ones before those that they begin with.
constexpr std::array<std::pair<const char*, Role>, 10> kCodes{{{"DOUBLE BLANK", Role::DoubleBlank},
                                                               {"REAGENT BLANK", Role::ReagentBlank},
                                                               {"BLANK", Role::Blank},
                                                               {"CHECK", Role::CheckStandard},
                                                               {"NEG", Role::NegativeControl},
                                                               {"QC", Role::Qc},
                                                               {"B", Role::Blank},
                                                               {"C", Role::CheckStandard},
                                                               {"S", Role::Standard},
                                                               {"U", Role::Unknown}}};

/// The number that a text is as a whole.
std::optional<int> wholeNumber(std::string_view text) {
    int value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    return error == std::errc{} && end == text.data() + text.size() && value >= 1 ? std::optional(value) : std::nullopt;
}

/// "07.2", "07 SP", "07 +1": a sample, what was made of it, and its preparation.
std::optional<Assignment> sampleFrom(std::string_view rest) {
    Assignment out{Role::Unknown, 0};
    if (rest.ends_with(" SP")) {
        out.role = Role::Spike;
        rest.remove_suffix(3);
    }
    const auto cut = rest.find_first_of(".+");
    const auto number = wholeNumber(trimmed(rest.substr(0, cut)));
    const auto preparation = cut == std::string_view::npos ? std::optional(1) : wholeNumber(rest.substr(cut + 1));
    if (!number || !preparation) {
        return std::nullopt;
    }
    out.role = cut != std::string_view::npos && rest[cut] == '+' ? Role::Addition : out.role;
    out.number = *number;
    out.preparation = *preparation;
    return out;
}

std::vector<std::vector<std::string>> cellsOf(const std::string& text) {
    std::vector<std::vector<std::string>> out;
    std::istringstream lines(text);
    std::string line;
    while (std::getline(lines, line)) {
        std::vector<std::string> cells;
        for (std::size_t from = 0; from <= line.size();) {
            const std::size_t tab = std::min(line.find('\t', from), line.size());
            cells.emplace_back(trimmed(std::string_view(line).substr(from, tab - from)));
            from = tab + 1;
        }
        out.push_back(std::move(cells));
    }
    while (!out.empty() && std::ranges::all_of(out.back(), [](const auto& cell) { return cell.empty(); })) {
        out.pop_back();
    }
    return out;
}

/// Column numbers above and row letters before the cells are no part of the layout.
void dropHeadings(std::vector<std::vector<std::string>>& cells) {
    if (cells.size() < 2 || cells[0].size() < 2 || !cells[0][0].empty() || !wholeNumber(cells[0][1])) {
        return;
    }
    cells.erase(cells.begin());
    for (auto& row : cells) {
        if (!row.empty()) {
            row.erase(row.begin());
        }
    }
}

using Moved = std::map<Place, Assignment>;

/// The batch with places emptied, then others filled.
Batch withPlaces(const Batch& batch, const std::vector<Place>& cleared, const Moved& put) {
    Batch after = batch;
    for (const Place place : cleared) {
        after.places.erase(place);
    }
    for (const auto& [place, assignment] : put) {
        after.places.insert_or_assign(place, assignment);
    }
    return after;
}

std::vector<Place> placesIn(const Moved& put) {
    std::vector<Place> out;
    std::ranges::transform(put, std::back_inserter(out), [](const auto& one) { return one.first; });
    return out;
}

Result<Command> beyond(const Batch& batch, int carrier) {
    return fail("layout.beyond", "It reaches over the edge of " + carrierName(batch.carriers, carrier) + ".",
                "Begin further to the left or further up.");
}

} // namespace

std::string layoutCode(Assignment assignment) {
    static const Batch plain; // without names that were given
    return assignment.role == Role::Empty ? std::string() : shortName(plain, assignment);
}

std::optional<Assignment> assignmentFromCode(const Batch& batch, const std::string& code) {
    const std::string upper = upperCase(std::string(trimmed(code)));
    for (const auto& [key, qc] : batch.qcs) {
        if (!qc.name.empty() && upperCase(qc.name) == upper) {
            return Assignment{key.role, key.number};
        }
    }
    for (const auto& [prefix, role] : kCodes) {
        if (!upper.starts_with(prefix)) {
            continue;
        }
        const std::string_view rest = trimmed(std::string_view(upper).substr(std::string_view(prefix).size()));
        if (role == Role::Unknown) {
            return sampleFrom(rest);
        }
        if (!isCounted(role) || rest.empty()) {
            return rest.empty() && !isCounted(role) ? std::optional(Assignment{role, 0}) : std::nullopt;
        }
        if (const auto number = wholeNumber(rest)) {
            return Assignment{role, *number};
        }
    }
    return std::nullopt;
}

std::string copyLayout(const Batch& batch, const std::vector<Place>& places) {
    if (places.empty()) {
        return {};
    }
    const std::set<Place> wanted(places.begin(), places.end());
    Place low = places.front(), high = places.front();
    for (const Place place : places) {
        low = {std::min(low.row, place.row), std::min(low.column, place.column), place.carrier};
        high = {std::max(high.row, place.row), std::max(high.column, place.column), place.carrier};
    }
    std::string out;
    for (int column = low.column; column <= high.column; ++column) {
        out += "\t" + std::to_string(column + 1);
    }
    for (int row = low.row; row <= high.row; ++row) {
        out += "\n" + rowLetters(row);
        for (int column = low.column; column <= high.column; ++column) {
            const Place place{row, column, low.carrier};
            out += "\t" + (wanted.contains(place) ? layoutCode(batch.at(place)) : std::string());
        }
    }
    return out + "\n";
}

Result<Command> pasteLayout(const Batch& batch, Place corner, const std::string& text) {
    auto cells = cellsOf(text);
    dropHeadings(cells);
    Moved put;
    for (std::size_t row = 0; row < cells.size(); ++row) {
        for (std::size_t column = 0; column < cells[row].size(); ++column) {
            const std::string& code = cells[row][column];
            if (code.empty()) {
                continue;
            }
            const auto assignment = assignmentFromCode(batch, code);
            if (!assignment) {
                return fail("layout.code",
                            "\"" + code + "\" (line " + std::to_string(row + 1) + ", cell " +
                                std::to_string(column + 1) + " of the block) says no role.",
                            "Roles are written S1, Blank, QC 1, U01, U01.2.");
            }
            const Place place{corner.row + static_cast<int>(row), corner.column + static_cast<int>(column),
                              corner.carrier};
            if (!batch.holds(place)) {
                return beyond(batch, corner.carrier);
            }
            put[place] = *assignment;
        }
    }
    if (put.empty()) {
        return fail("layout.block-empty", "There is no role in what was pasted.", "Copy a part of a layout first.");
    }
    return layoutChange(batch, withPlaces(batch, {}, put), "Layout pasted into " + placesText(batch, placesIn(put)));
}

bool isLayoutBlock(const Batch& batch, const std::string& text) {
    auto cells = cellsOf(text);
    const bool isWide = std::ranges::any_of(cells, [](const auto& row) { return row.size() > 1; });
    dropHeadings(cells);
    std::size_t codes = 0;
    for (const auto& row : cells) {
        for (const std::string& cell : row) {
            if (!cell.empty() && !assignmentFromCode(batch, cell)) {
                return false;
            }
            codes += cell.empty() ? 0u : 1u;
        }
    }
    return isWide && codes > 0;
}

Result<Command> mirrorLayout(const Batch& batch, int carrier, Mirror how) {
    const Carrier& size = batch.carriers.at(carrier);
    std::vector<Place> cleared;
    Moved put;
    for (const auto& [place, assignment] : batch.places) {
        if (place.carrier == carrier) {
            cleared.push_back(place);
            put[{how == Mirror::LeftRight ? place.row : size.rows - 1 - place.row,
                 how == Mirror::TopBottom ? place.column : size.columns - 1 - place.column, carrier}] = assignment;
        }
    }
    return layoutChange(batch, withPlaces(batch, cleared, put),
                        how == Mirror::LeftRight   ? "Layout mirrored, left to right"
                        : how == Mirror::TopBottom ? "Layout mirrored, top to bottom"
                                                   : "Layout turned by half");
}

Result<Command> moveLayout(const Batch& batch, const std::vector<Place>& places, int rows, int columns) {
    std::vector<Place> cleared;
    Moved put;
    for (const Place place : places) {
        const Assignment assignment = batch.at(place);
        if (assignment.role == Role::Empty) {
            continue;
        }
        const Place target{place.row + rows, place.column + columns, place.carrier};
        if (!batch.holds(target)) {
            return beyond(batch, place.carrier);
        }
        cleared.push_back(place);
        put[target] = assignment;
    }
    return layoutChange(batch, withPlaces(batch, cleared, put), "Layout moved to " + placesText(batch, placesIn(put)));
}

Result<Command> copyLayoutTo(const Batch& batch, int from, int to) {
    const Carrier &source = batch.carriers.at(from), &target = batch.carriers.at(to);
    if (source.rows != target.rows || source.columns != target.columns) {
        return fail("layout.size",
                    carrierName(batch.carriers, from) + " and " + carrierName(batch.carriers, to) +
                        " are not of one size.",
                    "Choose plates of the same size.");
    }
    const auto isNumbered = [](Role role) { return isOfSample(role) || role == Role::Unknown; };
    int highest = 0;
    std::vector<Place> cleared;
    std::map<int, int> numbers; // in the order of the plate that is repeated
    for (const auto& [place, assignment] : batch.places) {
        if (place.carrier == to) {
            cleared.push_back(place);
        } else if (isNumbered(assignment.role)) {
            highest = std::max(highest, assignment.number);
            if (place.carrier == from) {
                numbers[assignment.number] = 0;
            }
        }
    }
    for (auto& [old, number] : numbers) {
        number = ++highest;
    }
    Moved put;
    for (const auto& [place, assignment] : batch.places) {
        if (place.carrier == from) {
            Assignment copied = assignment;
            copied.number = isNumbered(assignment.role) ? numbers.at(assignment.number) : assignment.number;
            put[{place.row, place.column, to}] = copied;
        }
    }
    Batch after = withPlaces(batch, cleared, put);
    for (const auto& [old, number] : numbers) {
        const auto found = batch.samples.find(old);
        after.samples[number] = Sample{.dilution = found == batch.samples.end() ? 1 : found->second.dilution};
        for (const auto& [key, preparation] : batch.preparations) {
            if (key.number == old) {
                after.preparations[{number, key.preparation}] = preparation;
            }
        }
    }
    return layoutChange(batch, after,
                        "Layout of " + carrierName(batch.carriers, from) + " for " + carrierName(batch.carriers, to));
}

namespace {

template<class Map> Result<void> validateAll(const Map& items) {
    for (const auto& [key, item] : items) {
        if (auto valid = validate(item); !valid) {
            return valid;
        }
    }
    return {};
}

} // namespace

Result<Command> layoutChange(const Batch& batch, const Batch& after, std::string label) {
    for (const Result<void>& valid : {validateAll(after.places), validateAll(after.levels), validateAll(after.qcs),
                                      validateAll(after.samples), validateAll(after.preparations)}) {
        if (!valid) {
            return tl::unexpected(valid.error());
        }
    }
    Command command;
    command.label = std::move(label);
    addDifferences(command, batch.places, after.places);
    addDifferences(command, batch.levels, after.levels);
    addDifferences(command, batch.qcs, after.qcs);
    addDifferences(command, batch.preparations, after.preparations);
    std::map<int, Sample> samples = after.samples;
    for (const auto& [place, assignment] : after.places) { // what a number stands for exists from its first place on
        if (assignment.role == Role::Unknown) {
            samples.try_emplace(assignment.number);
        }
    }
    for (const auto& [number, sample] : samples) {
        add(command, SampleKey{number}, findOptional<Sample>(batch.samples, number), std::optional(sample));
    }
    return command;
}

} // namespace nuvat
