// Commands that take readings in and say which of them count.
#include "command_parts.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>

namespace nuvat {

namespace {

Result<void> requireCarrier(const Batch& batch, int carrier) {
    if (!batch.carriers.contains(carrier)) {
        return fail("batch.carrier", "There is no plate or list " + std::to_string(carrier) + " in this batch.",
                    "Choose one of the batch.");
    }
    return {};
}

/// @return layout.place
std::string sizeText(int rows, int columns) {
    return columns == 1 ? std::to_string(rows) + " runs"
                        : std::to_string(rows) + " × " + std::to_string(columns) + " wells";
}

/// Gives the carrier the size of the reading, as long as nothing is laid out on the other one.
Result<void> takeSize(const Batch& batch, const Reading& reading, const Grid& grid, Command& command) {
    const int number = reading.slot.carrier;
    const Carrier& carrier = batch.carriers.at(number);
    if (grid.rows == carrier.rows && grid.columns == carrier.columns) {
        return {};
    }
    if (isLaidOut(batch, number)) {
        return fail("import.plate-size",
                    reading.source + " is a plate of " + sizeText(grid.rows, grid.columns) + ", but the layout of " +
                        (batch.carriers.size() > 1 ? carrierName(batch.carriers, number) : "this batch") + " is for " +
                        sizeText(carrier.rows, carrier.columns) + ".",
                    "Take it in as another plate, or start a new batch for it.");
    }
    Carrier after = carrier;
    after.kind = grid.columns == 1 && grid.rows > kMostRows ? CarrierKind::RunList : carrier.kind;
    after.rows = grid.rows;
    after.columns = grid.columns;
    add(command, CarrierKey{number}, std::optional(carrier), std::optional(after));
    return {};
}

/// Makes the reading the one that counts in its slot, and its channel the one in use.
void use(const Batch& batch, int key, const Reading& reading, Command& command) {
    const auto found = batch.inUse.find(reading.slot);
    add(command, reading.slot, found == batch.inUse.end() ? std::nullopt : std::optional(InUse{found->second}),
        std::optional(InUse{key}));
    BatchInfo info = batch.info;
    info.channel = reading.slot.channel;
    add(command, WholeBatch{}, std::optional(batch.info), std::optional(info));
}

} // namespace

Result<Command> addReading(const Batch& batch, Reading reading) {
    if (auto valid = validate(reading); !valid) {
        return tl::unexpected(valid.error());
    }
    if (auto known = requireCarrier(batch, reading.slot.carrier); !known) {
        return tl::unexpected(known.error());
    }
    const auto grid = reading.payload.grid();
    if (grid == nullptr) {
        return fail("batch.reading", "The values of " + reading.source + " cannot be read.", "Import it again.");
    }
    if (auto valid = validate(*grid, reading.source); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    if (auto fitted = takeSize(batch, reading, *grid, command); !fitted) {
        return tl::unexpected(fitted.error());
    }
    const int key = batch.readings.empty() ? 1 : batch.readings.rbegin()->first + 1;
    command.label = "Imported " + reading.source;
    add(command, key, std::optional<Reading>(), std::optional(reading));
    use(batch, key, reading, command);
    return command;
}

Result<Command> useReading(const Batch& batch, int key) {
    const auto found = batch.readings.find(key);
    if (found == batch.readings.end()) {
        return fail("batch.reading", "There is no reading " + std::to_string(key) + " in this batch.",
                    "Choose one from the list of readings.");
    }
    const Reading& reading = *found->second;
    Command command;
    if (const auto grid = reading.payload.grid(); grid && batch.carriers.contains(reading.slot.carrier)) {
        if (auto fitted = takeSize(batch, reading, *grid, command); !fitted) {
            return tl::unexpected(fitted.error());
        }
    }
    command.label = "Uses the reading " + reading.source;
    use(batch, key, reading, command);
    return command;
}

namespace {

bool isUntouched(const Batch& batch) {
    return batch.carriers.size() == 1 && batch.readings.empty() && !isLaidOut(batch, batch.carriers.begin()->first);
}

/// Appends a command and does it to the batch, so that the next one sees it.
Result<void> append(Batch& batch, Command& whole, Result<Command> next) {
    if (!next) {
        return tl::unexpected(next.error());
    }
    applyChanges(batch, *next, false);
    whole.changes.insert(whole.changes.end(), next->changes.begin(), next->changes.end());
    return {};
}

} // namespace

Result<Command> addCarrier(const Batch& batch, const Carrier& carrier) {
    if (auto valid = validate(carrier); !valid) {
        return tl::unexpected(valid.error());
    }
    if (batch.carriers.size() >= kMostCarriers) {
        return fail("batch.carriers", "A batch has at most " + std::to_string(kMostCarriers) + " plates and run lists.",
                    "Split it into several batches.");
    }
    Command command;
    const int number = batch.carriers.rbegin()->first + 1;
    command.label = (carrier.kind == CarrierKind::Plate ? "Plate " : "Run list ") + std::to_string(number) + " added";
    add(command, CarrierKey{number}, std::optional<Carrier>(), std::optional(carrier));
    return command;
}

Result<Command> addRunList(const Batch& batch, int runs) {
    const Carrier list{CarrierKind::RunList, "", runs, 1};
    if (!isUntouched(batch)) {
        return addCarrier(batch, list);
    }
    if (auto valid = validate(list); !valid) {
        return tl::unexpected(valid.error());
    }
    Command command;
    const auto& [number, plate] = *batch.carriers.begin();
    command.label = "List of " + std::to_string(runs) + " runs";
    add(command, CarrierKey{number}, std::optional(plate), std::optional(list));
    return command;
}

Result<Command> importReadings(const Batch& before, std::vector<Reading> readings, const ImportTarget& target) {
    if (readings.empty()) {
        return fail("batch.reading", "There is nothing to import.", "Choose at least one read.");
    }
    Batch batch = before;
    Command command;
    command.label = "Imported " + readings.front().source;
    int number = target.carrier;
    if (number == 0 && isUntouched(batch)) {
        number = batch.carriers.begin()->first;
    } else if (number == 0) {
        const auto grid = readings.front().payload.grid();
        Carrier carrier{target.kind, "", grid ? grid->rows : 1, grid ? grid->columns : 1};
        if (auto done = append(batch, command, addCarrier(batch, carrier)); !done) {
            return tl::unexpected(done.error());
        }
        number = batch.carriers.rbegin()->first;
        command.label += " as " + carrierName(batch.carriers, number);
    }
    if (auto known = requireCarrier(batch, number); !known) {
        return tl::unexpected(known.error());
    }
    if (const Carrier carrier = batch.carriers.at(number); carrier.kind != target.kind && !isLaidOut(batch, number)) {
        Command change;
        Carrier after = carrier;
        after.kind = target.kind;
        if (target.kind == CarrierKind::RunList) {
            after.columns = 1;
        }
        add(change, CarrierKey{number}, std::optional(carrier), std::optional(after));
        (void)append(batch, command, change);
    }
    const std::string channel = batch.info.channel;
    bool hasChannel = false;
    for (Reading& reading : readings) {
        reading.slot.carrier = number;
        hasChannel = hasChannel || reading.slot.channel == channel;
        if (auto done = append(batch, command, addReading(batch, reading)); !done) {
            return tl::unexpected(done.error());
        }
    }
    BatchInfo info = batch.info;
    info.channel = hasChannel ? channel : readings.front().slot.channel;
    Command last;
    add(last, WholeBatch{}, std::optional(batch.info), std::optional(info));
    for (std::size_t row = 0; row < target.names.size(); ++row) {
        const Place place{static_cast<int>(row), 0, number};
        const auto run = findOptional<Run>(batch.runs, place);
        Run named = run.value_or(Run{});
        named.name = target.names[row];
        if (batch.holds(place)) {
            add(last, place, run, std::optional(named));
        }
    }
    (void)append(batch, command, last);
    if (!target.unit.empty()) {
        Method method = batch.method;
        for (Analyte& analyte : method.analytes) {
            const bool isUsual = analyte.responseName == Analyte{}.responseName;
            analyte.responseName += isUsual ? ", " + target.unit : "";
        }
        if (const auto named = setMethod(batch, method); named && method != batch.method) {
            (void)append(batch, command, *named);
        }
    }
    return command;
}

Result<Command> nameRun(const Batch& batch, Place place, const std::string& name) {
    if (auto held = requirePlace(batch, place); !held) {
        return tl::unexpected(held.error());
    }
    Command command;
    const auto before = findOptional<Run>(batch.runs, place);
    Run after = before.value_or(Run{});
    after.name = std::string(trimmed(name));
    command.label = placeTitle(batch, place) + " → " + (after.name.empty() ? "no name" : after.name);
    add(command, place, before, std::optional(after));
    const Assignment group = batch.at(place);
    const auto sample = findOptional<Sample>(batch.samples, group.number);
    if (group.role == Role::Unknown && sample && (sample->name.empty() || (before && sample->name == before->name))) {
        Sample named = *sample;
        named.name = after.name;
        add(command, SampleKey{group.number}, sample, std::optional(named));
    }
    return command;
}

namespace {
constexpr const char* kTyped = "typed";
}

Result<Command> typeValue(const Batch& batch, Place place, const std::string& channel, const std::string& typed,
                          std::int64_t timeMillis) {
    if (auto held = requirePlace(batch, place); !held) {
        return tl::unexpected(held.error());
    }
    const Reading* before = batch.reading(place.carrier, channel);
    if (before != nullptr && before->source != kTyped) {
        return fail("batch.typed",
                    "The values of " + before->source + " are as the file gave them and are not typed over.",
                    "Exclude the place with a reason, or import a corrected file.");
    }
    const Carrier& carrier = batch.carriers.at(place.carrier);
    Reading reading = before != nullptr ? *before : Reading{kTyped, "", "typed by hand", timeMillis, {}, {}};
    reading.slot = {place.carrier, std::nullopt, channel};
    const auto typedSoFar = reading.payload.grid();
    Grid grid = typedSoFar ? *typedSoFar : Grid{};
    if (grid.rows != carrier.rows || grid.columns != carrier.columns) {
        grid = {carrier.rows, carrier.columns, std::vector<ReadingWell>(carrier.size())};
    }
    ReadingWell& well = grid.wells[static_cast<std::size_t>(place.row * carrier.columns + place.column)];
    well.text = std::string(trimmed(typed));
    well.value = parseTyped(well.text);
    reading.payload = Payload::of(std::move(grid));
    Command command;
    if (before == nullptr) {
        auto added = addReading(batch, reading);
        if (!added) {
            return added;
        }
        command = std::move(*added);
    } else {
        add(command, batch.inUse.at(reading.slot), std::optional(*before), std::optional(reading));
    }
    command.label = placeTitle(batch, place) + " typed: " + (well.text.empty() ? "nothing" : well.text);
    return command;
}

Result<Command> renameCarrier(const Batch& batch, int number, const std::string& name) {
    if (auto known = requireCarrier(batch, number); !known) {
        return tl::unexpected(known.error());
    }
    const Carrier& before = batch.carriers.at(number);
    Carrier after = before;
    after.name = std::string(trimmed(name));
    Command command;
    command.label =
        carrierName(batch.carriers, number) + " named " + (after.name.empty() ? "by its number" : after.name);
    add(command, CarrierKey{number}, std::optional(before), std::optional(after));
    return command;
}

Result<Command> removeCarrier(const Batch& batch, int number) {
    if (auto known = requireCarrier(batch, number); !known) {
        return tl::unexpected(known.error());
    }
    if (batch.carriers.size() == 1) {
        return fail("batch.carrier", "A batch needs a plate or a list.", "Start a new batch instead.");
    }
    if (isLaidOut(batch, number)) {
        return fail("batch.carrier", carrierName(batch.carriers, number) + " has a layout or exclusions.",
                    "Clear its places and restore what is excluded, then remove it.");
    }
    Command command;
    command.label = carrierName(batch.carriers, number) + " removed";
    for (const auto& [place, run] : batch.runs) {
        if (place.carrier == number) {
            add(command, place, std::optional(run), std::optional<Run>());
        }
    }
    for (const auto& [slot, key] : batch.inUse) {
        if (slot.carrier == number) {
            add(command, slot, std::optional(InUse{key}), std::optional<InUse>());
        }
    }
    for (const auto& [key, reading] : batch.readings) {
        if (reading->slot.carrier == number) {
            add(command, key, std::optional(*reading), std::optional<Reading>());
        }
    }
    add(command, CarrierKey{number}, std::optional(batch.carriers.at(number)), std::optional<Carrier>());
    return command;
}

} // namespace nuvat
