#pragma once

#include "nuvat/formats/any_file.h"

#include <optional>
#include <span>
#include <string>
#include <vector>

namespace nuvat {

/// What a column of a list may be called, in lower case and without a unit behind it.
struct ListField {
    int field;
    std::vector<std::string> names;
};

/// The headings of a list, and what stands under them.
class ListTable {
public:
    /// @param first field of columns that may stand there without a heading of their own: none, then there have to be
    /// headings
    static Result<ListTable> read(const std::string& bytes, const std::string& source,
                                  std::span<const ListField> fields, int needed);

    std::size_t rows() const { return m_file->table.rows.size() - 1; }
    int line(std::size_t row) const { return m_file->table.rows[row + 1].line; }
    /// Text under a field, empty where there is no such column.
    std::string text(std::size_t row, int field) const;
    /// @return list.number where something stands there that is no number
    Result<std::optional<double>> number(std::size_t row, int field) const;
    /// Unit in brackets behind a heading: "Level 1 (mg/L)".
    std::string unit(int field) const;
    /// All columns of a field, for those that may stand there several times.
    std::vector<std::string> texts(std::size_t row, int field) const;

private:
    std::shared_ptr<const PlateFile> m_file;
    std::string m_source;
    std::vector<int> m_fields; ///< of each column, -1: another
    std::vector<std::string> m_units;
};

} // namespace nuvat
