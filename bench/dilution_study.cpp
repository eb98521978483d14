// How the rule of combineDilutions does on simulated samples: how often its interval holds the truth, how often nothing
// is combined or a hook is warned of where there is none, and what it reports where there is one. Decision 0018.
// `dilution_study [samples]`, 200 000 unless said otherwise.
#include "nuvat/core/stats/dilutions.h"
#include "nuvat/core/stats/distributions.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <random>
#include <string>

namespace {

struct Tally {
    long samples = 0, combined = 0, agree = 0, held = 0, warned = 0;
    double bias = 0;
};

/// @param cv of every measured value; @param claimed what its SE says of the CV; @param hook share that is lost at the
/// lowest dilution, a third of it at the next
Tally simulate(int count, double cv, double claimed, double hook, long samples, unsigned seed) {
    std::mt19937_64 random(seed);
    std::normal_distribution<double> normal;
    Tally out;
    out.samples = samples;
    for (long k = 0; k < samples; ++k) {
        std::vector<nuvat::Dilution> dilutions;
        for (int i = 0; i < count; ++i) {
            const double factor = std::exp2(i);
            const double lost = i == 0 ? hook : i == 1 ? hook / 3 : 0;
            const double measured = 100 / factor * (1 - lost) * (1 + cv * normal(random));
            dilutions.push_back({factor, measured, claimed * std::abs(measured)});
        }
        const auto found = nuvat::combineDilutions(dilutions, {0, 1e6});
        out.agree += found->agree ? 1 : 0;
        bool isWarned = false;
        for (const std::string& warning : found->warnings) {
            isWarned = isWarned || warning.find("hook") != std::string::npos;
        }
        out.warned += isWarned ? 1 : 0;
        if (found->value) {
            ++out.combined;
            out.held += std::abs(*found->value - 100) <= nuvat::normalQuantile(0.975) * *found->se ? 1 : 0;
            out.bias += *found->value - 100;
        }
    }
    return out;
}

} // namespace

int main(int count, char** arguments) {
    const long samples = count > 1 ? std::atol(arguments[1]) : 200'000;
    std::puts("dilutions  CV %  SE says %  hook %   all agree  combined  95 % holds  bias %  hook warned");
    unsigned seed = 1;
    for (const int dilutions : {2, 3, 5}) {
        for (const double cv : {0.03, 0.08, 0.15}) {
            for (const double claimed : {cv, cv / 2}) {
                for (const double hook : {0.0, 0.5}) {
                    const Tally t = simulate(dilutions, cv, claimed, hook, samples, seed++);
                    const double n = static_cast<double>(t.samples), of = static_cast<double>(std::max(t.combined, 1L));
                    std::printf("%9d %5.0f %10.1f %7.0f %11.3f %9.3f %11.3f %7.2f %12.4f\n", dilutions, 100 * cv,
                                100 * claimed, 100 * hook, static_cast<double>(t.agree) / n,
                                static_cast<double>(t.combined) / n, static_cast<double>(t.held) / of, t.bias / of,
                                static_cast<double>(t.warned) / n);
                }
            }
        }
    }
    return 0;
}
