// A run list before it is measured: its blocks, what speaks against starting it, how long it takes.
#include "nuvat/batch/run_list.h"

#include "command_parts.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/units.h"

#include <algorithm>
#include <map>
#include <set>

namespace nuvat {

namespace {

RunBlockKind kindOf(Role role) {
    if (role == Role::Empty) {
        return RunBlockKind::Other;
    }
    return isBlank(role)            ? RunBlockKind::Blank
           : role == Role::Standard ? RunBlockKind::Standards
                                    : RunBlockKind::Samples;
}

bool isPlanned(const Batch& batch, Place place) {
    const auto run = batch.runs.find(place);
    return run != batch.runs.end() && run->second.state == RunState::Planned;
}

Result<void> requireList(const Batch& batch, int carrier) {
    const auto found = batch.carriers.find(carrier);
    if (found == batch.carriers.end() || found->second.kind != CarrierKind::RunList) {
        return fail("batch.carrier", "There is no run list " + std::to_string(carrier) + " in this batch.",
                    "Choose one that is there.");
    }
    return {};
}

Result<void> requirePlanned(const Batch& batch, int carrier, int from, int to) {
    for (int row = from; row < to; ++row) {
        if (const Place place{row, 0, carrier}; !isPlanned(batch, place)) {
            return fail("runs.measured", placeTitle(batch, place) + " has been measured; its place is its history.",
                        "Move or remove runs that are still planned.");
        }
    }
    return {};
}

/// Puts what is known of planned runs into other rows. @param move gives the new row of one, or nothing: it goes
template<class Move> void moveRows(const Batch& batch, int carrier, Command& command, const Move& move) {
    const auto ofPlace = [&](Place place) -> std::optional<Place> {
        if (place.carrier != carrier) {
            return place;
        }
        const std::optional<int> row = move(place.row);
        return row ? std::optional(Place{*row, place.column, carrier}) : std::nullopt;
    };
    moveKeys(command, batch.runs, ofPlace);
    moveKeys(command, batch.places, ofPlace);
    moveKeys(command, batch.exclusions, [&](const ExclusionKey& key) {
        const auto place = ofPlace(key.place);
        return place ? std::optional(ExclusionKey{*place, key.analyte}) : std::nullopt;
    });
}

} // namespace

std::vector<RunBlock> blocksOf(const Batch& batch, int carrier) {
    std::vector<RunBlock> out;
    if (!requireList(batch, carrier)) {
        return out;
    }
    const int rows = batch.carriers.at(carrier).rows;
    const auto kindAt = [&](int row) { return kindOf(batch.at({row, 0, carrier}).role); };
    for (int row = 0; row < rows; ++row) {
        RunBlockKind kind = kindAt(row);
        const bool isBetween = kind == RunBlockKind::Blank && !out.empty() &&
                               out.back().kind == RunBlockKind::Samples && row + 1 < rows &&
                               kindAt(row + 1) == RunBlockKind::Samples;
        kind = isBetween ? RunBlockKind::Samples : kind;
        if (out.empty() || out.back().kind != kind) {
            out.push_back({kind, row, 0});
        }
        ++out.back().count;
    }
    return out;
}

Result<Command> moveRuns(const Batch& batch, int carrier, int first, int count, int before) {
    if (auto known = requireList(batch, carrier); !known) {
        return tl::unexpected(known.error());
    }
    const int rows = batch.carriers.at(carrier).rows;
    if (first < 0 || count < 1 || first + count > rows || before < 0 || before > rows) {
        return fail("layout.place", "These rows are not on the list.", "Choose runs of the list.");
    }
    if (before >= first && before <= first + count) {
        return fail("runs.there", "The runs stand there already.", "Move them to another row.");
    }
    const int from = std::min(first, before), to = std::max(first + count, before);
    if (auto planned = requirePlanned(batch, carrier, from, to); !planned) {
        return tl::unexpected(planned.error());
    }
    // What lies between makes room.
    const int by = before < first ? before - first : before - first - count;
    const int between = before < first ? count : -count;
    const auto newRow = [=](int row) {
        const bool isMoved = row >= first && row < first + count;
        return std::optional(row + (isMoved ? by : row >= from && row < to ? between : 0));
    };
    Command command;
    command.label =
        count == 1 ? placeTitle(batch, {first, 0, carrier}) + " moved" : std::to_string(count) + " runs moved";
    moveRows(batch, carrier, command, newRow);
    return command;
}

Result<Command> removeRuns(const Batch& batch, const std::vector<Place>& places) {
    if (places.empty()) {
        return fail("runs.none", "No run is chosen.", "Choose runs that are still planned.");
    }
    const int carrier = places.front().carrier;
    if (auto known = requireList(batch, carrier); !known) {
        return tl::unexpected(known.error());
    }
    std::set<int> gone;
    for (const Place place : places) {
        if (auto planned = requirePlanned(batch, place.carrier, place.row, place.row + 1); !planned) {
            return tl::unexpected(planned.error());
        }
        if (place.carrier == carrier) {
            gone.insert(place.row);
        }
    }
    const int rows = batch.carriers.at(carrier).rows;
    // What was measured keeps its row.
    if (auto planned = requirePlanned(batch, carrier, *gone.begin(), rows); !planned) {
        return tl::unexpected(planned.error());
    }
    const Carrier before = batch.carriers.at(carrier);
    Carrier after = before;
    after.rows = std::max(1, rows - static_cast<int>(gone.size()));
    Command command;
    command.label = gone.size() == 1 ? "Planned run removed" : std::to_string(gone.size()) + " planned runs removed";
    moveRows(batch, carrier, command, [&](int row) -> std::optional<int> {
        if (gone.contains(row)) {
            return std::nullopt;
        }
        return row - static_cast<int>(std::distance(gone.begin(), gone.lower_bound(row)));
    });
    add(command, CarrierKey{carrier}, std::optional(before), std::optional(after));
    return command;
}

namespace {

/// The planned runs of a list, and what is said of them.
class ListReview {
public:
    ListReview(const Batch& batch, int carrier) : m_batch(batch), m_carrier(carrier) {
        for (const auto& [place, run] : batch.runs) {
            if (place.carrier == carrier && run.state == RunState::Planned) {
                m_planned.push_back(place);
            }
        }
    }

