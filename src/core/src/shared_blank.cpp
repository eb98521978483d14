#include "nuvat/core/fit/read_off.h"

#include <vector>

namespace nuvat {

double SharedBlank::share(double x) const {
    // All responses higher by step: those of the samples too. What the curve does not follow is left over.
    return 1 - (response(up, x) - response(down, x)) / (2 * step);
}

bool cancelsBlank(const FitOptions& options) {
    switch (options.model) {
    case Model::LineThroughOrigin:
    case Model::LineFixedPoint:
    case Model::LogLog:
        return false;
    case Model::Logistic4:
    case Model::Logistic5:
        return !options.heldA && !options.heldD;
    case Model::Line:
    case Model::Quadratic:
    case Model::Cubic:
    case Model::PointToPoint:
    case Model::Spline:
        return true;
    }
    return true;
}

std::shared_ptr<const SharedBlank> shareBlank(const Fit& fit, const CalibrationData& data, double step) {
    if (cancelsBlank(fit.options) || !fit.isUsable() || !(step > 0)) {
        return nullptr;
    }
    const auto shifted = [&](double by) {
        std::vector<double> y(data.y.begin(), data.y.end());
        for (double& one : y) {
            one += by;
        }
        CalibrationData moved = data;
        moved.y = y;
        return fitCalibration(fit.options, moved);
    };
    auto out = std::make_shared<SharedBlank>();
    out->up = shifted(step);
    out->down = shifted(-step);
    out->step = step;
    return out->up.isUsable() && out->down.isUsable() ? out : nullptr;
}

} // namespace nuvat
