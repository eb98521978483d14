#include "nuvat/workflow/apply_method.h"

#include "nuvat/store/batch_file.h"

namespace nuvat {

Result<OpenBatch> applyMethod(const std::filesystem::path& method, const std::vector<std::filesystem::path>& data,
                              const std::filesystem::path& out, Document::Clock clock) {
    const auto source = readBatchFile(method);
    if (!source) {
        return tl::unexpected(source.error());
    }
    const Batch& pattern = source->document->batch();
    DocumentState fresh;
    fresh.batch.info = pattern.info;
    fresh.batch.info.uid = newBatchUid();
    fresh.batch.info.title = out.stem().string();
    fresh.batch.info.readingInUse = 0;
    fresh.batch.info.note.clear();
    fresh.batch.method = pattern.method;
    fresh.batch.carriers = pattern.carriers;
    fresh.batch.runs = pattern.runs;
    fresh.batch.places = pattern.places;
    fresh.batch.levels = pattern.levels;
    fresh.batch.qcs = pattern.qcs;
    fresh.batch.samples = pattern.samples;
    Document document(std::move(fresh), clock);
    NoProgress progress;
    std::vector<std::string> notes = source->notes;
    for (const auto& path : data) {
        const auto plate = readPlateFile(path, progress);
        if (!plate) {
            return tl::unexpected(plate.error());
        }
        for (const ImportWarning& warning : plate->warnings) {
            notes.push_back(warning.message);
        }
        if (auto added = document.apply(addReading(document.batch(), toReading(*plate, document.now()))); !added) {
            return tl::unexpected(added.error());
        }
    }
    if (data.size() > 1) {
        if (auto used = document.apply(useReading(document.batch(), 1)); !used) {
            return tl::unexpected(used.error());
        }
    }
    for (const Analyte& analyte : pattern.method.analytes) {
        if (analyte.reading != 0 && !document.batch().readings.contains(analyte.reading)) {
            return fail("apply.reading-missing",
                        analyte.name + " takes its responses from reading " + std::to_string(analyte.reading) +
                            ", but " + std::to_string(data.size()) + " files were given.",
                        "Give one file for each reading, in their order.");
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
