#pragma once

#include <bit>
#include <cstdint>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace nuvat {

/// Whole numbers and doubles as eight bytes, the lowest first; texts and lists after their length.
class WordWriter {
public:
    void addWord(std::uint64_t value) {
        for (unsigned shift = 0; shift < 64; shift += 8) {
            m_bytes += static_cast<char>(value >> shift & 0xffu);
        }
    }
    void add(double value) { addWord(std::bit_cast<std::uint64_t>(value)); }
    void add(bool value) { addWord(value ? 1 : 0); }
    void add(const std::string& text) {
        addWord(text.size());
        m_bytes += text;
    }
    void add(const char*) = delete; // it would be taken for a bool
    void add(const std::optional<double>& value) {
        add(value.has_value());
        add(value.value_or(0));
    }
    void add(const std::vector<double>& values) {
        m_bytes.reserve(m_bytes.size() + 8 * values.size() + 8);
        addWord(values.size());
        for (const double value : values) {
            add(value);
        }
    }
    void reserve(std::size_t bytes) { m_bytes.reserve(bytes); }
    const std::string& bytes() const& { return m_bytes; }
    std::string bytes() && { return std::move(m_bytes); }

private:
    std::string m_bytes;
};

/// The inverse, in the same order; never beyond the end. @throws std::runtime_error where the bytes are cut
class WordReader {
public:
    explicit WordReader(std::string_view bytes) : m_bytes(bytes) {}
    std::uint64_t word() {
        std::uint64_t out = 0;
        const std::string_view bytes = take(8);
        for (std::size_t i = 8; i-- > 0;) {
            out = out << 8 | static_cast<unsigned char>(bytes[i]);
        }
        return out;
    }
    /// A count of things that take at least eight bytes each.
    std::size_t count() {
        const std::uint64_t out = word();
        if (out > m_bytes.size() / 8) {
            throw std::runtime_error("it is cut");
        }
        return out;
    }
    void read(double& value) { value = std::bit_cast<double>(word()); }
    void read(bool& value) { value = word() != 0; }
    void read(std::string& text) { text = std::string(take(word())); }
    void read(std::optional<double>& value) {
        bool isThere = false;
        double number = 0;
        read(isThere);
        read(number);
        value = isThere ? std::optional(number) : std::nullopt;
    }
    void read(std::vector<double>& values) {
        values.resize(count());
        for (double& value : values) {
            read(value);
        }
    }
    void requireEnd() const {
        if (!m_bytes.empty()) {
            throw std::runtime_error("it is longer than it says");
        }
    }

private:
    std::string_view take(std::uint64_t size) {
        if (size > m_bytes.size()) {
            throw std::runtime_error("it is cut");
        }
        const std::string_view out = m_bytes.substr(0, size);
        m_bytes.remove_prefix(size);
        return out;
    }
    std::string_view m_bytes;
};

} // namespace nuvat
