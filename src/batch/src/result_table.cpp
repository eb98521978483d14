// The columns of results, said once for window, report and files.
#include "nuvat/batch/result_table.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"

#include <algorithm>

namespace nuvat {

namespace {

std::string orDash(const std::optional<double>& value, int decimals) {
    return value ? formatDecimals(*value, decimals) : std::string("–");
}

/// The sample, and of a QC what it should hold and how much of it was found.
std::string sampleText(const Batch& batch, const std::string& unit, const SampleResult& r) {
    if (!hasNominal(r.group.role)) {
        const std::string name = fullName(batch, r.group);
        return r.recoveryPercent ? name + ", recovery " + formatPercent(*r.recoveryPercent) : name;
    }
    if (!r.nominal) {
        return "no nominal";
    }
    const std::string nominal = formatNumber(*r.nominal) + (unit.empty() ? "" : " " + unit);
    return r.recoveryPercent ? nominal + ", recovery " + formatPercent(*r.recoveryPercent) : nominal;
}

std::vector<Place> placesOfResult(const SampleResult& r) {
    std::vector<Place> out;
    for (const ReplicateResult& replicate : r.replicates) {
        out.push_back(replicate.place);
    }
    return out;
}

std::string noteOf(const Batch& batch, const SampleResult& r) {
    const auto found = batch.samples.find(r.group.number);
    return isOfSample(r.group.role) && found != batch.samples.end() ? found->second.note : std::string();
}

/// Collects columns.
class Columns {
public:
    Columns(const Batch& batch, const AnalyteEvaluation& evaluation)
        : m_batch(batch), m_evaluation(evaluation), m_analyte(analyteOf(batch, evaluation)),
          m_unit(m_analyte.unit.empty() ? "" : ", " + m_analyte.unit) {}

    std::vector<ResultColumn> all() {
        addWhat();
        addReading();
        addResult();
        addDecision();
        return std::move(m_out);
    }

private:
    void text(const char* key, const std::string& title, std::function<std::string(const SampleResult&)> of) {
        m_out.push_back({key, title, false, [of = std::move(of)](const SampleResult& r) {
                             return ResultCell{std::nullopt, of(r)};
                         }});
    }
    void number(const std::string& key, const std::string& title, std::function<ResultCell(const SampleResult&)> of) {
        m_out.push_back({key, title, true, std::move(of)});
    }

    void addWhat() {
        text("place", "Place", [&b = m_batch](const SampleResult& r) { return shortName(b, r.group); });
        text("sample", "Sample",
             [&b = m_batch, unit = m_analyte.unit](const SampleResult& r) { return sampleText(b, unit, r); });
        text("role", "Role", [](const SampleResult& r) { return std::string(roleWord(r.group.role)); });
        text("wells", "Wells",
             [&b = m_batch](const SampleResult& r) { return placeNames(b.carriers, placesOfResult(r)); });
        number("used", "Replicates", [](const SampleResult& r) {
            return ResultCell{static_cast<double>(r.response.n), std::to_string(r.response.n)};
        });
    }

    void addReading() {
        number("response", "Response", [](const SampleResult& r) {
            return ResultCell{r.response.mean, orDash(r.response.mean, 3)};
        });
        number("response-sd", "Response SD", [](const SampleResult& r) {
            return ResultCell{r.response.sd, r.response.sd ? formatFigures(*r.response.sd, 3) : "–"};
        });
        number("read-off", "Read off" + m_unit, [](const SampleResult& r) {
            return ResultCell{r.readOff.x, r.readOff.x ? concentrationText(r.readOff) : "–"};
        });
        number("sd", "SD" + m_unit, [](const SampleResult& r) {
            return ResultCell{r.concentration.sd, r.concentration.sd ? formatFigures(*r.concentration.sd, 3) : "–"};
        });
        number("cv", "CV, %", [](const SampleResult& r) {
            return ResultCell{r.concentration.cvPercent, orDash(r.concentration.cvPercent, 1)};
        });
        number("dilution", "Dilution", [](const SampleResult& r) {
            return ResultCell{r.dilution, "× " + formatNumber(r.dilution)};
        });
    }

    void addResult() {
        number("result", "Result" + m_unit, [&e = m_evaluation](const SampleResult& r) {
            return ResultCell{r.result, resultText(r, e.range)};
        });
        text("interval", formatNumber(100 * m_batch.method.confidence) + " % interval",
             [](const SampleResult& r) { return r.result ? intervalText(*r.result, r.low, r.high) : std::string(); });
        number("low", "Low" + m_unit, [](const SampleResult& r) {
            return ResultCell{r.low, r.low ? formatFigures(*r.low, 4) : "–"};
        });
        number("high", "High" + m_unit, [](const SampleResult& r) {
            return ResultCell{r.high, r.high ? formatFigures(*r.high, 4) : "–"};
        });
        number("recovery", "Recovery, %", [](const SampleResult& r) {
            return ResultCell{r.recoveryPercent, orDash(r.recoveryPercent, 1)};
        });
        text("status", "Status", [](const SampleResult& r) { return statusWord(r); });
    }

