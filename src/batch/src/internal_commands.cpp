// What runs hold of an internal standard.
#include "command_parts.h"
#include "nuvat/batch/internal_standard.h"
#include "nuvat/core/base/number.h"

#include <cmath>

namespace nuvat {

Result<Command> setAdded(const Batch& batch, const std::vector<Place>& places, int internal,
                         std::optional<double> concentration) {
    if (auto known = requireAnalyte(batch, internal); !known) {
        return tl::unexpected(known.error());
    }
    const Analyte& standard = batch.method.analyte(internal);
    if (!standard.addedConcentration && concentration) {
        return fail("method.internal-standard",
                    "The usual concentration of " + standard.name + " is not known, so none can differ from it.",
                    "Choose " + standard.name + " above and type what every run holds of it.");
    }
    if (concentration && (!(*concentration > 0) || !std::isfinite(*concentration))) {
        return fail("method.internal-standard", "The concentration of an internal standard has to be above 0.",
                    "Type it, or leave it empty for the usual one.");
    }
    Command command;
    for (const Place place : places) {
        if (auto held = requirePlace(batch, place); !held) {
            return tl::unexpected(held.error());
        }
        const auto before = findOptional<Run>(batch.runs, place);
        Run after = before.value_or(Run{});
        if (concentration && concentration != standard.addedConcentration) {
            after.added[internal] = *concentration;
        } else {
            after.added.erase(internal);
        }
        if (before || after != Run{}) {
            add(command, place, before, std::optional(after));
        }
    }
    command.label = standard.name + " in " + placesText(batch, places) + " → " +
                    (concentration ? formatNumber(*concentration) : "as usual");
    return command;
}

std::optional<double> addedIn(const Batch& batch, const std::vector<Place>& places, int internal) {
    const auto& usual = batch.method.analyte(internal).addedConcentration;
    std::optional<double> out;
    for (const Place place : places) {
        const auto run = findOptional<Run>(batch.runs, place);
        const auto own = run ? findOptional<double>(run->added, internal) : std::nullopt;
        const auto here = own ? own : usual;
        if (!here || (out && out != here)) {
            return std::nullopt;
        }
        out = here;
    }
    return out;
}

} // namespace nuvat
