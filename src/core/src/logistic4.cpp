#include "logistic4.h"

#include <algorithm>
#include <cmath>
#include <Eigen/Dense>
#include <limits>
#include <map>

namespace nuvat {

namespace {

constexpr int kMostIterations = 200;
constexpr double kMostCondition = 1e8; // of the scaled Jacobian: half the digits of a double
constexpr double kMidpointReach = 1e3; // c this many times beyond the standards is not determined by them
constexpr double kSteepest = 60;       // a slope factor b beyond this is a step, which no spacing of levels resolves
constexpr double kSmallestB = 1e-3;

struct Shape {
    double alpha = 0;
    double b = 1; // slope in t
    Logistic4Reduced::Value value;
    bool converged = false;
};

/// Solves (H + lambda*diag) step = -gradient; false when the damped matrix is not positive definite.
bool dampedStep(const Logistic4Reduced::Value& v, double lambda, double& stepAlpha, double& stepB) {
    const double d0 = std::max(std::abs(v.hessian[0]), 1e-300);
    const double d1 = std::max(std::abs(v.hessian[2]), 1e-300);
    const double h00 = v.hessian[0] + lambda * d0;
    const double h11 = v.hessian[2] + lambda * d1;
    const double h01 = v.hessian[1];
    const double det = h00 * h11 - h01 * h01;
    if (!(h00 > 0) || !(det > 1e-15 * h00 * h11)) {
        return false;
    }
    stepAlpha = -(h11 * v.gradient[0] - h01 * v.gradient[1]) / det;
    stepB = -(h00 * v.gradient[1] - h01 * v.gradient[0]) / det;
    return std::isfinite(stepAlpha) && std::isfinite(stepB);
}

Shape refine(const Logistic4Reduced& reduced, Shape shape) {
    double lambda = 0;
    shape.value = reduced.at(shape.alpha, shape.b);
    for (int iteration = 0; iteration < kMostIterations && shape.value.isUsable; ++iteration) {
        double stepAlpha = 0;
        double stepB = 0;
        if (!dampedStep(shape.value, lambda, stepAlpha, stepB)) {
            lambda = std::max(4 * lambda, 1e-3);
            if (lambda > 1e12) {
                return shape;
            }
            continue;
        }
        // Caps by component keep a far start from leaping over the minimum; B stays positive.
        const double shrink = std::min({1.0, 2.0 / std::max(std::abs(stepAlpha), 1e-300),
                                        0.5 * (1 + shape.b) / std::max(std::abs(stepB), 1e-300)});
        stepAlpha *= shrink;
        stepB = std::max(stepB * shrink, -0.75 * shape.b);
        const double size = std::abs(stepAlpha) / (1 + std::abs(shape.alpha)) + std::abs(stepB) / (1 + shape.b);
        const auto trial = reduced.at(shape.alpha + stepAlpha, shape.b + stepB);
        const double slack = 1e-13 * shape.value.s + 1e-30 * reduced.total(); // rounding of s itself
        if (trial.isUsable && trial.s <= shape.value.s + slack) {
            shape.alpha += stepAlpha;
            shape.b += stepB;
            shape.value = trial;
            lambda = lambda < 1e-6 ? 0 : lambda / 8;
            if (size < 1e-13 || (lambda == 0 && size < 1e-9 && iteration > kMostIterations / 2)) {
                shape.converged = true;
                return shape;
            }
        } else {
            if (size < 1e-11) {
                shape.converged = true;
                return shape;
            }
            lambda = std::max(4 * lambda, 1e-4);
            if (lambda > 1e12) {
                return shape;
            }
        }
        if (shape.b < kSmallestB || shape.b / reduced.half() > 4 * kSteepest) {
            return shape;
        }
    }
    return shape;
}

/// The best of a grid of starts, refined: mid-points from below to beyond the standards, slopes from flat to steep.
Shape searchGlobally(const Logistic4Reduced& reduced) {
    constexpr std::array<double, 7> kSlopes{0.5, 1.0, 1.9, 3.4, 6.0, 10.0, 18.0};
    constexpr int kMidpoints = 19;
    struct Start {
        double alpha, b, s;
    };
    std::vector<Start> starts;
    starts.reserve(kSlopes.size() * kMidpoints);
    for (const double b : kSlopes) {
        // exp(alpha + b*t) = exp(alpha)*exp(b*t): the exponentials of a slope serve all its mid-points.
        const std::vector<double> shapes = reduced.shapes(b);
        for (int i = 0; i < kMidpoints; ++i) {
            const double midpoint = -1.8 + 3.6 * i / (kMidpoints - 1);
            starts.push_back({-b * midpoint, b, reduced.sumOfSquares(shapes, std::exp(-b * midpoint))});
        }
    }
    std::stable_sort(starts.begin(), starts.end(), [](const Start& l, const Start& r) { return l.s < r.s; });
    Shape best;
    best.value.s = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < std::min<std::size_t>(starts.size(), 4); ++i) {
        Shape start;
        start.alpha = starts[i].alpha;
        start.b = starts[i].b;
        const Shape found = refine(reduced, start);
        if (found.value.isUsable && found.value.s < best.value.s) {
            best = found;
        }
    }
    return best;
}

Logistic4Outcome notDetermined(std::string why) {
    Logistic4Outcome out;
    out.status = FitStatus::NotDetermined;
    out.message = std::move(why);
    return out;
}

} // namespace

