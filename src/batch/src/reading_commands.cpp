// Commands that take readings in and say which of them count.
#include "command_parts.h"
#include "nuvat/batch/validate.h"

namespace nuvat {

namespace {

bool isLaidOut(const Batch& batch, int carrier) {
    const auto isOn = [carrier](const auto& entry) { return entry.first.carrier == carrier; };
    return std::any_of(batch.places.begin(), batch.places.end(), isOn) ||
           std::any_of(batch.exclusions.begin(), batch.exclusions.end(), isOn);
}

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
    const auto grid = reading.payload.grid();
    if (!batch.carriers.contains(reading.slot.carrier) || grid == nullptr) {
        return fail("batch.carrier",
                    "There is no plate or list " + std::to_string(reading.slot.carrier) + " in this batch.",
                    "Choose one of the batch.");
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

} // namespace nuvat
