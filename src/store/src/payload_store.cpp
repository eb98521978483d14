#include "payload_store.h"

#include "nuvat/batch/validate.h"

#include <bit>
#include <nlohmann/json.hpp>

namespace nuvat {

using Json = nlohmann::json;

std::string gridText(const Grid& grid) {
    Json wells = Json::array();
    for (const ReadingWell& well : grid.wells) {
        wells.push_back({well.value ? Json(*well.value) : Json(nullptr), well.text, well.line, well.column});
    }
    return Json{{"rows", grid.rows}, {"columns", grid.columns}, {"wells", std::move(wells)}}.dump(
        -1, ' ', false, Json::error_handler_t::replace);
}

Grid gridFromText(const std::string& text) {
    const Json json = Json::parse(text);
    Grid grid{json.at("rows"), json.at("columns"), {}};
    const Json& wells = json.at("wells");
    grid.wells.reserve(wells.size());
    for (const Json& well : wells) {
        grid.wells.push_back({well.at(0).is_null() ? std::nullopt : std::optional(well.at(0).get<double>()),
                              well.at(1).get<std::string>(), well.at(2).get<int>(), well.at(3).get<int>()});
    }
    return grid;
}

namespace {

void addWord(std::string& out, std::uint64_t value) {
    for (unsigned shift = 0; shift < 64; shift += 8) {
        out += static_cast<char>(value >> shift & 0xffu);
    }
}

/// Reads words from bytes; never beyond their end.
class Words {
public:
    explicit Words(std::string_view bytes) : m_bytes(bytes) {}
    std::uint64_t word() {
        std::uint64_t out = 0;
        const std::string_view bytes = take(8);
        for (std::size_t i = 8; i-- > 0;) {
            out = out << 8 | static_cast<unsigned char>(bytes[i]);
        }
        return out;
    }
    std::string text() { return std::string(take(word())); }
    double number() { return std::bit_cast<double>(word()); }
    /// A count of things that take so many bytes each.
    std::size_t count() {
        const std::uint64_t out = word();
        if (out > m_bytes.size() / 8) {
            throw std::runtime_error("a trace is cut");
        }
        return out;
    }
    std::vector<double> numbers() {
        std::vector<double> out(count());
        for (double& value : out) {
            value = number();
        }
        return out;
    }
    bool isAtEnd() const { return m_bytes.empty(); }

private:
    std::string_view take(std::uint64_t size) {
        if (size > m_bytes.size()) {
            throw std::runtime_error("a trace is cut");
        }
        const std::string_view out = m_bytes.substr(0, size);
        m_bytes.remove_prefix(size);
        return out;
    }
    std::string_view m_bytes;
};

} // namespace

std::string traceBytes(const Trace& trace) {
    std::string out;
    out.reserve(8 * (trace.x.size() + trace.y.size() + trace.missing.size()) + 200);
    for (const std::string* text : {&trace.xName, &trace.xUnit, &trace.yName, &trace.yUnit}) {
        addWord(out, text->size());
        out += *text;
    }
    addWord(out, std::bit_cast<std::uint64_t>(trace.x0));
    addWord(out, std::bit_cast<std::uint64_t>(trace.step));
    for (const std::vector<double>* numbers : {&trace.x, &trace.y}) {
        addWord(out, numbers->size());
        for (const double value : *numbers) {
            addWord(out, std::bit_cast<std::uint64_t>(value));
        }
    }
    addWord(out, trace.missing.size());
    for (const std::uint32_t index : trace.missing) {
        addWord(out, index);
    }
    return out;
}

Trace traceFromBytes(std::string_view bytes) {
    Words words(bytes);
    Trace out;
    for (std::string* text : {&out.xName, &out.xUnit, &out.yName, &out.yUnit}) {
        *text = words.text();
    }
    out.x0 = words.number();
    out.step = words.number();
    out.x = words.numbers();
    out.y = words.numbers();
    out.missing.resize(words.count());
    for (std::uint32_t& index : out.missing) {
        index = static_cast<std::uint32_t>(words.word());
    }
    if (!words.isAtEnd()) {
        throw std::runtime_error("a trace is longer than it says");
    }
    return out;
}

PayloadData FilePayloads::load(const PayloadId& id) {
    try {
        std::string kind, data;
        {
            const std::lock_guard lock(m_mutex); // of the connection; what is read is understood beside it
            Statement s(*m_database, "SELECT kind, data FROM payload WHERE id = ?");
            s.bind(id);
            if (!s.step()) {
                return {};
            }
            kind = s.text(0);
            data = kind == "trace" ? s.blob(1) : s.text(1);
        }
        if (kind == "trace") {
            auto trace = std::make_shared<const Trace>(traceFromBytes(data));
            return identityOf(*trace) == id && validate(*trace, "") ? PayloadData(trace) : PayloadData();
        }
        auto grid = std::make_shared<const Grid>(gridFromText(data));
        return kind == "grid" && identityOf(*grid) == id && validate(*grid, "") ? PayloadData(grid) : PayloadData();
    } catch (const std::exception&) { // no JSON, no file any more: all the same to who asked
        return {};
    }
}

void storePayload(Database& db, const Payload& payload) {
    Statement known(db, "SELECT 1 FROM payload WHERE id = ?");
    known.bind(payload.id());
    if (known.step()) {
        return;
    }
    if (const auto trace = payload.trace()) {
        Statement statement(db, "INSERT INTO payload (id, kind, data) VALUES (?, 'trace', ?)");
        statement.bindNext(payload.id());
        statement.bindNextBlob(traceBytes(*trace));
        statement.run();
        return;
    }
    const auto grid = payload.grid();
    if (grid == nullptr) {
        throw std::runtime_error("the values of a reading cannot be read");
    }
    Statement(db, "INSERT INTO payload (id, kind, data) VALUES (?, 'grid', ?)")
        .bind(payload.id(), gridText(*grid))
        .run();
}

std::vector<Payload> payloadsOf(const Command& command) {
    std::vector<Payload> out;
    for (const Change& change : command.changes) {
        if (const auto* reading = std::get_if<ReadingChange>(&change)) {
            for (const auto& side : {reading->before, reading->after}) {
                if (side) {
                    out.push_back(side->payload);
                }
            }
        }
    }
    return out;
}

void freePayloads(Database& db) {
    db.execute("DELETE FROM payload WHERE id NOT IN (SELECT payload FROM reading) "
               "AND id NOT IN (SELECT payload FROM command_payload)");
}

} // namespace nuvat
