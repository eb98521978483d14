#include "nuvat/batch/sample_potency.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace nuvat {

namespace {

struct Doses {
    std::vector<double> dose, response;
    std::vector<char> isTest;
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
    const std::vector<double> weights = weightsOf(analyte.fit.weighting, doses);
    auto found =
        relativePotency(out.model, {doses.dose, doses.response, doses.isTest, weights}, batch.method.confidence);
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
