#include "addition_command.h"

#include "columns.h"
#include "options.h"

#include "nuvat/core/fit/standard_addition.h"

#include <limits>

namespace nuvat {

namespace {

constexpr double kAny = std::numeric_limits<double>::max();

struct Points {
    std::vector<double> added, response;
};

/// What is added in the unit of a concentration of the sample as it was before: v*C/V0; the response as it were without
/// dilution: y*(V0+v)/V0.
Result<Points> readPoints(const Options& options) {
    const auto table = readColumns(options.text("--in"));
    if (!table) {
        return tl::unexpected(table.error());
    }
    auto added = columnOf(*table, options.text("--x", "added"));
    auto response = columnOf(*table, options.text("--y", "response"));
    if (!added || !response) {
        return tl::unexpected(!added ? added.error() : response.error());
    }
    Points out{std::move(*added), std::move(*response)};
    if (!options.has("--volume")) {
        return out;
    }
    const auto volume = options.number("--volume", 1, 0, kAny, false);
    const auto standard = options.number("--standard", 1, 0, kAny, false);
    if (!volume || !standard) {
        return tl::unexpected(!volume ? volume.error() : standard.error());
    }
    for (std::size_t i = 0; i < out.added.size(); ++i) {
        const double v = out.added[i];
        out.added[i] = v * *standard / *volume;
        out.response[i] *= options.has("--uncorrected") ? 1 : (*volume + v) / *volume;
    }
    return out;
}

Json limitsJson(const std::optional<std::pair<double, double>>& limits, double factor) {
    return limits ? Json{limits->first * factor, limits->second * factor} : Json(nullptr);
}

Result<Json> answer(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(
        arguments, {"--in", "--x", "--y", "--volume", "--standard", "--factor", "--confidence"}, {"--uncorrected"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in")) {
        return wrongCall("addition needs --in and a file.");
    }
    if (options->has("--volume") != options->has("--standard")) {
        return wrongCall("--volume and --standard belong together.");
    }
    const auto factor = options->number("--factor", 1, 0, kAny, false);
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    if (!factor || !confidence) {
        return tl::unexpected(!factor ? factor.error() : confidence.error());
    }
    const auto points = readPoints(*options);
    if (!points) {
        return tl::unexpected(points.error());
    }
    const auto line = standardAddition(points->added, points->response, *confidence);
    if (!line) {
        return tl::unexpected(line.error());
    }
    return Json{
        {"n", line->n},
        {"df", line->df},
        {"parameters", {{"a", line->a}, {"b", line->b}}},
        {"se", {{"a", line->seA}, {"b", line->seB}}},
        {"covariance", line->covariance},
        {"s", line->s},
        {"r2", line->rSquared},
        {"content", line->content},
        {"contentSe", line->se},
        {"confidence", *confidence},
        {"t", line->t},
        {"limits", {{"delta", limitsJson(line->deltaLimits, 1)}, {"fieller", limitsJson(line->fiellerLimits, 1)}}},
        {"factor", *factor},
        {"contentInSample", line->content * *factor},
        {"limitsInSample",
         {{"delta", limitsJson(line->deltaLimits, *factor)}, {"fieller", limitsJson(line->fiellerLimits, *factor)}}},
        {"points", {{"x", points->added}, {"y", points->response}}}};
}

} // namespace

int additionCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, answer(arguments));
}

} // namespace nuvat