Logistic4Reduced::Logistic4Reduced(std::span<const double> x, std::span<const double> y, std::span<const double> w) {
    struct Sums {
        long double w = 0, wy = 0;
    };
    std::map<double, Sums> levels; // replicates collapse to weighted means without changing the minimum
    for (std::size_t i = 0; i < x.size(); ++i) {
        levels[x[i]].w += w[i];
        levels[x[i]].wy += static_cast<long double>(w[i]) * y[i];
    }
    const auto firstPositive = levels.upper_bound(0.0);
    if (firstPositive == levels.end()) {
        return;
    }
    const double low = std::log(firstPositive->first);
    const double high = std::log(levels.rbegin()->first);
    m_middle = (low + high) / 2;
    m_half = high > low ? (high - low) / 2 : 1;
    long double sumW = 0;
    long double sumWy = 0;
    for (const auto& [level, sums] : levels) {
        const double t = level > 0 ? (std::log(level) - m_middle) / m_half : 0;
        m_levels.push_back({t, static_cast<double>(sums.wy / sums.w), static_cast<double>(sums.w), level == 0});
        sumW += sums.w;
        sumWy += sums.wy;
    }
    m_sumW = static_cast<double>(sumW);
    m_meanY = static_cast<double>(sumWy / sumW);
    for (const Level& level : m_levels) {
        m_total += level.w * (level.y - m_meanY) * (level.y - m_meanY);
    }
}

namespace {

/// exp(u) kept inside the doubles whose reciprocal is finite; beyond it g is 0 or 1 to the last digit anyway.
double boundedExp(double u) {
    return std::exp(std::clamp(u, -690.0, 690.0));
}

} // namespace

double Logistic4Reduced::sumOfSquares(std::span<const double> shapes, double scale) const {
    // Only ranks starting points, so plain g is accurate enough.
    double meanG = 0;
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        meanG += m_levels[i].w / (1 + (m_levels[i].isZero ? 0 : scale * shapes[i]));
    }
    meanG /= m_sumW;
    double sgg = 0;
    double sgy = 0;
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        const double centred = 1 / (1 + (m_levels[i].isZero ? 0 : scale * shapes[i])) - meanG;
        sgg += m_levels[i].w * centred * centred;
        sgy += m_levels[i].w * centred * (m_levels[i].y - m_meanY);
    }
    return sgg > 1e-24 * m_sumW ? m_total - sgy * sgy / sgg : m_total;
}

std::vector<double> Logistic4Reduced::shapes(double slopeB) const {
    std::vector<double> out;
    for (const Level& level : m_levels) {
        out.push_back(boundedExp(slopeB * level.t));
    }
    return out;
}

