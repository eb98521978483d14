#pragma once

#include "nuvat/core/base/error.h"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace nuvat {

/// An attribute or a variable as the header of a classic netCDF file describes it.
struct NetcdfAttribute {
    std::string name;
    std::string text;            ///< of characters
    std::vector<double> numbers; ///< of all other types
};

struct NetcdfVariable {
    std::string name;
    std::vector<std::size_t> dimensions; ///< indexes
    std::vector<NetcdfAttribute> attributes;
    int type = 0;
    std::uint64_t begin = 0; ///< byte in the file
    bool isRecord = false;
    const NetcdfAttribute* attribute(std::string_view name) const;
};

struct NetcdfDimension {
    std::string name;
    std::uint64_t length = 0; ///< 0: the record dimension
};

/// A classic netCDF file (CDF-1, CDF-2, CDF-5) in memory. All sizes are compared with the bytes that are there before
/// anything is made of them. Source: The NetCDF Classic Format Specification (Unidata), netCDF 4.9 documentation.
class NetcdfFile {
public:
    /// @param bytes must outlive the file; @return netcdf.format with the byte where it went wrong
    static Result<NetcdfFile> open(std::string_view bytes);

    const std::vector<NetcdfAttribute>& attributes() const { return m_attributes; }
    const std::vector<NetcdfVariable>& variables() const { return m_variables; }
    const NetcdfAttribute* attribute(std::string_view name) const;
    const NetcdfVariable* find(std::string_view name) const;
    /// How many values a variable has by its dimensions.
    Result<std::uint64_t> size(const NetcdfVariable& variable) const;
    /// Its values with scale_factor and add_offset applied; nothing where one is absent (-9999, the fill value).
    /// @return netcdf.format when it reaches beyond the end of the file, with how many values are there
    Result<std::vector<std::optional<double>>> values(const NetcdfVariable& variable) const;
    /// The first value, where there is one that is not absent.
    std::optional<double> number(std::string_view name) const;
    /// Names of variables whose bytes lie within those of another.
    std::vector<std::string> overlaps(const NetcdfVariable& variable) const;

private:
    friend class NetcdfHeader;
    std::uint64_t recordSize() const;
    std::uint64_t extentOf(const NetcdfVariable& variable) const; ///< bytes of one record, or of all

    std::string_view m_bytes;
    std::uint64_t m_records = 0;
    std::vector<NetcdfDimension> m_dimensions;
    std::vector<NetcdfAttribute> m_attributes;
    std::vector<NetcdfVariable> m_variables;
};

} // namespace nuvat
