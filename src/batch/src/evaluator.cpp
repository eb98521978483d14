// The whole batch, and again after an edit.
#include "criteria.h"
#include "evaluate_part.h"
#include "share_out.h"

#include <algorithm>
#include <array>
#include <iterator>
#include <set>
#include <thread>

namespace nuvat {

namespace {

/// The entries of a map that belong to one analyte.
template<class Key, class Value> auto ofAnalyte(const std::map<Key, Value>& all, int analyte) {
    std::vector<std::pair<Key, Value>> out;
    std::copy_if(all.begin(), all.end(), std::back_inserter(out),
                 [analyte](const auto& entry) { return entry.first.analyte == analyte; });
    return out;
}

/// Whether all that analytes share is as before: carriers, layout, samples, the method but for its analytes.
bool sharesAll(const Batch& a, const Batch& b) {
    const auto rest = [](Method method) {
        method.analytes.clear();
        return method;
    };
    return a.carriers == b.carriers && a.samples == b.samples && a.preparations == b.preparations &&
           a.places == b.places && rest(a.method) == rest(b.method);
}

/// Whether the analyte is read from the same readings on every carrier.
bool hasSameReadings(const Batch& a, const Batch& b, int analyte) {
    const auto channels = a.channelsBehind(analyte);
    if (channels != b.channelsBehind(analyte)) {
        return false;
    }
    for (const std::string& channel : channels) {
        for (const auto& [number, carrier] : b.carriers) {
            const Reading* before = a.reading(number, channel);
            const Reading* now = b.reading(number, channel);
            if (before == nullptr || now == nullptr ? before != now : !(*before == *now)) {
                return false;
            }
        }
    }
    return true;
}

/// The rules that an analyte is measured by: its own and that of its internal standard.
std::vector<const ResponseRule*> rulesBehind(const Method& method, int analyte) {
    std::vector<const ResponseRule*> out{&method.analyte(analyte).source.rule};
    if (const int internal = internalOf(method, analyte); internal != 0) {
        out.push_back(&method.analyte(internal).source.rule);
    }
    return out;
}

/// Channels with a trace that came, went or was measured anew.
std::set<std::string> changedChannels(const MeasuredTraces& before, const MeasuredTraces& now) {
    std::set<std::string> out;
    auto a = before.begin();
    auto b = now.begin();
    while (a != before.end() || b != now.end()) { // both by slot
        if (b == now.end() || (a != before.end() && a->first < b->first)) {
            out.insert((a++)->first.channel);
        } else if (a == before.end() || b->first < a->first) {
            out.insert((b++)->first.channel);
        } else {
            if (a->second != b->second) { // shared pointers: the same where nothing was measured anew
                out.insert(b->first.channel);
            }
            ++a;
            ++b;
        }
    }
    return out;
}

/// Whether a response looks at other analytes: one that follows a reference peak, or is a share of all areas.
bool looksAtOthers(const ResponseRule& rule) {
    const auto* peak = std::get_if<PeakRule>(&rule);
    return peak && (peak->reference != 0 || peak->quantity == PeakQuantity::AreaPercent);
}

/// Whether the analyte's traces were measured as they were. @param changed channels in which one was not
bool hasSameTraces(const Batch& batch, const std::set<std::string>& changed, int analyte) {
    const auto isOfTraces = [](const ResponseRule* rule) {
        return !std::holds_alternative<ValueRule>(*rule) && !std::holds_alternative<KineticRule>(*rule);
    };
    const auto rules = rulesBehind(batch.method, analyte);
    if (changed.empty() || std::ranges::none_of(rules, isOfTraces)) {
        return true;
    }
    if (std::ranges::any_of(rules, [](const ResponseRule* rule) { return looksAtOthers(*rule); })) {
        return false;
    }
    return std::ranges::none_of(batch.channelsBehind(analyte),
                                [&](const std::string& channel) { return changed.contains(channel); });
}

/// Whether the rules of other analytes are as they were, for a response that looks at them: one that follows a
/// reference peak, or is a share of all areas.
bool hasSameNeighbours(const Method& a, const Method& b, int analyte) {
    if (std::ranges::none_of(rulesBehind(b, analyte), [](const ResponseRule* rule) { return looksAtOthers(*rule); })) {
        return true;
    }
    return std::equal(a.analytes.begin(), a.analytes.end(), b.analytes.begin(), b.analytes.end(),
                      [](const Analyte& one, const Analyte& other) { return one.source.rule == other.source.rule; });
}

/// Whether its internal standard is as it was, and as much of it in every run.
bool hasSameInternal(const Batch& a, const Batch& b, int analyte) {
    const int internal = internalOf(b.method, analyte);
    if (internal == 0) {
        return true;
    }
    const auto addedOf = [&](const Batch& batch) {
        std::map<Place, double> out;
        for (const auto& [place, run] : batch.runs) {
            if (const auto found = run.added.find(internal); found != run.added.end()) {
                out.emplace(place, found->second);
            }
        }
        return out;
    };
    return static_cast<std::size_t>(internal) <= a.method.analytes.size() &&
           a.method.analyte(internal) == b.method.analyte(internal) && addedOf(a) == addedOf(b);
}

/// Whether what was left out for the analyte, for all, or for its internal standard is the same; of one that looks at
/// others whatever was left out.
bool hasSameExclusions(const Batch& a, const Batch& b, int analyte) {
    if (a.exclusions == b.exclusions) {
        return true;
    }
    if (std::ranges::any_of(rulesBehind(b.method, analyte),
                            [](const ResponseRule* rule) { return looksAtOthers(*rule); })) {
        return false;
    }
    const int internal = internalOf(b.method, analyte);
    return std::ranges::all_of(std::array{0, analyte, internal},
                               [&](int one) { return ofAnalyte(a.exclusions, one) == ofAnalyte(b.exclusions, one); });
}

/// Whether nothing of what the analyte alone depends on has changed. QCs have the names that they have for analyte 1.
bool isSameAnalyte(const Batch& a, const Batch& b, int analyte) {
    return static_cast<std::size_t>(analyte) <= a.method.analytes.size() &&
           a.method.analyte(analyte) == b.method.analyte(analyte) &&
           isInternalStandard(a.method, analyte) == isInternalStandard(b.method, analyte) &&
           hasSameNeighbours(a.method, b.method, analyte) && hasSameInternal(a, b, analyte) &&
           hasSameReadings(a, b, analyte) && hasSameExclusions(a, b, analyte) &&
           ofAnalyte(a.levels, analyte) == ofAnalyte(b.levels, analyte) &&
           ofAnalyte(a.qcs, analyte) == ofAnalyte(b.qcs, analyte) && ofAnalyte(a.qcs, 1) == ofAnalyte(b.qcs, 1) &&
           ofAnalyte(a.overrides, analyte) == ofAnalyte(b.overrides, analyte);
}

/// What is evaluated, in its order: a curve for the batch, one for each carrier that has places of its own, or one for
/// each bracket; a plate beside bracketed lists has one for itself.
std::vector<EvaluationPart> partsOf(const Batch& batch, const std::vector<Bracket>& brackets) {
    std::vector<EvaluationPart> out;
    for (int analyte = 1; analyte <= static_cast<int>(batch.method.analytes.size()); ++analyte) {
        const CurveOf curve = batch.method.analyte(analyte).source.curve;
        const bool isByBracket = curve == CurveOf::Bracket && brackets.size() > 1;
        if (!isByBracket && (curve != CurveOf::Carrier || batch.carriers.size() == 1)) {
            out.push_back({analyte, 0, 0});
            continue;
        }
        for (const auto& [number, carrier] : batch.carriers) {
            const std::size_t before = out.size();
            for (const Bracket& bracket : brackets) {
                if (isByBracket && bracket.carrier == number) {
                    out.push_back({analyte, number, bracket.number});
                }
            }
            if (out.size() == before) {
                out.push_back({analyte, number, 0});
            }
        }
    }
    return out;
}

/// The places of each part, each index made once.
class PartIndexes {
public:
    PartIndexes(const Batch& batch, std::shared_ptr<const PlaceIndex> whole, const std::vector<Bracket>& brackets)
        : m_batch(batch), m_brackets(brackets), m_made{{{0, 0}, std::move(whole)}} {}

