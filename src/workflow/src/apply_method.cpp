#include "nuvat/workflow/apply_method.h"

#include "nuvat/batch/value_formula.h"
#include "nuvat/store/batch_file.h"
#include "nuvat/store/method_file.h"
#include "nuvat/workflow/plate_recipe.h"
#include "nuvat/workflow/trace_import.h"

#include <algorithm>

namespace nuvat {

namespace {

/// What the pattern reads, in the order in which it was taken in.
std::vector<Slot> slotsOf(const Batch& pattern) {
    std::vector<Slot> out;
    for (const auto& [key, reading] : pattern.readings) {
        const auto used = pattern.inUse.find(reading->slot);
        if (used != pattern.inUse.end() && used->second == key) {
            out.push_back(reading->slot);
        }
    }
    return out;
}

/// The slot that a file fills: of those left the first with its channel, or else the first; its own when none is left.
Slot takeSlot(std::vector<Slot>& left, const Slot& own) {
    auto found = std::find_if(left.begin(), left.end(), [&](const Slot& slot) { return slot.channel == own.channel; });
    found = found == left.end() ? left.begin() : found;
    if (found == left.end()) {
        return own;
    }
    Slot slot = *found;
    left.erase(found);
    return slot;
}

/// A method that never had readings says nothing of slots: the first plate that has none of that channel.
Slot freeSlot(const Batch& batch, Slot own) {
    for (const auto& [number, carrier] : batch.carriers) {
        if (!batch.inUse.contains({number, std::nullopt, own.channel})) {
            own.carrier = number;
            return own;
        }
    }
    return own;
}

/// The batch whose method is taken, or one made of a method file.
Result<Batch> patternOf(const std::filesystem::path& path, std::vector<std::string>& notes) {
    if (path.extension() != ".nuvat-method") {
        const auto source = readBatchFile(path);
        if (!source) {
            return tl::unexpected(source.error());
        }
        notes = source->notes;
        return source->document->batch();
    }
    const auto method = readMethod(path);
    if (!method) {
        return tl::unexpected(method.error());
    }
    Batch out;
    const auto command = useMethod(out, *method);
    if (!command) {
        return tl::unexpected(command.error());
    }
    applyChanges(out, *command, false);
    return out;
}

int keyOfChannel(const Batch& batch, const std::string& channel) {
    for (const auto& [key, reading] : batch.readings) {
        if (reading->slot.channel == channel) {
            return key;
        }
    }
    return batch.readings.empty() ? 0 : batch.readings.begin()->first;
}

/// Runs in the place of the pattern's: the layout of its list, run by run, as far as there are runs.
Result<void> applyToRuns(const Batch& pattern, const std::vector<std::filesystem::path>& data, Document& document,
                         std::vector<std::string>& notes) {
    NoProgress progress;
    std::vector<ImportedRun> runs;
    const auto files = filesIn(data);
    const auto read = readNext(files, progress);
    if (!read || !read->errors.empty() || !read->plates.empty() || read->count < files.size()) {
        return !read ? tl::unexpected(read.error())
               : !read->errors.empty()
                   ? tl::unexpected(read->errors.front())
                   : fail("peaks.no-trace",
                          files[std::min(read->count, files.size() - 1)].string() + " holds no trace.",
                          "Give files of traces alone: the method takes peaks.");
    }
    for (const TraceFile& file : read->traces) {
        auto own = runsOf(file, pattern.method.traceRecipe);
        if (!own) {
            return tl::unexpected(own.error());
        }
        runs.insert(runs.end(), own->begin(), own->end());
        notes.insert(notes.end(), file.content.warnings.begin(), file.content.warnings.end());
    }
    if (auto taken = document.apply(importRuns(document.batch(), runs, document.now())); !taken) {
        return taken;
    }
    const int list = document.batch().inUse.begin()->first.carrier;
    const int rows = document.batch().carriers.at(list).rows;
    Command layout;
    layout.label = "Layout of the method";
    for (const auto& [place, group] : pattern.places) {
        if (pattern.hasTraces(place.carrier) && place.row < rows) {
            layout.changes.emplace_back(PlaceChange{{place.row, 0, list}, std::nullopt, group});
        }
    }
    return layout.changes.empty() ? Result<void>() : document.apply(layout);
}

} // namespace

Result<OpenBatch> applyMethod(const std::filesystem::path& method, const std::vector<std::filesystem::path>& data,
                              const std::filesystem::path& out, Document::Clock clock) {
    std::vector<std::string> notes;
    const auto source = patternOf(method, notes);
    if (!source) {
        return tl::unexpected(source.error());
    }
    const Batch& pattern = *source;
    DocumentState fresh;
    fresh.batch.info = pattern.info;
    fresh.batch.info.uid = newBatchUid();
    fresh.batch.info.title = out.stem().string();
    fresh.batch.info.channel.clear();
    fresh.batch.info.note.clear();
    fresh.batch.method = pattern.method;
    const bool isOfTraces = pattern.hasTraces();
    if (!isOfTraces) {
        fresh.batch.carriers = pattern.carriers;
        fresh.batch.runs = pattern.runs;
        fresh.batch.places = pattern.places;
    }
    fresh.batch.levels = pattern.levels;
    fresh.batch.qcs = pattern.qcs;
    fresh.batch.samples = pattern.samples;
    fresh.batch.preparations = pattern.preparations;
    Document document(std::move(fresh), clock);
    std::vector<Slot> slots = slotsOf(pattern);
    NoProgress progress;
    if (isOfTraces) {
        if (auto applied = applyToRuns(pattern, data, document, notes); !applied) {
            return tl::unexpected(applied.error());
        }
    }
    for (const auto& path : isOfTraces ? std::vector<std::filesystem::path>{} : data) {
        auto reads = readPlateFile(path, progress, cutOf(pattern.method.plateRecipe));
        if (!reads) {
            return tl::unexpected(reads.error());
        }
        const std::vector<bool> taken = applyRecipe(pattern.method.plateRecipe, *reads);
        for (std::size_t i = 0; i < reads->size(); ++i) {
            const PlateImport& read = (*reads)[i];
            if (!taken[i]) {
                continue;
            }
            for (const ImportWarning& warning : read.warnings) {
                notes.push_back(warning.message);
            }
            Reading reading = toReading(read, document.now());
            reading.slot =
                pattern.readings.empty() ? freeSlot(document.batch(), reading.slot) : takeSlot(slots, reading.slot);
            if (auto added = document.apply(addReading(document.batch(), std::move(reading))); !added) {
                return tl::unexpected(added.error());
            }
        }
    }
    if (auto used = isOfTraces ? Result<void>()
                               : document.apply(useReading(document.batch(),
                                                           keyOfChannel(document.batch(), pattern.info.channel)));
        !used) {
        return tl::unexpected(used.error());
    }
    for (const Analyte& analyte : pattern.method.analytes) {
        const std::string& formula = valueFormula(analyte.source.rule);
        if (formula.empty()) {
            continue;
        }
        if (const auto parsed = ValueFormula::parse(formula, document.batch().channels()); !parsed) {
            return fail("apply.reading-missing",
                        analyte.name + " takes its responses from " + formula +
                            ", but the files give no such reading. " + parsed.error().text(),
                        "Give a file for each reading that the method names.");
        }
    }
    if (auto written = BatchFile::write(out, document.state()); !written) {
        return tl::unexpected(written.error());
    }
    auto made = openBatch(out, std::move(clock));
    if (made) {
        made->notes.insert(made->notes.begin(), notes.begin(), notes.end());
    }
    return made;
}

} // namespace nuvat
