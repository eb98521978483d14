#include "mzml_arrays.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <optional>
#include <zlib.h>

namespace nuvat {

namespace {

tl::unexpected<Error> wrong(const std::string& what) {
    return fail("mzml.array", what, "Export the file again.");
}

std::optional<std::string> fromBase64(std::string_view text) {
    constexpr std::string_view kDigits = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
    std::array<signed char, 256> digits{};
    digits.fill(-1);
    for (std::size_t i = 0; i < kDigits.size(); ++i) {
        digits[static_cast<unsigned char>(kDigits[i])] = static_cast<signed char>(i);
    }
    std::string out;
    out.reserve(text.size() / 4 * 3);
    std::uint32_t bits = 0;
    int filled = 0;
    bool isPadded = false;
    for (const char c : text) {
        if (c == ' ' || c == '\n' || c == '\r' || c == '\t') {
            continue;
        }
        if (c == '=') {
            isPadded = true;
            continue;
        }
        const int digit = digits[static_cast<unsigned char>(c)];
        if (digit < 0 || isPadded) {
            return std::nullopt;
        }
        bits = (bits << 6) | static_cast<std::uint32_t>(digit);
        filled += 6;
        if (filled >= 8) {
            filled -= 8;
            out.push_back(static_cast<char>((bits >> filled) & 0xFF));
        }
    }
    return out;
}

/// @param most what may come out; @return nothing when it is no zlib stream or holds more
std::optional<std::string> inflated(std::string bytes, std::size_t most) {
    z_stream stream{};
    if (inflateInit(&stream) != Z_OK) {
        return std::nullopt;
    }
    stream.next_in = reinterpret_cast<Bytef*>(bytes.data());
    stream.avail_in = static_cast<uInt>(bytes.size());
    std::string out;
    std::array<char, 1 << 16> piece{};
    int code = Z_OK;
    while (code == Z_OK && out.size() <= most) {
        stream.next_out = reinterpret_cast<Bytef*>(piece.data());
        stream.avail_out = static_cast<uInt>(piece.size());
        code = inflate(&stream, Z_NO_FLUSH);
        out.append(piece.data(), piece.size() - stream.avail_out);
    }
    inflateEnd(&stream);
    return code == Z_STREAM_END && out.size() <= most ? std::optional(std::move(out)) : std::nullopt;
}

template<class T> std::vector<double> plainNumbers(std::string_view bytes, bool isBigEndian) {
    std::vector<double> out(bytes.size() / sizeof(T));
    for (std::size_t i = 0; i < out.size(); ++i) {
        std::array<char, sizeof(T)> raw{};
        std::copy_n(bytes.data() + i * sizeof(T), sizeof(T), raw.begin());
        if (isBigEndian) { // x86-64 is little-endian
            std::reverse(raw.begin(), raw.end());
        }
        const T value = std::bit_cast<T>(raw);
        out[i] = static_cast<double>(value);
    }
    return out;
}

/// Half bytes, and the integers that MS-Numpress writes in them.
class HalfBytes {
public:
    HalfBytes(std::string_view bytes, std::size_t from) : m_bytes(bytes), m_at(2 * from) {}

    bool isAtEnd() const {
        const std::size_t left = 2 * m_bytes.size() - m_at;
        return left == 0 || (left == 1 && (static_cast<unsigned char>(m_bytes.back()) & 0x0F) == 0x08);
    }

    /// A count of leading equal half bytes, then the rest from the lowest: up to 8 zeros (0 to 8) or ones (9 to 15).
    std::optional<std::int32_t> integer() {
        const auto head = half();
        if (!head) {
            return std::nullopt;
        }
        std::uint32_t out = 0;
        const unsigned leading = *head <= 8 ? *head : *head - 8;
        if (*head > 8) {
            out = leading >= 8 ? 0xFFFFFFFFu : ~0u << (4 * (8 - leading));
        }
        for (unsigned i = 0; i + leading < 8; ++i) {
            const auto next = half();
            if (!next) {
                return std::nullopt;
            }
            out |= *next << (4 * i);
        }
        return static_cast<std::int32_t>(out);
    }

private:
    std::optional<unsigned> half() {
        if (m_at >= 2 * m_bytes.size()) {
            return std::nullopt;
        }
        const auto byte = static_cast<unsigned char>(m_bytes[m_at / 2]);
        const unsigned out = m_at % 2 == 0 ? byte >> 4 : byte & 0x0F;
        ++m_at;
        return out;
    }

