#include "nuvat/core/signal/noise.h"

#include "lanes.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <limits>
#include <numeric>
#include <vector>

namespace nuvat {

namespace {

constexpr std::size_t kPiece = 64, kShortest = 16;

/// The value in the middle of n values >= 0. Their order is that of their bits, so that a histogram of the upper bits
/// leaves few to be put in order.
double medianOf(std::vector<double>& values) {
    constexpr unsigned kShift = 50; // 11 bits of the exponent and 2 of the fraction
    std::vector<std::uint32_t> counts(std::size_t{1} << (63 - kShift));
    const auto binOf = [](double value) { return std::bit_cast<std::uint64_t>(value) >> kShift; };
    for (const double value : values) {
        ++counts[binOf(value)];
    }
    std::size_t rank = values.size() / 2, bin = 0;
    for (; rank >= counts[bin]; ++bin) {
        rank -= counts[bin];
    }
    std::erase_if(values, [&](double value) { return binOf(value) != bin; });
    const auto middle = values.begin() + static_cast<std::ptrdiff_t>(rank);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// What a piece of the trace leaves about its own cubic.
struct Piece {
    double squares = 0; ///< of the residuals
    double lagged = 0;  ///< of neighbours
    double sd = 0;
};

/// Four polynomials that are orthonormal over so many samples.
using Basis = std::array<std::vector<double>, 4>;

Basis basisOf(std::size_t size) {
    Basis out;
    for (std::size_t k = 0; k < out.size(); ++k) {
        out[k].resize(size);
        for (std::size_t i = 0; i < size; ++i) {
            const double t = 2 * static_cast<double>(i) / static_cast<double>(size - 1) - 1;
            out[k][i] = std::pow(t, static_cast<double>(k));
        }
        for (std::size_t before = 0; before < k; ++before) {
            const double share = std::inner_product(out[k].begin(), out[k].end(), out[before].begin(), 0.0);
            for (std::size_t i = 0; i < size; ++i) {
                out[k][i] -= share * out[before][i];
            }
        }
        const double length = std::sqrt(std::inner_product(out[k].begin(), out[k].end(), out[k].begin(), 0.0));
        for (double& value : out[k]) {
            value /= length;
        }
    }
    return out;
}

/// Pieces that are worked on side by side: each sum waits for the one before it, four of them do not wait for each
/// other.
constexpr std::size_t kLanes = 4;
using Lanes = std::array<double, kLanes>;

Lanes shareOf(const std::array<Lanes, kPiece>& r, const std::vector<double>& polynomial, std::size_t size) {
    Lanes out{};
    for (std::size_t i = 0; i < size; ++i) {
        for (std::size_t lane = 0; lane < kLanes; ++lane) {
            out[lane] += r[i][lane] * polynomial[i];
        }
    }
    return out;
}

/// @param y kLanes pieces of so many samples, one behind the other
std::array<Piece, kLanes> piecesOf(const double* y, std::size_t size, const Basis& basis) {
    std::array<Lanes, kPiece> r;
    for (std::size_t i = 0; i < size; ++i) {
        for (std::size_t lane = 0; lane < kLanes; ++lane) {
            r[i][lane] = y[lane * size + i];
        }
    }
    Lanes share = shareOf(r, basis[0], size);
    for (std::size_t k = 0; k < basis.size(); ++k) {
        // The share of the next polynomial is summed up on the way: a pass less for each.
        const std::vector<double>&now = basis[k], &next = basis[std::min(k + 1, basis.size() - 1)];
        Lanes nextShare{};
        for (std::size_t i = 0; i < size; ++i) {
            for (std::size_t lane = 0; lane < kLanes; ++lane) {
                r[i][lane] -= share[lane] * now[i];
                nextShare[lane] += r[i][lane] * next[i];
            }
        }
        share = nextShare;
    }
    std::array<Piece, kLanes> out;
    for (std::size_t i = 0; i < size; ++i) {
        for (std::size_t lane = 0; lane < kLanes; ++lane) {
            out[lane].squares += r[i][lane] * r[i][lane];
            out[lane].lagged += i > 0 ? r[i][lane] * r[i - 1][lane] : 0;
        }
    }
    for (Piece& piece : out) {
        piece.sd = std::sqrt(piece.squares / (static_cast<double>(size) - static_cast<double>(basis.size())));
    }
    return out;
}

/// Of the quieter half of the pieces: the lag-1 autocorrelation about their cubics; of all, the median SD.
struct LocalCubics {
    double correlation = 0;
    double sd = 0;
};

LocalCubics localCubics(std::span<const double> y) {
    std::vector<Piece> pieces;
    // A short trace in shorter ones: where a peak lies in most pieces, they tell nothing of the noise.
    const std::size_t size = std::min(std::clamp(y.size() / 8, kShortest, kPiece), y.size());
    const Basis basis = basisOf(size);
    const std::size_t count = y.size() / size;
    for (std::size_t first = 0; first < count; first += kLanes) {
        const std::size_t lanes = std::min(kLanes, count - first);
        std::array<double, kLanes * kPiece> last{}; // the rest, filled up with zeros
        const bool isWhole = lanes == kLanes;
        if (!isWhole) {
            std::copy_n(&y[first * size], lanes * size, last.begin());
        }
        const auto found = piecesOf(isWhole ? &y[first * size] : last.data(), size, basis);
        pieces.insert(pieces.end(), found.begin(), found.begin() + static_cast<std::ptrdiff_t>(lanes));
    }
    std::ranges::sort(pieces, {}, &Piece::sd);
    const std::size_t half = (pieces.size() + 1) / 2;
    double squares = 0, lagged = 0;
    for (std::size_t i = 0; i < half; ++i) {
        squares += pieces[i].squares;
        lagged += pieces[i].lagged;
    }
    return {squares > 0 ? lagged / squares : 0, pieces[half - 1].sd};
}

/// @param second filled with the absolute second differences
/// @return the least first or second difference above what rounding leaves; infinite when there is none
double secondDifferences(std::span<const double> y, double rounding, std::vector<double>& second) {
    constexpr double kNone = std::numeric_limits<double>::infinity();
    Lanes step;
    step.fill(kNone);
    const auto look = [&](std::size_t i, double& least) {
        const double after = y[i + 2] - y[i + 1], before = y[i + 1] - y[i];
        const double first = std::abs(before), difference = std::abs(after - before);
        second[i] = difference;
        const double smaller = std::min(first > rounding ? first : kNone, difference > rounding ? difference : kNone);
        least = std::min(least, smaller);
    };
    std::size_t i = 0;
    for (; i + kLanes <= second.size(); i += kLanes) {
        for (std::size_t lane = 0; lane < kLanes; ++lane) {
            look(i + lane, step[lane]);
        }
    }
    for (; i < second.size(); ++i) {
        look(i, step[0]);
    }
    return std::ranges::min(step);
}

double byFourthDifferences(std::span<const double> y) {
    std::vector<double> fourth(y.size() - 4);
    for (std::size_t i = 0; i < fourth.size(); ++i) {
        fourth[i] = std::abs(y[i] - 4 * y[i + 1] + 6 * y[i + 2] - 4 * y[i + 3] + y[i + 4]);
    }
    constexpr double kRoot70 = 8.366600265340756;
    return 1.4826 * medianOf(fourth) / kRoot70;
}

} // namespace

Noise noiseOf(std::span<const double> y) {
    Noise out;
    if (y.size() < 5) {
        return out;
    }
    const double rounding =
        1e-11 * greatest(y, [](double value) { return std::abs(value); }); // what doubles leave of decimal digits
    std::vector<double> second(y.size() - 2);
    const double step = secondDifferences(y, rounding, second);
    out.digitStep = std::isfinite(step) ? step : 0;
    constexpr double kRoot6 = 2.449489742783178;
    out.sigma = 1.4826 * medianOf(second) / kRoot6;
    const LocalCubics local = localCubics(y);
    constexpr double kCorrelated = 0.3;
    if (out.sigma <= rounding || local.correlation > kCorrelated) {
        out.sigma = local.sd;
        out.isFromCubics = true;
    }
    constexpr double kRoot12 = 3.4641016151377544;
    out.sigma = std::max(out.sigma, out.digitStep / kRoot12);
    out.fine = std::max(std::min(out.sigma, byFourthDifferences(y)), out.digitStep / kRoot12);
    return out;
}

Result<BlankStretch> blankStretch(std::span<const double> x, std::span<const double> y, Stretch stretch) {
    const auto line = lineBetween(x, y, stretch);
    if (!line) {
        return fail("noise.too-few-points", "The stretch for the noise holds fewer than three samples.",
                    "Choose a longer one, within the trace.");
    }
    BlankStretch out;
    out.n = line->n;
    out.intercept = line->a;
    out.drift = line->b;
    out.sdAboutLine = line->s;
    const Stretch between{std::min(stretch.from, stretch.to), std::max(stretch.from, stretch.to)};
    long double sum = 0;
    double low = INFINITY, high = -INFINITY, lowResidual = INFINITY, highResidual = -INFINITY;
    for (std::size_t i = 0; i < x.size(); ++i) {
        if (!between.contains(x[i])) {
            continue;
        }
        sum += y[i];
        low = std::min(low, y[i]);
        high = std::max(high, y[i]);
        const double r = y[i] - (line->a + line->b * x[i]);
        lowResidual = std::min(lowResidual, r);
        highResidual = std::max(highResidual, r);
    }
    const long double mean = sum / static_cast<long double>(out.n);
    long double squares = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        squares += between.contains(x[i]) ? (y[i] - mean) * (y[i] - mean) : 0;
    }
    out.mean = static_cast<double>(mean);
    out.sd = std::sqrt(static_cast<double>(squares) / static_cast<double>(out.n - 1));
    out.peakToPeak = high - low;
    out.peakToPeakAboutLine = highResidual - lowResidual;
    return out;
}

} // namespace nuvat
