#pragma once

#include "describe.h"
#include "known_names.h"
#include "rule_json.h"
#include "signal_json.h"
#include "sqlite.h"

namespace nuvat {

/// Names of the report's blocks as one text, and back.
std::string joinedNames(const std::vector<std::string>& names);
std::vector<std::string> splitNames(const std::string& text);
/// "isAnchor" is the column is_anchor.
std::string columnName(std::string_view name);

/// Collects the columns of an item.
class ColumnNames {
public:
    template<class T> void operator()(const char* name, const T&) { m_names.push_back(columnName(name)); }
    void constant(const char* name, int) { m_names.push_back(columnName(name)); }
    template<class T> void items(const char*, const T&) {} // have a table of their own
    /// "a, b, c", or with another text between and after each.
    std::string joined(const std::string& between, const std::string& after = {}) const {
        std::string out;
        for (const std::string& one : m_names) {
            out += (out.empty() ? "" : between) + one + after;
        }
        return out;
    }
    std::size_t size() const { return m_names.size(); }

private:
    std::vector<std::string> m_names;
};

template<class... Items> ColumnNames columnsOf() {
    ColumnNames names;
    const auto add = [&names]<class T>(const T& item) { describe(names, item); };
    (add(Items{}), ...);
    return names;
}

/// Binds the fields of an item to a statement, one after the other.
class FieldBinder {
public:
    explicit FieldBinder(Statement& statement) : m_statement(statement) {}
    template<class T> void operator()(const char*, const T& value) {
        if constexpr (std::is_enum_v<T>) {
            m_statement.bindNext(name(value));
        } else if constexpr (std::same_as<T, std::vector<std::string>>) {
            m_statement.bindNext(joinedNames(value));
        } else if constexpr (std::same_as<T, ResponseRule>) {
            m_statement.bindNext(ruleText(value));
        } else if constexpr (IsJsonText<T>) {
            m_statement.bindNext(jsonText(value));
        } else if constexpr (std::same_as<T, Payload>) {
            m_statement.bindNext(value.id());
        } else {
            m_statement.bindNext(value);
        }
    }
    void constant(const char*, int value) { m_statement.bindNext(value); }
    template<class T> void items(const char*, const T&) {}

private:
    Statement& m_statement;
};

/// Reads the fields of an item from a row, one column after the other.
class FieldReader {
public:
    FieldReader(const Statement& row, const std::shared_ptr<PayloadSource>& payloads)
        : m_row(row), m_payloads(payloads) {}
    void operator()(const char*, std::string& field) { field = m_row.text(m_column++); }
    void operator()(const char*, int& field) { field = m_row.integer(m_column++); }
    void operator()(const char*, std::int64_t& field) { field = m_row.integer64(m_column++); }
    void operator()(const char*, bool& field) { field = m_row.isTrue(m_column++); }
    void operator()(const char*, double& field) { field = m_row.number(m_column++); }
    void operator()(const char*, std::optional<double>& field) { field = m_row.optionalNumber(m_column++); }
    void operator()(const char*, std::vector<std::string>& field) { field = splitNames(m_row.text(m_column++)); }
    void operator()(const char*, ResponseRule& field) { field = ruleFromText(m_row.text(m_column++)); }
    template<IsJsonText T> void operator()(const char*, T& field) { fromJsonText(m_row.text(m_column++), field); }
    void operator()(const char*, Payload& field) { field = Payload::stored(m_row.text(m_column++), m_payloads); }
    template<class Enum>
    requires std::is_enum_v<Enum>
    void operator()(const char*, Enum& field) { field = fromKnownName<Enum>(m_row.text(m_column++)); }
    void constant(const char*, int) { ++m_column; }
    template<class T> void items(const char*, const T&) {}

private:
    const Statement& m_row;
    const std::shared_ptr<PayloadSource>& m_payloads;
    int m_column = 0;
};

/// Writes one item, or deletes it when it is absent.
template<class Key, class T> void storeRow(Database& db, const Key& key, const std::optional<T>& item) {
    static const std::string put = [] {
        const ColumnNames columns = columnsOf<Key, T>();
        std::string marks;
        for (std::size_t i = 0; i < columns.size(); ++i) {
            marks += i == 0 ? "?" : ", ?";
        }
        return std::string("INSERT OR REPLACE INTO ") + Kept<T>::kTable + " (" + columns.joined(", ") + ") VALUES (" +
               marks + ")";
    }();
    static const std::string remove =
        std::string("DELETE FROM ") + Kept<T>::kTable + " WHERE " + columnsOf<Key>().joined(" AND ", " = ?");
    Statement statement(db, item ? put : remove);
    FieldBinder binder(statement);
    describe(binder, key);
    if (item) {
        describe(binder, *item);
    }
    statement.run();
}

/// Calls `take` with the key and the item of every row, in the order of the keys.
/// @throws std::runtime_error with what is wrong with it
template<class Key, class T, class Take>
void readRows(Database& db, const std::shared_ptr<PayloadSource>& payloads, const Take& take) {
    static const std::string select = "SELECT " + columnsOf<Key, T>().joined(", ") + " FROM " + Kept<T>::kTable +
                                      " ORDER BY " + columnsOf<Key>().joined(", ");
    Statement statement(db, select);
    while (statement.step()) {
        Key key{};
        T item{};
        FieldReader reader(statement, payloads);
        describe(reader, key);
        describe(reader, item);
        take(std::move(key), std::move(item));
    }
}

} // namespace nuvat
