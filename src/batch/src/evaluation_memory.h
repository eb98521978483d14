#pragma once

#include "nuvat/batch/evaluation.h"

#include <algorithm>
#include <functional>
#include <map>
#include <span>

namespace nuvat {

/// All that a fit depends on.
struct FitInput {
    FitOptions options;
    std::vector<double> x, y;
    std::vector<int> level;
    double blankSd = 0, blankDf = 0, offset = 0;
    CalibrationData data() const { return {x, y, level, {}, blankSd, blankDf, offset}; }
    bool operator==(const FitInput&) const = default;
};

/// What an analyte's curve is fitted to: its standards in use and its blanks. @param evaluation with its standards
FitInput fitInput(const Analyte& analyte, const AnalyteEvaluation& evaluation);
/// What the method says of the fit and what follows from the axis: a spline is smooth on the one it is looked at.
/// @param x of the standards in use
FitOptions fitOptions(const Analyte& analyte, FitOptions options, std::span<const double> x);

/// All that the result of a sample depends on, besides the fit.
struct SampleInput {
    Assignment group;
    std::vector<Place> places;
    std::vector<Response> values;
    Description response, unchosen;
    double scatterVariance = 0, scatterDf = 0, varianceFactor = 1;
    double confidence = 0, blankSe = 0, blankDf = 0, factor = 0, extrapolation = 1, dilution = 1,
           dilutionRelativeSe = 0, internalShare = 1;
    bool hasOwnBlank = false; ///< its blank is not the curve's; blankSe then is its own share
    IntervalMethod interval = IntervalMethod::Propagation;
    AverageOf average = AverageOf::Concentrations;
    std::optional<double> lloq, uloq, nominal;
    bool operator==(const SampleInput&) const = default;
};

/// What one analyte's last evaluation computed, by its inputs: the same inputs are not computed again.
class AnalyteMemory {
public:
    Fit fit(FitInput input) {
        if (!m_hasFit || !(m_fitInput == input)) {
            m_fit = fitCalibration(input.options, input.data());
            m_fitInput = std::move(input);
            m_hasFit = true;
            m_curves.reset();
            m_sharedBlank.reset();
            m_samples.clear(); // all of them were read off another curve
            ++m_fits;
        }
        return m_fit;
    }
    /// Simulated curves where the interval asks for them, made once a fit.
    std::shared_ptr<const BootstrapCurves> curves(const Fit& fit, const ReadOffOptions& options) {
        const bool isAsked = options.interval == IntervalMethod::Bootstrap && fit.isUsable() && fit.df > 0;
        if (isAsked && !m_curves) {
            m_curves = simulateCurves(fit, options);
        }
        return isAsked ? m_curves : nullptr;
    }
    /// The curve as it would be with another blank, made once a fit.
    std::shared_ptr<const SharedBlank> sharedBlank(const Fit& fit, double step) {
        if (!m_sharedBlank) {
            m_sharedBlank = shareBlank(fit, m_fitInput.data(), step);
        }
        return m_sharedBlank;
    }
    SampleResult sample(SampleInput input, const std::function<SampleResult(const SampleInput&)>& compute) {
        const auto found = m_samples.find(input.group);
        if (found != m_samples.end() && found->second.first == input) {
            return found->second.second;
        }
        ++m_count;
        SampleResult result = compute(input);
        const Assignment group = input.group;
        m_samples.insert_or_assign(group, std::pair(std::move(input), result));
        return result;
    }
    /// Forgets samples that are no longer there.
    void keepOnly(const PlaceIndex& index) {
        std::erase_if(m_samples, [&](const auto& entry) {
            return !std::binary_search(index.groups().begin(), index.groups().end(), entry.first);
        });
    }

    void startCounting() { m_fits = m_count = 0; }
    std::size_t fits() const { return m_fits; }
    std::size_t samples() const { return m_count; }

private:
    bool m_hasFit = false;
    FitInput m_fitInput;
    Fit m_fit;
    std::shared_ptr<const BootstrapCurves> m_curves;
    std::shared_ptr<const SharedBlank> m_sharedBlank;
    std::map<Assignment, std::pair<SampleInput, SampleResult>> m_samples;
    std::size_t m_fits = 0;
    std::size_t m_count = 0;
};

} // namespace nuvat
