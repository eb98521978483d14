// nuvat_digits: writes what follows from the demo and from 200 random batches, as JSON, to standard output. Two builds
// that should give the same numbers give the same bytes; scripts/same-digits compares a build with one of before.
#include "nuvat/workflow/export.h"
#include "nuvat/workflow/session.h"
#include "support/every_command.h"
#include "support/sample_batch.h"
#include "support/wells.h"

#include <cstdio>
#include <random>

namespace nuvat::test {
namespace {

constexpr unsigned kBatches = 200;
constexpr int kEdits = 25;

/// A change of the method that reaches curves, intervals and rules which commandsOnOnePlate() leaves alone.
Method randomMethod(Method method, std::mt19937& random) {
    Analyte& analyte = method.analytes.at(random() % method.analytes.size());
    switch (random() % 9) {
    case 0:
        analyte.fit.model = static_cast<Model>(random() % 10);
        break;
    case 1:
        analyte.fit.weighting = static_cast<Weighting>(random() % 6);
        break;
    case 2:
        analyte.fit.weightFrom = static_cast<WeightSource>(random() % 3);
        break;
    case 3:
        analyte.interval = static_cast<IntervalMethod>(random() % 5);
        break;
    case 4:
        analyte.average = static_cast<AverageOf>(random() % 2);
        break;
    case 5:
        analyte.range.by = static_cast<RangeBy>(random() % 4);
        analyte.range.extrapolation = 1 + static_cast<double>(random() % 3);
        break;
    case 6:
        method.subtractsBlank = !method.subtractsBlank;
        break;
    case 7:
        method.replicates = {.keepBest = static_cast<int>(random() % 3),
                             .outlierTest = static_cast<OutlierTest>(random() % 3),
                             .alpha = 0.1};
        break;
    default:
        method.limits = shippedCriteria()[random() % shippedCriteria().size()].limits;
    }
    return method;
}

/// The sample batch with noise on its readings and a row of random edits; those that are refused change nothing.
Batch randomBatch(unsigned seed) {
    std::mt19937 random(seed);
    Batch batch = sampleDocument().batch();
    editGrid(batch, [&random](Grid& grid) {
        for (ReadingWell& well : grid.wells) {
            if (well.value) {
                *well.value *= 1 + 0.04 * (static_cast<double>(random() % 2001) / 1000 - 1);
            }
        }
    });
    Document document(DocumentState{.batch = std::move(batch)}, [] { return std::int64_t{1'000}; });
    for (int edit = 0; edit < kEdits; ++edit) {
        if (random() % 2 == 0) {
            const auto commands = commandsOnOnePlate(static_cast<int>(random() % 50));
            (void)document.apply(commands[random() % commands.size()].make(document.batch()));
        } else {
            (void)document.apply(setMethod(document.batch(), randomMethod(document.batch().method, random)));
        }
        if (random() % 8 == 0) {
            (void)document.undo();
        }
    }
    return document.batch();
}

void print(const Batch& batch) {
    std::puts(evaluationJson(batch, evaluate(batch)).c_str());
}

} // namespace
} // namespace nuvat::test

int main() {
    using namespace nuvat;
    const auto demo = demoBatch({});
    if (!demo) {
        std::fputs(demo.error().text().c_str(), stderr);
        return 1;
    }
    test::print(demo->document->batch());
    for (unsigned seed = 1; seed <= test::kBatches; ++seed) {
        test::print(test::randomBatch(seed));
    }
    return 0;
}
