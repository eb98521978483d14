#include "trace_runs.h"

#include <cmath>
#include <random>
#include <stdexcept>

namespace nuvat::test {

Trace chromatogram(double amount, double secondAmount, unsigned seed) {
    Trace out{"time", "s", "signal", "mV", 0, 0, {}, {}, {}};
    std::mt19937 random(seed);
    std::normal_distribution<double> noise(0, 0.01);
    std::vector<double> x;
    for (int i = 0; i <= 1000; ++i) {
        const double t = 0.2 * i;
        x.push_back(t);
        const auto gauss = [&](double at, double width) { return std::exp(-std::pow((t - at) / width, 2) / 2); };
        out.y.push_back(2 + 0.003 * t + 10 * amount * gauss(60, 3) + 5 * secondAmount * gauss(120, 4) + noise(random));
    }
    out.setX(std::move(x));
    return out;
}

ImportedRun runOf(const std::string& name, double amount, double secondAmount, unsigned seed) {
    return {name + ".csv",
            "0123456789abcdef",
            name,
            "text",
            {{"detector", Payload::of(chromatogram(amount, secondAmount, seed))}}};
}

void apply(Batch& batch, const Result<Command>& command) {
    if (!command) {
        throw std::runtime_error(command.error().message);
    }
    applyChanges(batch, *command, false);
}

Slot slotOf(int run) {
    return {1, Place{run - 1, 0}, "detector"};
}

Batch traceBatch() {
    Batch batch;
    std::vector<ImportedRun> runs;
    unsigned seed = 1;
    for (const double amount : {1.0, 2.0, 4.0, 8.0}) {
        runs.push_back(runOf("level " + std::to_string(static_cast<int>(amount)), amount, amount, seed++));
    }
    runs.push_back(runOf("sample 1", 3, 3, seed++));
    runs.push_back(runOf("sample 2", 5, 0, seed++));
    apply(batch, importRuns(batch, runs, 1000));
    const auto places = [](int from, int to) {
        std::vector<Place> out;
        for (int row = from; row <= to; ++row) {
            out.push_back({row, 0});
        }
        return out;
    };
    apply(batch, assignRole(batch, places(0, 3), Role::Standard, 1, Direction::Down));
    apply(batch, assignRole(batch, places(4, 5), Role::Unknown, 1, Direction::Down));
    Method method = batch.method;
    method.subtractsBlank = false;
    Analyte first;
    first.name = "First";
    first.unit = "mg/L";
    first.fit = FitOptions{.model = Model::Line, .weighting = Weighting::None};
    first.source.rule = PeakRule{"detector", 60, 3, WindowOf::X, 0, PeakQuantity::Area};
    Analyte second = first;
    second.name = "Second";
    second.source.rule = PeakRule{"detector", 120, 3, WindowOf::X, 0, PeakQuantity::Height};
    method.analytes = {first, second};
    apply(batch, setMethod(batch, method));
    for (int analyte = 1; analyte <= 2; ++analyte) {
        int level = 1;
        for (const double amount : {1.0, 2.0, 4.0, 8.0}) {
            apply(batch, setLevel(batch, level++, amount, analyte));
        }
    }
    return batch;
}

} // namespace nuvat::test
