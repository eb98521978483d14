#include "support/large_runs.h"

#include "nuvat/batch/analyte_list.h"

#include <cmath>
#include <stdexcept>

namespace nuvat::test {

namespace {

constexpr int kLevels = 6;

/// Quick noise: the sum of four of 16 random bits each, of SD 1.
class Noise {
public:
    explicit Noise(std::uint64_t seed) : m_state(2 * seed + 1) {}
    double next() {
        m_state = m_state * 6364136223846793005U + 1442695040888963407U;
        const std::uint64_t bits = m_state >> 16U;
        double sum = 0;
        for (unsigned part = 0; part < 3; ++part) {
            sum += static_cast<double>((bits >> (16U * part)) & 0xffffU);
        }
        constexpr double kMean = 1.5 * 65535, kSd = 32767.7; // of three even ones
        return (sum - kMean) / kSd;
    }

private:
    std::uint64_t m_state;
};

Trace traceOf(int analyte, double content, double share, int points, std::uint64_t seed) {
    Trace out{"Time", "min", "Intensity", "counts", 0, 12.0 / points, {}, {}, {}};
    out.y.resize(static_cast<std::size_t>(points));
    const double at = 2 + 0.35 * analyte, sigma = 0.05;
    Noise noise(seed);
    for (int i = 0; i < points; ++i) {
        const double t = out.step * i, z = (t - at) / sigma;
        const double peak = std::abs(z) < 8 ? 120 * share * content * std::exp(-z * z / 2) : 0;
        out.y[static_cast<std::size_t>(i)] = 40 + 0.4 * t + peak + 2 * noise.next();
    }
    return out;
}

double contentOf(int run) {
    return run < 2 * kLevels ? 100 / std::pow(2.5, run / 2) : 5 + 37 * ((run * 7) % 17) / 17.0;
}

void apply(DocumentState& state, const Result<Command>& command) {
    if (!command) {
        throw std::runtime_error(command.error().text());
    }
    applyChanges(state.batch, *command, false);
}

} // namespace

DocumentState largeRuns(int runs, int analytes, int points) {
    DocumentState state;
    std::vector<ImportedRun> imported;
    std::vector<ListedAnalyte> list;
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        ListedAnalyte one;
        one.name = "Analyte " + std::to_string(analyte);
        one.time = 2 + 0.35 * analyte;
        one.window = 0.15;
        one.quantifier = one.name + " a";
        one.qualifiers = {{one.name + " b", std::nullopt}};
        one.first = 100;
        one.factor = 2.5;
        one.levels = kLevels;
        one.unit = "µg/L";
        list.push_back(one);
    }
    for (int run = 0; run < runs; ++run) {
        ImportedRun one{"run-" + std::to_string(run + 1) + ".mzML", "", "run " + std::to_string(run + 1), "mzML", {}};
        for (int analyte = 1; analyte <= analytes; ++analyte) {
            for (const bool isQualifier : {false, true}) {
                const auto seed = static_cast<std::uint64_t>((run * analytes + analyte) * 2 + (isQualifier ? 1 : 0));
                one.channels.emplace_back(
                    "Analyte " + std::to_string(analyte) + (isQualifier ? " b" : " a"),
                    Payload::of(traceOf(analyte, contentOf(run), isQualifier ? 0.4 : 1, points, seed)));
            }
        }
        imported.push_back(std::move(one));
    }
    apply(state, importRuns(state.batch, imported, 0));
    for (int run = 0; run < runs; ++run) {
        state.batch.places[{run, 0}] = run < 2 * kLevels ? Assignment{Role::Standard, run / 2 + 1}
                                       : run % 20 == 0   ? Assignment{Role::Qc, 1}
                                                         : Assignment{Role::Unknown, run - 2 * kLevels + 1};
    }
    apply(state, setAnalytes(state.batch, list));
    return state;
}

} // namespace nuvat::test