    std::shared_ptr<const PlaceIndex> of(const EvaluationPart& part) {
        auto& index = m_made[{part.carrier, part.bracket}];
        if (!index) {
            const auto found = std::ranges::find_if(m_brackets, [&](const Bracket& one) {
                return one.carrier == part.carrier && one.number == part.bracket;
            });
            index = std::make_shared<const PlaceIndex>(
                m_batch, found == m_brackets.end() ? Bracket{.carrier = part.carrier} : *found);
        }
        return index;
    }

private:
    const Batch& m_batch;
    const std::vector<Bracket>& m_brackets;
    std::map<std::pair<int, int>, std::shared_ptr<const PlaceIndex>> m_made;
};

/// One part to be evaluated, where its memory is and where it goes.
struct Task {
    EvaluationPart part;
    std::shared_ptr<const PlaceIndex> index;
    AnalyteMemory* memory;
    Shared<AnalyteEvaluation>* result;
};

/// Where an evaluation has a part; nullptr where it had none.
const Shared<AnalyteEvaluation>* sharedPart(const Evaluation& evaluation, const EvaluationPart& part) {
    for (const Shared<AnalyteEvaluation>& one : evaluation.analytes) {
        if (EvaluationPart{one->analyte, one->carrier, one->bracket} == part) {
            return &one;
        }
    }
    return nullptr;
}

} // namespace

struct Evaluator::Memory {
    Measured measured;
    std::map<EvaluationPart, AnalyteMemory> parts;
    std::shared_ptr<const Batch> batch; ///< of the last time
    std::shared_ptr<const Evaluation> evaluation;
};

Evaluator::Evaluator(unsigned processors)
    : m_memory(std::make_unique<Memory>()),
      m_processors(processors > 0 ? processors : std::max(1u, std::thread::hardware_concurrency())) {}
Evaluator::~Evaluator() = default;
Evaluator::Evaluator(Evaluator&&) noexcept = default;
Evaluator& Evaluator::operator=(Evaluator&&) noexcept = default;

Evaluation evaluate(const Batch& batch) {
    return *Evaluator().compute(batch, {});
}

std::shared_ptr<const Evaluation> Evaluator::evaluate(const Batch& batch) {
    return evaluate(std::make_shared<const Batch>(batch));
}

std::shared_ptr<const Evaluation> Evaluator::evaluate(std::shared_ptr<const Batch> batch, const std::stop_token& stop) {
    auto computed = compute(*batch, stop);
    if (!computed) {
        return nullptr;
    }
    auto made = std::make_shared<const Evaluation>(*std::move(computed));
    m_memory->batch = std::move(batch);
    m_memory->evaluation = made;
    return made;
}

void Evaluator::know(MeasuredTraces traces) {
    for (auto& [slot, trace] : traces) {
        m_memory->measured.traces.insert_or_assign(slot, std::move(trace));
    }
}

std::optional<Evaluation> Evaluator::compute(const Batch& batch, const std::stop_token& stop) {
    m_work = {};
    Memory& memory = *m_memory;
    Measured measured = measure(batch, memory.measured, m_processors);
    const std::set<std::string> changed = changedChannels(memory.measured.traces, measured.traces);
    const bool sharesRest = memory.batch && sharesAll(*memory.batch, batch);
    const std::vector<Bracket> brackets = bracketsOf(batch);
    const std::vector<EvaluationPart> parts = partsOf(batch, brackets);
    std::erase_if(memory.parts,
                  [&](const auto& entry) { return !std::binary_search(parts.begin(), parts.end(), entry.first); });
    Evaluation out;
    out.index = std::make_shared<const PlaceIndex>(batch);
    PartIndexes indexes(batch, out.index, brackets);
    std::vector<Task> tasks;
    out.analytes.resize(parts.size());
    for (std::size_t i = 0; i < parts.size(); ++i) {
        const EvaluationPart part = parts[i];
        const bool isSame = sharesRest && isSameAnalyte(*memory.batch, batch, part.analyte) &&
                            hasSameTraces(batch, changed, part.analyte);
        if (const auto* before = isSame ? sharedPart(*memory.evaluation, part) : nullptr) {
            out.analytes[i] = *before; // its index too: the layout is the same
            continue;
        }
        tasks.push_back({part, indexes.of(part), &memory.parts[part], &out.analytes[i]});
    }
    memory.measured = std::move(measured);
    out.traces = memory.measured.traces;
    const bool isWhole = shareOut(tasks.size(), m_processors, stop, [&](std::size_t i) {
        tasks[i].memory->startCounting();
        *tasks[i].result = evaluateWith(batch, memory.measured, tasks[i].part, tasks[i].index, *tasks[i].memory);
    });
    if (!isWhole) {
        return std::nullopt;
    }
    for (const Task& task : tasks) {
        m_work.fits += task.memory->fits();
        m_work.samples += task.memory->samples();
    }
    applyBatchCriteria(batch, out);
    return out;
}

} // namespace nuvat
