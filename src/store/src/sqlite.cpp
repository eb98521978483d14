#include "sqlite.h"

#include <limits>

namespace nuvat {

namespace {

constexpr int kBusyMillis = 100;               // the window waits for an edit: rather a sentence than a freeze
constexpr int kLongestCell = 64 * 1024 * 1024; // bytes; the largest plate's undo entry has a hundredth of it

} // namespace

Database::Database(const std::filesystem::path& path, int flags) {
    const int code = sqlite3_open_v2(path.c_str(), &m_handle, flags | SQLITE_OPEN_NOMUTEX, nullptr);
    if (code != SQLITE_OK) {
        const std::string what = m_handle != nullptr ? sqlite3_errmsg(m_handle) : "out of memory";
        sqlite3_close(m_handle);
        throw SqliteError(code, what);
    }
    sqlite3_extended_result_codes(m_handle, 1);
    sqlite3_busy_timeout(m_handle, kBusyMillis);
    sqlite3_db_config(m_handle, SQLITE_DBCONFIG_DEFENSIVE, 1, nullptr);
    sqlite3_db_config(m_handle, SQLITE_DBCONFIG_TRUSTED_SCHEMA, 0, nullptr);
    sqlite3_db_config(m_handle, SQLITE_DBCONFIG_ENABLE_TRIGGER, 0, nullptr);
    sqlite3_limit(m_handle, SQLITE_LIMIT_LENGTH, kLongestCell);
    sqlite3_limit(m_handle, SQLITE_LIMIT_ATTACHED, 0);
}

Database::~Database() {
    sqlite3_close(m_handle);
}

void Database::execute(const std::string& sql) {
    const int code = sqlite3_exec(m_handle, sql.c_str(), nullptr, nullptr, nullptr);
    if (code != SQLITE_OK) {
        throw SqliteError(sqlite3_extended_errcode(m_handle), sqlite3_errmsg(m_handle));
    }
}

int Database::pragma(const std::string& name) {
    Statement statement(*this, "PRAGMA " + name);
    return statement.step() ? statement.integer(0) : 0;
}

void Database::limitWork(std::int64_t steps) {
    constexpr int kEvery = 100'000;
    m_stepsLeft = steps;
    const auto spend = [](void* self) -> int {
        auto& left = static_cast<Database*>(self)->m_stepsLeft;
        left -= kEvery;
        return left < 0 ? 1 : 0;
    };
    sqlite3_progress_handler(m_handle, steps > 0 ? kEvery : 0, steps > 0 ? +spend : nullptr, this);
}

void Database::attach(const std::filesystem::path& source) {
    sqlite3_limit(m_handle, SQLITE_LIMIT_ATTACHED, 1);
    Statement(*this, "ATTACH ? AS source").bind(source.string()).run();
}

void Database::detach() {
    execute("DETACH source");
    sqlite3_limit(m_handle, SQLITE_LIMIT_ATTACHED, 0);
}

void Database::copyFrom(Database& source) {
    sqlite3_backup* copy = sqlite3_backup_init(m_handle, "main", source.handle(), "main");
    if (copy == nullptr) {
        throw SqliteError(sqlite3_extended_errcode(m_handle), sqlite3_errmsg(m_handle));
    }
    sqlite3_backup_step(copy, -1);
    if (const int code = sqlite3_backup_finish(copy); code != SQLITE_OK) {
        throw SqliteError(code, sqlite3_errmsg(m_handle));
    }
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

void Statement::demandType(int column, int type) const {
    const int found = sqlite3_column_type(m_statement, column);
    const bool isNumber = type == SQLITE_FLOAT && found == SQLITE_INTEGER;
    if (found != type && !isNumber) {
        throw std::runtime_error("its column " + std::string(sqlite3_column_name(m_statement, column)) +
                                 " holds a value of the wrong kind");
    }
}

int Statement::integer(int column) const {
    const std::int64_t value = integer64(column);
    if (value < std::numeric_limits<int>::min() || value > std::numeric_limits<int>::max()) {
        throw std::runtime_error("its column " + std::string(sqlite3_column_name(m_statement, column)) +
                                 " holds a number that is too large");
    }
    return static_cast<int>(value);
}

std::int64_t Statement::integer64(int column) const {
    demandType(column, SQLITE_INTEGER);
    return sqlite3_column_int64(m_statement, column);
}

double Statement::number(int column) const {
    demandType(column, SQLITE_FLOAT);
    return sqlite3_column_double(m_statement, column);
}

std::optional<double> Statement::optionalNumber(int column) const {
    return sqlite3_column_type(m_statement, column) == SQLITE_NULL ? std::nullopt : std::optional(number(column));
}

std::string Statement::blob(int column) const {
    demandType(column, SQLITE_BLOB);
    const void* bytes = sqlite3_column_blob(m_statement, column);
    const auto size = static_cast<std::size_t>(sqlite3_column_bytes(m_statement, column));
    return bytes == nullptr ? std::string() : std::string(static_cast<const char*>(bytes), size);
}

std::string Statement::text(int column) const {
    demandType(column, SQLITE_TEXT);
    const void* bytes = sqlite3_column_blob(m_statement, column);
    const auto size = static_cast<std::size_t>(sqlite3_column_bytes(m_statement, column));
    return bytes == nullptr ? std::string() : std::string(static_cast<const char*>(bytes), size);
}

void Statement::appendRow(std::string& bytes) const {
    const auto append = [&bytes](auto value) { bytes.append(reinterpret_cast<const char*>(&value), sizeof value); };
    for (int column = 0; column < sqlite3_column_count(m_statement); ++column) {
        const int type = sqlite3_column_type(m_statement, column);
        bytes += static_cast<char>(type);
        if (type == SQLITE_INTEGER) {
            append(sqlite3_column_int64(m_statement, column));
        } else if (type == SQLITE_FLOAT) {
            append(sqlite3_column_double(m_statement, column));
        } else if (type == SQLITE_TEXT) {
            const std::string value = text(column);
            append(static_cast<std::uint64_t>(value.size()));
            bytes += value;
        }
    }
}

void Statement::check(int code) const {
    if (code != SQLITE_OK) {
        throw SqliteError(sqlite3_extended_errcode(m_database.handle()), sqlite3_errmsg(m_database.handle()));
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
void Statement::bindOne(int index, const Blob& value) {
    check(sqlite3_bind_blob64(m_statement, index, value.bytes.data(), value.bytes.size(), SQLITE_TRANSIENT));
}

} // namespace nuvat
