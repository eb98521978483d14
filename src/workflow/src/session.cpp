#include "nuvat/workflow/session.h"

#include "nuvat/formats/any_file.h"
#include "nuvat/store/batch_file.h"

#include <algorithm>
#include <cstdlib>
#include <fstream>
#include <random>

namespace nuvat {

namespace {

Result<OpenBatch> withFile(DocumentState state, const std::filesystem::path& path, Document::Clock clock) {
    if (auto written = BatchFile::write(path, state); !written) {
        return tl::unexpected(written.error());
    }
    return openBatch(path, std::move(clock));
}

} // namespace

std::string newBatchUid() {
    std::random_device device;
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string uid;
    for (int i = 0; i < 16; ++i) {
        uid += kDigits[device() % 16u];
    }
    return uid;
}

Result<std::vector<PlateImport>> readPlateFile(const std::filesystem::path& path, Progress& progress,
                                               const PlateCut& cut) {
    auto content = readAnyFile(path, progress, cut);
    if (!content) {
        return tl::unexpected(content.error());
    }
    if (auto* plates = std::get_if<std::vector<PlateImport>>(&*content)) {
        return std::move(*plates);
    }
    return fail("import.no-plate", path.filename().string() + " holds traces, not a plate or a list.",
                "Choose a file with a plate matrix or a list of wells and values.");
}

Reading toReading(const PlateImport& import, std::int64_t nowMillis) {
    Reading reading;
    reading.source = import.source;
    reading.checksum = import.checksum;
    reading.understood = import.understood();
    reading.slot.channel = import.readName;
    reading.takenInMillis = nowMillis;
    Grid grid{import.rows, import.columns, {}};
    for (const PlateCell& cell : import.wells) {
        grid.wells.push_back({cell.value, cell.text, cell.line, cell.column});
    }
    reading.payload = Payload::of(std::move(grid));
    return reading;
}

Result<Command> importReads(const Batch& batch, const std::vector<PlateImport>& reads, int carrier,
                            std::int64_t nowMillis) {
    std::vector<Reading> readings;
    for (const PlateImport& read : reads) {
        readings.push_back(toReading(read, nowMillis));
    }
    ImportTarget target{carrier, CarrierKind::Plate, {}};
    if (!reads.empty() && reads.front().isRunList) {
        target.kind = CarrierKind::RunList;
        target.names = reads.front().names;
    }
    if (!reads.empty()) {
        target.unit = reads.front().unit;
    }
    return importReadings(batch, std::move(readings), target);
}

namespace {

std::filesystem::path dataFolder() {
    const char* data = std::getenv("XDG_DATA_HOME");
    const char* home = std::getenv("HOME");
    std::filesystem::path base = data != nullptr && *data != '\0' ? std::filesystem::path(data)
                                 : home != nullptr                ? std::filesystem::path(home) / ".local" / "share"
                                                                  : std::filesystem::temp_directory_path();
    return base / "nuvat";
}

} // namespace

std::filesystem::path unnamedFolder() {
    return dataFolder() / "unnamed";
}

std::filesystem::path methodsFolder() {
    return dataFolder() / "methods";
}

bool isUnnamedPath(const std::filesystem::path& path) {
    return path.parent_path().lexically_normal() == unnamedFolder().lexically_normal();
}

Result<OpenBatch> newBatch(Document::Clock clock) {
    DocumentState state;
    state.batch.info.uid = newBatchUid();
    std::error_code error;
    std::filesystem::create_directories(unnamedFolder(), error);
    std::filesystem::permissions(unnamedFolder(), std::filesystem::perms::owner_all, error); // for its owner alone
    if (error) {
        return fail("store.cannot-write", unnamedFolder().string() + " cannot be made (" + error.message() + ").",
                    "Check that you may write there.");
    }
    const auto path = unnamedFolder() / (state.batch.info.uid + ".nuvat");
    return withFile(std::move(state), path, std::move(clock));
}

namespace {

Result<OpenBatch> openWith(const std::filesystem::path& path, Document::Clock clock, BatchFile::Access access) {
    auto opened = BatchFile::open(path, access);
    if (!opened) {
        return tl::unexpected(opened.error());
    }
    OpenBatch batch;
    batch.notes = std::move(opened->notes);
    batch.isReadOnly = opened->file->isReadOnly();
    batch.measured = std::move(opened->measured);
    batch.document = std::make_unique<Document>(std::move(opened->state), std::move(clock));
    batch.document->setJournal(std::move(opened->file));
    batch.path = path;
    batch.isNamed = !isUnnamedPath(path);
    return batch;
}

} // namespace

Result<OpenBatch> openBatch(const std::filesystem::path& path, Document::Clock clock) {
    return openWith(path, std::move(clock), BatchFile::Access::Edit);
}

Result<OpenBatch> readBatchFile(const std::filesystem::path& path) {
    return openWith(path, {}, BatchFile::Access::Read);
}

std::vector<UnnamedBatch> unnamedBatches() {
    std::vector<UnnamedBatch> out;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(unnamedFolder(), error)) {
        if (entry.path().extension() != ".nuvat") {
            continue;
        }
        UnnamedBatch one{entry.path(), {}, 0};
        if (auto head = BatchFile::head(entry.path())) {
            one.title = head->title;
            one.changedMillis = head->changedMillis;
        }
        out.push_back(std::move(one));
    }
    std::stable_sort(out.begin(), out.end(),
                     [](const auto& l, const auto& r) { return l.changedMillis > r.changedMillis; });
    return out;
}

Result<void> saveCopy(const OpenBatch& batch, const std::filesystem::path& path) {
    std::error_code error;
    if (!batch.path.empty() && std::filesystem::equivalent(path, batch.path, error)) {
        return fail("store.same-file", path.string() + " is the batch that is open.",
                    "Choose another name for the copy.");
    }
    return BatchFile::write(path, batch.document->state(), batch.path);
}

Result<void> saveAs(OpenBatch& batch, const std::filesystem::path& path) {
    std::error_code error;
    if (!batch.path.empty() && std::filesystem::equivalent(path, batch.path, error)) {
        return {}; // it already is there, every edit included
    }
    if (auto written = BatchFile::write(path, batch.document->state(), batch.path); !written) {
        return written;
    }
    auto opened = BatchFile::open(path);
    if (!opened) {
        return tl::unexpected(opened.error());
    }
    batch.document->setJournal(std::move(opened->file));
    if (!batch.isNamed && !batch.path.empty()) { // the new one is on the disk, its folder included
        std::filesystem::remove(batch.path, error);
    }
    batch.path = path;
    batch.isNamed = true;
    batch.isReadOnly = false;
    return {};
}

} // namespace nuvat
