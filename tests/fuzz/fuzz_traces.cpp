// libFuzzer target: whatever the bytes, text is read as traces, cut into runs and searched for peaks, or an Error says
// why not.
#include "nuvat/batch/evaluation.h"
#include "nuvat/workflow/trace_import.h"

#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string bytes(reinterpret_cast<const char*>(data), size);
    nuvat::NoProgress progress;
    const auto content = nuvat::readAnyBytes(bytes, "fuzz", progress);
    const auto* traces = content ? std::get_if<nuvat::FileContent>(&*content) : nullptr;
    const auto runs = traces ? nuvat::runsOf({*traces, "fuzz", ""})
                             : nuvat::Result<std::vector<nuvat::ImportedRun>>(std::vector<nuvat::ImportedRun>{});
    if (!runs) {
        return 0;
    }
    for (const nuvat::ImportedRun& run : *runs) {
        for (const auto& [name, payload] : run.channels) {
            for (const auto kind : {nuvat::BaselineKind::Straight, nuvat::BaselineKind::Tangent}) {
                nuvat::SignalRule rule;
                rule.peaks.baseline.kind = kind;
                rule.peaks.isNegative = true;
                rule.peaks.hasShoulders = true;
                (void)nuvat::measureTrace(payload.id(), payload.trace(), {rule, {}, {}});
            }
        }
    }
    return 0;
}
