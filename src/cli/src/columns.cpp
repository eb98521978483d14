#include "columns.h"

#include "nuvat/core/base/text.h"

#include <array>
#include <charconv>
#include <cmath>
#include <fstream>
#include <iostream>
#include <unistd.h>

namespace nuvat {

namespace {
constexpr DelimitedLimits kLimits{.mostBytes = 512u << 20,
                                  .mostCells = 50'000'000,
                                  .purpose = "one table",
                                  .advice = "Divide it into several files."};
}

TerminalProgress::TerminalProgress(std::string what)
    : m_what(std::move(what)), m_isTerminal(isatty(STDERR_FILENO) == 1), m_begin(std::chrono::steady_clock::now()) {}

TerminalProgress::~TerminalProgress() {
    if (m_hasShown) {
        std::cerr << "\r\033[K" << std::flush; // the line goes when the work is done
    }
}

void TerminalProgress::report(double fraction) {
    constexpr auto kPatience = std::chrono::milliseconds(500);
    const int percent = static_cast<int>(100 * fraction);
    if (!m_isTerminal || percent == m_lastPercent || std::chrono::steady_clock::now() - m_begin < kPatience) {
        return;
    }
    m_lastPercent = percent;
    m_hasShown = true;
    std::cerr << "\r" << m_what << " " << percent << " %" << std::flush;
}

void printJson(std::ostream& out, const Json& json) {
    out << json.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
}

Json streamedArray(const std::string& name) {
    return "\x01" + name; // no text of ours begins with a control character
}

void printJson(std::ostream& out, const Json& json, const StreamedArrays& arrays) {
    const std::string text = json.dump(2, ' ', false, Json::error_handler_t::replace);
    std::size_t from = 0;
    while (true) {
        constexpr std::string_view kMark = "\"\\u0001";
        const std::size_t at = text.find(kMark, from);
        if (at == std::string::npos) {
            break;
        }
        const std::size_t end = text.find('"', at + 1);
        out << std::string_view(text).substr(from, at - from) << "[";
        ElementWriter writer(out);
        arrays.at(text.substr(at + kMark.size(), end - at - kMark.size()))(writer);
        writer.flush();
        out << (writer.isEmpty() ? "]" : "\n  ]");
        from = end + 1;
    }
    out << std::string_view(text).substr(from) << "\n";
}

void ElementWriter::begin() {
    m_buffer += m_isEmpty ? "\n    {" : ",\n    {";
    m_isEmpty = false;
    m_isFirstKey = true;
}

void ElementWriter::key(std::string_view name) {
    m_buffer += m_isFirstKey ? "\"" : ", \"";
    m_buffer += name;
    m_buffer += "\": ";
    m_isFirstKey = false;
}

void ElementWriter::number(std::string_view name, const std::optional<double>& value) {
    key(name);
    if (!value || !std::isfinite(*value)) {
        m_buffer += "null";
        return;
    }
    std::array<char, 32> digits{};
    const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), *value).ptr;
    m_buffer.append(digits.data(), end);
}

void ElementWriter::flag(std::string_view name, bool value) {
    key(name);
    m_buffer += value ? "true" : "false";
}

void ElementWriter::end() {
    m_buffer += '}';
    constexpr std::size_t kBlock = 1u << 16;
    if (m_buffer.size() > kBlock) {
        flush();
    }
}

void ElementWriter::flush() {
    m_out << m_buffer;
    m_buffer.clear();
}

tl::unexpected<Error> wrongCall(std::string why) {
    return fail("cli.wrong-call", std::move(why));
}

int explain(std::ostream& err, const Error& error) {
    err << "nuvat-cli: " << forTerminal(error.text()) << " [" << error.code << "]\n";
    return error.code == "cli.wrong-call" ? 2 : 1;
}

int refuse(std::ostream& out, std::ostream& err, const Error& error) {
    const int status = explain(err, error);
    if (status == 1) {
        printJson(out, Json{{"status", "error"}, {"code", error.code}, {"message", error.text()}});
    }
    return status;
}

int printAnswer(std::ostream& out, std::ostream& err, const Result<Json>& answer) {
    if (!answer) {
        return refuse(out, err, answer.error());
    }
    printJson(out, *answer);
    return 0;
}

Result<std::vector<double>> columnOf(const ColumnTable& table, const std::string& heading) {
    const auto found = table.find(heading);
    return found ? table.column(*found) : Result<std::vector<double>>(tl::unexpected(found.error()));
}

Json optionalPair(const std::optional<std::pair<double, double>>& limits) {
    return limits ? Json{limits->first, limits->second} : Json(nullptr);
}

Json optionalNumber(const std::optional<double>& value) {
    return value ? Json(*value) : Json(nullptr);
}

Result<ColumnTable> readColumns(const std::string& path, const std::vector<std::string>& wanted) {
    std::ifstream stream(path, std::ios::binary);
    if (!stream) {
        return fail("import.not-found", path + " cannot be opened: there is no such file, or you may not read it.",
                    "Choose another file.");
    }
    TerminalProgress progress("reading " + path);
    return ColumnTable::read(stream, path, progress, kLimits, wanted);
}

} // namespace nuvat
