#pragma once

#include "nuvat/core/fit/calibration.h"

#include <array>

namespace nuvat {

/// a, b, c, d of y = d + (a - d)/(1 + (x/c)^b).
using Logistic4Parameters = std::array<double, 4>;

/// What solveLogistic4 found; parameters and inverseInformation count only when status is Ok.
struct Logistic4Outcome {
    FitStatus status = FitStatus::NotConverged;
    std::string message;
    std::vector<std::string> warnings;
    Logistic4Parameters parameters{};
    std::array<double, 16> inverseInformation{}; ///< (J'WJ)^-1, row by row
};

/// Global weighted least-squares fit of the 4PL; see fitCalibration for method and source.
/// @param x n concentrations >= 0 with at least 4 different values; @param y n responses; @param w n weights > 0
Logistic4Outcome solveLogistic4(std::span<const double> x, std::span<const double> y, std::span<const double> w);

double logistic4Response(const Logistic4Parameters& p, double x);
double logistic4Slope(const Logistic4Parameters& p, double x);
/// Derivatives with respect to a, b, c, d.
std::array<double, 4> logistic4Gradient(const Logistic4Parameters& p, double x);

/// The reduced sum of squares over the two shape parameters, with exact first and second derivatives; exposed for the
/// test that compares them with finite differences.
class Logistic4Reduced {
public:
    Logistic4Reduced(std::span<const double> x, std::span<const double> y, std::span<const double> w);

    struct Value {
        double s = 0;                     ///< weighted sum of squares of the level means, minimal over a and d
        double a = 0, d = 0;              ///< the minimising a and d
        std::array<double, 2> gradient{}; ///< ds/dalpha, ds/dB
        std::array<double, 3> hessian{};  ///< alpha alpha, alpha B, B B
        bool isUsable = false;            ///< false when the shape leaves nothing to fit (flat)
    };
    Value at(double alpha, double slopeB) const;
    /// exp(slopeB*t) of every level, for sumOfSquares.
    std::vector<double> shapes(double slopeB) const;
    /// The sum of squares alone, for u with exp(u) = scale*shapes; for ranking starts.
    double sumOfSquares(std::span<const double> shapes, double scale) const;
    double total() const { return m_total; } ///< weighted sum of squares about the mean
    double middle() const { return m_middle; }
    double half() const { return m_half; }

private:
    struct Level {
        double t, y, w;
        bool isZero;
    };
    std::vector<Level> m_levels;
    double m_sumW = 0;
    double m_meanY = 0;
    double m_total = 0;
    double m_middle = 0; // of ln x
    double m_half = 1;   // half the range of ln x
};

} // namespace nuvat
