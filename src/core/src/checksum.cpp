#include "nuvat/core/base/checksum.h"

#include <array>
#include <cstdint>
#include <nettle/sha2.h>

namespace nuvat {

namespace {
constexpr std::string_view kDigits = "0123456789abcdef";
}

std::string fnv1a(std::string_view bytes) {
    std::uint64_t hash = 14695981039346656037u;
    for (const char c : bytes) {
        hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211u;
    }
    std::string text(16, '0');
    for (std::size_t i = 16; i-- > 0; hash >>= 4) {
        text[i] = kDigits[hash & 15u];
    }
    return text;
}

std::string sha256(std::string_view bytes) {
    sha256_ctx context;
    sha256_init(&context);
    sha256_update(&context, bytes.size(), reinterpret_cast<const std::uint8_t*>(bytes.data()));
    std::array<std::uint8_t, SHA256_DIGEST_SIZE> digest{};
    sha256_digest(&context, digest.size(), digest.data());
    std::string text;
    for (const std::uint8_t byte : digest) {
        text += kDigits[byte >> 4u];
        text += kDigits[byte & 15u];
    }
    return text;
}

} // namespace nuvat
