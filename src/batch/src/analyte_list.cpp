#include "nuvat/batch/analyte_list.h"

#include "command_parts.h"
#include "nuvat/batch/validate.h"
#include "nuvat/core/base/text.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace nuvat {

namespace {

bool isUntouched(const Method& method) {
    return method.analytes.size() == 1 && method.analyte().source == AnalyteSource{} && method.analyte().name.empty();
}

const Analyte* named(const std::vector<Analyte>& analytes, const std::string& name) {
    const auto found =
        std::ranges::find_if(analytes, [&](const Analyte& one) { return lowerCase(one.name) == lowerCase(name); });
    return found == analytes.end() ? nullptr : &*found;
}

int numberOf(const std::vector<Analyte>& analytes, const std::string& name) {
    const Analyte* found = named(analytes, name);
    return found == nullptr ? 0 : static_cast<int>(found - analytes.data()) + 1;
}

/// What a new analyte starts with.
Analyte plainAnalyte(Method& method) {
    Analyte plain;
    if (!isUntouched(method)) {
        plain = method.analyte();
        plain.internal = {};
        plain.qualifiers.clear();
        plain.addedConcentration.reset();
        plain.kept.reset();
        plain.source = {};
        return plain;
    }
    method.analytes.clear();
    method.subtractsBlank = false; // a blank run has a trace of its own, not a response to be taken off
    plain.fit = FitOptions{.model = Model::Line, .weighting = Weighting::InverseX};
    plain.isConcentrationLogarithmic = false;
    plain.responseName = "Area";
    method.criteriaName = shippedCriteria().front().name;
    method.limits = shippedCriteria().front().limits;
    return plain;
}

Result<void> check(const std::vector<ListedAnalyte>& list) {
    if (list.empty()) {
        return fail("analytes.no-name", "The list holds no analyte.", "Give each a line with its name and time.");
    }
    std::set<std::string> names;
    for (std::size_t i = 0; i < list.size(); ++i) {
        if (trimmed(list[i].name).empty()) {
            return fail("analytes.no-name", "Line " + std::to_string(i + 1) + " of the list has no name.",
                        "Type the name of the analyte.");
        }
        if (!names.insert(lowerCase(list[i].name)).second) {
            return fail("analytes.twice", list[i].name + " stands in the list twice.", "Give each one line.");
        }
    }
    return {};
}

constexpr double kUsualWindow = 0.02; ///< of the expected time, common practice

Result<PeakRule> ruleOf(const ListedAnalyte& wanted, const Analyte& before, const std::string& channel) {
    const auto* old = std::get_if<PeakRule>(&before.source.rule);
    PeakRule rule = old ? *old : PeakRule{};
    if (!wanted.time && !old) {
        return fail("analytes.no-time", wanted.name + " has no expected time.", "Type when its peak is expected.");
    }
    rule.expected = wanted.time.value_or(rule.expected);
    if (wanted.window || !old) {
        rule.window = wanted.window.value_or(kUsualWindow * std::abs(rule.expected));
        rule.windowOf = WindowOf::X;
    }
    rule.channel = !wanted.quantifier.empty() || !old ? channel : rule.channel;
    return rule;
}

void setQualifiers(const ListedAnalyte& wanted, Analyte& analyte) {
    if (wanted.qualifiers.empty()) {
        return;
    }
    std::vector<Qualifier> out;
    for (const auto& other : wanted.qualifiers) {
        const auto same = std::ranges::find(analyte.qualifiers, other.channel, &Qualifier::channel);
        Qualifier qualifier = same == analyte.qualifiers.end() ? Qualifier{.channel = other.channel} : *same;
        qualifier.reference = other.ratio ? other.ratio : qualifier.reference;
        out.push_back(qualifier);
    }
    analyte.qualifiers = std::move(out);
}

/// Where each analyte of the old order stands in the new one; 0: nowhere.
std::vector<int> movesOf(const std::vector<Analyte>& before, const std::vector<Analyte>& after) {
    std::vector<int> out;
    for (const Analyte& analyte : before) {
        out.push_back(numberOf(after, analyte.name));
    }
    return out;
}

/// Moves what exists once an analyte to where its analyte now stands.
template<class Key, class T>
void move(Command& command, const std::map<Key, T>& before, const std::vector<int>& moves, std::map<Key, T>& after) {
    for (const auto& [key, item] : before) {
        Key moved = key;
        if (key.analyte > 0) {
            moved.analyte = moves.at(static_cast<std::size_t>(key.analyte) - 1);
        }
        if (key.analyte == 0 || moved.analyte != 0) {
            after.emplace(moved, item);
        }
    }
    addDifferences(command, before, after);
}

void moveItems(const Batch& batch, const std::vector<int>& moves, Command& command) {
    std::map<LevelKey, Level> levels;
    std::map<QcKey, QcSample> qcs;
    std::map<OverrideKey, Override> overrides;
    std::map<ExclusionKey, Exclusion> exclusions;
    move(command, batch.levels, moves, levels);
    move(command, batch.overrides, moves, overrides);
    move(command, batch.exclusions, moves, exclusions);
    // QCs are called as they are for analyte 1, whoever that is now.
    std::map<QcKey, QcSample> after;
    Command none;
    move(none, batch.qcs, moves, after);
    for (const auto& [key, qc] : batch.qcs) {
        if (key.analyte == 1 && !qc.name.empty()) {
            after[{key.number, 1, key.role}].name = qc.name;
        }
    }
    addDifferences(command, batch.qcs, after);
    auto edits = batch.handEdits;
    for (auto& [slot, drawn] : edits) {
        for (HandEdit& edit : drawn.list) {
            edit.edit.owner = edit.edit.owner == 0 ? 0 : moves.at(static_cast<std::size_t>(edit.edit.owner) - 1);
        }
    }
    addDifferences(command, batch.handEdits, edits);
    auto runs = batch.runs;
    for (auto& [place, run] : runs) {
        std::map<int, double> added;
        for (const auto& [analyte, concentration] : run.added) {
            if (const int moved = moves.at(static_cast<std::size_t>(analyte) - 1); moved != 0) {
                added.emplace(moved, concentration);
            }
        }
        run.added = std::move(added);
    }
    addDifferences(command, batch.runs, runs);
}

void moveReferences(std::vector<Analyte>& analytes, const std::vector<Analyte>& before, const std::vector<int>& moves) {
    for (Analyte& analyte : analytes) {
        if (named(before, analyte.name) == nullptr) {
            continue; // new ones refer to nothing yet
        }
        analyte.internal.analyte =
            analyte.internal.analyte == 0 ? 0 : moves.at(static_cast<std::size_t>(analyte.internal.analyte) - 1);
        if (auto* rule = std::get_if<PeakRule>(&analyte.source.rule); rule && rule->reference != 0) {
            rule->reference = moves.at(static_cast<std::size_t>(rule->reference) - 1);
        }
    }
}

Result<void> setInternals(const std::vector<ListedAnalyte>& list, Method& method) {
    for (const ListedAnalyte& wanted : list) {
        if (wanted.internal.empty()) {
            continue;
        }
        const int internal = numberOf(method.analytes, wanted.internal);
        if (internal == 0) {
            return fail("analytes.internal",
                        "The internal standard " + wanted.internal + " of " + wanted.name + " is no analyte.",
                        "Give it a line of its own, with its time.");
        }
        const int self = numberOf(method.analytes, wanted.name);
        method.analyte(self).internal.analyte = internal == self ? 0 : internal;
    }
    return {};
}

/// Adds the levels that a list says, on top of a batch that has its analytes already.
Result<void> addSeries(Batch after, const std::vector<ListedAnalyte>& list, Command& command) {
    for (const ListedAnalyte& wanted : list) {
        if (!wanted.first || !wanted.factor || !wanted.levels) {
            continue;
        }
        const Series series{*wanted.first, true, *wanted.factor, *wanted.levels};
        auto levels = setSeries(after, series, numberOf(after.method.analytes, wanted.name));
        if (!levels) {
            return tl::unexpected(levels.error());
        }
        applyChanges(after, *levels, false);
        command.changes.insert(command.changes.end(), levels->changes.begin(), levels->changes.end());
    }
    return {};
}

} // namespace

