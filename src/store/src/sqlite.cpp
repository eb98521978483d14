#include "sqlite.h"

namespace nuvat {

Database::Database(const std::filesystem::path& path, int flags) {
    const int code = sqlite3_open_v2(path.c_str(), &m_handle, flags | SQLITE_OPEN_NOMUTEX, nullptr);
    if (code != SQLITE_OK) {
        const std::string what = m_handle != nullptr ? sqlite3_errmsg(m_handle) : "out of memory";
        sqlite3_close(m_handle);
        throw SqliteError(code, what);
    }
    sqlite3_extended_result_codes(m_handle, 1);
    sqlite3_busy_timeout(m_handle, 2000);
}

Database::~Database() {
    sqlite3_close(m_handle);
}

void Database::execute(const std::string& sql) {
    const int code = sqlite3_exec(m_handle, sql.c_str(), nullptr, nullptr, nullptr);
    if (code != SQLITE_OK) {
        throw SqliteError(code, sqlite3_errmsg(m_handle));
    }
}

int Database::pragma(const std::string& name) {
    Statement statement(*this, "PRAGMA " + name);
    return statement.step() ? statement.integer(0) : 0;
}

Transaction::~Transaction() {
    if (m_isOpen) {
        sqlite3_exec(m_database.handle(), "ROLLBACK", nullptr, nullptr, nullptr);
    }
}

void Transaction::commit() {
    m_database.execute("COMMIT");
    m_isOpen = false;
}

Statement::Statement(Database& database, std::string_view sql) : m_database(database) {
    check(sqlite3_prepare_v2(database.handle(), sql.data(), static_cast<int>(sql.size()), &m_statement, nullptr));
}

Statement::~Statement() {
    sqlite3_finalize(m_statement);
}

bool Statement::step() {
    const int code = sqlite3_step(m_statement);
    if (code == SQLITE_ROW) {
        return true;
    }
    if (code != SQLITE_DONE) {
        throw SqliteError(code, sqlite3_errmsg(m_database.handle()));
    }
    return false;
}

std::optional<double> Statement::optionalNumber(int column) const {
    return sqlite3_column_type(m_statement, column) == SQLITE_NULL ? std::nullopt : std::optional(number(column));
}

std::string Statement::text(int column) const {
    const void* bytes = sqlite3_column_blob(m_statement, column);
    const auto size = static_cast<std::size_t>(sqlite3_column_bytes(m_statement, column));
    return bytes == nullptr ? std::string() : std::string(static_cast<const char*>(bytes), size);
}

void Statement::check(int code) const {
    if (code != SQLITE_OK) {
        throw SqliteError(code, sqlite3_errmsg(m_database.handle()));
    }
}

void Statement::bindOne(int index, int value) {
    check(sqlite3_bind_int(m_statement, index, value));
}
void Statement::bindOne(int index, std::int64_t value) {
    check(sqlite3_bind_int64(m_statement, index, value));
}
void Statement::bindOne(int index, double value) {
    check(sqlite3_bind_double(m_statement, index, value));
}
void Statement::bindOne(int index, const std::optional<double>& value) {
    check(value ? sqlite3_bind_double(m_statement, index, *value) : sqlite3_bind_null(m_statement, index));
}
void Statement::bindOne(int index, std::string_view value) {
    check(sqlite3_bind_text64(m_statement, index, value.data(), value.size(), SQLITE_TRANSIENT, SQLITE_UTF8));
}

} // namespace nuvat
