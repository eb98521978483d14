#include "normalise_command.h"

#include "columns.h"
#include "options.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/signal/normalise.h"

#include <algorithm>

namespace nuvat {

namespace {

/// Peaks as they are listed.
struct Peaks {
    std::vector<std::string> names;
    std::vector<double> areas, factors;
    std::vector<std::size_t> ignored;
};

/// Numbers of peaks, from 1.
Result<std::vector<std::size_t>> readNumbers(const std::string& option, const std::string& text, std::size_t count) {
    std::vector<std::size_t> out;
    for (std::size_t from = 0; from <= text.size();) {
        const std::size_t to = std::min(text.find(',', from), text.size());
        const auto value = parseNumber(text.substr(from, to - from));
        if (!value || !(*value >= 1) || *value > static_cast<double>(count) ||
            *value != static_cast<double>(static_cast<std::size_t>(*value))) {
            return wrongCall(option + " takes numbers of peaks from 1 to " + std::to_string(count) + ".");
        }
        out.push_back(static_cast<std::size_t>(*value) - 1);
        from = to + 1;
    }
    return out;
}

Result<Peaks> readPeaks(const Options& options) {
    const auto table = readColumns(options.text("--in"));
    if (!table) {
        return tl::unexpected(table.error());
    }
    Peaks out;
    auto areas = columnOf(*table, options.text("--area", "area"));
    if (!areas) {
        return tl::unexpected(areas.error());
    }
    out.areas = std::move(*areas);
    if (options.has("--factor")) {
        auto factors = columnOf(*table, options.text("--factor"));
        if (!factors) {
            return tl::unexpected(factors.error());
        }
        out.factors = std::move(*factors);
    }
    for (std::size_t i = 0; i < out.areas.size(); ++i) {
        out.names.push_back(std::to_string(i + 1));
    }
    if (options.has("--name")) {
        const auto name = table->find(options.text("--name"));
        if (!name) {
            return tl::unexpected(name.error());
        }
        for (std::size_t i = 0; i < out.areas.size(); ++i) {
            out.names[i] = std::string(table->cell(i, *name));
        }
    }
    if (options.has("--ignore")) {
        auto ignored = readNumbers("--ignore", options.text("--ignore"), out.areas.size());
        if (!ignored) {
            return tl::unexpected(ignored.error());
        }
        out.ignored = std::move(*ignored);
    }
    return out;
}

/// "NAME=2,3,5": peaks whose areas count as one.
Result<Json> groupJson(const std::string& text, const Peaks& peaks, const std::vector<NormalisedPeak>& shares) {
    const std::size_t equals = text.find('=');
    if (equals == std::string::npos) {
        return wrongCall("--group takes NAME=2,3,5.");
    }
    const auto members = readNumbers("--group", text.substr(equals + 1), peaks.areas.size());
    if (!members) {
        return tl::unexpected(members.error());
    }
    double area = 0, areaPercent = 0, percent = 0;
    Json numbers = Json::array(), parts = Json::array();
    for (const std::size_t i : *members) {
        area += peaks.areas[i];
        areaPercent += shares[i].areaPercent.value_or(0);
        percent += shares[i].percent.value_or(0);
        numbers.push_back(i + 1);
    }
    for (const std::size_t i : *members) {
        parts.push_back(area != 0 ? Json(100 * peaks.areas[i] / area) : Json(nullptr));
    }
    return Json{{"name", text.substr(0, equals)},
                {"members", std::move(numbers)},
                {"area", area},
                {"areaPercent", areaPercent},
                {"percent", percent},
                {"sharesInGroup", std::move(parts)}};
}

Result<Json> answer(const std::vector<std::string>& arguments) {
    const auto options =
        Options::parse(arguments, {"--in", "--area", "--factor", "--name", "--ignore", "--group"}, {}, 0, {"--group"});
    if (!options) {
        return tl::unexpected(options.error());
    }
    if (!options->has("--in")) {
        return wrongCall("normalise needs --in and a file.");
    }
    const auto peaks = readPeaks(*options);
    if (!peaks) {
        return tl::unexpected(peaks.error());
    }
    const auto shares = normalise(peaks->areas, peaks->factors, peaks->ignored);
    if (!shares) {
        return tl::unexpected(shares.error());
    }
    Json list = Json::array();
    for (std::size_t i = 0; i < peaks->areas.size(); ++i) {
        list.push_back({{"name", peaks->names[i]},
                        {"area", peaks->areas[i]},
                        {"factor", peaks->factors.empty() ? 1 : peaks->factors[i]},
                        {"ignored", !(*shares)[i].areaPercent},
                        {"areaPercent", optionalNumber((*shares)[i].areaPercent)},
                        {"percent", optionalNumber((*shares)[i].percent)}});
    }
    Json groups = Json::array();
    for (const std::string& text : options->all("--group")) {
        auto group = groupJson(text, *peaks, *shares);
        if (!group) {
            return tl::unexpected(group.error());
        }
        groups.push_back(std::move(*group));
    }
    return Json{{"peaks", std::move(list)}, {"groups", std::move(groups)}};
}

} // namespace

int normaliseCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    return printAnswer(out, err, answer(arguments));
}

} // namespace nuvat
