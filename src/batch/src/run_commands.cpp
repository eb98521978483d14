// Runs of a list before, while and after they are measured.
#include "nuvat/batch/run_commands.h"

#include "command_parts.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace nuvat {

namespace {

bool isUntouched(const Batch& batch) {
    return batch.carriers.size() == 1 && batch.readings.empty() && !isLaidOut(batch, batch.carriers.begin()->first) &&
           batch.runs.empty();
}

/// Where runs are put: on the last list, or a new one. Adds what makes room.
Result<Place> makeRoom(const Batch& batch, int runs, Command& command) {
    const auto last = std::find_if(batch.carriers.rbegin(), batch.carriers.rend(),
                                   [](const auto& one) { return one.second.kind == CarrierKind::RunList; });
    const bool isNew = last == batch.carriers.rend() && !isUntouched(batch);
    if (isNew && batch.carriers.size() >= kMostCarriers) {
        return fail("batch.carriers", "A batch has at most " + std::to_string(kMostCarriers) + " plates and run lists.",
                    "Split it into several batches.");
    }
    const int number = isNew                           ? batch.carriers.rbegin()->first + 1
                       : last != batch.carriers.rend() ? last->first
                                                       : batch.carriers.begin()->first;
    std::optional<Carrier> before;
    if (!isNew) {
        before = batch.carriers.at(number);
    }
    const bool isList = before && before->kind == CarrierKind::RunList && !isUntouched(batch);
    Carrier after{CarrierKind::RunList, before ? before->name : "", (isList ? before->rows : 0) + runs, 1};
    if (auto valid = validate(after); !valid) {
        return tl::unexpected(valid.error());
    }
    const int first = after.rows - runs;
    add(command, CarrierKey{number}, before, std::optional(after));
    return Place{first, 0, number};
}

/// Numbers of groups, those of the batch first.
class Groups {
public:
    explicit Groups(const Batch& batch) : m_batch(batch) {
        for (const auto& [place, group] : batch.places) {
            m_next[group.role] = std::max(m_next[group.role], group.number);
        }
        for (const auto& [key, level] : batch.levels) {
            m_next[Role::Standard] = std::max(m_next[Role::Standard], key.number);
        }
        for (const auto& [key, qc] : batch.qcs) {
            m_next[key.role] = std::max(m_next[key.role], key.number);
        }
        for (const auto& [number, sample] : batch.samples) {
            m_next[Role::Unknown] = std::max(m_next[Role::Unknown], number);
        }
    }

    Assignment of(const PlannedRun& run, Command& command) {
        if (!isCounted(run.role)) {
            return {run.role, 0};
        }
        const std::pair key{run.role,
                            run.role == Role::Standard && run.level ? formatNumber(*run.level) : lowerCase(run.name)};
        if (const auto known = m_numbers.find(key); known != m_numbers.end()) {
            return {run.role, known->second};
        }
        const int existing = existingNumber(run);
        const int number = existing > 0 ? existing : ++m_next[run.role];
        m_numbers.emplace(key, number);
        if (existing == 0) {
            describe({run.role, number}, run, command);
        }
        return {run.role, number};
    }

private:
    int existingNumber(const PlannedRun& run) const {
        for (const auto& [key, level] : m_batch.levels) {
            if (run.role == Role::Standard && key.analyte == 1 && run.level && level.concentration == run.level) {
                return key.number;
            }
        }
        for (const auto& [key, qc] : m_batch.qcs) {
            if (key.role == run.role && key.analyte == 1 && lowerCase(qc.name) == lowerCase(run.name)) {
                return key.number;
            }
        }
        for (const auto& [number, sample] : m_batch.samples) {
            if (isOfSample(run.role) && !sample.name.empty() && lowerCase(sample.name) == lowerCase(run.name)) {
                return number;
            }
        }
        return 0;
    }

    void describe(Assignment group, const PlannedRun& run, Command& command) const {
        if (group.role == Role::Standard) {
            add(command, LevelKey{group.number}, findOptional<Level>(m_batch.levels, LevelKey{group.number}),
                std::optional(Level{run.level, false}));
        } else if (hasNominal(group.role)) {
            const QcKey key{group.number, 1, group.role};
            add(command, key, findOptional<QcSample>(m_batch.qcs, key), std::optional(QcSample{run.name, run.level}));
        } else if (isOfSample(group.role)) {
            add(command, SampleKey{group.number}, findOptional<Sample>(m_batch.samples, group.number),
                std::optional(Sample{run.name, run.dilution}));
        }
    }