Logistic4Reduced::Value Logistic4Reduced::at(double alpha, double slopeB) const {
    Value value;
    // g = 1/(1 + exp(u)); h is g or g - 1, whichever keeps its digits: with the constant in the model both span the
    // same.
    struct Term {
        double h, q, curvature, g, rest; // q = g(1 - g), curvature = q(1 - 2g), rest = 1 - g without cancellation
    };
    std::array<Term, 64> buffer;
    std::vector<Term> heap;
    Term* terms = buffer.data();
    if (m_levels.size() > buffer.size()) {
        heap.resize(m_levels.size());
        terms = heap.data();
    }
    double sumG = 0;
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        const double e = m_levels[i].isZero ? 0 : boundedExp(alpha + slopeB * m_levels[i].t);
        const double g = 1 / (1 + e);
        const double rest = e * g;
        terms[i] = {g, g * rest, g * rest * (rest - g), g, rest};
        sumG += g;
    }
    const bool nearOne = sumG > 0.5 * static_cast<double>(m_levels.size());
    double meanH = 0;
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        terms[i].h = nearOne ? -terms[i].rest : terms[i].g;
        meanH += m_levels[i].w * terms[i].h;
    }
    meanH /= m_sumW;
    double shh = 0;
    double shy = 0;
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        const double dh = terms[i].h - meanH;
        shh += m_levels[i].w * dh * dh;
        shy += m_levels[i].w * dh * (m_levels[i].y - m_meanY);
    }
    if (!(shh > 1e-280) || !std::isfinite(shh)) {
        return value;
    }
    const double e = shy / shh; // a - d
    // With r the residual, H the centred basis and h_j its derivatives:
    //   gradient_j = -2e * sum(w r h_j)
    //   e_j  = (sum(w r h_j) - e*sum(w H h_j)) / shh
    //   hessian_jk = -2 [ e_k*sum(w r h_j) - e*e_k*sum(w H h_j) - e^2*sum(w (h_k - mean) h_j) + e*sum(w r h_jk) ]
    double s = 0;
    std::array<double, 2> rh{};
    std::array<double, 2> hh{};
    std::array<double, 2> meanD{};
    std::array<double, 3> dd{};
    std::array<double, 3> rcurve{};
    for (std::size_t i = 0; i < m_levels.size(); ++i) {
        const Level& level = m_levels[i];
        const double centred = terms[i].h - meanH;
        const double residual = (level.y - m_meanY) - e * centred;
        const std::array<double, 2> derivative{-terms[i].q, -terms[i].q * level.t};
        const std::array<double, 3> second{terms[i].curvature, terms[i].curvature * level.t,
                                           terms[i].curvature * level.t * level.t};
        s += level.w * residual * residual;
        for (std::size_t j = 0; j < 2; ++j) {
            rh[j] += level.w * residual * derivative[j];
            hh[j] += level.w * centred * derivative[j];
            meanD[j] += level.w * derivative[j];
        }
        dd[0] += level.w * derivative[0] * derivative[0];
        dd[1] += level.w * derivative[0] * derivative[1];
        dd[2] += level.w * derivative[1] * derivative[1];
        for (std::size_t j = 0; j < 3; ++j) {
            rcurve[j] += level.w * residual * second[j];
        }
    }
    // q(1-2g) enters with rest - g = 1 - 2g.
    std::array<double, 2> ej{};
    for (std::size_t j = 0; j < 2; ++j) {
        value.gradient[j] = -2 * e * rh[j];
        ej[j] = (rh[j] - e * hh[j]) / shh;
    }
    const auto hessian = [&](std::size_t j, std::size_t k, std::size_t index) {
        const double centredProduct = dd[index] - meanD[j] * meanD[k] / m_sumW;
        return -2 * (ej[k] * rh[j] - e * ej[k] * hh[j] - e * e * centredProduct + e * rcurve[index]);
    };
    value.hessian = {hessian(0, 0, 0), hessian(0, 1, 1), hessian(1, 1, 2)};
    value.s = s;
    const double intercept = m_meanY - e * meanH; // d when h = g, a when h = g - 1
    value.d = nearOne ? intercept - e : intercept;
    value.a = nearOne ? intercept : intercept + e;
    value.isUsable = std::isfinite(s) && std::isfinite(e);
    return value;
}

