#include "kinds/reading_kind.h"

#include "kinds/list/list_kind.h"
#include "kinds/plate/plate_kind.h"
#include "kinds/trace/trace_kind.h"

#include <array>
#include <stdexcept>

namespace nuvat {

std::span<const ReadingKind* const> readingKinds() {
    static const std::array<const ReadingKind*, 3> kinds{&plateKind(), &listKind(), &traceKind()};
    return kinds;
}

const ReadingKind& kindOf(CarrierKind carrier) {
    for (const ReadingKind* kind : readingKinds()) {
        if (kind->carrier() == carrier) {
            return *kind;
        }
    }
    throw std::invalid_argument("kindOf: no kind for this carrier");
}

const ReadingKind& kindOf(const Batch& batch, int carrier) {
    const ReadingKind* found = &kindOf(batch.carriers.at(carrier).kind);
    for (const ReadingKind* kind : readingKinds()) {
        found = kind->isOf(batch, carrier) ? kind : found;
    }
    return *found;
}

} // namespace nuvat