    const Batch& m_batch;
    std::map<Role, int> m_next;
    std::map<std::pair<Role, std::string>, int> m_numbers;
};

} // namespace

Result<Command> planRuns(const Batch& batch, const std::vector<PlannedRun>& runs) {
    if (runs.empty()) {
        return fail("runs.none", "There is no run to put on the list.", "Name at least one.");
    }
    for (std::size_t i = 0; i < runs.size(); ++i) {
        if (trimmed(runs[i].name).empty()) {
            return fail("runs.name", "Row " + std::to_string(i + 1) + " of the list has no name.",
                        "Type what is in the vial.");
        }
        if (!(runs[i].dilution > 0) || !std::isfinite(runs[i].dilution)) {
            return fail("layout.dilution", "The dilution of " + runs[i].name + " is not above 0.", "Type 1 for none.");
        }
    }
    Command command;
    command.label = std::to_string(runs.size()) + (runs.size() == 1 ? " run planned" : " runs planned");
    const auto first = makeRoom(batch, static_cast<int>(runs.size()), command);
    if (!first) {
        return tl::unexpected(first.error());
    }
    Groups groups(batch);
    for (std::size_t i = 0; i < runs.size(); ++i) {
        const Place place{first->row + static_cast<int>(i), 0, first->carrier};
        Run run;
        run.name = runs[i].name;
        run.vial = runs[i].vial;
        run.injectedMicrolitres = runs[i].microlitres;
        run.state = RunState::Planned;
        add(command, place, findOptional<Run>(batch.runs, place), std::optional(run));
        add(command, place, findOptional<Assignment>(batch.places, place), std::optional(groups.of(runs[i], command)));
    }
    return command;
}

namespace {

/// Vials as a list is put together: a name keeps its vial.
class Vials {
public:
    explicit Vials(int first) : m_next(first) {}
    std::string of(const std::string& name) {
        const auto [found, isNew] = m_vials.try_emplace(name, std::to_string(m_next));
        m_next += isNew ? 1 : 0;
        return found->second;
    }

private:
    int m_next;
    std::map<std::string, std::string> m_vials;
};

std::vector<PlannedRun> standardsOf(const Batch& batch) {
    std::vector<PlannedRun> out;
    for (const auto& [key, level] : batch.levels) {
        if (key.analyte == 1 && level.concentration) {
            out.push_back({"Standard " + std::to_string(key.number), "", Role::Standard, level.concentration, 1, {}});
        }
    }
    std::ranges::stable_sort(out, {}, [](const PlannedRun& run) { return *run.level; });
    return out;
}

std::vector<PlannedRun> qcsOf(const Batch& batch) {
    std::vector<PlannedRun> out;
    for (const auto& [key, qc] : batch.qcs) {
        if (key.analyte == 1 && key.role == Role::Qc) {
            out.push_back(
                {qc.name.empty() ? "QC " + std::to_string(key.number) : qc.name, "", Role::Qc, qc.nominal, 1, {}});
        }
    }
    return out;
}

} // namespace

std::vector<PlannedRun> runsOfBlocks(const Batch& batch, const ListBlocks& blocks) {
    std::vector<PlannedRun> out;
    Vials vials(blocks.firstVial);
    const auto put = [&](PlannedRun run, int injections) {
        run.vial = run.vial.empty() ? vials.of(run.name) : run.vial;
        out.insert(out.end(), static_cast<std::size_t>(std::max(1, injections)), run);
    };
    const PlannedRun blank{blocks.blankName, "", Role::Blank, {}, 1, {}};
    const auto standards = standardsOf(batch);
    const auto qcs = blocks.qcEvery > 0 ? qcsOf(batch) : std::vector<PlannedRun>{};
    if (blocks.blankFirst) {
        put(blank, 1);
    }
    for (const PlannedRun& standard : standards) {
        put(standard, blocks.standardInjections);
    }
    if (blocks.blankAfterHighest && !standards.empty()) {
        put(blank, 1);
    }
    const auto putQcs = [&] {
        for (const PlannedRun& qc : qcs) {
            put(qc, 1);
        }
    };
    putQcs();
    int sinceQc = 0;
    for (const PlannedRun& sample : blocks.samples) {
        put(sample, blocks.sampleInjections);
        if (blocks.rinseBetween) {
            put(blank, 1);
        }
        if (blocks.qcEvery > 0 && ++sinceQc == blocks.qcEvery) {
            putQcs();
            sinceQc = 0;
        }
    }
    if (sinceQc > 0) {
        putQcs();
    }
    return out;
}

