#include "nuvat/batch/name_rules.h"

#include "command_parts.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <map>

namespace nuvat {

namespace {

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}

/// Length of a number that begins at a place of a text: digits, with a decimal sign between digits; 0 without one.
std::size_t numberLength(std::string_view text) {
    std::size_t length = 0;
    while (length < text.size() && isDigit(text[length])) {
        ++length;
    }
    const bool hasSign = length > 0 && length + 1 < text.size() && (text[length] == '.' || text[length] == ',');
    if (hasSign && isDigit(text[length + 1])) {
        ++length;
        while (length < text.size() && isDigit(text[length])) {
            ++length;
        }
    }
    return length;
}

/// Whether a text fits a pattern, both in one case. @param number what "#" stood for
bool fits(std::string_view pattern, std::string_view text, std::string& number) {
    if (pattern.empty()) {
        return text.empty();
    }
    if (pattern.front() == '*') {
        for (std::size_t skip = 0; skip <= text.size(); ++skip) {
            // A number is never cut in two.
            const bool isInNumber = skip > 0 && skip < text.size() && isDigit(text[skip - 1]) && isDigit(text[skip]);
            if (!isInNumber && fits(pattern.substr(1), text.substr(skip), number)) {
                return true;
            }
        }
        return false;
    }
    if (pattern.front() == '#') {
        const std::size_t length = numberLength(text);
        if (length == 0 || !fits(pattern.substr(1), text.substr(length), number)) {
            return false;
        }
        number = std::string(text.substr(0, length));
        return true;
    }
    return !text.empty() && pattern.front() == text.front() && fits(pattern.substr(1), text.substr(1), number);
}

/// "juice 3 (2)", "juice 3 rep 2", "juice 3_r2", "juice 3 inj2": without what counts replicates.
std::string withoutReplicate(const std::string& name) {
    std::size_t end = name.size();
    if (end > 2 && name[end - 1] == ')') {
        const std::size_t open = name.rfind('(');
        const bool isCount = open != std::string::npos && open > 0 &&
                             std::all_of(name.begin() + static_cast<std::ptrdiff_t>(open) + 1, name.end() - 1, isDigit);
        return isCount ? std::string(trimmed(name.substr(0, open))) : name;
    }
    while (end > 0 && isDigit(name[end - 1])) {
        --end;
    }
    if (end == name.size()) {
        return name;
    }
    std::string before(trimmed(name.substr(0, end)));
    for (const char* word : {"replicate", "injection", "rep", "inj", "_r", "-r"}) {
        const std::string lower = lowerCase(before);
        if (lower.ends_with(word) && lower.size() > std::string_view(word).size()) {
            before.resize(before.size() - std::string_view(word).size());
            while (!before.empty() && (before.back() == '_' || before.back() == '-' || before.back() == ' ')) {
                before.pop_back();
            }
            return before.empty() ? name : before;
        }
    }
    return name;
}

} // namespace

const std::vector<NameRule>& usualNameRules() {
    static const std::vector<NameRule> rules{{"*double blank*", Role::DoubleBlank},
                                             {"*zero blank*", Role::DoubleBlank},
                                             {"*blank*", Role::Blank},
                                             {"std*#*", Role::Standard},
                                             {"cal*#*", Role::Standard},
                                             {"standard*#*", Role::Standard},
                                             {"level*#*", Role::Standard},
                                             {"qc*", Role::Qc},
                                             {"*control*", Role::Qc},
                                             {"*", Role::Unknown}};
    return rules;
}

std::optional<NamedRole> roleOfName(const std::vector<NameRule>& rules, const std::string& name) {
    const std::string text = lowerCase(std::string(trimmed(name)));
    if (text.empty()) {
        return std::nullopt;
    }
    for (const NameRule& rule : rules) {
        std::string number;
        if (fits(lowerCase(rule.pattern), text, number)) {
            const std::string key = isBlank(rule.role) ? "" : !number.empty() ? number : withoutReplicate(text);
            return NamedRole{rule.role, key};
        }
    }
    return std::nullopt;
}

namespace {

struct Found {
    Place place;
    NamedRole named;
    std::string name;
};

std::vector<Found> namedRuns(const Batch& batch, int carrier) {
    const auto& rules = batch.method.nameRules.empty() ? usualNameRules() : batch.method.nameRules;
    std::vector<Found> out;
    for (const auto& [place, run] : batch.runs) {
        if (place.carrier != carrier || batch.at(place).role != Role::Empty) {
            continue;
        }
        auto named = roleOfName(rules, run.name);
        if (named && named->role != Role::Empty) {
            out.push_back({place, *named, withoutReplicate(std::string(trimmed(run.name)))});
        }
    }
    return out;
}

/// "0.5" before "2" before "10"; what is no number behind.
bool isLowerLevel(const std::string& a, const std::string& b) {
    const auto left = parseNumber(a), right = parseNumber(b);
    return left && right ? *left < *right : left.has_value() && !right.has_value();
}

/// Numbers of each role by key, counted up from those in use.
std::map<std::pair<Role, std::string>, int> numbersOf(const Batch& batch, std::vector<Found> runs) {
    std::ranges::stable_sort(runs, [](const Found& a, const Found& b) {
        const bool areStandards = a.named.role == Role::Standard && b.named.role == Role::Standard;
        return areStandards && isLowerLevel(a.named.key, b.named.key);
    });
    std::map<Role, int> next;
    for (const auto& [place, group] : batch.places) {
        next[group.role] = std::max(next[group.role], group.number);
    }
    std::map<std::pair<Role, std::string>, int> out;
    for (const Found& run : runs) {
        const std::pair key{run.named.role, run.named.key};
        if (!out.contains(key)) {
            out[key] = isCounted(run.named.role) ? ++next[run.named.role] : 0;
        }
    }
    return out;
}

/// What a number stands for exists from its first place on.
void describeGroup(const Batch& batch, Assignment group, const std::string& name, Command& command) {
    if (group.role == Role::Unknown && !batch.samples.contains(group.number)) {
        add(command, SampleKey{group.number}, std::optional<Sample>(), std::optional(Sample{name}));
    } else if (group.role == Role::Standard && !batch.levels.contains(group.number)) {
        add(command, LevelKey{group.number}, std::optional<Level>(), std::optional(Level{}));
    } else if (const QcKey key{group.number, 1, group.role}; hasNominal(group.role) && !batch.qcs.contains(key)) {
        add(command, key, std::optional<QcSample>(), std::optional(QcSample{name, std::nullopt}));
    }
}

} // namespace

Result<Command> rolesFromNames(const Batch& batch, int carrier) {
    if (!batch.carriers.contains(carrier)) {
        return fail("batch.carrier", "There is no plate or list " + std::to_string(carrier) + " in this batch.",
                    "Choose one of the batch.");
    }
    const std::vector<Found> runs = namedRuns(batch, carrier);
    if (runs.empty()) {
        return fail("review.no-names", "No run without a role has a name that says one.",
                    "Name the runs, or change the rules of names.");
    }
    const auto numbers = numbersOf(batch, runs);
    Command command;
    command.label =
        std::to_string(runs.size()) + (runs.size() == 1 ? " run has" : " runs have") + " the role that the name says";
    std::map<std::pair<Role, int>, bool> isDescribed;
    for (const Found& run : runs) {
        const Assignment group{run.named.role, numbers.at({run.named.role, run.named.key})};
        add(command, run.place, std::optional<Assignment>(), std::optional(group));
        if (!std::exchange(isDescribed[{group.role, group.number}], true)) {
            describeGroup(batch, group, run.name, command);
        }
    }
    return command;
}

} // namespace nuvat
