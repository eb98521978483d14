#include "upgrade_commands.h"

#include <nlohmann/json.hpp>

namespace nuvat {

namespace {

using Json = nlohmann::json;

Json carrierOf(const Json& info) {
    return info.is_null()
               ? Json(nullptr)
               : Json{{"kind", "plate"}, {"name", ""}, {"rows", info.at("rows")}, {"columns", info.at("columns")}};
}

/// Until version 4 the batch had the size of its one plate, which is now that of carrier 1.
void moveSizeToCarrier(Json& changes) {
    Json out = Json::array();
    for (const Json& change : changes) {
        out.push_back(change);
        if (change.at("kind") != "info") {
            continue;
        }
        const Json before = carrierOf(change.at("before"));
        const Json after = carrierOf(change.at("after"));
        for (const char* side : {"before", "after"}) {
            if (!out.back().at(side).is_null()) {
                out.back().at(side).erase("rows");
                out.back().at(side).erase("columns");
            }
        }
        if (before != after) {
            out.push_back({{"kind", "carrier"}, {"key", 1}, {"before", before}, {"after", after}});
        }
    }
    changes = std::move(out);
}

} // namespace

void upgradeCommands(Database& db, int version) {
    constexpr int kWithCarriers = 5;
    std::vector<std::pair<std::int64_t, std::string>> rewritten;
    {
        Statement s(db, "SELECT position, changes FROM command");
        while (s.step()) {
            try {
                Json changes = Json::parse(s.text(1));
                if (version < kWithCarriers) {
                    moveSizeToCarrier(changes);
                }
                rewritten.emplace_back(s.integer64(0), changes.dump());
            } catch (const Json::exception&) { // left as it is
            }
        }
    }
    for (const auto& [position, changes] : rewritten) {
        Statement(db, "UPDATE command SET changes = ? WHERE position = ?").bind(changes, position).run();
    }
}

} // namespace nuvat
