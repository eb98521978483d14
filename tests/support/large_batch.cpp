#include "support/large_batch.h"

#include "nuvat/batch/command.h"
#include "nuvat/core/base/number.h"

#include <array>
#include <cmath>
#include <random>
#include <stdexcept>

namespace nuvat::test {

namespace {

constexpr int kStandardWells = 16;
constexpr int kBlankWells = 4;
constexpr int kQcWells = 6;

void apply(Document& document, Result<Command> command) {
    if (const auto done = document.apply(std::move(command)); !done) {
        throw std::runtime_error(done.error().text());
    }
}

/// Concentration in the n-th well, column by column.
double concentrationAt(int n) {
    if (n < kStandardWells) {
        return 1000 / std::pow(2, n / 2);
    }
    if (n < kStandardWells + kBlankWells) {
        return 0;
    }
    if (n < kStandardWells + kBlankWells + kQcWells) {
        return std::array{20.0, 100.0, 500.0}[static_cast<std::size_t>((n - kStandardWells - kBlankWells) / 2)];
    }
    return 10 + 37 * (n / 2) % 900;
}

std::string channelOf(int analyte) {
    return std::to_string(440 + 10 * analyte) + " nm";
}

Reading readingOf(int rows, int columns, unsigned seed) {
    std::mt19937 random(seed);
    Reading reading{.source = "plate " + std::to_string(seed) + ".csv", .understood = "matrix"};
    reading.slot.channel = channelOf(static_cast<int>(seed));
    Grid grid{rows, columns, std::vector<ReadingWell>(static_cast<std::size_t>(rows * columns))};
    for (int n = 0; n < rows * columns; ++n) {
        const double x = concentrationAt(n);
        const double y = 0.05 + (x > 0 ? 2.5 / (1 + std::pow(150 / x, 1.1)) : 0);
        const double noise = 1 + 0.04 * (static_cast<double>(random() % 1001) / 1000 - 0.5);
        ReadingWell& well = grid.wells[static_cast<std::size_t>(n % rows * columns + n / rows)];
        well.text = formatFigures(y * noise, 5);
        well.value = parseNumber(well.text);
        well.line = n % rows + 2;
        well.column = n / rows + 2;
    }
    reading.payload = Payload::of(std::move(grid));
    return reading;
}

std::vector<Place> wells(int rows, int from, int count) {
    std::vector<Place> places;
    for (int n = from; n < from + count; ++n) {
        places.push_back({n % rows, n / rows});
    }
    return places;
}

} // namespace

DocumentState largeBatch(int rows, int columns, int analytes) {
    Document document({}, [] { return std::int64_t{1'000}; });
    const auto batch = [&]() -> const Batch& { return document.batch(); };
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        apply(document, addReading(batch(), readingOf(rows, columns, static_cast<unsigned>(analyte))));
    }
    Method method = batch().method;
    method.analyte().unit = "µg/L";
    method.analytes.resize(static_cast<std::size_t>(analytes), method.analyte());
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        method.analyte(analyte).name = "Analyte " + std::to_string(analyte);
        method.analyte(analyte).source.rule = ValueRule{analytes == 1 ? "" : channelOf(analyte)};
    }
    apply(document, setMethod(batch(), method));
    int next = 0;
    for (const auto& [role, count] :
         {std::pair{Role::Standard, kStandardWells}, {Role::Blank, kBlankWells}, {Role::Qc, kQcWells}}) {
        apply(document, assignRole(batch(), wells(rows, next, count), role, 2, Direction::Down));
        next += count;
    }
    apply(document, fillRest(batch(), Role::Unknown, 2, Direction::Down));
    for (int analyte = 1; analyte <= analytes; ++analyte) {
        apply(document, setSeries(batch(), {1000, true, 2, 8}, analyte));
        for (int qc = 1; qc <= kQcWells / 2; ++qc) {
            apply(document,
                  setQc(batch(), qc,
                        {"QC " + std::to_string(qc), concentrationAt(kStandardWells + kBlankWells + 2 * (qc - 1))},
                        analyte));
        }
    }
    return {.batch = document.batch()};
}

} // namespace nuvat::test
