#pragma once

#include <algorithm>
#include <array>
#include <bit>
#include <cstddef>
#include <cstdint>

#if defined(__SSE2__)
#include <emmintrin.h>
#endif

// What the column reader does for every character and every cell; here so that it is compiled into its loop.

namespace nuvat {

// Where quotation marks hold separators or line ends, cells and lines are parted anew by characters that text cannot
// have.
inline constexpr char kUnitSeparator = '\x1f';
inline constexpr char kRecordSeparator = '\x1e';

inline bool isLineEnd(char c) {
    return c == '\n' || c == '\r' || c == kRecordSeparator;
}

inline constexpr std::size_t kMostDigits = 8; // before the decimal sign, and behind it
inline constexpr std::array<std::uint64_t, kMostDigits + 1> kWholePowers{
    1, 10, 100, 1'000, 10'000, 100'000, 1'000'000, 10'000'000, 100'000'000};
inline constexpr std::array<double, kMostDigits + 1> kExactPowers{1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8};

#if defined(__SSE2__)
/// Zeros, then ones in the last n of eight bytes.
inline constexpr std::array<std::uint64_t, kMostDigits + 1> kLastBytes = [] {
    std::array<std::uint64_t, kMostDigits + 1> masks{};
    for (std::size_t n = 1; n <= kMostDigits; ++n) {
        masks[n] = ~std::uint64_t{0} << (64 - 8 * n);
    }
    return masks;
}();

/// The whole number that the `wholes` digits before `point` and the `places` digits before `end` make together; eight
/// characters before both can be read. @return false where other characters are among them
inline bool readDigits(const char* point, std::size_t wholes, const char* end, std::size_t places,
                       std::uint64_t& digits) {
    const auto both = [](const void* first, const void* second) {
        return _mm_unpacklo_epi64(_mm_loadl_epi64(static_cast<const __m128i*>(first)),
                                  _mm_loadl_epi64(static_cast<const __m128i*>(second)));
    };
    const __m128i ones = _mm_and_si128(_mm_sub_epi8(both(point - kMostDigits, end - kMostDigits), _mm_set1_epi8('0')),
                                       both(&kLastBytes[wholes], &kLastBytes[places]));
    const __m128i tooLarge = _mm_subs_epu8(ones, _mm_set1_epi8(9));
    if (_mm_movemask_epi8(_mm_cmpeq_epi8(tooLarge, _mm_setzero_si128())) != 0xFFFF) {
        return false;
    }
    const __m128i firsts = _mm_and_si128(ones, _mm_set1_epi16(0xFF));
    const __m128i pairs = _mm_add_epi16(_mm_mullo_epi16(firsts, _mm_set1_epi16(10)), _mm_srli_epi16(ones, 8));
    const __m128i fours = _mm_madd_epi16(pairs, _mm_set1_epi32(0x0001'0064));                          // 100, 1
    const __m128i eights = _mm_madd_epi16(_mm_packs_epi32(fours, fours), _mm_set1_epi32(0x0001'2710)); // 10 000, 1
    const auto halves = static_cast<std::uint64_t>(_mm_cvtsi128_si64(eights));
    digits = (halves & 0xFFFF'FFFFu) * kWholePowers[places] + (halves >> 32u);
    return true;
}
#else
inline bool readDigits(const char* point, std::size_t wholes, const char* end, std::size_t places,
                       std::uint64_t& digits) {
    digits = 0;
    const auto append = [&digits](const char* from, const char* to) {
        for (; from != to && *from >= '0' && *from <= '9'; ++from) {
            digits = digits * 10 + static_cast<std::uint64_t>(*from - '0');
        }
        return from == to;
    };
    return append(point - wholes, point) && append(end - places, end);
}
#endif

/// A plain decimal number in [at, end) with its decimal sign at `point` (`end` when it has none); eight characters
/// before `point` can be read. It is exact where digits up to 2^53 are divided by a power of ten up to 22 (W. D.
/// Clinger, "How to read floating point numbers accurately", PLDI 1990). @return whether it is one; false for many that
/// parseNumber reads
inline bool readPlain(const char* at, const char* point, const char* end, double& value) {
    const bool isNegative = *at == '-';
    const auto wholes = static_cast<std::size_t>(point - at) - (isNegative ? 1 : 0);
    const auto places = static_cast<std::size_t>(end - point) - (point == end ? 0 : 1);
    std::uint64_t digits = 0;
    if (wholes > kMostDigits || places > kMostDigits || wholes + places == 0 ||
        !readDigits(point, wholes, end, places, digits) || digits > (std::uint64_t{1} << 53u)) {
        return false;
    }
    value = static_cast<double>(static_cast<std::int64_t>(digits)) / kExactPowers[places];
    value = isNegative ? -value : value;
    return true;
}

/// Separators, decimal signs and ends of lines.
class Marks {
public:
    Marks(char separator, char decimal) : m_separator(separator), m_decimal(decimal) {}

    /// Their places in text[from, to), in order. @param places has room for to - from; @return how many
    std::size_t find(const char* text, std::size_t from, std::size_t to, std::uint32_t* places) const {
        std::uint32_t* next = places;
        for (; from + kWidth <= to; from += kWidth) {
            std::uint64_t bits = marksOf(text + from);
            const auto base = static_cast<std::uint32_t>(from);
            for (; bits != 0; bits &= bits - 1) {
                *next++ = base + static_cast<std::uint32_t>(std::countr_zero(bits));
            }
        }
        for (; from < to; ++from) {
            *next = static_cast<std::uint32_t>(from);
            next += isMark(text[from]) ? 1 : 0;
        }
        return static_cast<std::size_t>(next - places);
    }

private:
    static constexpr std::size_t kWidth = 64;

    bool isMark(char c) const { return c == m_separator || c == m_decimal || isLineEnd(c); }

    /// A bit for each of 64 characters.
    std::uint64_t marksOf(const char* text) const {
        std::uint64_t bits = 0;
#if defined(__SSE2__)
        const auto like = [](__m128i bytes, char c) { return _mm_cmpeq_epi8(bytes, _mm_set1_epi8(c)); };
        for (std::size_t k = 0; k < kWidth; k += sizeof(__m128i)) {
            const __m128i bytes = _mm_loadu_si128(reinterpret_cast<const __m128i*>(text + k));
            const __m128i ends =
                _mm_or_si128(_mm_or_si128(like(bytes, '\n'), like(bytes, '\r')), like(bytes, kRecordSeparator));
            const __m128i all = _mm_or_si128(_mm_or_si128(like(bytes, m_separator), like(bytes, m_decimal)), ends);
            bits |= static_cast<std::uint64_t>(static_cast<unsigned>(_mm_movemask_epi8(all))) << k;
        }
#else
        for (std::size_t k = 0; k < kWidth; ++k) {
            bits |= static_cast<std::uint64_t>(isMark(text[k])) << k;
        }
#endif
        return bits;
    }

    char m_separator;
    char m_decimal;
};

} // namespace nuvat
