#include "nuvat/batch/sample_potency.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <mutex>
#include <set>

namespace nuvat {

namespace {

struct Doses {
    std::vector<double> dose, response;
    std::vector<char> isTest;
    bool operator==(const Doses&) const = default;
    void add(double itsDose, double itsResponse, bool isOfSample) {
        dose.push_back(itsDose);
        response.push_back(itsResponse);
        isTest.push_back(isOfSample ? 1 : 0);
    }
};

std::vector<double> weightsOf(Weighting weighting, const Doses& doses) {
    if (weighting != Weighting::InverseY && weighting != Weighting::InverseY2) {
        return {};
    }
    constexpr double kFloor = 0.01; // of the largest, as where nothing is known of the scatter
    double most = 0;
    for (const double y : doses.response) {
        most = std::max(most, std::abs(y));
    }
    return unscaledWeights(weighting, doses.dose, doses.response, kFloor * most);
}

/// All that a potency depends on.
struct Asked {
    PotencyModel model = PotencyModel::Logistic4;
    Doses doses;
    std::vector<double> weights;
    double confidence = 0;
    bool operator==(const Asked&) const = default;
};

/// The same as relativePotency. The last ones are kept: the fits take longer than a frame, and the Working asks for
/// them each time the sample is looked at.
Result<Potency> remembered(const Asked& asked) {
    constexpr std::size_t kMost = 64;
    static std::mutex mutex;
    static std::deque<std::pair<Asked, Result<Potency>>> known;
    {
        const std::lock_guard lock(mutex);
        const auto found =
            std::ranges::find(known, asked, [](const auto& entry) -> const Asked& { return entry.first; });
        if (found != known.end()) {
            return found->second;
        }
    }
    auto made = relativePotency(
        asked.model, {asked.doses.dose, asked.doses.response, asked.doses.isTest, asked.weights}, asked.confidence);
    const std::lock_guard lock(mutex);
    known.emplace_back(asked, made);
    if (known.size() > kMost) {
        known.pop_front();
    }
    return made;
}

} // namespace

std::optional<Result<SamplePotency>> samplePotency(const Batch& batch, const AnalyteEvaluation& evaluation,
                                                   int sample) {
    constexpr std::size_t kLeast = 3;
    constexpr double kSignificant = 0.05;
    const Analyte& analyte = analyteOf(batch, evaluation);
    SamplePotency out;
    out.model = isLogistic(analyte.fit.model) ? PotencyModel::Logistic4 : PotencyModel::Line;
    Doses doses;
    std::set<double> dilutions;
    for (const SampleResult& result : evaluation.results) {
        if (result.group.role != Role::Unknown || result.group.number != sample) {
            continue;
        }
        for (const ReplicateResult& replicate : result.replicates) {
            if (replicate.state == ResponseState::Used && replicate.response) {
                doses.add(1 / result.dilution, *replicate.response, true);
                dilutions.insert(result.dilution);
            }
        }
    }
    out.dilutions = dilutions.size();
    if (dilutions.size() < kLeast) {
        return std::nullopt;
    }
    for (const StandardValue& standard : evaluation.standards) {
        if (standard.isUsed && (standard.x > 0 || out.model == PotencyModel::Logistic4)) {
            doses.add(standard.x, standard.y, false);
        }
    }
    std::vector<double> weights = weightsOf(analyte.fit.weighting, doses);
    auto found = remembered({out.model, std::move(doses), std::move(weights), batch.method.confidence});
    if (!found) {
        return Result<SamplePotency>(tl::unexpected(found.error()));
    }
    out.found = std::move(*found);
    if (out.found.p) {
        out.isParallel = *out.found.p >= kSignificant;
    }
    return Result<SamplePotency>(std::move(out));
}

} // namespace nuvat
