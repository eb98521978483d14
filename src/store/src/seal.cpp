#include "seal.h"

#include "nuvat/core/base/checksum.h"

#include <array>

namespace nuvat {

namespace {

constexpr std::array<const char*, 16> kSealed{
    "batch",  "carrier", "run",   "method", "analyte", "criterion",   "criterion_override", "reading",
    "in_use", "place",   "level", "qc",     "sample",  "preparation", "exclusion",          "hand_edit"};

std::string checksumOfRows(Database& db) {
    std::string bytes;
    for (const char* table : kSealed) {
        Statement s(db, std::string("SELECT * FROM ") + table);
        while (s.step()) {
            s.appendRow(bytes);
        }
        bytes += table;
    }
    return fnv1a(bytes);
}

} // namespace

void seal(Database& db) {
    Statement(db, "INSERT OR REPLACE INTO seal (id, checksum) VALUES (1, ?)").bind(checksumOfRows(db)).run();
}

bool isSealIntact(Database& db) {
    const std::string now = checksumOfRows(db);
    Statement s(db, "SELECT checksum FROM seal");
    return s.step() && s.text(0) == now;
}

} // namespace nuvat
