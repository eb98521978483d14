#include "netcdf.h"

#include "nuvat/core/base/text.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>

namespace nuvat {

namespace {

constexpr std::array<std::uint64_t, 12> kTypeSizes{0, 1, 1, 2, 4, 4, 8, 1, 2, 4, 8, 8};
constexpr int kCharacters = 2;

tl::unexpected<Error> broken(const std::string& what, std::uint64_t at) {
    return fail("netcdf.format", "The netCDF file is damaged: " + what + " (byte " + std::to_string(at) + ").",
                "Export it again from the instrument's software.");
}

std::uint64_t bigEndian(std::string_view bytes) {
    std::uint64_t out = 0;
    for (const char byte : bytes) {
        out = (out << 8) | static_cast<unsigned char>(byte);
    }
    return out;
}

double numberOf(std::string_view bytes, int type) {
    const std::uint64_t bits = bigEndian(bytes);
    switch (type) {
    case 1:
        return static_cast<std::int8_t>(bits);
    case 3:
        return static_cast<std::int16_t>(bits);
    case 4:
        return static_cast<std::int32_t>(bits);
    case 5:
        return static_cast<double>(std::bit_cast<float>(static_cast<std::uint32_t>(bits)));
    case 6:
        return std::bit_cast<double>(bits);
    case 10:
        return static_cast<double>(static_cast<std::int64_t>(bits));
    default:
        return static_cast<double>(bits);
    }
}

std::uint64_t padded(std::uint64_t size) {
    return (size + 3) / 4 * 4;
}

} // namespace

/// Reads the header from its begin to its end.
class NetcdfHeader {
public:
    NetcdfHeader(std::string_view bytes, NetcdfFile& out) : m_bytes(bytes), m_out(out) {}

    Result<void> read() {
        m_version = m_bytes.size() > 3 ? m_bytes[3] : 0;
        if (m_version != 1 && m_version != 2 && m_version != 5) {
            return broken("version " + std::to_string(int(m_version)) + " is none of 1, 2 and 5", 3);
        }
        m_at = 4;
        const std::uint64_t records = count();
        const bool isStreaming = records == (m_version == 5 ? std::numeric_limits<std::uint64_t>::max() : 0xFFFFFFFFu);
        m_out.m_records = isStreaming ? 0 : records;
        readList(0x0A, [&] { readDimension(); });
        readList(0x0C, [&] { readAttribute(m_out.m_attributes); });
        readList(0x0B, [&] { readVariable(); });
        if (!m_problem.empty()) {
            return broken(m_problem, m_at);
        }
        return {};
    }

private:
    bool isFine() const { return m_problem.empty(); }

    std::string_view take(std::uint64_t size) {
        if (!isFine() || size > m_bytes.size() - m_at) {
            m_problem = isFine() ? "its header goes on beyond the end of the file" : m_problem;
            return {};
        }
        const std::string_view out = m_bytes.substr(m_at, size);
        m_at += size;
        return out;
    }
    std::uint64_t word() { return bigEndian(take(4)); }
    std::uint64_t count() { return bigEndian(take(m_version == 5 ? 8 : 4)); }

    template<class Read> void readList(std::uint64_t tag, const Read& read) {
        const std::uint64_t found = word();
        const std::uint64_t entries = count();
        if (!isFine() || (found == 0 && entries == 0)) {
            return;
        }
        if (found != tag) {
            m_problem = "a list in its header is of the wrong kind";
        } else if (entries > (m_bytes.size() - m_at) / 8) {
            m_problem = "a list in its header has " + std::to_string(entries) + " entries, more than fit into the file";
        }
        for (std::uint64_t i = 0; i < entries && isFine(); ++i) {
            read();
        }
    }

    std::string name() {
        const std::uint64_t size = count();
        const std::string out(take(size));
        take(padded(size) - size);
        return out;
    }

