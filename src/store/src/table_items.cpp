#include "table_items.h"

#include <algorithm>

namespace nuvat {

std::string columnName(std::string_view name) {
    std::string out;
    for (const char c : name) {
        if (c >= 'A' && c <= 'Z') {
            out += '_';
            out += static_cast<char>(c - 'A' + 'a');
        } else {
            out += c;
        }
    }
    return out;
}

std::string joinedNames(const std::vector<std::string>& names) {
    std::string out;
    for (const std::string& one : names) {
        out += (out.empty() ? "" : ",") + one;
    }
    return out;
}

std::vector<std::string> splitNames(const std::string& text) {
    std::vector<std::string> names;
    std::size_t from = 0;
    while (from < text.size()) {
        const std::size_t comma = std::min(text.find(',', from), text.size());
        names.push_back(text.substr(from, comma - from));
        from = comma + 1;
    }
    return names;
}

} // namespace nuvat
