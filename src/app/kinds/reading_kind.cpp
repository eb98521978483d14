#include "kinds/reading_kind.h"

#include "kinds/list/list_kind.h"
#include "kinds/plate/plate_kind.h"

#include <array>
#include <stdexcept>

namespace nuvat {

std::span<const ReadingKind* const> readingKinds() {
    static const std::array<const ReadingKind*, 2> kinds{&plateKind(), &listKind()};
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

} // namespace nuvat