    void readDimension() {
        NetcdfDimension out;
        out.name = name();
        out.length = count();
        if (m_version != 5 && out.length > 0x7FFFFFFFu) {
            m_problem = "the dimension " + excerpt(out.name) + " is negative";
        }
        m_out.m_dimensions.push_back(std::move(out));
    }

    void readAttribute(std::vector<NetcdfAttribute>& list) {
        NetcdfAttribute out;
        out.name = name();
        const int type = typeCode();
        const std::uint64_t entries = count();
        if (!isFine()) {
            return;
        }
        const std::uint64_t size = kTypeSizes.at(static_cast<std::size_t>(type));
        if (entries > m_bytes.size() / size) {
            m_problem = "the attribute " + excerpt(out.name) + " is longer than the file";
            return;
        }
        const std::string_view data = take(entries * size);
        take(padded(entries * size) - entries * size);
        if (type == kCharacters) {
            out.text = data.substr(0, data.find('\0'));
        }
        for (std::uint64_t i = 0; type != kCharacters && i + size <= data.size(); i += size) {
            out.numbers.push_back(numberOf(data.substr(i, size), type));
        }
        list.push_back(std::move(out));
    }

    int typeCode() {
        const std::uint64_t type = word();
        if (isFine() && (type == 0 || type >= kTypeSizes.size() || (m_version != 5 && type > 6))) {
            m_problem = "there is no type " + std::to_string(type);
        }
        return isFine() ? static_cast<int>(type) : 1;
    }

    void readVariable() {
        NetcdfVariable out;
        out.name = name();
        const std::uint64_t dimensions = count();
        if (dimensions > m_bytes.size() / 4) {
            m_problem = "the variable " + excerpt(out.name) + " has too many dimensions";
            return;
        }
        for (std::uint64_t i = 0; i < dimensions && isFine(); ++i) {
            const std::uint64_t which = count();
            if (which >= m_out.m_dimensions.size()) {
                m_problem = "the variable " + excerpt(out.name) + " has a dimension that is not there";
                return;
            }
            out.dimensions.push_back(which);
        }
        out.isRecord = !out.dimensions.empty() && m_out.m_dimensions[out.dimensions.front()].length == 0;
        readList(0x0C, [&] { readAttribute(out.attributes); });
        out.type = typeCode();
        count(); // its size, which cannot hold large ones and is counted instead
        out.begin = bigEndian(take(m_version == 1 ? 4 : 8));
        if (isFine() && (m_version == 1 ? out.begin > 0x7FFFFFFFu : out.begin >> 63 != 0)) {
            m_problem = "the variable " + excerpt(out.name) + " begins before the file does";
        }
        m_out.m_variables.push_back(std::move(out));
    }

