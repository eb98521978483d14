#include "large_pages.h"

#include <cstdint>

#if defined(__linux__)
#include <sys/mman.h>
#endif

namespace nuvat {

void preferLargePages(void* begin, std::size_t bytes) {
#if defined(__linux__)
    constexpr std::size_t kPage = 4096;
    constexpr std::size_t kWorthIt = std::size_t{4} << 20u;
    if (bytes < kWorthIt) {
        return;
    }
    const std::size_t before = (kPage - reinterpret_cast<std::uintptr_t>(begin) % kPage) % kPage;
    (void)madvise(static_cast<char*>(begin) + before, (bytes - before) / kPage * kPage, MADV_HUGEPAGE); // a wish only
#else
    (void)begin;
    (void)bytes;
#endif
}

} // namespace nuvat