    std::string_view m_bytes;
    std::size_t m_at;
};

double fixedPoint(std::string_view bytes) {
    std::uint64_t bits = 0;
    for (std::size_t i = 0; i < 8; ++i) {
        bits = (bits << 8) | static_cast<unsigned char>(bytes[i]);
    }
    return std::bit_cast<double>(bits);
}

std::int64_t littleInt(std::string_view bytes) {
    std::uint32_t out = 0;
    for (std::size_t i = 4; i-- > 0;) {
        out = (out << 8) | static_cast<unsigned char>(bytes[i]);
    }
    return static_cast<std::int32_t>(out);
}

std::optional<std::vector<double>> linearNumbers(std::string_view bytes, std::size_t length) {
    std::vector<double> out;
    if (bytes.size() < 8) {
        return std::nullopt;
    }
    const double scale = fixedPoint(bytes);
    std::array<std::int64_t, 2> last{};
    for (std::size_t i = 0; i < 2 && bytes.size() >= 12 + 4 * i; ++i) {
        last.at(i) = littleInt(bytes.substr(8 + 4 * i, 4));
        out.push_back(static_cast<double>(last.at(i)) / scale);
    }
    if (bytes.size() < 16) {
        return out;
    }
    HalfBytes halves(bytes, 16);
    while (!halves.isAtEnd() && out.size() <= length) {
        const auto difference = halves.integer();
        if (!difference) {
            return std::nullopt;
        }
        const std::int64_t next = 2 * last[1] - last[0] + *difference;
        last = {last[1], next};
        out.push_back(static_cast<double>(next) / scale);
    }
    return out;
}

std::optional<std::vector<double>> picNumbers(std::string_view bytes, std::size_t length) {
    std::vector<double> out;
    HalfBytes halves(bytes, 0);
    while (!halves.isAtEnd() && out.size() <= length) {
        const auto count = halves.integer();
        if (!count) {
            return std::nullopt;
        }
        out.push_back(*count);
    }
    return out;
}

std::optional<std::vector<double>> slofNumbers(std::string_view bytes) {
    if (bytes.size() < 8 || bytes.size() % 2 != 0) {
        return std::nullopt;
    }
    const double scale = fixedPoint(bytes);
    std::vector<double> out;
    for (std::size_t i = 8; i + 1 < bytes.size(); i += 2) {
        const int word = static_cast<unsigned char>(bytes[i]) | static_cast<unsigned char>(bytes[i + 1]) << 8;
        out.push_back(std::exp(word / scale) - 1);
    }
    return out;
}

std::optional<std::vector<double>> unpacked(std::string_view bytes, ArrayCode code, std::size_t length) {
    switch (code.packing) {
    case Packing::Linear:
        return linearNumbers(bytes, length);
    case Packing::Pic:
        return picNumbers(bytes, length);
    case Packing::Slof:
        return slofNumbers(bytes);
    case Packing::None:
        break;
    }
    switch (code.numbers) {
    case NumberCode::Float32:
        return plainNumbers<float>(bytes, code.isBigEndian);
    case NumberCode::Float64:
        return plainNumbers<double>(bytes, code.isBigEndian);
    case NumberCode::Int32:
        return plainNumbers<std::int32_t>(bytes, code.isBigEndian);
    case NumberCode::Int64:
        return plainNumbers<std::int64_t>(bytes, code.isBigEndian);
    case NumberCode::None:
        break;
    }
    return std::nullopt;
}

} // namespace

Result<std::vector<double>> decodeArray(std::string_view base64, ArrayCode code, std::size_t length) {
    auto bytes = fromBase64(base64);
    if (!bytes) {
        return wrong("is not written in base64");
    }
    if (code.isDeflated && !bytes->empty()) {
        // Numpress takes at most five bytes a number and a head of 16.
        const std::size_t most = length * 8 + 16;
        bytes = inflated(std::move(*bytes), most);
        if (!bytes) {
            return wrong("is no zlib stream, or holds more than the " + std::to_string(length) + " values it should");
        }
    }
    if (code.packing == Packing::None && code.numbers == NumberCode::None) {
        return wrong("does not say how many bits its numbers have");
    }
    const auto out = unpacked(*bytes, code, length);
    if (!out) {
        return wrong("is not written as the file says");
    }
    if (out->size() != length) {
        return wrong("holds " + std::to_string(out->size()) + (out->size() > length ? " values or more" : " values") +
                     " where " + std::to_string(length) + " were expected");
    }
    return *out;
}

} // namespace nuvat
