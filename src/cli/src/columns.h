#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/formats/column_table.h"

#include <chrono>
#include <functional>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <ostream>
#include <string>
#include <string_view>

namespace nuvat {

using Json = nlohmann::ordered_json;

/// Writes a document as the only thing on standard output.
void printJson(std::ostream& out, const Json& json);
/// A long array that is written element by element and never stands in memory.
class ElementWriter {
public:
    explicit ElementWriter(std::ostream& out) : m_out(out) {}
    void begin(); ///< an object of its own line
    void number(std::string_view key, const std::optional<double>& value);
    void flag(std::string_view key, bool value);
    void end();
    bool isEmpty() const { return m_isEmpty; }
    void flush();

private:
    void key(std::string_view name);
    std::ostream& m_out;
    std::string m_buffer;
    bool m_isEmpty = true;
    bool m_isFirstKey = true;
};
/// Stands in a document for an array that follows.
Json streamedArray(const std::string& name);
using StreamedArrays = std::map<std::string, std::function<void(ElementWriter&)>>;
void printJson(std::ostream& out, const Json& json, const StreamedArrays& arrays);
/// A call that is not understood: exit status 2.
tl::unexpected<Error> wrongCall(std::string why);
/// Tells an Error on standard error. @return its exit status: 2 for a wrong call, else 1
int explain(std::ostream& err, const Error& error);
/// The same for commands that answer with JSON: when the data are the reason, it has status "error", code and message.
int refuse(std::ostream& out, std::ostream& err, const Error& error);
/// Progress on standard error when that is a terminal, after half a second; silent otherwise.
class TerminalProgress : public Progress {
public:
    /// @param what is being done, for example "reading data.csv"
    explicit TerminalProgress(std::string what);
    ~TerminalProgress() override;
    TerminalProgress(const TerminalProgress&) = delete;
    TerminalProgress& operator=(const TerminalProgress&) = delete;
    void report(double fraction) override;
    bool cancelled() const override { return false; }

private:
    std::string m_what;
    bool m_isTerminal;
    bool m_hasShown = false;
    int m_lastPercent = -1;
    std::chrono::steady_clock::time_point m_begin;
};
/// Prints what a command answers, or refuses. @return the exit status
int printAnswer(std::ostream& out, std::ostream& err, const Result<Json>& answer);
/// A number, or null.
Json optionalNumber(const std::optional<double>& value);
/// Two limits, or null.
Json optionalPair(const std::optional<std::pair<double, double>>& limits);

/// Reads a CSV or TSV with headings. @param wanted those that will be asked for, as in ColumnTable::read
/// @return import.not-found or the errors of ColumnTable::read
Result<ColumnTable> readColumns(const std::string& path, const std::vector<std::string>& wanted = {});
/// The numbers under a heading.
Result<std::vector<double>> columnOf(const ColumnTable& table, const std::string& heading);

} // namespace nuvat