std::optional<Place> nextPlanned(const Batch& batch, int carrier) {
    for (const auto& [place, run] : batch.runs) {
        if (place.carrier == carrier && (run.state == RunState::Planned || run.state == RunState::Running)) {
            return place;
        }
    }
    return std::nullopt;
}

Result<Command> setRunState(const Batch& batch, Place place, RunState state) {
    if (auto known = requirePlace(batch, place); !known) {
        return tl::unexpected(known.error());
    }
    const auto before = findOptional<Run>(batch.runs, place);
    Run after = before.value_or(Run{});
    after.state = state;
    Command command;
    std::string word(name(state));
    std::ranges::replace(word, '-', ' ');
    command.label = placeTitle(batch, place) + ": " + word;
    add(command, place, before, std::optional(after));
    return command;
}

Result<Command> recordRun(const Batch& batch, Place place, const ImportedRun& run, RunState state,
                          std::int64_t injectedMillis, std::int64_t nowMillis) {
    if (auto known = requirePlace(batch, place); !known) {
        return tl::unexpected(known.error());
    }
    if (run.channels.empty()) {
        return fail("batch.reading", "The run has no trace.", "Measure it again.");
    }
    Command command;
    command.label = placeTitle(batch, place) + " measured" + (state == RunState::Failed ? ", cut short" : "");
    const auto before = findOptional<Run>(batch.runs, place);
    Run after = before.value_or(Run{});
    after.name = after.name.empty() ? run.name : after.name;
    after.file = run.source;
    after.state = state;
    after.injectedMillis = injectedMillis;
    add(command, place, before, std::optional(after));
    int key = batch.readings.empty() ? 0 : batch.readings.rbegin()->first;
    for (const auto& [channel, payload] : run.channels) {
        const Slot slot{place.carrier, place, channel};
        const auto used = batch.inUse.find(slot);
        const Reading reading{run.source, run.checksum, run.understood, nowMillis, slot, payload};
        add(command, ++key, std::optional<Reading>(), std::optional(reading));
        add(command, slot, used == batch.inUse.end() ? std::nullopt : std::optional(InUse{used->second}),
            std::optional(InUse{key}));
    }
    if (batch.readings.empty()) {
        BatchInfo info = batch.info;
        info.channel = run.channels.front().first;
        add(command, WholeBatch{}, std::optional(batch.info), std::optional(info));
    }
    return command;
}

namespace {

/// Keys of a list move down by one from a row on.
Place movedDown(Place place, Place from) {
    return place.carrier == from.carrier && place.row >= from.row ? Place{place.row + 1, place.column, place.carrier}
                                                                  : place;
}

/// Opens an empty row at a place of a list.
void openRow(const Batch& batch, Place at, Command& command) {
    const Carrier& carrier = batch.carriers.at(at.carrier);
    Carrier grown = carrier;
    ++grown.rows;
    add(command, CarrierKey{at.carrier}, std::optional(carrier), std::optional(grown));
    const auto ofPlace = [&](Place place) { return movedDown(place, at); };
    const auto ofSlot = [&](Slot slot) {
        slot.place = slot.place ? std::optional(movedDown(*slot.place, at)) : std::nullopt;
        return slot;
    };
    moveKeys(command, batch.runs, ofPlace);
    moveKeys(command, batch.places, ofPlace);
    moveKeys(command, batch.exclusions, [&](const ExclusionKey& key) {
        return ExclusionKey{movedDown(key.place, at), key.analyte};
    });
    moveKeys(command, batch.handEdits, ofSlot);
    std::map<Slot, InUse> before, after;
    for (const auto& [slot, key] : batch.inUse) {
        before.emplace(slot, InUse{key});
        after.emplace(ofSlot(slot), InUse{key});
    }
    addDifferences(command, before, after);
    for (const auto& [key, reading] : batch.readings) {
        Reading moved = *reading;
        moved.slot = ofSlot(moved.slot);
        add(command, key, std::optional(*reading), std::optional(moved));
    }
}

} // namespace

