#include "sample_commands.h"

#include "calibration_input.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/best_subset.h"
#include "nuvat/core/stats/decision.h"
#include "nuvat/core/stats/descriptive.h"
#include "nuvat/core/stats/dilutions.h"
#include "nuvat/core/stats/median_polish.h"
#include "nuvat/formats/any_file.h"
#include "trace_input.h"

#include <algorithm>
#include <functional>
#include <limits>

namespace nuvat {

namespace {

constexpr double kAny = std::numeric_limits<double>::max();

/// Numbers of lines, from 1.
Json linesJson(std::vector<std::size_t> indexes) {
    std::ranges::sort(indexes);
    Json out = Json::array();
    for (const std::size_t i : indexes) {
        out.push_back(i + 1);
    }
    return out;
}

Result<Json> combine(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments, {"--in", "--factor", "--value", "--se", "--range"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in") || !options->has("--range")) {
        return wrongCall("combine needs --in with a file and --range LOW:HIGH.");
    }
    const auto range = readStretch("--range", options->text("--range"));
    const auto table = readColumns(options->text("--in"));
    if (!range || !table) {
        return tl::unexpected(!range ? range.error() : table.error());
    }
    const auto factors = columnOf(*table, options->text("--factor", "factor"));
    const auto values = columnOf(*table, options->text("--value", "value"));
    const auto ses = columnOf(*table, options->text("--se", "se"));
    if (!factors || !values || !ses) {
        return tl::unexpected(!factors ? factors.error() : !values ? values.error() : ses.error());
    }
    std::vector<Dilution> dilutions;
    for (std::size_t i = 0; i < factors->size(); ++i) {
        dilutions.push_back({(*factors)[i], (*values)[i], (*ses)[i]});
    }
    const auto found = combineDilutions(dilutions, *range);
    if (!found) {
        return tl::unexpected(found.error());
    }
    return Json{{"used", linesJson(found->used)},
                {"agree", found->agree},
                {"reported", found->reported.empty() ? Json(nullptr) : linesJson(found->reported)},
                {"value", optionalNumber(found->value)},
                {"se", optionalNumber(found->se)},
                {"timesFactor", found->timesFactor},
                {"weightedMean", optionalNumber(found->weightedMean)},
                {"seInternal", optionalNumber(found->seInternal)},
                {"seExternal", optionalNumber(found->seExternal)},
                {"simpleMean", optionalNumber(found->simpleMean)},
                {"slope", optionalNumber(found->slope)},
                {"slopeInterval", optionalPair(found->slopeInterval)},
                {"chiSquared", optionalNumber(found->chiSquared)},
                {"p", optionalNumber(found->p)},
                {"warnings", found->warnings}};
}

/// One column of values, with SEs and degrees of freedom where columns for them are named.
Result<std::vector<UncertainValue>> readValues(const Options& options) {
    const auto table = readColumns(options.text("--in"));
    if (!table) {
        return tl::unexpected(table.error());
    }
    const auto values = columnOf(*table, options.text("--value", "value"));
    if (!values) {
        return tl::unexpected(values.error());
    }
    std::vector<UncertainValue> out;
    for (const double value : *values) {
        out.push_back({value, 0, std::numeric_limits<double>::infinity()});
    }
    for (const auto& [option, member] :
         {std::pair("--se", &UncertainValue::se), std::pair("--df", &UncertainValue::df)}) {
        if (!options.has(option)) {
            continue;
        }
        const auto numbers = columnOf(*table, options.text(option));
        if (!numbers) {
            return tl::unexpected(numbers.error());
        }
        for (std::size_t i = 0; i < out.size(); ++i) {
            const double number = (*numbers)[i];
            if (number < 0 || (number == 0 && member == &UncertainValue::df)) {
                return fail("decide.negative",
                            "Line " + std::to_string(i + 2) + ": " + options.text(option) + " is " +
                                formatNumber(number) + ".",
                            "A standard error is 0 or more, degrees of freedom are above 0.");
            }
            out[i].*member = number;
        }
    }
    return out;
}

Json classesJson(const std::vector<std::string>& names, std::size_t lowest, std::size_t highest) {
    Json out = Json::array();
    for (std::size_t i = lowest; i <= highest; ++i) {
        out.push_back(names[i]);
    }
    return out;
}

Result<Json> byLimits(const Options& options, const std::vector<UncertainValue>& values) {
    const auto limits = options.numbers("--limit");
    const auto confidence = options.number("--confidence", 0.95, 0, 1, false);
    if (!limits || !confidence) {
        return tl::unexpected(!limits ? limits.error() : confidence.error());
    }
    if (std::ranges::adjacent_find(*limits, std::greater_equal<>()) != limits->end()) {
        return wrongCall("--limit takes limits that rise, for example 10,25.");
    }
    std::vector<std::string> names = options.words("--names");
    if (names.empty()) {
        names = limits->size() == 1 ? std::vector<std::string>{"below or at", "above"} : names;
        for (std::size_t i = names.size(); i <= limits->size(); ++i) {
            names.push_back("class " + std::to_string(i + 1));
        }
    }
    if (names.size() != limits->size() + 1) {
        return wrongCall("--names takes one name more than there are limits.");
    }
    Json list = Json::array();
    std::vector<std::size_t> counts(names.size());
    for (const UncertainValue& value : values) {
        const Decision found = decide(value, *limits, *confidence);
        ++counts[found.byValue];
        Json each = Json::array();
        for (std::size_t i = 0; i < limits->size(); ++i) {
            each.push_back({{"limit", (*limits)[i]},
                            {"guardedAbove", found.limits[i].isAbove},
                            {"guardedBelow", found.limits[i].isBelow},
                            {"probabilityAbove", found.limits[i].probabilityAbove}});
        }
        list.push_back({{"value", value.value},
                        {"interval", optionalPair(found.interval)},
                        {"byValue", names[found.byValue]},
                        {"byInterval", found.isDecided() ? Json(names[found.lowest]) : Json("not decided")},
                        {"reaches", classesJson(names, found.lowest, found.highest)},
                        {"limits", std::move(each)}});
    }
    Json total = Json::object();
    for (std::size_t i = 0; i < names.size(); ++i) {
        total[names[i]] = counts[i];
    }
    return Json{{"values", std::move(list)}, {"counts", std::move(total)}};
}

Result<Json> byCutOff(const Options& options, const std::vector<UncertainValue>& values) {
    const auto negatives = readColumn(options.text("--negatives"), options.text("--negatives-value"));
    const auto k = options.number("--k", 3, 0, kAny, true);
    const auto grey = readStretch("--grey", options.text("--grey", "1:1"));
    if (!negatives || !k || !grey) {
        return tl::unexpected(!negatives ? negatives.error() : !k ? k.error() : grey.error());
    }
    const auto found = cutOff(*negatives, *k);
    if (!found) {
        return tl::unexpected(found.error());
    }
    if (found->value == 0) {
        return fail("decide.no-cut-off", "The cut-off is 0: no value can be given in units of it.");
    }
    const std::vector<std::string> names{"negative", "borderline", "positive"};
    Json list = Json::array();
    for (const UncertainValue& value : values) {
        const CutOffIndex one = cutOffIndex(value, *found, *grey);
        const auto lowest = static_cast<std::size_t>(one.lowest), highest = static_cast<std::size_t>(one.highest);
        list.push_back({{"value", value.value},
                        {"index", one.index},
                        {"interval", optionalPair(one.interval)},
                        {"se", one.se},
                        {"byValue", names[static_cast<std::size_t>(one.byValue)]},
                        {"byInterval", lowest == highest ? Json(names[lowest]) : Json("not decided")},
                        {"reaches", classesJson(names, lowest, highest)}});
    }
    return Json{{"cutOff",
                 {{"n", found->n},
                  {"mean", found->mean},
                  {"sd", found->sd},
                  {"k", found->k},
                  {"value", found->value},
                  {"se", found->se}}},
                {"values", std::move(list)}};
}

Result<Json> decideAnswer(const std::vector<std::string>& arguments) {
    const auto options =
        Options::parse(arguments, {"--in", "--value", "--se", "--df", "--limit", "--names", "--confidence",
                                   "--negatives", "--negatives-value", "--k", "--grey"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in") || options->has("--limit") == options->has("--negatives")) {
        return wrongCall("decide needs --in with a file, and either --limit with numbers or --negatives with a file.");
    }
    const auto values = readValues(*options);
    if (!values) {
        return tl::unexpected(values.error());
    }
    return options->has("--limit") ? byLimits(*options, *values) : byCutOff(*options, *values);
}

Result<VarianceGrowth> varianceGrowth(const std::string& text) {
    if (text == "constant") {
        return VarianceGrowth::Constant;
    }
    if (text == "mean") {
        return VarianceGrowth::WithMean;
    }
    if (text == "square") {
        return VarianceGrowth::WithMeanSquare;
    }
    return wrongCall("--variance takes constant, mean or square, not \"" + text + "\".");
}

Result<Json> controlPercent(const std::vector<std::string>& arguments) {
    const auto options =
        Options::parse(arguments, {"--in", "--group", "--value", "--control", "--blank", "--variance", "--confidence"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in")) {
        return wrongCall("control-percent needs --in and a file.");
    }
    const auto confidence = options->number("--confidence", 0.95, 0, 1, false);
    const auto table = readColumns(options->text("--in"));
    if (!confidence || !table) {
        return tl::unexpected(!confidence ? confidence.error() : table.error());
    }
    const auto group = table->find(options->text("--group", "group"));
    const auto values = columnOf(*table, options->text("--value", "response"));
    if (!group || !values) {
        return tl::unexpected(!group ? group.error() : values.error());
    }
    const std::string controlName = options->text("--control", "control"),
                      blankName = options->text("--blank", "blank");
    std::vector<double> control, blank;
    std::vector<std::string> names;
    std::vector<std::vector<double>> samples;
    for (std::size_t i = 0; i < values->size(); ++i) {
        const std::string name(table->cell(i, *group));
        auto place = static_cast<std::size_t>(std::ranges::find(names, name) - names.begin());
        if (name != controlName && name != blankName && place == names.size()) {
            names.push_back(name);
            samples.emplace_back();
        }
        (name == controlName ? control : name == blankName ? blank : samples[place]).push_back((*values)[i]);
    }
    if (options->has("--blank") && blank.empty()) {
        return fail("control.too-few", "No line belongs to the blank \"" + blankName + "\".",
                    "--blank takes a name that stands in the column of the groups.");
    }
    const auto growth = varianceGrowth(options->text("--variance", "constant"));
    if (!growth) {
        return tl::unexpected(growth.error());
    }
    const auto found = percentOfControl(control, blank, samples, *confidence, *growth);
    if (!found) {
        return tl::unexpected(found.error());
    }
    Json list = Json::array();
    for (std::size_t i = 0; i < names.size(); ++i) {
        const PercentOfControl& one = found->samples[i];
        const auto inhibition = [](const std::optional<std::pair<double, double>>& limits) {
            return limits ? std::optional(std::pair(100 - limits->second, 100 - limits->first)) : std::nullopt;
        };
        list.push_back({{"sample", names[i]},
                        {"n", samples[i].size()},
                        {"percent", one.percent},
                        {"inhibition", 100 - one.percent},
                        {"se", one.se},
                        {"interval", optionalPair(one.fiellerLimits)},
                        {"inhibitionInterval", optionalPair(inhibition(one.fiellerLimits))},
                        {"deltaInterval", optionalPair(one.deltaLimits)}});
    }
    return Json{{"pooledSd", found->pooledSd}, {"df", found->df}, {"samples", std::move(list)}};
}

Result<Json> best(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments, {"--in", "--value", "--n"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in") || !options->has("--n")) {
        return wrongCall("best needs --in with a file and --n with how many replicates are kept.");
    }
    const auto values = readColumn(options->text("--in"), options->text("--value"));
    const auto count = options->number("--n", 2, 2, 1000, true);
    if (!values || !count) {
        return tl::unexpected(!values ? values.error() : count.error());
    }
    const auto n = static_cast<std::size_t>(*count);
    if (n > values->size() || static_cast<double>(n) != *count) {
        return fail("best.too-few",
                    "There are " + std::to_string(values->size()) + " replicates; the best " + formatNumber(*count) +
                        " cannot be taken of them.",
                    "--n takes a whole number from 2 to that of the replicates.");
    }
    const std::vector<std::size_t> kept = bestSubset(*values, n);
    std::vector<double> subset;
    std::vector<std::size_t> leftOut;
    for (std::size_t i = 0; i < values->size(); ++i) {
        if (std::ranges::binary_search(kept, i)) {
            subset.push_back((*values)[i]);
        } else {
            leftOut.push_back(i);
        }
    }
    const Description found = describe(subset);
    return Json{{"kept", linesJson(kept)},
                {"leftOut", linesJson(leftOut)},
                {"mean", optionalNumber(found.mean)},
                {"sd", optionalNumber(found.sd)},
                {"cvPercent", optionalNumber(found.cvPercent)},
                {"varianceFactor", bestSubsetVariance(n, values->size())}};
}

Result<Json> polish(const std::vector<std::string>& arguments) {
    const auto options = Options::parse(arguments, {"--in", "--iterations"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in")) {
        return wrongCall("polish needs --in and a file with a plate.");
    }
    PolishEnd end;
    if (options->has("--iterations")) {
        const auto most = options->number("--iterations", 10, 1, 100'000, true);
        if (!most) {
            return tl::unexpected(most.error());
        }
        end = {1e-12, static_cast<int>(*most)};
    }
    TerminalProgress progress("reading " + options->text("--in"));
    const auto content = readAnyFile(options->text("--in"), progress);
    if (!content) {
        return tl::unexpected(content.error());
    }
    const auto* plates = std::get_if<std::vector<PlateImport>>(&*content);
    if (plates == nullptr || plates->front().isRunList) {
        return fail("polish.no-plate", options->text("--in") + " holds no plate.", "Choose a file with a plate.");
    }
    const PlateImport& plate = plates->front();
    std::vector<std::optional<double>> values;
    for (const PlateCell& well : plate.wells) {
        values.push_back(well.value);
    }
    const MedianPolish found = medianPolish(values, plate.rows, plate.columns, end);
    const auto matrix = [&](const std::vector<std::optional<double>>& numbers) {
        Json out = Json::array();
        for (std::size_t i = 0; i < numbers.size(); ++i) {
            if (i % static_cast<std::size_t>(plate.columns) == 0) {
                out.push_back(Json::array());
            }
            out.back().push_back(optionalNumber(numbers[i]));
        }
        return out;
    };
    return Json{{"iterations", found.rounds},    {"overall", found.overall},     {"rows", found.rows},
                {"columns", found.columns},      {"scaledMad", found.scaledMad}, {"residuals", matrix(found.residuals)},
                {"scores", matrix(found.scores)}};
}

} // namespace

int combineCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, combine(arguments));
}

int decideCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, decideAnswer(arguments));
}

int controlPercentCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, controlPercent(arguments));
}

int bestCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, best(arguments));
}

int polishCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, polish(arguments));
}

} // namespace nuvat
