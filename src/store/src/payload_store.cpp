#include "payload_store.h"

#include "nuvat/batch/validate.h"
#include "nuvat/core/base/words.h"

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

std::string traceBytes(const Trace& trace) {
    WordWriter out;
    write(trace, out);
    return std::move(out).bytes();
}

Trace traceFromBytes(std::string_view bytes) {
    WordReader words(bytes);
    Trace out;
    for (std::string* text : {&out.xName, &out.xUnit, &out.yName, &out.yUnit}) {
        words.read(*text);
    }
    words.read(out.x0);
    words.read(out.step);
    words.read(out.x);
    words.read(out.y);
    out.missing.resize(words.count());
    for (std::uint32_t& index : out.missing) {
        index = static_cast<std::uint32_t>(words.word());
    }
    words.requireEnd();
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
        Statement(db, "INSERT INTO payload (id, kind, data) VALUES (?, 'trace', ?)")
            .bind(payload.id(), Blob{traceBytes(*trace)})
            .run();
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
