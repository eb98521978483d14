#pragma once

#include "nuvat/core/base/error.h"

#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

namespace nuvat {

/// The options of one command as they were typed; a wrong call is an Error with the code cli.wrong-call.
class Options {
public:
    /// @param arguments the command first, as typed; @param withValue options that take a value; @param flags those
    /// that
    ///        take none; @param places how many words without an option may come first
    /// @param repeated of those with a value, the ones that may be given several times
    static Result<Options> parse(const std::vector<std::string>& arguments, const std::set<std::string>& withValue,
                                 const std::set<std::string>& flags = {}, std::size_t places = 0,
                                 const std::set<std::string>& repeated = {});

    bool has(const std::string& option) const { return m_values.contains(option); }
    std::string text(const std::string& option, const std::string& otherwise = {}) const;
    /// The values of those options that are given or have a default in `otherwise`.
    std::vector<std::string> texts(const std::vector<std::pair<std::string, std::string>>& otherwise) const;
    const std::vector<std::string>& places() const { return m_places; }
    const std::string& command() const { return m_command; }

    /// A number within (low, high) or [low, high) when `includesLow`; `otherwise` when the option is not given.
    Result<double> number(const std::string& option, double otherwise, double low, double high, bool includesLow) const;
    /// Numbers separated by commas; none when the option is not given.
    Result<std::vector<double>> numbers(const std::string& option) const;
    /// name=number pairs separated by commas, in the order typed.
    Result<std::vector<std::pair<std::string, double>>> named(const std::string& option) const;
    /// Every value of an option that may be repeated, in the order typed.
    const std::vector<std::string>& all(const std::string& option) const;
    /// Words separated by commas.
    std::vector<std::string> words(const std::string& option) const;

private:
    std::string m_command;
    std::map<std::string, std::string> m_values;
    std::map<std::string, std::vector<std::string>> m_repeated;
    std::vector<std::string> m_places;
};

/// One of the names of an enumeration, by its fromName function; `known` lists them for the sentence.
template<class T>
Result<T> choice(const Options& options, const std::string& option, T otherwise,
                 std::optional<T> (*fromName)(std::string_view), const std::string& known) {
    if (!options.has(option)) {
        return otherwise;
    }
    const auto found = fromName(options.text(option));
    if (!found) {
        return fail("cli.wrong-call",
                    option + " does not know \"" + options.text(option) + "\"; there are " + known + ".");
    }
    return *found;
}

} // namespace nuvat