Result<Command> setAnalytes(const Batch& batch, const std::vector<ListedAnalyte>& list) {
    if (auto good = check(list); !good) {
        return tl::unexpected(good.error());
    }
    Method method = batch.method;
    const Analyte plain = plainAnalyte(method);
    const std::vector<Analyte> before = method.analytes;
    std::vector<Analyte> after;
    const auto channels = batch.channels();
    std::string channel = channels.empty() ? batch.info.channel : channels.front();
    for (const ListedAnalyte& wanted : list) {
        channel = wanted.quantifier.empty() ? channel : wanted.quantifier;
        const Analyte* old = named(before, wanted.name);
        Analyte analyte = old ? *old : plain;
        auto rule = ruleOf(wanted, analyte, channel);
        if (!rule) {
            return tl::unexpected(rule.error());
        }
        analyte.source.rule = *rule;
        analyte.name = wanted.name;
        analyte.unit = wanted.unit.empty() ? analyte.unit : wanted.unit;
        analyte.addedConcentration = wanted.added ? wanted.added : analyte.addedConcentration;
        setQualifiers(wanted, analyte);
        after.push_back(std::move(analyte));
    }
    for (const Analyte& analyte : before) {
        if (named(after, analyte.name) == nullptr) {
            after.push_back(analyte);
        }
    }
    std::vector<int> moves = movesOf(before, after);
    if (before.empty()) {
        moves = {1}; // the one that a new batch begins with becomes the first
    } else {
        moveReferences(after, before, moves);
    }
    method.analytes = std::move(after);
    if (auto good = setInternals(list, method); !good) {
        return tl::unexpected(good.error());
    }
    auto command = setMethod(batch, method, std::to_string(list.size()) + " analytes taken from a list");
    if (!command) {
        return command;
    }
    // Overrides follow their criteria in setMethod and their analytes here: from one state to the next.
    Batch moved = batch;
    applyChanges(moved, *command, false);
    moveItems(moved, moves, *command);
    Batch whole = batch;
    applyChanges(whole, *command, false);
    if (auto good = addSeries(std::move(whole), list, *command); !good) {
        return tl::unexpected(good.error());
    }
    return command;
}