    void addDecision() {
        text("class", "Class", [&e = m_evaluation, &a = m_analyte](const SampleResult& r) {
            const SampleDecision* decision = e.decisionOf(r.group);
            return decision == nullptr ? std::string() : decisionText(a.decisions, *decision);
        });
        for (std::size_t i = 0; i < m_analyte.derived.size(); ++i) {
            const DerivedValue& value = m_analyte.derived[i];
            number("derived-" + std::to_string(i + 1), value.name + (value.unit.empty() ? "" : ", " + value.unit),
                   [i](const SampleResult& r) {
                       const DerivedResult derived = i < r.derived.size() ? r.derived[i] : DerivedResult{};
                       return ResultCell{derived.value, derived.value
                                                            ? valueText(*derived.value, derived.low, derived.high)
                                                            : std::string()};
                   });
        }
        addConfirmation();
        addControl();
        text("note", "Note", [&b = m_batch](const SampleResult& r) { return noteOf(b, r); });
        text("remark", "Remark", [](const SampleResult& r) { return r.remark; });
    }

    /// Mean over the replicates of what each run says of internal standard and qualifiers.
    void addConfirmation() {
        const auto meanOf = [](const SampleResult& r, const std::function<std::optional<double>(Place)>& of) {
            std::vector<double> values;
            for (const ReplicateResult& replicate : r.replicates) {
                const auto value = of(replicate.place);
                if (value && replicate.state == ResponseState::Used) {
                    values.push_back(*value);
                }
            }
            const auto mean = describe(values).mean;
            return ResultCell{mean, orDash(mean, 1)};
        };
        if (m_evaluation.internalMedian) {
            number("internal-standard", "Internal standard, %", [&e = m_evaluation, meanOf](const SampleResult& r) {
                return meanOf(r, [&](Place place) { return internalPercent(e, place); });
            });
        }
        for (std::size_t i = 0; i < m_evaluation.qualifiers.size(); ++i) {
            number("qualifier-" + std::to_string(i + 1), "Ratio of " + m_analyte.qualifiers[i].channel + ", %",
                   [&ratios = m_evaluation.qualifiers[i].ratios, meanOf](const SampleResult& r) {
                       return meanOf(r, [&](Place place) {
                           const auto found = ratios.find(place);
                           return found == ratios.end() ? std::nullopt : std::optional(found->second.percent);
                       });
                   });
        }
    }

    /// In percent of the negative controls, where there are some.
    void addControl() {
        if (std::ranges::none_of(m_evaluation.results, [](const SampleResult& r) { return r.ofControl.has_value(); })) {
            return;
        }
        const auto column = [this](const char* key, const char* title, bool isInhibition) {
            const auto valueOf = [isInhibition](const PercentOfControl& found) {
                return isInhibition ? 100 - found.percent : found.percent;
            };
            number(key, title, [valueOf](const SampleResult& r) {
                return r.ofControl ? ResultCell{valueOf(*r.ofControl),
                                                percentOfControlText(*r.ofControl, valueOf(*r.ofControl))}
                                   : ResultCell{std::nullopt, "–"};
            });
        };
        column("of-control", "Of control, %", false);
        column("inhibition", "Inhibition, %", true);
        text("control-interval", "Of control, interval", [](const SampleResult& r) {
            return r.ofControl ? percentOfControlInterval(*r.ofControl) : std::string();
        });
    }

    const Batch& m_batch;
    const AnalyteEvaluation& m_evaluation;
    const Analyte& m_analyte;
    std::string m_unit;
    std::vector<ResultColumn> m_out;
};

} // namespace

std::vector<ResultColumn> allResultColumns(const Batch& batch, const AnalyteEvaluation& evaluation) {
    return Columns(batch, evaluation).all();
}

std::vector<std::string> resultColumnKeys(const Batch& batch, const AnalyteEvaluation& evaluation) {
    if (!batch.method.resultColumns.empty()) {
        return batch.method.resultColumns;
    }
    const Analyte& analyte = analyteOf(batch, evaluation);
    const bool hasClasses = !analyte.decisions.limits.empty();
    std::vector<std::string> out{"place", "sample"};
    if (!hasClasses) { // there is no room for all of them
        out.emplace_back("response");
    }
    out.insert(out.end(), {"read-off", "cv", "dilution", "result", "interval"});
    for (std::size_t i = 0; i < analyte.derived.size(); ++i) {
        out.push_back("derived-" + std::to_string(i + 1));
    }
    if (hasClasses) {
        out.emplace_back("class");
    }
    out.emplace_back("status");
    return out;
}

std::vector<ResultColumn> resultColumns(const Batch& batch, const AnalyteEvaluation& evaluation) {
    std::vector<ResultColumn> all = allResultColumns(batch, evaluation);
    std::vector<ResultColumn> out;
    for (const std::string& key : resultColumnKeys(batch, evaluation)) {
        const auto found = std::ranges::find(all, key, &ResultColumn::key);
        if (found != all.end()) {
            out.push_back(*found);
        }
    }
    return out;
}

std::vector<ResultColumn> addedResultColumns(const Batch& batch, const AnalyteEvaluation& evaluation) {
    std::vector<ResultColumn> out = allResultColumns(batch, evaluation);
    const bool hasClasses = !analyteOf(batch, evaluation).decisions.limits.empty();
    std::erase_if(out, [&](const ResultColumn& column) {
        return !column.key.starts_with("derived-") && !(hasClasses && column.key == "class");
    });
    return out;
}

} // namespace nuvat
