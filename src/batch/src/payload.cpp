#include "nuvat/batch/payload.h"

#include "nuvat/core/base/checksum.h"

#include <bit>
#include <cstdint>
#include <mutex>

namespace nuvat {

const ReadingWell* Grid::at(int row, int column) const {
    const bool isInside = row >= 0 && row < rows && column >= 0 && column < columns;
    const std::size_t index =
        isInside ? static_cast<std::size_t>(row) * static_cast<std::size_t>(columns) + static_cast<std::size_t>(column)
                 : 0;
    return isInside && index < wells.size() ? &wells[index] : nullptr;
}

PayloadId identityOf(const Grid& grid) {
    std::string bytes;
    bytes.reserve(40 * grid.wells.size());
    const auto add = [&bytes](std::uint64_t value) {
        for (unsigned shift = 0; shift < 64; shift += 8) {
            bytes += static_cast<char>(value >> shift & 0xffu);
        }
    };
    const auto addInt = [&add](int value) { add(static_cast<std::uint64_t>(static_cast<std::int64_t>(value))); };
    addInt(grid.rows);
    addInt(grid.columns);
    for (const ReadingWell& well : grid.wells) {
        addInt(well.value ? 1 : 0);
        add(std::bit_cast<std::uint64_t>(well.value.value_or(0)));
        add(well.text.size());
        bytes += well.text;
        addInt(well.line);
        addInt(well.column);
    }
    return sha256(bytes);
}

struct Payload::State {
    PayloadId id;
    std::shared_ptr<PayloadSource> source;
    std::mutex mutex; ///< guards grid
    std::shared_ptr<const Grid> grid;
};

Payload Payload::of(Grid grid) {
    Payload out;
    out.m_state = std::make_shared<State>();
    out.m_state->id = identityOf(grid);
    out.m_state->grid = std::make_shared<const Grid>(std::move(grid));
    return out;
}

Payload Payload::stored(PayloadId id, std::shared_ptr<PayloadSource> source) {
    Payload out;
    out.m_state = std::make_shared<State>();
    out.m_state->id = std::move(id);
    out.m_state->source = std::move(source);
    return out;
}

const PayloadId& Payload::id() const {
    static const PayloadId none;
    return m_state ? m_state->id : none;
}

std::shared_ptr<const Grid> Payload::grid() const {
    if (!m_state) {
        return nullptr;
    }
    const std::lock_guard lock(m_state->mutex);
    if (!m_state->grid && m_state->source) {
        m_state->grid = m_state->source->load(m_state->id);
    }
    return m_state->grid;
}

} // namespace nuvat
