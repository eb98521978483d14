#include "scatter.h"

#include "nuvat/core/stats/distributions.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace nuvat {

namespace {

/// Variance of a group's unchosen replicates with its degrees of freedom; nothing below two.
std::optional<std::pair<double, double>> ownVariance(const GroupValue& group) {
    const Description& d = group.unchosen;
    return d.sd ? std::optional(std::pair(*d.sd * *d.sd, static_cast<double>(d.n) - 1)) : std::nullopt;
}

/// Both variances together, unless they differ.
BatchScatter::Variance pooled(BatchScatter::Variance ofBatch, BatchScatter::Variance ofCurve) {
    if (!(ofBatch.df > 0) || !(ofBatch.value > 0)) {
        return ofCurve;
    }
    if (!(ofCurve.value > 0)) {
        return ofBatch;
    }
    // Wide on purpose: pooling variances that differ costs more than leaving apart two that do not.
    constexpr double kAlpha = 0.2;
    const double upper = fUpperTail(ofBatch.value / ofCurve.value, ofBatch.df, ofCurve.df);
    if (2 * std::min(upper, 1 - upper) < kAlpha) {
        return ofBatch;
    }
    const double df = ofBatch.df + ofCurve.df;
    return {(ofBatch.df * ofBatch.value + ofCurve.df * ofCurve.value) / df, df};
}

bool isSample(const GroupValue& group) {
    return isReadOff(group.group.role);
}

/// A sample with replicates.
struct Member {
    Assignment group;
    double x = 0, y = 0;
    double variance = 0, df = 0;
    double relative = 0; ///< variance over that of the curve's weights
};

std::vector<Member> membersOf(const AnalyteEvaluation& evaluation) {
    std::vector<Member> out;
    for (const GroupValue& group : evaluation.groups) {
        const auto own = ownVariance(group);
        if (!own || !isSample(group)) {
            continue;
        }
        const double y = *group.unchosen.mean;
        const double x = readOffPoint(evaluation.fit, y).x.value_or(evaluation.fit.highestX);
        const double ofCurve = evaluation.fit.s > 0 ? readingVariance(evaluation.fit, x, y) : 1;
        out.push_back({group.group, x, y, own->first, own->second, ofCurve > 0 ? own->first / ofCurve : 0});
    }
    return out;
}

/// Leaves out samples that scatter far beyond the others, judged by the median: a few of them would hide themselves in
/// the variance they are compared with. An honest sample is left out once in ten thousand.
std::vector<Member> withoutOdd(std::vector<Member> members) {
    std::vector<double> scales;
    for (const Member& member : members) {
        scales.push_back(member.relative * member.df / chiSquaredQuantile(0.5, member.df));
    }
    if (scales.empty()) {
        return members;
    }
    std::nth_element(scales.begin(), scales.begin() + static_cast<std::ptrdiff_t>(scales.size() / 2), scales.end());
    const double typical = scales[scales.size() / 2];
    constexpr double kHonest = 0.9999;
    std::erase_if(members, [&](const Member& m) {
        return typical > 0 && m.relative * m.df > typical * chiSquaredQuantile(kHonest, m.df);
    });
    return members;
}

} // namespace

BatchScatter::BatchScatter(const Batch& batch, const AnalyteEvaluation& evaluation)
    : m_fit(evaluation.fit), m_from(analyteOf(batch, evaluation).scatter),
      m_offset(evaluation.blank.subtracted * evaluation.responseFactor) {
    if (!m_fit.isUsable()) {
        return;
    }
    const std::vector<Member> members = withoutOdd(membersOf(evaluation));
    std::vector<double> y;
    std::vector<double> s;
    std::vector<double> df;
    for (const Member& member : members) {
        y.push_back(member.y + m_offset);
        s.push_back(std::sqrt(member.variance));
        df.push_back(member.df);
    }
    m_function = fitVarianceFunction(y, s, df, 0, std::nullopt);
    findSpread(y, df);
    for (const Member& member : members) {
        if (const double unit = shape(member.x, member.y); unit > 0) {
            m_squares += member.df * member.variance / unit;
            m_df += member.df;
            m_members.insert(member.group);
        }
    }
}

