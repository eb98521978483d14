#include "nuvat/batch/payload.h"

#include "nuvat/core/base/checksum.h"
#include "nuvat/core/base/words.h"

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

void Trace::setX(std::vector<double> values) {
    x0 = values.empty() ? 0 : values.front();
    step = values.size() > 1 ? (values.back() - values.front()) / static_cast<double>(values.size() - 1) : 0;
    x.clear();
    for (std::size_t i = 0; i < values.size(); ++i) {
        if (values[i] != xAt(i)) {
            x0 = step = 0;
            x = std::move(values);
            return;
        }
    }
}

std::pair<std::vector<double>, std::vector<double>> Trace::points() const {
    std::pair<std::vector<double>, std::vector<double>> out;
    out.first.reserve(size());
    out.second.reserve(size());
    auto skip = missing.begin();
    for (std::size_t i = 0; i < size(); ++i) {
        if (skip != missing.end() && *skip == i) {
            ++skip;
            continue;
        }
        out.first.push_back(xAt(i));
        out.second.push_back(y[i]);
    }
    return out;
}

PayloadId identityOf(const Grid& grid) {
    WordWriter bytes;
    bytes.reserve(40 * grid.wells.size());
    const auto addInt = [&](int value) { bytes.addWord(static_cast<std::uint64_t>(static_cast<std::int64_t>(value))); };
    addInt(grid.rows);
    addInt(grid.columns);
    for (const ReadingWell& well : grid.wells) {
        bytes.add(well.value);
        bytes.add(well.text);
        addInt(well.line);
        addInt(well.column);
    }
    return sha256(bytes.bytes());
}

PayloadId identityOf(const Trace& trace) {
    WordWriter bytes;
    bytes.add(std::string("trace"));
    write(trace, bytes);
    return sha256(bytes.bytes());
}

void write(const Trace& trace, WordWriter& out) {
    out.reserve(out.bytes().size() + 8 * (trace.x.size() + trace.y.size() + trace.missing.size()) + 200);
    for (const std::string* text : {&trace.xName, &trace.xUnit, &trace.yName, &trace.yUnit}) {
        out.add(*text);
    }
    out.add(trace.x0);
    out.add(trace.step);
    out.add(trace.x);
    out.add(trace.y);
    out.addWord(trace.missing.size());
    for (const std::uint32_t index : trace.missing) {
        out.addWord(index);
    }
}

struct Payload::State {
    PayloadId id;
    std::shared_ptr<PayloadSource> source;
    std::mutex mutex; ///< guards data
    PayloadData data;
};

namespace {

bool isThere(const PayloadData& data) {
    return std::visit([](const auto& pointer) { return pointer != nullptr; }, data);
}

} // namespace

Payload Payload::of(Grid grid) {
    Payload out;
    out.m_state = std::make_shared<State>();
    out.m_state->id = identityOf(grid);
    out.m_state->data = std::make_shared<const Grid>(std::move(grid));
    return out;
}

Payload Payload::of(Trace trace) {
    Payload out;
    out.m_state = std::make_shared<State>();
    out.m_state->id = identityOf(trace);
    out.m_state->data = std::make_shared<const Trace>(std::move(trace));
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

PayloadData Payload::data() const {
    if (!m_state) {
        return {};
    }
    const std::lock_guard lock(m_state->mutex);
    if (!isThere(m_state->data) && m_state->source) {
        m_state->data = m_state->source->load(m_state->id);
    }
    return m_state->data;
}

bool Payload::isInMemory() const {
    if (!m_state) {
        return false;
    }
    const std::lock_guard lock(m_state->mutex);
    return isThere(m_state->data);
}

std::shared_ptr<const Grid> Payload::grid() const {
    const PayloadData all = data();
    const auto* found = std::get_if<std::shared_ptr<const Grid>>(&all);
    return found ? *found : nullptr;
}

std::shared_ptr<const Trace> Payload::trace() const {
    const PayloadData all = data();
    const auto* found = std::get_if<std::shared_ptr<const Trace>>(&all);
    return found ? *found : nullptr;
}

bool Payload::isReadable() const {
    return isThere(data());
}

} // namespace nuvat
