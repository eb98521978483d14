#include "support/sample_batch.h"

#include "nuvat/batch/place_index.h"
#include "nuvat/core/base/number.h"
#include "nuvat/store/batch_file.h"

#include <cmath>
#include <stdexcept>

namespace nuvat::test {

namespace {

constexpr double kBlank = 0.06;

double curve(double x) {
    return 0.07 + (2.3 - 0.07) / (1 + std::pow(x / 20, 1.1));
}

void must(const Result<void>& result) {
    if (!result) {
        throw std::runtime_error(result.error().text());
    }
}

std::vector<Place> block(int firstRow, int lastRow, int firstColumn, int lastColumn) {
    std::vector<Place> places;
    for (int row = firstRow; row <= lastRow; ++row) {
        for (int column = firstColumn; column <= lastColumn; ++column) {
            places.push_back({row, column});
        }
    }
    return places;
}

} // namespace

Document openDocument(const std::filesystem::path& path) {
    auto opened = BatchFile::open(path);
    if (!opened) {
        throw std::runtime_error(opened.error().text());
    }
    Document document(std::move(opened->state), [] { return 5; });
    document.setJournal(std::move(opened->file));
    return document;
}

std::vector<Place> placesOf(const Batch& batch, Assignment group) {
    const PlaceIndex index(batch);
    const auto places = index.members(group);
    return {places.begin(), places.end()};
}

std::vector<double> sampleTruth() {
    return {4, 9, 16, 25, 36, 300};
}

Document sampleDocument(Document::Clock clock) {
    DocumentState fresh;
    fresh.batch.info.uid = "0123456789abcdef";
    fresh.batch.info.title = "Sample batch";
    fresh.batch.method.analyte().name = "Patulin";
    fresh.batch.method.analyte().unit = "µg/L";
    Document document(std::move(fresh), std::move(clock));

    Reading reading;
    reading.source = "sample.csv";
    Grid grid{8, 12, std::vector<ReadingWell>(96)};
    const auto put = [&](int row, int column, double y) {
        const double value = y + kBlank;
        grid.wells[static_cast<std::size_t>(row * 12 + column)] = {value, formatNumber(value), row + 2, column + 2};
    };
    for (int column = 0; column < 2; ++column) {
        for (int row = 0; row < 7; ++row) {
            put(row, column, curve(500 / std::pow(3.0, row)));
        }
        put(7, column, 0);
        put(0, column + 2, curve(12));
        put(1, column + 2, curve(80));
        for (int row = 2; row < 8; ++row) {
            put(row, column + 2, curve(sampleTruth()[static_cast<std::size_t>(row - 2)]));
        }
    }
    reading.payload = Payload::of(std::move(grid));
    must(document.apply(addReading(document.batch(), reading)));
    must(document.apply(assignRole(document.batch(), block(0, 6, 0, 1), Role::Standard, 2, Direction::Across)));
    must(document.apply(assignRole(document.batch(), block(7, 7, 0, 1), Role::Blank, 2, Direction::Across)));
    must(document.apply(assignRole(document.batch(), block(0, 1, 2, 3), Role::Qc, 2, Direction::Across)));
    must(document.apply(assignRole(document.batch(), block(2, 7, 2, 3), Role::Unknown, 2, Direction::Across)));
    must(document.apply(setSeries(document.batch(), {500, true, 3, 7})));
    must(document.apply(setQc(document.batch(), 1, {"QC lo", 12})));
    must(document.apply(setQc(document.batch(), 2, {"QC hi", 80})));
    must(document.apply(pasteSampleNames(document.batch(), 1, "one\t5\ntwo\t5\nthree\t5\nfour\t5\nfive\t5\nsix\t5\n")));
    return document;
}

Batch withMethod(const Batch& batch, const std::function<void(Method&)>& change) {
    Batch out = batch;
    change(out.method);
    return out;
}

} // namespace nuvat::test