void BatchScatter::findSpread(std::span<const double> y, std::span<const double> df) {
    double sum = 0, squares = 0, all = 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        if (y[i] > 0) {
            sum += df[i] * std::log(y[i]);
            all += df[i];
        }
    }
    m_logMean = all > 0 ? sum / all : 0;
    for (std::size_t i = 0; i < y.size(); ++i) {
        squares += y[i] > 0 ? df[i] * (std::log(y[i]) - m_logMean) * (std::log(y[i]) - m_logMean) : 0;
    }
    m_logVariance = all > 0 ? squares / all : 0;
}

double BatchScatter::degreesAt(double y, double df) const {
    if (!m_function || !(y + m_offset > 0) || !(m_logVariance > 0)) {
        return df;
    }
    const double off = std::log(y + m_offset) - m_logMean;
    // Far away it is as good as unknown, but no wider than what one pair of readings says.
    return std::max(std::min(df, 1.0), df / (1 + off * off / m_logVariance));
}

double BatchScatter::shape(double x, double y) const {
    if (m_function) {
        const double sigma = m_function->at(y + m_offset);
        return sigma * sigma;
    }
    return m_fit.s > 0 ? readingVariance(m_fit, x, y) / (m_fit.s * m_fit.s) : 1;
}

BatchScatter::Variance BatchScatter::of(const GroupValue& group, double x, double y) const {
    if (!m_fit.isUsable() || m_from == ScatterFrom::Curve) {
        return {};
    }
    if (m_from == ScatterFrom::Sample) {
        const auto own = ownVariance(group);
        return own && own->first > 0 ? Variance{own->first, own->second} : Variance{};
    }
    // k and theta of a variance function were estimated from the same variances.
    const double lost = m_function ? 1 : 0;
    const double df = degreesAt(y, m_df - lost);
    if (!(df > 0) || !(m_squares > 0) || !(m_fit.df > 0)) {
        return {};
    }
    const double ofBatch = m_squares / m_df * shape(x, y);
    const double ofCurve = readingVariance(m_fit, x, y);
    return pooled({ofBatch, df}, {ofCurve, m_fit.df});
}

std::optional<double> BatchScatter::test(const GroupValue& group, double x, double y) const {
    const auto own = ownVariance(group);
    const double unit = own && m_fit.isUsable() ? shape(x, y) : 0;
    if (!(unit > 0) || !(m_fit.df > 0)) {
        return std::nullopt;
    }
    const bool isMember = m_members.contains(group.group);
    const double df = std::max(m_df - (isMember ? own->second : 0), 0.0);
    const double squares = m_squares - (isMember ? own->second * own->first / unit : 0);
    const double ofOthers = df > 0 ? squares / df * unit : 0;
    const Variance variance = pooled({ofOthers, df}, {readingVariance(m_fit, x, y), m_fit.df});
    return variance.value > 0 ? std::optional(fUpperTail(own->first / variance.value, own->second, variance.df))
                              : std::nullopt;
}

std::vector<double> holm(const std::vector<double>& p) {
    std::vector<std::size_t> order(p.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return p[a] < p[b]; });
    std::vector<double> out(p.size());
    double highest = 0;
    for (std::size_t i = 0; i < order.size(); ++i) {
        highest = std::max(highest, std::min(1.0, static_cast<double>(order.size() - i) * p[order[i]]));
        out[order[i]] = highest;
    }
    return out;
}

void testScatter(AnalyteEvaluation& evaluation, const BatchScatter& scatter) {
    std::vector<SampleResult*> tested;
    std::vector<double> p;
    for (SampleResult& sample : evaluation.results) {
        const GroupValue* group = evaluation.group(sample.group);
        if (!sample.scatter || group == nullptr || !sample.readOff.x) {
            continue;
        }
        if (const auto one = scatter.test(*group, *sample.readOff.x, *group->response.mean)) {
            tested.push_back(&sample);
            p.push_back(*one);
        }
    }
    const std::vector<double> adjusted = holm(p);
    constexpr double kAlpha = 0.05;
    for (std::size_t i = 0; i < tested.size(); ++i) {
        tested[i]->scatter->p = adjusted[i];
        tested[i]->scatter->needsReview = adjusted[i] < kAlpha;
    }
}

} // namespace nuvat
