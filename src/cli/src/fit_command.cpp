#include "fit_command.h"

#include "columns.h"

#include "nuvat/core/base/number.h"
#include "nuvat/core/base/well.h"
#include "nuvat/core/fit/read_off.h"
#include "nuvat/core/stats/distributions.h"
#include "nuvat/formats/delimited_table.h"

#include <algorithm>
#include <fstream>
#include <map>

namespace nuvat {

namespace {

/// What was asked for; a wrong call is an Error with the code cli.wrong-call.
struct Request {
    std::string in;
    std::string x = "x";
    std::string y = "y";
    std::string include;
    Model model = Model::Line;
    Weighting weighting = Weighting::None;
    ReadOffOptions readOff;
    std::vector<double> responses;
    std::string readFile;
};

Result<std::vector<double>> numbersOf(const std::string& option, const std::string& list) {
    std::vector<double> out;
    std::size_t from = 0;
    while (from <= list.size()) {
        const std::size_t comma = std::min(list.find(',', from), list.size());
        const auto value = parseNumber(std::string_view(list).substr(from, comma - from));
        if (!value) {
            return wrongCall(option + " takes numbers separated by commas, not \"" + list + "\".");
        }
        out.push_back(*value);
        from = comma + 1;
    }
    return out;
}

Result<Request> parse(const std::vector<std::string>& arguments) {
    Request request;
    for (std::size_t i = 1; i < arguments.size(); i += 2) {
        const std::string& option = arguments[i];
        if (i + 1 == arguments.size()) {
            return wrongCall(option + " needs a value.");
        }
        const std::string& value = arguments[i + 1];
        if (option == "--in") {
            request.in = value;
        } else if (option == "--x") {
            request.x = value;
        } else if (option == "--y") {
            request.y = value;
        } else if (option == "--include") {
            request.include = value;
        } else if (option == "--read-file") {
            request.readFile = value;
        } else if (option == "--model") {
            const auto model = modelFromName(value);
            if (!model) {
                return wrongCall("there is no model \"" + value + "\"; there are line, line0, quadratic, cubic, 4pl.");
            }
            request.model = *model;
        } else if (option == "--weight") {
            const auto weighting = weightingFromName(value);
            if (!weighting) {
                return wrongCall("there is no weight \"" + value + "\"; there are none, 1/x, 1/x2, 1/y, 1/y2, 1/s2.");
            }
            request.weighting = *weighting;
        } else if (option == "--interval") {
            if (value != "propagation" && value != "log-propagation" && value != "fieller") {
                return wrongCall("--interval takes propagation, log-propagation or fieller.");
            }
            request.readOff.interval = value == "fieller"       ? IntervalMethod::Fieller
                                       : value == "propagation" ? IntervalMethod::Propagation
                                                                : IntervalMethod::LogPropagation;
        } else if (option == "--confidence" || option == "--m") {
            const auto number = parseNumber(value);
            const bool isConfidence = option == "--confidence";
            if (!number || !(isConfidence ? *number > 0 && *number < 1 : *number >= 1)) {
                return wrongCall(isConfidence ? "--confidence takes a number between 0 and 1, for example 0.95."
                                              : "--m takes the number of readings behind each response, 1 or more.");
            }
            (isConfidence ? request.readOff.confidence : request.readOff.replicates) = *number;
        } else if (option == "--read") {
            auto numbers = numbersOf(option, value);
            if (!numbers) {
                return tl::unexpected(numbers.error());
            }
            request.responses = std::move(*numbers);
        } else {
            return wrongCall("fit has no option " + option + ".");
        }
    }
    if (request.in.empty()) {
        return wrongCall("fit needs --in and a CSV file.");
    }
    if (request.readOff.interval == IntervalMethod::Fieller && request.model != Model::Line &&
        request.model != Model::LineThroughOrigin) {
        return wrongCall("--interval fieller is for the models line and line0.");
    }
    return request;
}

struct Points {
    std::vector<double> x, y;
    std::vector<bool> used;
};

bool isYes(std::string_view text) {
    const std::string_view word = trimmed(text);
    return word == "1" || word == "yes" || word == "true" || word == "TRUE";
}

Result<Points> readPoints(const Request& request) {
    const auto columns = readColumns(request.in);
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto x = columns->find(request.x);
    const auto y = columns->find(request.y);
    const auto include = request.include.empty() ? Result<std::size_t>(std::size_t{0}) : columns->find(request.include);
    for (const auto* column : {&x, &y, &include}) {
        if (!*column) {
            return tl::unexpected(column->error());
        }
    }
    Points points;
    for (std::size_t i = 1; i < columns->table.rows.size(); ++i) {
        const DelimitedRow& row = columns->table.rows[i];
        const bool isUsed = request.include.empty() || (*include < row.cells.size() && isYes(row.cells[*include]));
        const auto xValue = columns->number(row, *x);
        const auto yValue = columns->number(row, *y);
        if (!xValue || !yValue) {
            return tl::unexpected(!xValue ? xValue.error() : yValue.error());
        }
        if (request.model == Model::Logistic4 && *xValue < 0) {
            return fail("fit.negative",
                        request.in + ", line " + std::to_string(row.line) +
                            ": the 4PL needs concentrations of 0 or more.",
                        "Correct the line or choose another model.");
        }
        points.x.push_back(*xValue);
        points.y.push_back(*yValue);
        points.used.push_back(isUsed);
    }
    return points;
}

Json standardsJson(const Fit& fit, const Points& points) {
    Json out = Json::array();
    const std::vector<double> weights = fit.normalisedWeights();
    std::size_t used = 0;
    ReadOffOptions plain;
    plain.factor = 1; // only the concentration is used
    for (std::size_t i = 0; i < points.x.size(); ++i) {
        const double fitted = response(fit, points.x[i]);
        const ReadOff back = readOff(fit, points.y[i], plain);
        Json one{{"x", points.x[i]}, {"y", points.y[i]}};
        one["weight"] = points.used[i] ? Json(weights[used++]) : Json(nullptr);
        one["used"] = static_cast<bool>(points.used[i]);
        one["fitted"] = fitted;
        one["residual"] = points.y[i] - fitted;
        one["backCalculated"] = optionalNumber(back.x);
        one["errorPercent"] =
            back.x && points.x[i] != 0 ? Json(100 * (*back.x - points.x[i]) / points.x[i]) : Json(nullptr);
        out.push_back(std::move(one));
    }
    return out;
}

void addEstimates(Json& out, const Fit& fit, const Request& request) {
    const double t = studentFactor(request.readOff.confidence, fit.df);
    Json parameters = Json::object();
    Json se = Json::object();
    Json interval = Json::object();
    Json covariance = Json::array();
    for (std::size_t i = 0; i < fit.p; ++i) {
        const std::string& name = fit.parameterNames[i];
        parameters[name] = fit.parameters[i];
        se[name] = fit.se[i];
        interval[name] = {fit.parameters[i] - t * fit.se[i], fit.parameters[i] + t * fit.se[i]};
        Json row = Json::array();
        for (std::size_t k = 0; k < fit.p; ++k) {
            row.push_back(fit.covariance[i * fit.p + k]);
        }
        covariance.push_back(std::move(row));
    }
    out["parameters"] = parameters;
    out["se"] = se;
    out["interval"] = interval;
    out["covariance"] = covariance;
}

Json readOffsJson(const Fit& fit, const std::vector<double>& responses, const ReadOffOptions& options) {
    Json out = Json::array();
    for (const double y : responses) {
        const ReadOff read = readOff(fit, y, options);
        out.push_back({{"y", y},
                       {"m", options.replicates},
                       {"x", optionalNumber(read.x)},
                       {"se", optionalNumber(read.se)},
                       {"low", optionalNumber(read.low)},
                       {"high", optionalNumber(read.high)},
                       {"status", name(read.status)}});
    }
    return out;
}

Result<std::vector<double>> responsesToRead(const Request& request) {
    std::vector<double> responses = request.responses;
    if (request.readFile.empty()) {
        return responses;
    }
    const auto columns = readColumns(request.readFile);
    if (!columns) {
        return tl::unexpected(columns.error());
    }
    const auto y = columns->find(request.y);
    if (!y) {
        return tl::unexpected(y.error());
    }
    for (std::size_t i = 1; i < columns->table.rows.size(); ++i) {
        const auto value = columns->number(columns->table.rows[i], *y);
        if (!value) {
            return tl::unexpected(value.error());
        }
        responses.push_back(*value);
    }
    return responses;
}

} // namespace

int fitCommand(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    const auto request = parse(arguments);
    if (!request) {
        return explain(err, request.error());
    }
    const auto points = readPoints(*request);
    if (!points) {
        return explain(err, points.error());
    }
    const auto responses = responsesToRead(*request);
    if (!responses) {
        return explain(err, responses.error());
    }
    std::vector<double> x;
    std::vector<double> y;
    for (std::size_t i = 0; i < points->x.size(); ++i) {
        if (points->used[i]) {
            x.push_back(points->x[i]);
            y.push_back(points->y[i]);
        }
    }
    const Fit fit = fitCalibration(request->model, request->weighting, x, y);
    Json json{{"model", name(fit.model)},
              {"weight", name(fit.weighting)},
              {"status", name(fit.status)},
              {"message", fit.message},
              {"parameterOrder", fit.parameterNames}};
    if (fit.isUsable()) {
        addEstimates(json, fit, *request);
    }
    json["n"] = fit.n;
    json["p"] = fit.p;
    if (fit.isUsable()) {
        json["df"] = fit.df;
        json["sse"] = fit.sse;
        json["s"] = fit.s;
        json["r2"] = optionalNumber(fit.rSquared);
        json["r"] = optionalNumber(fit.r);
        json["aicc"] = optionalNumber(fit.aicc);
        json["standards"] = standardsJson(fit, *points);
        ReadOffOptions options = request->readOff;
        options.factor = studentFactor(options.confidence, fit.df);
        json["readOffs"] = readOffsJson(fit, *responses, options);
    }
    json["warnings"] = fit.warnings;
    out << json.dump(2, ' ', false, Json::error_handler_t::replace) << "\n";
    if (!fit.isUsable()) {
        err << "nuvat-cli: " << fit.message << "\n";
        return 1;
    }
    return 0;
}

} // namespace nuvat
