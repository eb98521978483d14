#include "nuvat/core/base/checksum.h"

#include <cstdint>

namespace nuvat {

std::string fnv1a(std::string_view bytes) {
    std::uint64_t hash = 14695981039346656037u;
    for (const char c : bytes) {
        hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211u;
    }
    constexpr std::string_view kDigits = "0123456789abcdef";
    std::string text(16, '0');
    for (std::size_t i = 16; i-- > 0; hash >>= 4) {
        text[i] = kDigits[hash & 15u];
    }
    return text;
}

} // namespace nuvat
