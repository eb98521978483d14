#pragma once

#include "kinds/reading_kind.h"

namespace nuvat {

const ReadingKind& plateKind();

} // namespace nuvat
