#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <sqlite3.h>
#include <stdexcept>
#include <string>
#include <string_view>

namespace nuvat {

/// What SQLite said went wrong. Stays inside the store: its public functions turn it into an Error.
struct SqliteError : std::runtime_error {
    SqliteError(int theCode, const std::string& what) : std::runtime_error(what), code(theCode) {}
    int code; ///< extended
    int primary() const { return code & 0xff; }
};

/// A database connection that trusts nothing in the file: no functions or writes from its schema, bounded lengths, and
/// a bound on the work of one connection's reading. @throws SqliteError
class Database {
public:
    Database(const std::filesystem::path& path, int flags);
    static Database inMemory() { return {":memory:", SQLITE_OPEN_READWRITE | SQLITE_OPEN_CREATE}; }
    ~Database();
    Database(const Database&) = delete;
    Database& operator=(const Database&) = delete;

    void execute(const std::string& sql);
    int pragma(const std::string& name); ///< value of a pragma that is a whole number
    /// Ends work that takes more than this many steps of SQLite's machine; 0: no bound.
    void limitWork(std::int64_t steps);
    /// Makes another database's tables readable under the schema name "source"; it is not written.
    void attach(const std::filesystem::path& source);
    void detach();
    /// Replaces the content of this database by that of another.
    void copyFrom(Database& source);
    sqlite3* handle() const { return m_handle; }

private:
    sqlite3* m_handle = nullptr;
    std::int64_t m_stepsLeft = 0;
};

/// Rolls back unless committed.
class Transaction {
public:
    explicit Transaction(Database& database) : m_database(database) { m_database.execute("BEGIN IMMEDIATE"); }
    ~Transaction();
    Transaction(const Transaction&) = delete;
    Transaction& operator=(const Transaction&) = delete;
    void commit();

private:
    Database& m_database;
    bool m_isOpen = true;
};

/// Bytes that are no text.
struct Blob {
    std::string_view bytes;
};

/// A prepared statement with values bound in order. @throws SqliteError; std::runtime_error when a cell holds another
/// type than the one asked for, so that a text is never read as 0
class Statement {
public:
    Statement(Database& database, std::string_view sql);
    ~Statement();
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    template<class... Values> Statement& bind(const Values&... values) {
        sqlite3_reset(m_statement);
        int index = 0;
        (bindOne(++index, values), ...);
        return *this;
    }
    /// Binds the next value, for items whose fields are bound one by one.
    template<class Value> void bindNext(const Value& value) { bindOne(++m_bound, value); }
    bool step(); ///< true while there is a row
    void run() {
        while (step()) {
        }
    }

    int integer(int column) const;
    std::int64_t integer64(int column) const;
    bool isTrue(int column) const { return integer64(column) != 0; }
    double number(int column) const;
    std::optional<double> optionalNumber(int column) const;
    std::string text(int column) const;
    std::string blob(int column) const;
    /// Appends the cells of the row with their types, so that rows are told apart by their bytes.
    void appendRow(std::string& bytes) const;

private:
    void bindOne(int index, int value);
    void bindOne(int index, std::int64_t value);
    void bindOne(int index, double value);
    void bindOne(int index, const std::optional<double>& value);
    void bindOne(int index, std::string_view value);
    void bindOne(int index, const Blob& value);
    void bindOne(int index, bool value) { bindOne(index, static_cast<int>(value)); }
    void check(int code) const;
    void demandType(int column, int type) const;

    Database& m_database;
    sqlite3_stmt* m_statement = nullptr;
    int m_bound = 0;
};

} // namespace nuvat
