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
#include <sstream>

namespace nuvat {

namespace {

/// What a code begins with, by role; longer ones before those that they begin with.
constexpr std::array<std::pair<const char*, Role>, 10> kCodes{{{"DOUBLE BLANK", Role::DoubleBlank},
                                                               {"REAGENT BLANK", Role::ReagentBlank},
                                                               {"BLANK", Role::Blank},
                                                               {"CHECK", Role::CheckStandard},
                                                               {"NEGATIVE", Role::NegativeControl},
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

/// "07.2", "07 sp", "07 +1": a sample, what was made of it, and its preparation.
std::optional<Assignment> sampleFrom(std::string_view rest) {
    const auto cut = rest.find_first_of(". +");
    const auto number = wholeNumber(rest.substr(0, cut));
    if (!number || cut == std::string_view::npos) {
        return number ? std::optional(Assignment{Role::Unknown, *number}) : std::nullopt;
    }
    const std::string_view tail = trimmed(rest.substr(cut));
    if (tail.starts_with('.') || tail.starts_with('+')) {
        const auto preparation = wholeNumber(tail.substr(1));
        return preparation
                   ? std::optional(Assignment{tail[0] == '+' ? Role::Addition : Role::Unknown, *number, *preparation})
                   : std::nullopt;
    }
    return tail == "SP" ? std::optional(Assignment{Role::Spike, *number}) : std::nullopt;
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

/// The places of a carrier with what sits in them, moved by a rule; nothing for those that leave the plate.
using Moved = std::map<Place, Assignment>;

Command replacing(const Batch& batch, const std::vector<Place>& cleared, const Moved& put, std::string label) {
    std::map<Place, Assignment> after = batch.places;
    for (const Place place : cleared) {
        after.erase(place);
    }
    for (const auto& [place, assignment] : put) {
        after.insert_or_assign(place, assignment);
    }
    Command command;
    command.label = std::move(label);
    addDifferences(command, batch.places, after);
    return command;
}

Result<Command> beyond(const Batch& batch, int carrier) {
    return fail("layout.beyond", "It reaches over the edge of " + carrierName(batch.carriers, carrier) + ".",
                "Begin further to the left or further up.");
}

} // namespace

std::string layoutCode(Assignment assignment) {
    static const Batch plain; // without names that were given
    switch (assignment.role) {
    case Role::Empty:
        return {};
    case Role::DoubleBlank:
        return "Double blank";
    case Role::ReagentBlank:
        return "Reagent blank";
    case Role::CheckStandard:
        return "Check " + std::to_string(assignment.number);
    case Role::NegativeControl:
        return "Negative " + std::to_string(assignment.number);
    case Role::Addition:
        return shortName(plain, {Role::Unknown, assignment.number}) + " +" + std::to_string(assignment.preparation);
    default:
        return shortName(plain, assignment);
    }
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
            const bool isIn = std::ranges::find(places, place) != places.end();
            out += "\t" + (isIn ? layoutCode(batch.at(place)) : std::string());
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
    std::vector<Place> places;
    std::ranges::transform(put, std::back_inserter(places), [](const auto& one) { return one.first; });
    return replacing(batch, {}, put, "Layout pasted into " + placesText(batch, places));
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
    return replacing(batch, cleared, put,
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
    std::vector<Place> moved;
    std::ranges::transform(put, std::back_inserter(moved), [](const auto& one) { return one.first; });
    return replacing(batch, cleared, put, "Layout moved to " + placesText(batch, moved));
}

Result<Command> copyLayoutTo(const Batch& batch, int from, int to) {
    const Carrier &source = batch.carriers.at(from), &target = batch.carriers.at(to);
    if (source.rows != target.rows || source.columns != target.columns) {
        return fail("layout.size",
                    carrierName(batch.carriers, from) + " and " + carrierName(batch.carriers, to) +
                        " are not of one size.",
                    "Choose plates of the same size.");
    }
    int highest = 0;
    std::vector<Place> cleared;
    for (const auto& [place, assignment] : batch.places) {
        if (place.carrier == to) {
            cleared.push_back(place);
        } else if (isOfSample(assignment.role) || assignment.role == Role::Unknown) {
            highest = std::max(highest, assignment.number);
        }
    }
    Moved put;
    std::map<int, int> numbers;
    for (const auto& [place, assignment] : batch.places) {
        if (place.carrier == from) {
            Assignment copied = assignment;
            if (isOfSample(assignment.role) || assignment.role == Role::Unknown) {
                const auto [entry, isNew] = numbers.try_emplace(assignment.number, highest + 1);
                highest += isNew ? 1 : 0;
                copied.number = entry->second;
            }
            put[{place.row, place.column, to}] = copied;
        }
    }
    Command command =
        replacing(batch, cleared, put,
                  "Layout of " + carrierName(batch.carriers, from) + " for " + carrierName(batch.carriers, to));
    for (const auto& [old, number] : numbers) {
        Sample sample;
        if (const auto found = batch.samples.find(old); found != batch.samples.end()) {
            sample.dilution = found->second.dilution;
        }
        add(command, SampleKey{number}, findOptional<Sample>(batch.samples, number), std::optional(sample));
        for (const auto& [key, preparation] : batch.preparations) {
            if (key.number == old) {
                const PreparationKey copy{number, key.preparation};
                add(command, copy, findOptional<Preparation>(batch.preparations, copy), std::optional(preparation));
            }
        }
    }
    return command;
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
    for (const auto& [number, sample] : after.samples) {
        add(command, SampleKey{number}, findOptional<Sample>(batch.samples, number), std::optional(sample));
    }
    return command;
}

} // namespace nuvat
