#include "convert_command.h"

#include "columns.h"
#include "options.h"

#include "nuvat/core/base/units.h"

#include <limits>

namespace nuvat {

namespace {

Result<Json> answer(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments, {"--value", "--from", "--to", "--molar-mass"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--from") || !options->has("--to")) {
        return wrongCall("convert needs --from and --to.");
    }
    constexpr double kAny = std::numeric_limits<double>::max();
    const auto value = options->number("--value", 1, -kAny, kAny, true);
    const auto mass = options->number("--molar-mass", 1, 0, kAny, false);
    if (!value || !mass) {
        return tl::unexpected(!value ? value.error() : mass.error());
    }
    const auto out = converted(*value, options->text("--from"), options->text("--to"),
                               options->has("--molar-mass") ? std::optional(*mass) : std::nullopt);
    if (!out) {
        return tl::unexpected(out.error());
    }
    return Json{{"value", *out}, {"unit", options->text("--to")}};
}

} // namespace

int convertCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, answer(arguments));
}

} // namespace nuvat
