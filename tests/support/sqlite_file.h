#pragma once

#include <filesystem>
#include <gtest/gtest.h>
#include <sqlite3.h>
#include <string>

namespace nuvat::test {

/// Runs SQL on a file from outside, as another program would.
inline void runSql(const std::filesystem::path& path, const std::string& sql) {
    sqlite3* db = nullptr;
    ASSERT_EQ(sqlite3_open(path.c_str(), &db), SQLITE_OK);
    char* error = nullptr;
    ASSERT_EQ(sqlite3_exec(db, sql.c_str(), nullptr, nullptr, &error), SQLITE_OK) << error;
    sqlite3_close(db);
}

/// Rows of an answer, cells parted by '|'.
inline std::string query(const std::filesystem::path& path, const std::string& sql) {
    sqlite3* db = nullptr;
    sqlite3_open(path.c_str(), &db);
    std::string out;
    sqlite3_exec(
        db, sql.c_str(),
        [](void* to, int columns, char** values, char**) {
            for (int i = 0; i < columns; ++i) {
                *static_cast<std::string*>(to) +=
                    std::string(i > 0 ? "|" : "") + (values[i] == nullptr ? "" : values[i]);
            }
            *static_cast<std::string*>(to) += "\n";
            return 0;
        },
        &out, nullptr);
    sqlite3_close(db);
    return out;
}

} // namespace nuvat::test
