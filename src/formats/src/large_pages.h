#pragma once

#include <cstddef>

namespace nuvat {

/// Tells the system that memory just allocated will be filled as a whole, so that it may hand it over in large pages:
/// page by page costs more than reading the numbers that go there. Nothing happens where it cannot.
void preferLargePages(void* begin, std::size_t bytes);

} // namespace nuvat