Result<Command> applyToAll(const Batch& batch, int analyte, const SharedTerms& terms) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Method method = batch.method;
    const Analyte from = batch.method.analyte(analyte);
    for (int number = 1; number <= static_cast<int>(method.analytes.size()); ++number) {
        Analyte& to = method.analyte(number);
        if (terms.unit && !isInternalStandard(method, number)) {
            to.unit = from.unit;
        }
        if (terms.fit) {
            to.fit = from.fit;
            to.interval = from.interval;
            to.average = from.average;
            to.scatter = from.scatter;
        }
        const auto* own = std::get_if<PeakRule>(&from.source.rule);
        if (auto* rule = std::get_if<PeakRule>(&to.source.rule); terms.window && rule && own) {
            rule->window = own->window;
            rule->windowOf = own->windowOf;
            rule->pick = own->pick;
            rule->quantity = own->quantity;
        }
        if (terms.limits) {
            to.suitability = from.suitability;
        }
        if (terms.figure) {
            to.isConcentrationLogarithmic = from.isConcentrationLogarithmic;
        }
    }
    return setMethod(batch, method, "Settings of " + from.name + " for all analytes");
}

Result<Command> swapQuantifier(const Batch& batch, int analyte, std::size_t qualifier) {
    if (auto known = requireAnalyte(batch, analyte); !known) {
        return tl::unexpected(known.error());
    }
    Method method = batch.method;
    Analyte& changed = method.analyte(analyte);
    auto* rule = std::get_if<PeakRule>(&changed.source.rule);
    if (rule == nullptr || qualifier >= changed.qualifiers.size()) {
        return fail("method.qualifier", changed.name + " has no such qualifier.", "Choose one of its qualifiers.");
    }
    Qualifier& other = changed.qualifiers[qualifier];
    const PeakRule before = *rule;
    rule->channel = other.channel;
    rule->expected = other.expected.value_or(rule->expected);
    other.channel = before.channel;
    other.expected = rule->expected == before.expected ? std::nullopt : std::optional(before.expected);
    constexpr double kWhole = 100; // percent
    other.reference =
        other.reference && *other.reference > 0 ? std::optional(kWhole * kWhole / *other.reference) : std::nullopt;
    return setMethod(batch, method, "Quantifier of " + changed.name + " → " + rule->channel);
}

