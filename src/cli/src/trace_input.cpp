#include "trace_input.h"

#include "columns.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/units.h"
#include "nuvat/core/formula/formula.h"
#include "nuvat/formats/any_file.h"

#include <algorithm>
#include <cctype>
#include <cmath>

namespace nuvat {

namespace {

bool isName(std::string_view text) {
    return !text.empty() && std::isdigit(static_cast<unsigned char>(text.front())) == 0 &&
           std::ranges::all_of(text, [](unsigned char c) { return std::isalnum(c) != 0 || c == '_' || c >= 0x80; });
}

/// A column by its heading, or by its heading without the unit where only one is called so.
std::optional<std::size_t> columnCalled(const ColumnTable& table, const std::string& name) {
    const auto& headings = table.headings();
    if (const auto found = std::ranges::find(headings, name); found != headings.end()) {
        return static_cast<std::size_t>(found - headings.begin());
    }
    std::optional<std::size_t> out;
    for (std::size_t i = 0; i < headings.size(); ++i) {
        if (headingParts(headings[i]).name == name) {
            if (out) {
                return std::nullopt;
            }
            out = i;
        }
    }
    return out;
}

/// What a formula may name: headings that are names, and headings without their units.
struct Variables {
    std::vector<std::string> names;
    std::vector<std::size_t> columns;
};

Variables variablesOf(const ColumnTable& table) {
    Variables out;
    const auto add = [&](std::string_view name, std::size_t column) {
        if (isName(name) && std::ranges::find(out.names, name) == out.names.end()) {
            out.names.emplace_back(name);
            out.columns.push_back(column);
        }
    };
    for (std::size_t i = 0; i < table.headings().size(); ++i) {
        add(table.headings()[i], i);
    }
    for (std::size_t i = 0; i < table.headings().size(); ++i) {
        const std::string_view name = headingParts(table.headings()[i]).name;
        if (columnCalled(table, std::string(name)) == i) {
            add(name, i);
        }
    }
    return out;
}

/// Numbers of a column or a formula.
struct Values {
    std::vector<double> values;
    AxisName axis;
    std::size_t firstColumn = 0; ///< named in it
};

Result<Values> valuesOf(const ColumnTable& table, const std::string& text, const std::string& option) {
    Values out;
    if (const auto column = columnCalled(table, text)) {
        auto numbers = table.column(*column);
        if (!numbers) {
            return tl::unexpected(numbers.error());
        }
        const HeadingParts parts = headingParts(table.headings()[*column]);
        return Values{std::move(*numbers), {std::string(parts.name), std::string(parts.unit)}, *column};
    }
    const Variables variables = variablesOf(table);
    const auto formula = Formula::parse(text, variables.names, option);
    if (!formula) {
        if (formula.error().code == "formula.unknown-name" && isName(text)) {
            return tl::unexpected(table.find(text).error());
        }
        return tl::unexpected(formula.error());
    }
    std::vector<std::vector<double>> columns(variables.names.size());
    std::size_t earliest = std::string::npos;
    for (std::size_t i = 0; i < variables.names.size(); ++i) {
        if (!formula->uses(i)) {
            continue;
        }
        auto numbers = table.column(variables.columns[i]);
        if (!numbers) {
            return tl::unexpected(numbers.error());
        }
        columns[i] = std::move(*numbers);
        out.axis.unit = out.axis.unit.empty() ? std::string(headingParts(table.headings()[variables.columns[i]]).unit)
                                              : out.axis.unit;
        const std::size_t at = text.find(variables.names[i]);
        if (at < earliest) {
            earliest = at;
            out.firstColumn = variables.columns[i];
        }
    }
    if (earliest == std::string::npos) {
        return wrongCall(option + " names no column.");
    }
    out.axis.name = text;
    std::vector<long double> row(variables.names.size());
    for (std::size_t r = 0; r < table.rowCount(); ++r) {
        for (std::size_t i = 0; i < columns.size(); ++i) {
            row[i] = columns[i].empty() ? 0 : columns[i][r];
        }
        out.values.push_back(static_cast<double>(formula->value(std::span<const long double>(row))));
        if (!std::isfinite(out.values.back())) {
            return fail("peaks.no-value", option + " gives no number in line " + std::to_string(table.line(r)) + ".",
                        "Correct the formula or the line.");
        }
    }
    return out;
}

Result<TraceInput> fromColumns(const std::string& path, const std::string& x, const std::string& y) {
    const auto table = readColumns(path);
    if (!table) {
        return tl::unexpected(table.error());
    }
    const std::string first = table->headings().empty() ? std::string() : table->headings().front();
    auto xs = valuesOf(*table, x.empty() ? first : x, "--x");
    if (!xs) {
        return tl::unexpected(xs.error());
    }
    auto ys = valuesOf(*table, y, "--y");
    if (!ys) {
        return tl::unexpected(ys.error());
    }
    TraceInput out;
    out.channel = ys->axis.name;
    out.xAxis = xs->axis;
    out.yAxis = ys->axis;
    if (xs->axis.name == x && !columnCalled(*table, x)) { // a formula
        auto at = table->column(xs->firstColumn);
        if (!at) {
            return tl::unexpected(at.error());
        }
        out.at = std::move(*at);
    }
    out.x = std::move(xs->values);
    out.y = std::move(ys->values);
    return out;
}

TraceInput inputOf(const FileTrace& trace) {
    TraceInput out{trace.name, trace.xAxis, trace.yAxis, {}, {}, {}};
    for (std::size_t i = 0; i < trace.x.size(); ++i) {
        if (!std::ranges::binary_search(trace.missing, i)) {
            out.x.push_back(trace.x[i]);
            out.y.push_back(trace.y[i]);
        }
    }
    return out;
}

Result<TraceInput> fromChannel(const std::string& path, const std::string& channel) {
    TerminalProgress progress("reading " + path);
    const auto content = readAnyFile(path, progress);
    if (!content) {
        return tl::unexpected(content.error());
    }
    const auto* traces = std::get_if<FileContent>(&*content);
    std::string known;
    for (const FileTrace& trace : traces ? traces->traces : std::vector<FileTrace>()) {
        if (!trace.isTable && (channel.empty() || trace.name == channel)) {
            return inputOf(trace);
        }
        known += (known.empty() ? "" : ", ") + ("\"" + excerpt(trace.name) + "\"");
    }
    return fail("peaks.no-trace",
                path + (channel.empty() ? " holds no trace." : " holds no trace called \"" + excerpt(channel) + "\"."),
                known.empty() ? "Choose a file with columns of numbers." : "There are " + excerpt(known, 200) + ".");
}

} // namespace

const std::set<std::string>& traceOptions() {
    static const std::set<std::string> kOptions{"--in", "--channel", "--x", "--y"};
    return kOptions;
}

Result<TraceInput> readTrace(const Options& options) {
    if (!options.has("--in")) {
        return wrongCall(options.command() + " needs --in and a file.");
    }
    if (options.has("--channel") && (options.has("--x") || options.has("--y"))) {
        return wrongCall("Give --channel, or --x and --y, not both.");
    }
    if (options.has("--x") && !options.has("--y")) {
        return wrongCall("--x needs --y beside it.");
    }
    return options.has("--y") ? fromColumns(options.text("--in"), options.text("--x"), options.text("--y"))
                              : fromChannel(options.text("--in"), options.text("--channel"));
}

Result<TraceInput> readTraceOf(const std::string& path, const std::string& x, const std::string& y) {
    return y.empty() ? fromChannel(path, {}) : fromColumns(path, x, y);
}

Result<std::pair<double, double>> readStretch(const std::string& option, const std::string& text) {
    const std::size_t colon = text.find(':');
    const auto a = parseNumber(text.substr(0, colon));
    const auto b = colon == std::string::npos ? std::nullopt : parseNumber(text.substr(colon + 1));
    if (!a || !b) {
        return wrongCall(option + " takes a:b, for example 1.5:2; \"" + text + "\" is none.");
    }
    return std::pair(std::min(*a, *b), std::max(*a, *b));
}

} // namespace nuvat
