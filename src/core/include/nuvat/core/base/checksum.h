#pragma once

#include <string>
#include <string_view>

namespace nuvat {

/// FNV-1a 64 of bytes as 16 hexadecimal digits: recognises the same file and notices bits that changed. Not a
/// cryptographic hash: it proves nothing against a person who wants two texts to agree.
/// Source: G. Fowler, L. C. Noll, K.-P. Vo, IETF draft-eastlake-fnv.
std::string fnv1a(std::string_view bytes);

/// SHA-256 of bytes as 64 hexadecimal digits: an identity. Source: FIPS 180-4.
std::string sha256(std::string_view bytes);

} // namespace nuvat
