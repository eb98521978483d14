#include "nuvat/batch/command.h"

#include "command_parts.h"
#include "criteria.h"
#include "nuvat/batch/validate.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <sstream>
#include <stdexcept>

namespace nuvat {

namespace {

template<class Map, class Key, class T> void assignOrErase(Map& map, const Key& key, const std::optional<T>& value) {
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
    assignOrErase(batch.readings, key, v);
}
void assign(Batch& batch, const Slot& key, const std::optional<InUse>& v) {
    assignOrErase(batch.inUse, key, v ? std::optional(v->reading) : std::nullopt);
}
void assign(Batch& batch, Place key, const std::optional<Assignment>& v) {
    assignOrErase(batch.places, key, v);
}
void assign(Batch& batch, LevelKey key, const std::optional<Level>& v) {
    assignOrErase(batch.levels, key, v);
}
void assign(Batch& batch, QcKey key, const std::optional<QcSample>& v) {
    assignOrErase(batch.qcs, key, v);
}
void assign(Batch& batch, SampleKey key, const std::optional<Sample>& v) {
    assignOrErase(batch.samples, key.number, v);
}
void assign(Batch& batch, PreparationKey key, const std::optional<Preparation>& v) {
    assignOrErase(batch.preparations, key, v);
}
void assign(Batch& batch, const Slot& key, const std::optional<HandEdits>& v) {
    assignOrErase(batch.handEdits, key, v);
}
void assign(Batch& batch, const ExclusionKey& key, const std::optional<Exclusion>& v) {
    assignOrErase(batch.exclusions, key, v);
}
void assign(Batch& batch, CarrierKey key, const std::optional<Carrier>& v) {
    assignOrErase(batch.carriers, key.number, v);
}
void assign(Batch& batch, Place key, const std::optional<Run>& v) {
    assignOrErase(batch.runs, key, v);
}
void assign(Batch& batch, const OverrideKey& key, const std::optional<Override>& v) {
    assignOrErase(batch.overrides, key, v);
}

} // namespace

std::string placesText(const Batch& batch, std::vector<Place> places) {
    constexpr std::size_t kMost = 5;
    std::sort(places.begin(), places.end());
    return placeNames(batch.carriers, places, kMost);
}

std::string_view name(Subject subject) {
    switch (subject) {
    case Subject::Edit:
        return "edit";
    case Subject::Exclusion:
        return "exclusion";
    case Subject::Override:
        return "override";
    }
    throw std::invalid_argument("name: not a subject");
}

std::optional<Subject> subjectFromName(std::string_view text) {
    for (const Subject subject : {Subject::Edit, Subject::Exclusion, Subject::Override}) {
        if (name(subject) == text) {
            return subject;
        }
    }
    return std::nullopt;
}

Subject subjectOf(const Command& command) {
    for (const Change& change : command.changes) {
        if (std::holds_alternative<ExclusionChange>(change)) {
            return Subject::Exclusion;
        }
        if (std::holds_alternative<OverrideChange>(change)) {
            return Subject::Override;
        }
    }
    return Subject::Edit;
}

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

namespace {

/// " for Citrinin": of which analyte an exclusion is, where it is not of all.
std::string ofWhich(const Batch& batch, int analyte) {
    return analyte == 0 ? std::string() : " for " + batch.method.analyte(analyte).name;
}

} // namespace

Result<Command> excludePlaces(const Batch& batch, const std::vector<Place>& places, const std::string& reason,
                              std::int64_t timeMillis, int analyte) {
    if (trimmed(reason).empty()) {
        return fail("exclusion.reason", "An exclusion needs a reason.", "Type why, for example: bubble in well.");
    }
    if (auto known = analyte == 0 ? Result<void>{} : requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Command command;
    command.reason = std::string(trimmed(reason));
    std::vector<Place> excluded;
    for (const Place place : places) {
        if (batch.isExcluded(place, analyte) || batch.at(place).role == Role::Empty) {
            continue;
        }
        excluded.push_back(place);
        add(command, ExclusionKey{place, analyte}, std::optional<Exclusion>(),
            std::optional(Exclusion{command.reason, timeMillis}));
    }
    command.label = placesText(batch, excluded) +
                    (excluded.size() == 1 ? " (" + shortName(batch, batch.at(excluded.front())) + ")" : "") +
                    " excluded" + ofWhich(batch, analyte);
    return command;
}

Result<Command> restorePlaces(const Batch& batch, const std::vector<Place>& places, int analyte) {
    if (auto known = analyte == 0 ? Result<void>{} : requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Command command;
    std::vector<Place> restored;
    bool isOfAll = false;
    for (const auto& [key, exclusion] : batch.exclusions) {
        const bool isAsked = std::ranges::find(places, key.place) != places.end();
        if (!isAsked || (analyte != 0 && key.analyte != 0 && key.analyte != analyte)) {
            continue;
        }
        if (restored.empty() || restored.back() != key.place) {
            restored.push_back(key.place);
        }
        isOfAll = isOfAll || key.analyte == 0;
        add(command, key, std::optional(exclusion), std::optional<Exclusion>());
    }
    command.label = placesText(batch, restored) + " restored" + (isOfAll ? "" : ofWhich(batch, analyte));
    return command;
}

namespace {

/// Index of the criterion that one of before became: the same one, or else one of the same title, or else the one that
/// stands where it stood, when none was added or removed.
std::optional<std::size_t> successorOf(std::size_t index, const std::vector<Criterion>& before,
                                       const std::vector<Criterion>& after) {
    const auto isSame = [&](const Criterion& c) { return c == before[index]; };
    const auto isNamesake = [&](const Criterion& c) { return c.title == before[index].title; };
    if (const auto same = std::find_if(after.begin(), after.end(), isSame); same != after.end()) {
        return static_cast<std::size_t>(same - after.begin());
    }
    if (const auto namesake = std::find_if(after.begin(), after.end(), isNamesake); namesake != after.end()) {
        return static_cast<std::size_t>(namesake - after.begin());
    }
    return before.size() == after.size() ? std::optional(index) : std::nullopt;
}

/// Overrides follow the criterion they were given for, also when it is edited; that of a removed one goes with it.
std::map<OverrideKey, Override> overridesAfter(const Batch& batch, const std::vector<Criterion>& criteria) {
    std::map<OverrideKey, Override> after;
    const auto& old = batch.method.criteria;
    for (const auto& [key, value] : batch.overrides) {
        std::optional<std::string> criterion = key.criterion;
        for (std::size_t i = 0; i < old.size(); ++i) {
            if (key.criterion == ownCriterionKey(i)) {
                const auto successor = successorOf(i, old, criteria);
                criterion = successor ? std::optional(ownCriterionKey(*successor)) : std::nullopt;
            }
        }
        if (criterion) {
            after.insert_or_assign({key.analyte, *criterion}, value);
        }
    }
    return after;
}

} // namespace

Result<Command> setMethod(const Batch& batch, const Method& method, std::string label) {
    if (auto valid = validate(method); !valid) {
        return tl::unexpected(valid.error());
    }
    for (const Criterion& criterion : method.criteria) {
        if (const auto quantity = quantityOf(criterion); !quantity) {
            return fail("criterion.formula", quantity.error().text(), "Correct the formula.");
        }
    }
    Command command;
    command.label = label.empty() ? methodLabel(batch.method, method) : std::move(label);
    add(command, WholeBatch{}, std::optional(batch.method), std::optional(method));
    const auto after = overridesAfter(batch, method.criteria);
    if (after.size() < batch.overrides.size()) {
        command.label += ", with its override";
    }
    addDifferences(command, batch.overrides, after);
    return command;
}

namespace {

/// The number of an analyte after another is gone; 0 for that one itself.
int withoutAnalyte(int number, int removed) {
    return number == removed ? 0 : number - (number > removed ? 1 : 0);
}

} // namespace

Result<Command> removeAnalyte(const Batch& batch, int analyte) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Method method = batch.method;
    const std::string analyteName = method.analyte(analyte).name;
    method.analytes.erase(method.analytes.begin() + analyte - 1);
    for (Analyte& other : method.analytes) {
        if (auto* rule = std::get_if<PeakRule>(&other.source.rule)) {
            rule->reference = withoutAnalyte(rule->reference, analyte);
        }
        other.internal.analyte = withoutAnalyte(other.internal.analyte, analyte);
    }
    auto command = setMethod(batch, method, "Analyte " + analyteName + " removed");
    if (!command) {
        return command;
    }
    const auto moveUp = [&](const auto& before, const auto& items, auto example) {
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
        addDifferences(*command, before, after);
    };
    moveUp(batch.levels, batch.levels, LevelKey{});
    std::map<QcKey, QcSample> qcs = batch.qcs;
    if (analyte == 1) { // the items of the new first analyte take over what the QCs are called
        for (const auto& [key, qc] : batch.qcs) {
            if (key.analyte == 1 && !qc.name.empty()) {
                qcs[{key.number, 2, key.role}].name = qc.name;
            }
        }
    }
    moveUp(batch.qcs, qcs, QcKey{});
    moveUp(batch.overrides, batch.overrides, OverrideKey{});
    std::map<ExclusionKey, Exclusion> exclusions;
    for (const auto& [key, exclusion] : batch.exclusions) {
        const int moved = withoutAnalyte(key.analyte, analyte);
        if (key.analyte == 0 || moved != 0) {
            exclusions.emplace(ExclusionKey{key.place, moved}, exclusion);
        }
    }
    addDifferences(*command, batch.exclusions, exclusions);
    auto edits = batch.handEdits;
    for (auto& [slot, drawn] : edits) { // a peak that was given to the analyte is nobody's, and stays so
        for (HandEdit& edit : drawn.list) {
            edit.edit.owner = withoutAnalyte(edit.edit.owner, analyte);
        }
    }
    addDifferences(*command, batch.handEdits, edits);
    auto runs = batch.runs;
    for (auto& [place, run] : runs) {
        std::map<int, double> added;
        for (const auto& [internal, concentration] : run.added) {
            if (const int moved = withoutAnalyte(internal, analyte); moved != 0) {
                added.emplace(moved, concentration);
            }
        }
        run.added = std::move(added);
    }
    addDifferences(*command, batch.runs, runs);
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
    add(command, key, findOptional<Override>(batch.overrides, key),
        std::optional(Override{command.reason, timeMillis, criterion.limitText}));
    return command;
}

Result<Command> withdrawOverride(const Batch& batch, int analyte, const CriterionResult& criterion) {
    Command command;
    command.label = "Override of " + criterion.title + " withdrawn";
    const OverrideKey key{analyte, criterion.key};
    add(command, key, findOptional<Override>(batch.overrides, key), std::optional<Override>());
    return command;
}

Result<Command> setDetails(const Batch& batch, const std::string& title, const std::string& laboratory,
                           const std::string& note) {
    if (trimmed(title).empty()) {
        return fail("batch.title", "A batch needs a name.", "Type one, for example: Patulin in juice, week 38.");
    }
    Command command;
    BatchInfo after = batch.info;
    after.title = std::string(trimmed(title));
    after.laboratory = std::string(trimmed(laboratory));
    after.note = std::string(trimmed(note));
    command.label = after.title != batch.info.title             ? "Batch named " + after.title
                    : after.laboratory != batch.info.laboratory ? "Laboratory changed"
                                                                : "Note of the batch changed";
    add(command, WholeBatch{}, std::optional(batch.info), std::optional(after));
    return command;
}

Result<Command> setTitle(const Batch& batch, const std::string& title) {
    return setDetails(batch, title, batch.info.laboratory, batch.info.note);
}

} // namespace nuvat
