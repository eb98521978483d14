#include "line_command.h"

#include "columns.h"
#include "trace_input.h"

#include "nuvat/core/signal/trace.h"

#include <limits>

namespace nuvat {

namespace {

Result<Json> answer(const std::vector<std::string>& arguments) {
    std::set<std::string> names{"--from", "--to"};
    names.insert(traceOptions().begin(), traceOptions().end());
    const auto options = Options::parse(arguments, names);
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--from") || !options->has("--to")) {
        return wrongCall("line needs --from and --to.");
    }
    constexpr double kAny = std::numeric_limits<double>::max();
    const auto from = options->number("--from", 0, -kAny, kAny, true);
    const auto to = options->number("--to", 0, -kAny, kAny, true);
    if (!from || !to) {
        return tl::unexpected(!from ? from.error() : to.error());
    }
    const auto trace = readTrace(*options);
    if (!trace) {
        return tl::unexpected(trace.error());
    }
    const auto line = lineBetween(trace->x, trace->y, {*from, *to}, trace->at);
    if (!line) {
        return tl::unexpected(line.error());
    }
    return Json{{"a", line->a},
                {"b", line->b},
                {"se", {{"a", line->seA}, {"b", line->seB}}},
                {"covariance", line->covariance},
                {"r2", line->rSquared},
                {"s", line->s},
                {"n", line->n},
                {"x", {{"unit", trace->xAxis.unit}}},
                {"y", {{"unit", trace->yAxis.unit}}}};
}

} // namespace

int lineCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, answer(arguments));
}

} // namespace nuvat