Result<Command> repeatRun(const Batch& batch, Place place, const std::string& reason, std::int64_t timeMillis) {
    if (auto known = requirePlace(batch, place); !known) {
        return tl::unexpected(known.error());
    }
    if (trimmed(reason).empty()) {
        return fail("exclusion.reason", "An exclusion needs a reason.", "Type why the run is repeated.");
    }
    Carrier grown = batch.carriers.at(place.carrier);
    ++grown.rows;
    if (auto valid = validate(grown); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    command.reason = std::string(trimmed(reason));
    command.label = placeTitle(batch, place) + " is repeated";
    const Place next{place.row + 1, place.column, place.carrier};
    openRow(batch, next, command);
    Batch moved = batch;
    applyChanges(moved, command, false);
    const auto before = findOptional<Run>(moved.runs, place);
    Run first = before.value_or(Run{}), again = first;
    first.state = RunState::SetAside;
    again.state = RunState::Planned;
    again.file.clear();
    again.injectedMillis = 0;
    add(command, place, before, std::optional(first));
    add(command, next, std::optional<Run>(), std::optional(again));
    add(command, next, std::optional<Assignment>(), findOptional<Assignment>(moved.places, place));
    if (!moved.isExcluded(place) && moved.at(place).role != Role::Empty) {
        add(command, ExclusionKey{place}, std::optional<Exclusion>(),
            std::optional(Exclusion{command.reason, timeMillis}));
    }
    return command;
}

namespace {

/// A dilution that brings a content to the middle of the range, of the series 2, 5, 10, 20, 50, …
double dilutionFor(double content, const Range& range) {
    const double wanted = 2 * content / (range.lloq.value_or(0) + *range.uloq);
    double decade = std::pow(10, std::floor(std::log10(std::max(wanted, 2.0))));
    for (const double step : {1.0, 2.0, 5.0, 10.0}) {
        if (step * decade >= wanted && step * decade >= 2) {
            return step * decade;
        }
    }
    return 10 * decade;
}

} // namespace

Result<Command> planDilutedAgain(const Batch& batch, const Evaluation& evaluation, int analyte) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    const AnalyteEvaluation& found = evaluation.analyte(analyte);
    std::map<int, int> preparations;
    for (const auto& [place, group] : batch.places) {
        if (group.role == Role::Unknown) {
            preparations[group.number] = std::max(preparations[group.number], group.preparation);
        }
    }
    struct Again {
        const SampleResult* result;
        double dilution;
        int preparation;
    };
    std::vector<Again> again;
    for (const SampleResult& result : found.results) {
        const bool isAbove = result.status == ResultStatus::AboveRange && result.readOff.x;
        if (result.group.role == Role::Unknown && isAbove && found.range.uloq &&
            preparations[result.group.number] == result.group.preparation) {
            again.push_back(
                {&result, result.dilution * dilutionFor(*result.readOff.x, found.range), result.group.preparation + 1});
        }
    }
    if (again.empty()) {
        return fail("runs.none", "No sample lies above ULOQ that could be diluted further.",
                    "Samples beyond the curve need a dilution that is typed.");
    }
    Command command;
    command.label = std::to_string(again.size()) + (again.size() == 1 ? " sample" : " samples") +
                    " above ULOQ planned again, diluted";
    const auto first = makeRoom(batch, static_cast<int>(again.size()), command);
    if (!first) {
        return tl::unexpected(first.error());
    }
    for (std::size_t i = 0; i < again.size(); ++i) {
        const Place place{first->row + static_cast<int>(i), 0, first->carrier};
        const auto original = batch.runs.find(again[i].result->replicates.front().place);
        Run run = original == batch.runs.end() ? Run{} : original->second;
        run.state = RunState::Planned;
        run.file.clear();
        run.injectedMillis = 0;
        const Assignment group{Role::Unknown, again[i].result->group.number, again[i].preparation};
        add(command, place, findOptional<Run>(batch.runs, place), std::optional(run));
        add(command, place, findOptional<Assignment>(batch.places, place), std::optional(group));
        const PreparationKey key{group.number, group.preparation};
        add(command, key, findOptional<Preparation>(batch.preparations, key),
            std::optional(Preparation{again[i].dilution}));
    }
    return command;
}

} // namespace nuvat
