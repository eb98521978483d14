// What models, weights, methods and outcomes are called on screen and in reports.
#include "nuvat/batch/working.h"

#include <algorithm>

namespace nuvat {

std::string intervalTitle(IntervalMethod method) {
    switch (method) {
    case IntervalMethod::Propagation:
        return "propagation";
    case IntervalMethod::LogPropagation:
        return "propagation of the logarithm";
    case IntervalMethod::Fieller:
        return "Fieller";
    case IntervalMethod::Inversion:
        return "inversion of the band";
    case IntervalMethod::Profile:
        return "profile likelihood";
    case IntervalMethod::Bootstrap:
        return "parametric bootstrap";
    }
    return {};
}

namespace {

/// Whether all replicates of a sample have this state, which is why there is no result.
bool areAll(const SampleResult& result, ResponseState state) {
    return result.status == ResultStatus::NotDefined && !result.replicates.empty() &&
           std::ranges::all_of(result.replicates, [state](const auto& one) { return one.state == state; });
}

} // namespace

bool isNotFound(const SampleResult& result) {
    return areAll(result, ResponseState::NotFound);
}

bool isNotRead(const SampleResult& result) {
    return areAll(result, ResponseState::NotRead);
}

std::string statusWord(const SampleResult& result) {
    switch (result.status) {
    case ResultStatus::Reported:
        break;
    case ResultStatus::Extrapolated:
        return result.needsReview ? "Review" : "Extrapolated";
    case ResultStatus::BelowRange:
    case ResultStatus::BelowCurve:
        return "Below";
    case ResultStatus::AboveRange:
    case ResultStatus::AboveCurve:
        return "Above";
    case ResultStatus::AcrossLimit:
        return "Review";
    case ResultStatus::NotDefined:
        return isNotFound(result) ? "Not found" : isNotRead(result) ? "Not read" : "No result";
    }
    return result.needsReview ? "Review" : "Pass";
}

Outcome statusOutcome(const SampleResult& result) {
    if (isNotRead(result)) {
        return Outcome::NotApplicable;
    }
    if (isNotFound(result) && isOfSample(result.group.role)) {
        return Outcome::Pass; // nothing of it in the sample: an answer
    }
    if (result.status == ResultStatus::NotDefined) {
        return Outcome::Fail;
    }
    return result.needsReview || result.status != ResultStatus::Reported ? Outcome::Review : Outcome::Pass;
}

std::string outcomeWord(Outcome outcome) {
    switch (outcome) {
    case Outcome::Pass:
        return "Pass";
    case Outcome::Review:
        return "Review";
    case Outcome::Fail:
        return "Fail";
    case Outcome::NotApplicable:
        break;
    }
    return "None";
}

std::string inverseFormula(Model model) {
    switch (model) {
    case Model::Line:
        return "x = (y \u2212 a) / b";
    case Model::LineThroughOrigin:
        return "x = y / b";
    case Model::LineFixedPoint:
        return "x = x0 + (y \u2212 y0) / b";
    case Model::Quadratic:
    case Model::Cubic:
        return "root on the branch that holds the standards";
    case Model::LogLog:
        return "log x = (log y \u2212 a) / b";
    case Model::PointToPoint:
        return "on the line between the two neighbouring levels";
    case Model::Spline:
        return "on the curve between the two neighbouring levels";
    case Model::Logistic4:
        return "x = c·((a \u2212 y)/(y \u2212 d))^(1/b)";
    case Model::Logistic5:
        return "x = c·(((a \u2212 d)/(y \u2212 d))^(1/g) \u2212 1)^(1/b)";
    }
    return {};
}

std::string modelFormula(Model model) {
    switch (model) {
    case Model::Line:
        return "y = a + b·x";
    case Model::LineThroughOrigin:
        return "y = b·x";
    case Model::LineFixedPoint:
        return "y = y0 + b·(x \u2212 x0)";
    case Model::Quadratic:
        return "y = b0 + b1·x + b2·x²";
    case Model::Cubic:
        return "y = b0 + b1·x + b2·x² + b3·x³";
    case Model::LogLog:
        return "log y = a + b·log x";
    case Model::PointToPoint:
        return "straight lines between the level means";
    case Model::Spline:
        return "monotone cubic through the level means";
    case Model::Logistic4:
        return "y = d + (a \u2212 d)/(1 + (x/c)^b)";
    case Model::Logistic5:
        return "y = d + (a \u2212 d)/(1 + (x/c)^b)^g";
    }
    return {};
}

std::string modelTitle(Model model) {
    switch (model) {
    case Model::Line:
        return "Line";
    case Model::LineThroughOrigin:
        return "Line through origin";
    case Model::LineFixedPoint:
        return "Line through a fixed point";
    case Model::Quadratic:
        return "Quadratic";
    case Model::Cubic:
        return "Cubic";
    case Model::LogLog:
        return "Log-log line";
    case Model::PointToPoint:
        return "Point to point";
    case Model::Spline:
        return "Monotone spline";
    case Model::Logistic4:
        return "4PL logistic";
    case Model::Logistic5:
        return "5PL logistic";
    }
    return {};
}

std::string weightingTitle(Weighting weighting) {
    switch (weighting) {
    case Weighting::None:
        return "none";
    case Weighting::InverseX:
        return "1/x";
    case Weighting::InverseX2:
        return "1/x²";
    case Weighting::InverseY:
        return "1/y";
    case Weighting::InverseY2:
        return "1/y²";
    case Weighting::InverseS2:
        return "1/s²";
    case Weighting::Variance:
        return "variance function";
    }
    return {};
}

std::string parameterTitle(Model model, std::size_t index) {
    constexpr std::array<const char*, 5> kFour{"a, response at zero", "b, slope factor", "c, mid-point",
                                               "d, response at ∞"};
    constexpr std::array<const char*, 5> kFive{"a, response at zero", "b, slope factor", "c, place", "d, response at ∞",
                                               "g, asymmetry"};
    constexpr std::array<const char*, 4> kPolynomial{"b0", "b1, of x", "b2, of x²", "b3, of x³"};
    constexpr std::array<const char*, 2> kLine{"a, intercept", "b, slope"};
    switch (model) {
    case Model::Line:
    case Model::LineFixedPoint:
        return kLine.at(index);
    case Model::LogLog:
        return index == 0 ? "a, log y at x = 1" : "b, slope of the logs";
    case Model::LineThroughOrigin:
        return kLine.at(1);
    case Model::Quadratic:
    case Model::Cubic:
        return kPolynomial.at(index);
    case Model::PointToPoint:
    case Model::Spline:
        return {};
    case Model::Logistic4:
        return kFour.at(index);
    case Model::Logistic5:
        return kFive.at(index);
    }
    return {};
}

std::string fitTitle(const FitOptions& options) {
    return modelTitle(options.model) + (isInterpolation(options.model) ? "" : ", " + weightingTitle(options.weighting));
}

} // namespace nuvat
