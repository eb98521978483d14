#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/delimited_table.h"

#include <nlohmann/json.hpp>
#include <optional>
#include <ostream>
#include <string>

namespace nuvat {

using Json = nlohmann::ordered_json;

/// A call that is not understood: exit status 2.
tl::unexpected<Error> wrongCall(std::string why);
/// Tells an Error on standard error. @return its exit status: 2 for a wrong call, else 1
int explain(std::ostream& err, const Error& error);
/// A number, or null.
Json optionalNumber(const std::optional<double>& value);

/// A CSV with its headings: rows of text by column name.
struct Columns {
    std::string source;
    DelimitedTable table;
    /// Index of a column. @return fit.column-missing
    Result<std::size_t> find(const std::string& name) const;
    /// The number in a column of a row. @return fit.not-a-number with line and cell
    Result<double> number(const DelimitedRow& row, std::size_t column) const;
};

/// Reads a CSV or TSV with headings in its first line. @return import.not-found or the errors of readDelimited
Result<Columns> readColumns(const std::string& path);

} // namespace nuvat