    std::vector<ListCheck> all() {
        if (!m_planned.empty()) {
            vials();
            levels();
            blanks();
            names();
        }
        return std::move(m_checks);
    }

private:
    void good(std::string sentence) { m_checks.push_back({std::move(sentence), true, {}}); }
    void bad(std::string sentence, std::vector<Place> places) {
        m_checks.push_back({std::move(sentence), false, std::move(places)});
    }
    const Run& run(Place place) const { return m_batch.runs.at(place); }

    void vials() {
        std::set<std::string> used;
        bool isAny = false;
        for (const Place place : m_planned) {
            const std::string vial(trimmed(run(place).vial));
            used.insert(vial);
            if (vial.empty()) {
                isAny = true;
                bad(placeTitle(m_batch, place) + " (" + run(place).name + ") has no vial.", {place});
            }
        }
        if (!isAny) {
            good(std::to_string(used.size()) + (used.size() == 1 ? " vial for " : " vials for ") +
                 std::to_string(m_planned.size()) + " runs.");
        }
    }

    void levels() {
        std::set<int> said;
        bool isAny = false;
        for (const Place place : m_planned) {
            const Assignment group = m_batch.at(place);
            if (group.role != Role::Standard || !said.insert(group.number).second) {
                continue;
            }
            isAny = true;
            const auto level = m_batch.concentration(group.number);
            const auto& plan = m_batch.method.plan;
            const std::string name = "Level S" + std::to_string(group.number);
            if (!level) {
                bad(name + " has no concentration.", {place});
            } else if (plan && *level > plan->rules.stock) {
                bad(name + ", " + formatNumber(*level) + ", lies above the stock of " +
                        formatNumber(plan->rules.stock) + ".",
                    {place});
            }
        }
        const bool isBad = std::ranges::any_of(
            m_checks, [](const ListCheck& one) { return !one.isGood && one.sentence.starts_with("Level S"); });
        if (isAny && !isBad) {
            good(m_batch.method.plan ? "No level missing, none above the stock." : "No level is missing.");
        }
    }

