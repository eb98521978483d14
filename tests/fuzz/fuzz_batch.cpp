// libFuzzer target: whatever the bytes of a batch file, it opens or is refused with a sentence, and what opens can be
// evaluated, taken back and done again. Good files to begin with: tests/fixtures.
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/session.h"

#include <cstdint>
#include <cstdlib>
#include <fstream>
#include <unistd.h>

namespace {

std::filesystem::path ownFile() {
    return std::filesystem::temp_directory_path() / ("nuvat-fuzz-" + std::to_string(::getpid()) + ".nuvat");
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const std::filesystem::path path = ownFile();
    std::ofstream(path, std::ios::binary | std::ios::trunc)
        .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
    auto opened = nuvat::openBatch(path, [] { return 5; });
    if (!opened) {
        if (opened.error().message.empty()) {
            std::abort();
        }
        std::filesystem::remove(path);
        return 0;
    }
    const std::unique_ptr<nuvat::Document> owner = std::move(opened->document);
    nuvat::Document& document = *owner;
    (void)nuvat::evaluate(document.batch());
    constexpr int kMostSteps = 40;
    for (int k = 0; k < kMostSteps && document.canUndo() && document.undo(); ++k) {
        (void)nuvat::evaluate(document.batch());
    }
    for (int k = 0; k < kMostSteps && document.canRedo() && document.redo(); ++k) {
        (void)nuvat::evaluate(document.batch());
    }
    std::filesystem::remove(path);
    return 0;
}
