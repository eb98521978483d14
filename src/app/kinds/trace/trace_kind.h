#pragma once

#include "kinds/reading_kind.h"

namespace nuvat {

const ReadingKind& traceKind();

} // namespace nuvat