    /// A blank before the first standard, and one right after the highest.
    void blanks() {
        const auto roleAt = [&](int row) { return m_batch.at({row, 0, m_carrier}).role; };
        const auto first = std::ranges::find_if(m_planned, [&](Place p) { return roleAt(p.row) == Role::Standard; });
        if (first == m_planned.end()) {
            return;
        }
        bool hasBlank = false, hasStandard = false;
        for (int row = 0; row < first->row; ++row) {
            hasBlank = hasBlank || isBlank(roleAt(row));
            hasStandard = hasStandard || roleAt(row) == Role::Standard;
        }
        if (!hasBlank && !hasStandard) {
            bad("No blank is measured before the first standard, " + placeName(m_batch, *first) + ".", {*first});
        } else if (hasBlank) {
            good("A blank is measured before the first standard.");
        }
        std::optional<Place> highest;
        for (const Place place : m_planned) {
            const auto level = concentrationAt(place);
            if (level && (!highest || *level >= *concentrationAt(*highest))) {
                highest = place;
            }
        }
        if (highest && isBlank(roleAt(highest->row + 1))) {
            good("A blank follows the highest level, for carry-over.");
        }
    }

    std::optional<double> concentrationAt(Place place) const {
        const Assignment group = m_batch.at(place);
        return group.role == Role::Standard ? m_batch.concentration(group.number) : std::nullopt;
    }

    void names() {
        std::map<std::string, std::map<Assignment, std::vector<Place>>> byName;
        for (const Place place : m_planned) {
            byName[lowerCase(run(place).name)][m_batch.at(place)].push_back(place);
        }
        bool isAny = false;
        for (const auto& [name, groups] : byName) {
            // Dilutions of a sample go by its name.
            const bool isOne = std::ranges::all_of(groups, [&](const auto& one) {
                return one.first.role == groups.begin()->first.role && one.first.number == groups.begin()->first.number;
            });
            if (!name.empty() && !isOne) {
                isAny = true;
                bad("The name " + name + " stands for different things: " + shortName(m_batch, groups.begin()->first) +
                        " and " + shortName(m_batch, groups.rbegin()->first) + ".",
                    groups.rbegin()->second);
            }
        }
        if (!isAny) {
            good("Each name stands for one thing.");
        }
    }

    const Batch& m_batch;
    int m_carrier;
    std::vector<Place> m_planned;
    std::vector<ListCheck> m_checks;
};

} // namespace

std::vector<ListCheck> listChecks(const Batch& batch, int carrier) {
    return ListReview(batch, carrier).all();
}

std::vector<std::string> listProblems(const Batch& batch, int carrier) {
    std::vector<std::string> out;
    for (ListCheck& check : listChecks(batch, carrier)) {
        if (!check.isGood) {
            out.push_back(std::move(check.sentence));
        }
    }
    return out;
}

std::optional<double> secondsByRun(const Batch& batch, int carrier) {
    std::vector<double> gaps;
    std::int64_t before = 0;
    for (const auto& [place, run] : batch.runs) {
        if (place.carrier == carrier && run.injectedMillis > 0) {
            if (before > 0 && run.injectedMillis > before) {
                gaps.push_back(static_cast<double>(run.injectedMillis - before) / 1000);
            }
            before = run.injectedMillis;
        }
    }
    if (!gaps.empty()) {
        std::ranges::nth_element(gaps, gaps.begin() + static_cast<std::ptrdiff_t>(gaps.size() / 2));
        return gaps[gaps.size() / 2];
    }
    for (const auto& [slot, key] : batch.inUse) {
        const auto trace = slot.carrier == carrier && slot.place ? batch.readings.at(key)->payload.trace() : nullptr;
        if (trace && trace->size() > 1) {
            const double length = trace->x.empty() ? trace->step * static_cast<double>(trace->size() - 1)
                                                   : trace->x.back() - trace->x.front();
            const auto seconds = converted(length, unitSymbol(trace->xUnit), "s");
            return seconds ? std::optional(*seconds) : std::nullopt;
        }
    }
    return std::nullopt;
}

} // namespace nuvat
