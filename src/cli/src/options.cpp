#include "options.h"

#include "nuvat/core/base/number.h"

#include "columns.h"

#include <algorithm>

namespace nuvat {

Result<Options> Options::parse(const std::vector<std::string>& arguments, const std::set<std::string>& withValue,
                               const std::set<std::string>& flags, std::size_t places,
                               const std::set<std::string>& repeated) {
    Options out;
    out.m_command = arguments.front();
    for (std::size_t i = 1; i < arguments.size(); ++i) {
        const std::string& word = arguments[i];
        if (out.m_values.contains(word) && !repeated.contains(word)) {
            return wrongCall(word + " is given twice.");
        }
        if (flags.contains(word)) {
            out.m_values[word] = "";
        } else if (withValue.contains(word)) {
            if (i + 1 == arguments.size()) {
                return wrongCall(word + " needs a value.");
            }
            out.m_values[word] = arguments[++i];
            out.m_repeated[word].push_back(arguments[i]);
        } else if (word.starts_with("--") || out.m_places.size() == places) {
            return wrongCall(out.m_command +
                             (word.starts_with("--") ? " has no option " : " does not know what to do with ") + word +
                             ".");
        } else {
            out.m_places.push_back(word);
        }
    }
    return out;
}

std::vector<std::string> Options::texts(const std::vector<std::pair<std::string, std::string>>& otherwise) const {
    std::vector<std::string> out;
    for (const auto& [option, value] : otherwise) {
        if (has(option) || !value.empty()) {
            out.push_back(text(option, value));
        }
    }
    return out;
}

const std::vector<std::string>& Options::all(const std::string& option) const {
    static const std::vector<std::string> kNone;
    const auto found = m_repeated.find(option);
    return found == m_repeated.end() ? kNone : found->second;
}

std::string Options::text(const std::string& option, const std::string& otherwise) const {
    const auto found = m_values.find(option);
    return found == m_values.end() ? otherwise : found->second;
}

Result<double> Options::number(const std::string& option, double otherwise, double low, double high,
                               bool includesLow) const {
    if (!has(option)) {
        return otherwise;
    }
    const auto value = parseNumber(text(option));
    if (!value || !(includesLow ? *value >= low : *value > low) || !(*value < high)) {
        const std::string from = formatNumber(low) + (includesLow ? " or more" : "");
        return wrongCall(option + " takes a number " +
                         (high > 1e300 ? (includesLow ? "of " : "above ") + from
                                       : "between " + formatNumber(low) + " and " + formatNumber(high)) +
                         ", not \"" + text(option) + "\".");
    }
    return *value;
}

std::vector<std::string> Options::words(const std::string& option) const {
    std::vector<std::string> out;
    const std::string list = text(option);
    std::size_t from = 0;
    while (has(option) && from <= list.size()) {
        const std::size_t comma = std::min(list.find(',', from), list.size());
        out.push_back(list.substr(from, comma - from));
        from = comma + 1;
    }
    return out;
}

Result<std::vector<double>> Options::numbers(const std::string& option) const {
    std::vector<double> out;
    for (const std::string& word : words(option)) {
        const auto value = parseNumber(word);
        if (!value) {
            return wrongCall(option + " takes numbers separated by commas, not \"" + text(option) + "\".");
        }
        out.push_back(*value);
    }
    return out;
}

Result<std::vector<std::pair<std::string, double>>> Options::named(const std::string& option) const {
    std::vector<std::pair<std::string, double>> out;
    for (const std::string& word : words(option)) {
        const std::size_t equals = std::min(word.find('='), word.size());
        const auto value = equals < word.size() ? parseNumber(word.substr(equals + 1)) : std::nullopt;
        if (!value || equals == 0) {
            return wrongCall(option + " takes name=number pairs separated by commas, not \"" + text(option) + "\".");
        }
        out.emplace_back(word.substr(0, equals), *value);
    }
    return out;
}

} // namespace nuvat