Logistic4Outcome solveLogistic4(std::span<const double> x, std::span<const double> y, std::span<const double> w) {
    const Logistic4Reduced reduced(x, y, w);
    if (!(reduced.total() > 0)) {
        return notDetermined("All responses are equal, so no parameter of the 4PL is determined.");
    }
    const Shape best = searchGlobally(reduced);
    Logistic4Outcome out;
    if (!best.value.isUsable) {
        out.message = "The 4PL found no starting point for these standards.";
        return out;
    }
    const double b = best.b / reduced.half();
    const double logC = reduced.middle() - reduced.half() * best.alpha / best.b;
    const double low = reduced.middle() - reduced.half();
    const double high = reduced.middle() + reduced.half();
    if (b > kSteepest) {
        return notDetermined("The responses jump between two neighbouring levels, so the slope factor b and the "
                             "mid-point c are not determined; a level between them would fix them.");
    }
    if (best.b < kSmallestB || logC > high + std::log(kMidpointReach) || logC < low - std::log(kMidpointReach)) {
        return notDetermined("The standards show no plateau on one side: the mid-point c lies far outside them, so c "
                             "and the plateau on that side are not determined.");
    }
    if (!best.converged) {
        out.message = "The 4PL did not converge on these standards.";
        return out;
    }
    out.parameters = {best.value.a, b, std::exp(logC), best.value.d};

    Eigen::MatrixXd jacobian(static_cast<Eigen::Index>(x.size()), 4);
    for (std::size_t i = 0; i < x.size(); ++i) {
        const auto gradient = logistic4Gradient(out.parameters, x[i]);
        for (std::size_t k = 0; k < 4; ++k) {
            jacobian(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(k)) = std::sqrt(w[i]) * gradient[k];
        }
    }
    const Eigen::Vector4d scale = jacobian.colwise().norm();
    if (!(scale.minCoeff() > 0)) {
        return notDetermined("A parameter of the 4PL has no influence on the fitted responses.");
    }
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(jacobian * scale.cwiseInverse().asDiagonal());
    const Eigen::Matrix4d r = qr.matrixQR().topRows<4>().triangularView<Eigen::Upper>();
    const Eigen::Vector4d singular = r.jacobiSvd().singularValues();
    if (!(singular(3) * kMostCondition > singular(0))) {
        return notDetermined("The standards do not fix all four parameters of the 4PL (they can be traded against "
                             "each other without changing the fit).");
    }
    const Eigen::Matrix4d inverse =
        scale.cwiseInverse().asDiagonal() * r.triangularView<Eigen::Upper>().solve(Eigen::Matrix4d::Identity());
    const Eigen::Matrix4d information = inverse * inverse.transpose();
    for (int i = 0; i < 4; ++i) {
        for (int k = 0; k < 4; ++k) {
            out.inverseInformation[static_cast<std::size_t>(4 * i + k)] = information(i, k);
        }
    }
    if (logC > high || logC < low) {
        out.warnings.emplace_back("The mid-point c lies outside the standards: c and the plateau on that side rest on "
                                  "few points.");
    }
    out.status = FitStatus::Ok;
    return out;
}

double logistic4Response(const Logistic4Parameters& p, double x) {
    if (x <= 0) {
        return p[0];
    }
    const double u = p[1] * (std::log(x) - std::log(p[2]));
    // From the nearer plateau, so that neither loses its digits.
    return u < 0 ? p[0] - (p[0] - p[3]) / (1 + std::exp(-u)) : p[3] + (p[0] - p[3]) / (1 + std::exp(u));
}

double logistic4Slope(const Logistic4Parameters& p, double x) {
    if (x <= 0) {
        // The limit towards zero: steep for b < 1, that of the straight start for b = 1, flat beyond.
        if (p[1] > 1) {
            return 0;
        }
        return p[1] < 1 ? std::copysign(std::numeric_limits<double>::infinity(), p[3] - p[0]) : (p[3] - p[0]) / p[2];
    }
    const double u = p[1] * (std::log(x) - std::log(p[2]));
    const double q = 1 / ((1 + std::exp(u)) * (1 + std::exp(-u)));
    return -(p[0] - p[3]) * q * p[1] / x;
}

std::array<double, 4> logistic4Gradient(const Logistic4Parameters& p, double x) {
    if (x <= 0) {
        return {1, 0, 0, 0};
    }
    const double l = std::log(x) - std::log(p[2]);
    const double u = p[1] * l;
    const double g = 1 / (1 + std::exp(u));
    const double rest = 1 / (1 + std::exp(-u));
    const double e = p[0] - p[3];
    return {g, -e * g * rest * l, e * g * rest * p[1] / p[2], rest};
}

} // namespace nuvat
