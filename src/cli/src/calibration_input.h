#pragma once

#include "columns.h"
#include "nuvat/core/fit/calibration.h"
#include "options.h"

#include <set>
#include <string>
#include <vector>

namespace nuvat {

/// The standards of fit, compare and detect.
struct CalibrationInput {
    std::vector<std::optional<double>> allX, allY; ///< every line of the file; empty without --include
    std::vector<bool> used;                        ///< by --include, same length
    std::vector<int> level;                        ///< of the used lines; empty without --level
    std::vector<double> s;                         ///< of the used lines; empty without --s
    std::vector<double> usedX, usedY;              ///< of the used lines
    CalibrationData data() const { return {usedX, usedY, level, s}; }
};

/// --in, --x, --y, --level, --s, --include.
const std::set<std::string>& inputOptions();
/// @return cli.wrong-call without --in, or what is wrong in the file with line and cell
Result<CalibrationInput> readCalibration(const Options& options);
/// The numbers of one column of a file: the one named, or the first of all when the name is empty.
Result<std::vector<double>> readColumn(const std::string& path, const std::string& column);

/// --model, --weight, --weight-from, --fit-to, --hold, --fixed, --spline-log.
const std::set<std::string>& modelOptions();
Result<FitOptions> readFitOptions(const Options& options);

/// model, weight, status, message, parameterOrder of a fit.
Json fitHead(const Fit& fit);

/// Numbers of a fit by the names of its parameters. @param values one a parameter
template<class Values> Json byParameter(const Fit& fit, const Values& values) {
    Json out = Json::object();
    for (std::size_t i = 0; i < fit.size(); ++i) {
        out[fit.parameterNames[i]] = values[i];
    }
    return out;
}

inline constexpr const char* kModelNames =
    "line, line0, line-fixed, quadratic, cubic, loglog, points, spline, 4pl, 5pl";
inline constexpr const char* kWeightNames = "none, 1/x, 1/x2, 1/y, 1/y2, 1/s2, variance";

} // namespace nuvat
