#include "panels/result_table_model.h"

#include "nuvat/batch/result_table.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "widgets/controls.h"

#include <algorithm>
#include <map>
#include <memory>

namespace nuvat {

namespace {

/// Pixels; 0 takes what is left, negative at least so many.
int widthOf(const std::string& key) {
    static const std::map<std::string, int> kWidths{
        {"place", 72},   {"sample", 0},     {"response", 76}, {"read-off", 72}, {"cv", 54},     {"dilution", 68},
        {"result", -98}, {"interval", 112}, {"status", 82},   {"class", -64},   {"wells", -70}, {"role", -80},
        {"note", -110},  {"remark", -150},  {"recovery", 94}, {"used", 82}};
    const auto found = kWidths.find(key);
    return found == kWidths.end() ? -76 : found->second;
}

QVariant extraOf(const Workspace& workspace, const std::string& key, const SampleResult& r, int role) {
    if (key == "place" && role == cell::kShape) {
        return static_cast<int>(r.group.role);
    }
    if (role == cell::kBold && (key == "place" || key == "result")) {
        return true;
    }
    if (role == cell::kBold && key == "cv") {
        const double most = workspace.batch().method.limits.unknownCv.value_or(1e300);
        return r.result && r.concentration.cvPercent.value_or(0) > most;
    }
    if (role == cell::kMuted && key == "read-off") {
        return r.status != ResultStatus::Reported;
    }
    if (role == cell::kOutcome && key == "status") {
        return static_cast<int>(statusOutcome(r));
    }
    if (role == cell::kOutcome && key == "class") {
        const SampleDecision* decision = workspace.evaluation().decisionOf(r.group);
        return decision != nullptr && !decision->isDecided() ? QVariant(static_cast<int>(Outcome::Review)) : QVariant();
    }
    return {};
}

/// What is each replicate's own; nothing where it is the sample's.
std::optional<QString> ofReplicate(const Workspace& workspace, const std::string& key, const SampleResult& sample,
                                   const ReplicateResult& replicate) {
    const auto number = [](const std::optional<double>& value, int figures) {
        return value ? shown(formatFigures(*value, figures)) : notDefined();
    };
    if (key == "wells") {
        return text(placeName(workspace.batch(), replicate.place));
    }
    if (key == "response") {
        return replicate.response ? shown(formatDecimals(*replicate.response, 3)) : notDefined();
    }
    if (key == "read-off") {
        return replicate.readOff.x ? shown(concentrationText(replicate.readOff)) : notDefined();
    }
    if (key == "result") {
        return sample.result && replicate.readOff.x ? number(*replicate.readOff.x * sample.factor(), 4) : notDefined();
    }
    if (key == "interval") {
        const ReadOff& read = replicate.readOff;
        return sample.result && read.low && read.high
                   ? shown(intervalText(*read.x, *read.low, *read.high, sample.dilution))
                   : QString();
    }
    if (key == "status" && replicate.state != ResponseState::Used) {
        return replicate.state == ResponseState::Excluded ? QObject::tr("Excluded") : QObject::tr("Not used");
    }
    return std::nullopt;
}

bool editNote(Workspace& workspace, const SampleResult& r, const QString& typed) {
    const auto& samples = workspace.newest().samples;
    const auto found = samples.find(r.group.number);
    Sample sample = found == samples.end() ? Sample{} : found->second;
    sample.note = typed.trimmed().toStdString();
    return workspace.apply(setSample(workspace.newest(), r.group.number, sample));
}

/// The columns of what is shown now, made once for all cells: tables of hundreds of rows ask for thousands.
class ShownColumns {
public:
    explicit ShownColumns(Workspace& workspace) : m_workspace(workspace) {}
    const ResultColumn* find(const std::string& key) {
        const AnalyteEvaluation* evaluation = &m_workspace.evaluation();
        if (m_revision != m_workspace.revision() || m_evaluation != evaluation) {
            m_revision = m_workspace.revision();
            m_evaluation = evaluation;
            m_columns = allResultColumns(m_workspace.batch(), *evaluation);
        }
        const auto found = std::ranges::find(m_columns, key, &ResultColumn::key);
        return found == m_columns.end() ? nullptr : &*found;
    }

private:
    Workspace& m_workspace;
    std::optional<std::uint64_t> m_revision;
    const AnalyteEvaluation* m_evaluation = nullptr;
    std::vector<ResultColumn> m_columns;
};

} // namespace

std::vector<ColumnSpec> resultSpecs(Workspace& workspace, const std::function<const SampleResult&(int row)>& at,
                                    const std::function<const ReplicateResult*(int row)>& replicateAt) {
    std::vector<ColumnSpec> out;
    const auto columns = std::make_shared<ShownColumns>(workspace);
    for (const ResultColumn& column : resultColumns(workspace.batch(), workspace.evaluation())) {
        const std::string key = column.key;
        ColumnSpec spec;
        spec.heading = key == "read-off" ? QObject::tr("Read off") : text(column.title); // its unit is the result's
        spec.isNumber = column.isNumber;
        spec.width = widthOf(key);
        // What it shows is asked of the batch that is shown now, not of the one that the column was made from.
        spec.display = [&workspace, columns, key, at, replicateAt](int row) -> QVariant {
            const SampleResult& sample = at(row);
            if (const ReplicateResult* replicate = replicateAt(row)) {
                if (const auto own = ofReplicate(workspace, key, sample, *replicate)) {
                    return *own;
                }
            }
            const ResultColumn* shownColumn = columns->find(key);
            return shownColumn == nullptr ? QString() : shown(shownColumn->cell(sample).text);
        };
        spec.extra = [&workspace, key, at](int row, int role) { return extraOf(workspace, key, at(row), role); };
        if (key == "note") {
            spec.isEditable = [at](int row) { return isOfSample(at(row).group.role); };
            spec.edit = [&workspace, at](int row, const QString& typed) { return editNote(workspace, at(row), typed); };
        }
        out.push_back(std::move(spec));
    }
    return out;
}

} // namespace nuvat
