#pragma once

#include "nuvat/batch/batch.h"

#include <functional>

namespace nuvat::test {

/// Gives a reading another payload.
inline void editGrid(Reading& reading, const std::function<void(Grid&)>& edit) {
    const auto before = reading.payload.grid();
    Grid grid = before ? *before : Grid{};
    edit(grid);
    reading.payload = Payload::of(std::move(grid));
}
inline void editGrid(Batch& batch, const std::function<void(Grid&)>& edit, int key = 1) {
    Reading reading = *batch.readings.at(key);
    editGrid(reading, edit);
    batch.readings.at(key) = reading;
}
/// Changes one well of a reading.
inline void editWell(Batch& batch, Place place, const std::function<void(ReadingWell&)>& edit, int key = 1) {
    editGrid(
        batch,
        [&](Grid& grid) { edit(grid.wells.at(static_cast<std::size_t>(place.row * grid.columns + place.column))); },
        key);
}
inline void setValue(Batch& batch, Place place, std::optional<double> value) {
    editWell(batch, place, [value](ReadingWell& well) { well.value = value; });
}
inline double valueAt(const Batch& batch, Place place, int key = 1) {
    return batch.readings.at(key)->payload.grid()->at(place.row, place.column)->value.value();
}
/// A reading of a plate without values.
inline Reading plateOf(int rows, int columns, const std::string& source = "plate.csv") {
    Reading reading;
    reading.source = source;
    const auto count = static_cast<std::size_t>(rows) * static_cast<std::size_t>(columns);
    reading.payload = Payload::of({rows, columns, std::vector<ReadingWell>(count)});
    return reading;
}

} // namespace nuvat::test
