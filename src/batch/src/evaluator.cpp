// The whole batch, and again after an edit.
#include "criteria.h"
#include "evaluate_part.h"

#include <iterator>

namespace nuvat {

namespace {

/// The entries of a map that belong to one analyte.
template<class Key, class Value> auto ofAnalyte(const std::map<Key, Value>& all, int analyte) {
    std::vector<std::pair<Key, Value>> out;
    std::copy_if(all.begin(), all.end(), std::back_inserter(out),
                 [analyte](const auto& entry) { return entry.first.analyte == analyte; });
    return out;
}

/// Whether all that analytes share is as before: carriers, layout, samples, decisions on places, the method but for its
/// analytes.
bool sharesAll(const Batch& a, const Batch& b) {
    const auto rest = [](Method method) {
        method.analytes.clear();
        return method;
    };
    return a.carriers == b.carriers && a.exclusions == b.exclusions && a.samples == b.samples && a.places == b.places &&
           rest(a.method) == rest(b.method);
}

/// Whether the analyte is read from the same readings on every carrier.
bool hasSameReadings(const Batch& a, const Batch& b, int analyte) {
    const auto channels = a.channelsOf(analyte);
    if (channels != b.channelsOf(analyte)) {
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

/// Whether nothing of what the analyte alone depends on has changed. QCs have the names that they have for analyte 1.
bool isSameAnalyte(const Batch& a, const Batch& b, int analyte) {
    return static_cast<std::size_t>(analyte) <= a.method.analytes.size() &&
           a.method.analyte(analyte) == b.method.analyte(analyte) && hasSameReadings(a, b, analyte) &&
           ofAnalyte(a.levels, analyte) == ofAnalyte(b.levels, analyte) &&
           ofAnalyte(a.qcs, analyte) == ofAnalyte(b.qcs, analyte) && ofAnalyte(a.qcs, 1) == ofAnalyte(b.qcs, 1) &&
           ofAnalyte(a.overrides, analyte) == ofAnalyte(b.overrides, analyte);
}

/// What is evaluated, in its order: a curve for the batch, or one for each carrier that has places of its own.
std::vector<EvaluationPart> partsOf(const Batch& batch) {
    std::vector<EvaluationPart> out;
    for (int analyte = 1; analyte <= static_cast<int>(batch.method.analytes.size()); ++analyte) {
        if (batch.method.analyte(analyte).source.curve == CurveOf::Batch || batch.carriers.size() == 1) {
            out.push_back({analyte, 0});
            continue;
        }
        for (const auto& [number, carrier] : batch.carriers) {
            out.push_back({analyte, number});
        }
    }
    return out;
}

} // namespace

struct Evaluator::Memory {
    std::map<EvaluationPart, AnalyteMemory> parts;
    std::optional<Batch> batch; ///< of the last time
    std::shared_ptr<const Evaluation> evaluation;
};

Evaluator::Evaluator() : m_memory(std::make_unique<Memory>()) {}
Evaluator::~Evaluator() = default;
Evaluator::Evaluator(Evaluator&&) noexcept = default;
Evaluator& Evaluator::operator=(Evaluator&&) noexcept = default;

Evaluation evaluate(const Batch& batch) {
    return Evaluator().compute(batch);
}

std::shared_ptr<const Evaluation> Evaluator::evaluate(const Batch& batch) {
    auto made = std::make_shared<const Evaluation>(compute(batch));
    m_memory->batch = batch;
    m_memory->evaluation = made;
    return made;
}

Evaluation Evaluator::compute(const Batch& batch) {
    m_work = {};
    Memory& memory = *m_memory;
    const bool sharesRest = memory.batch && sharesAll(*memory.batch, batch);
    const std::vector<EvaluationPart> parts = partsOf(batch);
    std::erase_if(memory.parts,
                  [&](const auto& entry) { return !std::binary_search(parts.begin(), parts.end(), entry.first); });
    Evaluation out;
    out.index = std::make_shared<const PlaceIndex>(batch);
    std::map<int, std::shared_ptr<const PlaceIndex>> indexes{{0, out.index}};
    for (const EvaluationPart part : parts) {
        auto& index = indexes[part.carrier];
        index = index ? index : std::make_shared<const PlaceIndex>(batch, part.carrier);
        const AnalyteEvaluation* before = sharesRest && isSameAnalyte(*memory.batch, batch, part.analyte)
                                              ? memory.evaluation->find(part.analyte, part.carrier)
                                              : nullptr;
        if (before != nullptr && before->carrier == part.carrier) {
            out.analytes.push_back(*before);
            out.analytes.back().index = index;
            continue;
        }
        AnalyteMemory& own = memory.parts[part];
        own.startCounting();
        out.analytes.push_back(evaluateWith(batch, part, index, own));
        m_work.fits += own.fits();
        m_work.samples += own.samples();
    }
    applyBatchCriteria(batch, out);
    return out;
}

} // namespace nuvat