    std::string_view m_bytes;
    NetcdfFile& m_out;
    char m_version = 0;
    std::uint64_t m_at = 0;
    std::string m_problem;
};

const NetcdfAttribute* NetcdfVariable::attribute(std::string_view wanted) const {
    const auto found = std::ranges::find(attributes, wanted, &NetcdfAttribute::name);
    return found == attributes.end() ? nullptr : &*found;
}

Result<NetcdfFile> NetcdfFile::open(std::string_view bytes) {
    NetcdfFile out;
    out.m_bytes = bytes;
    if (auto read = NetcdfHeader(bytes, out).read(); !read) {
        return tl::unexpected(read.error());
    }
    return out;
}

const NetcdfAttribute* NetcdfFile::attribute(std::string_view wanted) const {
    const auto found = std::ranges::find(m_attributes, wanted, &NetcdfAttribute::name);
    return found == m_attributes.end() ? nullptr : &*found;
}

const NetcdfVariable* NetcdfFile::find(std::string_view wanted) const {
    const auto found = std::ranges::find(m_variables, wanted, &NetcdfVariable::name);
    return found == m_variables.end() ? nullptr : &*found;
}

Result<std::uint64_t> NetcdfFile::size(const NetcdfVariable& variable) const {
    std::uint64_t out = variable.isRecord ? m_records : 1;
    for (std::size_t i = variable.isRecord ? 1 : 0; i < variable.dimensions.size(); ++i) {
        const std::uint64_t length = m_dimensions[variable.dimensions[i]].length;
        if (length != 0 && out > m_bytes.size() / length) {
            return fail("netcdf.format",
                        "The netCDF file is damaged: " + excerpt(variable.name) + " would have " +
                            std::to_string(length) + " values or more, and the file has " +
                            std::to_string(m_bytes.size()) + " bytes.",
                        "Export it again from the instrument's software.");
        }
        out *= length;
    }
    return out;
}

std::uint64_t NetcdfFile::extentOf(const NetcdfVariable& variable) const {
    const auto entries = size(variable);
    const std::uint64_t all = entries ? *entries : 0;
    const std::uint64_t each = variable.isRecord && m_records > 0 ? all / m_records : all;
    return each * kTypeSizes.at(static_cast<std::size_t>(variable.type));
}

std::uint64_t NetcdfFile::recordSize() const {
    std::uint64_t out = 0, count = 0, last = 0;
    for (const NetcdfVariable& variable : m_variables) {
        if (variable.isRecord) {
            last = extentOf(variable);
            out += padded(last);
            ++count;
        }
    }
    return count == 1 ? last : out; // one alone is not padded
}

Result<std::vector<std::optional<double>>> NetcdfFile::values(const NetcdfVariable& variable) const {
    const auto entries = size(variable);
    if (!entries) {
        return tl::unexpected(entries.error());
    }
    const std::uint64_t width = kTypeSizes.at(static_cast<std::size_t>(variable.type));
    const std::uint64_t inRecord = variable.isRecord && m_records > 0 ? *entries / m_records : *entries;
    const std::uint64_t stride = variable.isRecord ? recordSize() : 0;
    const NetcdfAttribute* scale = variable.attribute("scale_factor");
    const NetcdfAttribute* offset = variable.attribute("add_offset");
    const NetcdfAttribute* fill = variable.attribute("_FillValue");
    std::vector<std::optional<double>> out;
    for (std::uint64_t i = 0; i < *entries; ++i) {
        const std::uint64_t at = variable.begin + (inRecord > 0 ? i / inRecord * stride + i % inRecord * width : 0);
        if (variable.begin > m_bytes.size() || at + width > m_bytes.size()) {
            return fail("netcdf.format",
                        "The netCDF file is cut: " + excerpt(variable.name) + " has " + std::to_string(*entries) +
                            " values, of which " + std::to_string(i) + " are in the file.",
                        "Copy or export it again.");
        }
        double value = numberOf(m_bytes.substr(at, width), variable.type);
        constexpr double kNull = -9999, kFillFrom = 9.9e36;
        const bool isAbsent = value == kNull || std::abs(value) >= kFillFrom || !std::isfinite(value) ||
                              (fill && !fill->numbers.empty() && value == fill->numbers.front());
        value *= scale && !scale->numbers.empty() ? scale->numbers.front() : 1;
        value += offset && !offset->numbers.empty() ? offset->numbers.front() : 0;
        out.push_back(isAbsent ? std::nullopt : std::optional(value));
    }
    return out;
}

std::optional<double> NetcdfFile::number(std::string_view name) const {
    const NetcdfVariable* variable = find(name);
    if (!variable) {
        return std::nullopt;
    }
    const auto all = values(*variable);
    return all && !all->empty() ? all->front() : std::nullopt;
}

std::vector<std::string> NetcdfFile::overlaps(const NetcdfVariable& variable) const {
    std::vector<std::string> out;
    const std::uint64_t end = variable.begin + extentOf(variable);
    for (const NetcdfVariable& other : m_variables) {
        const std::uint64_t otherEnd = other.begin + extentOf(other);
        if (&other != &variable && !other.isRecord && !variable.isRecord && other.begin < end &&
            variable.begin < otherEnd) {
            out.push_back(other.name);
        }
    }
    return out;
}

} // namespace nuvat
