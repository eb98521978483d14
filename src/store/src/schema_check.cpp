#include "schema_check.h"

#include <algorithm>
#include <set>
#include <vector>

namespace nuvat {

namespace {

/// A name as SQL has it, whatever is in it.
std::string quoted(const std::string& name) {
    std::string out = "'";
    for (const char c : name) {
        out += c == '\'' ? "''" : std::string(1, c);
    }
    return out + "'";
}

} // namespace

void requireOwnSchema(Database& db, int version) {
    std::set<std::string> missing{"batch", "method", "reading",   "place",   "level",
                                  "qc",    "sample", "exclusion", "command", "history"};
    if (version >= 2) {
        missing.insert({"analyte", "criterion", "criterion_override"});
    }
    if (version >= 4) {
        missing.insert("seal");
    }
    if (version >= 5) {
        missing.insert({"carrier", "run"});
    }
    if (version < 6) {
        missing.insert("reading_well"); // a view since
    } else {
        missing.insert({"payload", "command_payload", "in_use"});
    }
    if (version >= 8) {
        missing.insert("hand_edit");
    }
    if (version >= 9) {
        missing.insert("measured");
    }
    Statement s(db, "SELECT type, name, sql FROM sqlite_schema WHERE sql IS NOT NULL");
    while (s.step()) {
        const std::string type = s.text(0);
        const std::string name = s.text(1);
        if (type == "trigger") {
            throw std::runtime_error("it holds the trigger " + name + ", which no Nuvat has written");
        }
        const auto wanted = missing.find(name);
        if (wanted == missing.end()) {
            continue;
        }
        std::string head = s.text(2).substr(0, 16);
        std::transform(head.begin(), head.end(), head.begin(), [](unsigned char c) {
            return c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : static_cast<char>(c);
        });
        if (type != "table" || head.starts_with("CREATE VIRTUAL")) {
            throw std::runtime_error("its " + name + " is no table");
        }
        missing.erase(wanted);
    }
    if (!missing.empty()) {
        throw std::runtime_error("its table " + *missing.begin() + " is missing");
    }
}

void requireIntegrity(Database& db) {
    // Payloads may be gigabytes: each is held against its identity when it is read.
    Statement tables(
        db, "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT IN ('payload', 'sqlite_schema')");
    while (tables.step()) {
        Statement s(db, "PRAGMA integrity_check(" + quoted(tables.text(0)) + ")");
        if (!s.step() || s.text(0) != "ok") {
            throw std::runtime_error("SQLite finds it inconsistent (" + s.text(0) + ")");
        }
    }
}

} // namespace nuvat