namespace {

Result<Command> group(const Batch& batch, const std::vector<std::vector<std::string>>& groups) {
    Method method = batch.method;
    const auto inGroup = [&](const std::string& channel) -> const std::vector<std::string>* {
        const auto found =
            std::ranges::find_if(groups, [&](const auto& one) { return std::ranges::find(one, channel) != one.end(); });
        return found == groups.end() ? nullptr : &*found;
    };
    std::size_t grouped = 0;
    for (Analyte& analyte : method.analytes) {
        auto* rule = std::get_if<PeakRule>(&analyte.source.rule);
        const auto* own = rule ? inGroup(rule->channel) : nullptr;
        if (own == nullptr || own->size() < 2) {
            continue;
        }
        std::vector<Qualifier> qualifiers;
        for (const std::string& channel : *own) {
            if (channel == rule->channel) {
                continue;
            }
            const auto same = std::ranges::find(analyte.qualifiers, channel, &Qualifier::channel);
            qualifiers.push_back(same == analyte.qualifiers.end() ? Qualifier{.channel = channel} : *same);
        }
        grouped += qualifiers == analyte.qualifiers ? 0u : 1u;
        analyte.qualifiers = std::move(qualifiers);
    }
    return setMethod(batch, method, "Channels grouped, " + std::to_string(grouped) + " analytes have other qualifiers");
}

std::vector<std::string> sortedChannels(const Batch& batch) {
    auto channels = batch.channels();
    std::ranges::sort(channels);
    return channels;
}

} // namespace

Result<Command> groupChannels(const Batch& batch, std::size_t together) {
    const auto channels = sortedChannels(batch);
    if (together < 2 || channels.size() < together || channels.size() % together != 0) {
        return fail("method.qualifier",
                    std::to_string(channels.size()) + " channels cannot be parted into groups of " +
                        std::to_string(together) + ".",
                    "Choose another number, or group them by what their names share.");
    }
    std::vector<std::vector<std::string>> groups;
    for (std::size_t i = 0; i < channels.size(); i += together) {
        groups.emplace_back(channels.begin() + static_cast<std::ptrdiff_t>(i),
                            channels.begin() + static_cast<std::ptrdiff_t>(i + together));
    }
    return group(batch, groups);
}

Result<Command> groupChannelsByName(const Batch& batch) {
    std::map<std::string, std::vector<std::string>> byStem;
    for (const std::string& channel : sortedChannels(batch)) {
        const std::size_t end = channel.find_last_of(" -_");
        byStem[end == std::string::npos ? channel : channel.substr(0, end)].push_back(channel);
    }
    std::vector<std::vector<std::string>> groups;
    for (const auto& [stem, channels] : byStem) {
        groups.push_back(channels);
    }
    return group(batch, groups);
}

} // namespace nuvat
