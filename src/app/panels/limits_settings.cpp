#include "panels/limits_settings.h"

#include "nuvat/batch/analyte_list.h"
#include "nuvat/report/calibration_figure.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace nuvat {

namespace {

/// Which field holds the limit of a criterion.
constexpr std::array<std::pair<std::string_view, const char*>, 18> kFieldOf{{
    {"internal-standard", "limitInternalHigh"},
    {"levels-within", "limitLevelsWithin"},
    {"worst-level", "limitLevelError"},
    {"r-squared", "limitRSquared"},
    {"correlation", "limitR"},
    {"standard-cv", "limitStandardCv"},
    {"unknown-cv", "limitUnknownCv"},
    {"qc-within", "limitQcWithin"},
    {"qc-", "limitQcRecovery"}, // one for each QC
    {"check-", "limitQcRecovery"},
    {"blank-below-lloq", "limitBlankBelow"},
    {"blank-of-lloq", "limitBlankOfLloq"},
    {"suitability-tailing", "limitTailing"},
    {"suitability-plates", "limitPlates"},
    {"suitability-resolution", "limitResolution"},
    {"suitability-signal-to-noise", "limitSignalToNoise"},
    {"suitability-time-rsd", "limitTimeRsd"},
    {"suitability-carry-over", "limitCarryOver"},
}};

} // namespace

LimitsSettings::LimitsSettings(Workspace& workspace, QWidget* parent)
    : MethodForm(workspace, QStringLiteral("limits"), false, parent) {
    makeStandards();
    makeSamples();
    makeSuitability();
    constexpr int kHalf = 52; // two of them stand in one row
    for (const char* name : {"limitLowest", "limitHighest", "limitLevelsWithin", "limitLevels"}) {
        findChild<NumberField*>(QString::fromLatin1(name))->setFixedWidth(kHalf);
    }
}

NumberField* LimitsSettings::percent(const char* name, const QString& title, double CriteriaLimits::*limit) {
    NumberField* field = number(form(), name, title, [limit](Method& method, Analyte&, std::optional<double> value) {
        method.limits.*limit = value.value_or(method.limits.*limit);
    });
    m_fields.push_back([field, limit](const CriteriaLimits& limits) { field->setNumber(limits.*limit); });
    return field;
}

NumberField* LimitsSettings::percent(const char* name, const QString& title,
                                     std::optional<double> CriteriaLimits::*limit) {
    NumberField* field = number(
        form(), name, title,
        [limit](Method& method, Analyte&, std::optional<double> value) { method.limits.*limit = value; },
        tr("not used"));
    m_fields.push_back([field, limit](const CriteriaLimits& limits) { field->setNumber(limits.*limit); });
    return field;
}

void LimitsSettings::makeStandards() {
    form()->row(tr("Error of a level, ± %"),
                {percent("limitLevelError", tr("Error of a level"), &CriteriaLimits::backCalculated)});
    m_endsRow = form()->row(
        tr("lowest and highest, ± %"),
        {percent("limitLowest", tr("Error of the lowest level"), &CriteriaLimits::backCalculatedAtLowest),
         percent("limitHighest", tr("Error of the highest level"), &CriteriaLimits::backCalculatedAtHighest)});
    NumberField* levels = number(form(), "limitLevels", tr("Levels within, at least"),
                                 [](Method& method, Analyte&, std::optional<double> value) {
                                     const double typed = value.value_or(0);
                                     constexpr int kNone = -1; // what a method refuses
                                     method.limits.levelsAtLeast = typed == std::floor(typed) && std::abs(typed) < 1e6
                                                                       ? static_cast<int>(typed)
                                                                       : kNone;
                                 });
    m_fields.push_back([levels](const CriteriaLimits& limits) { levels->setNumber(limits.levelsAtLeast); });
    m_shareRow = form()->row(
        tr("Within, % and levels"),
        {percent("limitLevelsWithin", tr("Standards within, at least"), &CriteriaLimits::levelsWithin), levels},
        tr("Share of all standards, and number of levels, that have to be within, at least"));
    m_atLevelRow =
        form()->row(tr("of a level's standards, %"),
                    {percent("limitAtLevel", tr("Of a level's standards"), &CriteriaLimits::standardsAtLevel)});
    form()->row(tr("CV of standards, %"),
                {percent("limitStandardCv", tr("CV of standards"), &CriteriaLimits::standardCv)});
    form()->row(tr("R² at least"), {percent("limitRSquared", tr("R², at least"), &CriteriaLimits::rSquared)});
    form()->row(tr("r at least, straight lines"), {percent("limitR", tr("r, at least"), &CriteriaLimits::r)});
}

void LimitsSettings::makeSamples() {
    form()->row(tr("CV of unknowns, %"), {percent("limitUnknownCv", tr("CV of unknowns"), &CriteriaLimits::unknownCv)});
    form()->row(tr("Recovery of a QC, ± %"),
                {percent("limitQcRecovery", tr("Recovery of a QC"), &CriteriaLimits::qcRecovery)});
    form()->row(tr("QC replicates within, %"),
                {percent("limitQcWithin", tr("QC replicates within, at least"), &CriteriaLimits::qcWithin)});
    form()->row(tr("of a QC's replicates, %"),
                {percent("limitQcAtLevel", tr("Of a QC's replicates"), &CriteriaLimits::qcWithinAtLevel)});
    m_blankBelow = form()->onOff(QStringLiteral("limitBlankBelow"), tr("Blanks read below LLOQ"));
    form()->row(tr("Blanks read below LLOQ"), {m_blankBelow});
    connect(m_blankBelow, &QAbstractButton::clicked, this,
            [this](bool isOn) { change([isOn](Method& m, Analyte&) { m.limits.isBlankBelowLloq = isOn; }); });
    m_internalRow = form()->row(
        tr("Internal standard, %"),
        {percent("limitInternalLow", tr("Internal standard at least, percent"), &CriteriaLimits::internalLow),
         percent("limitInternalHigh", tr("Internal standard at most, percent"), &CriteriaLimits::internalHigh)},
        tr("Of each run, in percent of the median of standards and QCs: at least, at most"));
    form()->row(tr("Blank, % of LLOQ"),
                {percent("limitBlankOfLloq", tr("Blank in percent of LLOQ"), &CriteriaLimits::blankOfLloq)},
                tr("Blanks over the response at zero, in percent of what the response at LLOQ lies over it, at most"));
}

/// Limits of the separation, each of the analyte shown; the button gives them to all.
void LimitsSettings::makeSuitability() {
    struct Field {
        const char* name;
        QString title, remark;
        std::optional<double> SuitabilityLimits::*limit;
    };
    const std::vector<Field> fields{
        {"limitTailing", tr("Tailing at most"), tr("At 5 % of the height, median of standards and QCs"),
         &SuitabilityLimits::tailing},
        {"limitPlates", tr("Plates at least"), tr("From the width at half height, median of standards and QCs"),
         &SuitabilityLimits::plates},
        {"limitResolution", tr("Resolution at least"), tr("To the peak before, median of standards and QCs"),
         &SuitabilityLimits::resolution},
        {"limitSignalToNoise", tr("S/N at LLOQ at least"), tr("Mean at the lowest level, against the first blank run"),
         &SuitabilityLimits::signalToNoise},
        {"limitTimeRsd", tr("RSD of times at most, %"), tr("Of all runs in which the peak is"),
         &SuitabilityLimits::timeRsd},
        {"limitCarryOver", tr("Carry-over at most, %"),
         tr("Blank after the highest standard, in percent of the lowest level"), &SuitabilityLimits::carryOver}};
    for (const Field& one : fields) {
        NumberField* field = number(
            form(), one.name, one.title,
            [limit = one.limit](Method&, Analyte& analyte, std::optional<double> value) {
                analyte.suitability.*limit = value;
            },
            tr("not used"));
        m_suitability.push_back(
            [field, limit = one.limit](const SuitabilityLimits& limits) { field->setNumber(limits.*limit); });
        m_suitabilityRows.push_back(form()->row(one.title, {field}, one.remark));
    }
    auto* all = makeButton(tr("For all analytes"), "normal", QStringLiteral("limitsForAll"), this);
    all->setToolTip(tr("Gives all analytes the limits of the separation of this one"));
    connect(all, &QPushButton::clicked, this, [this] {
        m_workspace.apply(applyToAll(m_workspace.newest(), m_workspace.analyteNumber(), {.limits = true}));
    });
    m_suitabilityRows.push_back(form()->row(tr("Limits of the separation"), {all}));
}

void LimitsSettings::refresh() {
    const Method& method = m_workspace.batch().method;
    setTitle(tr("Limits · %1").arg(text(method.criteriaName)), tr("An empty limit is not used; all is live."));
    for (const auto& show : m_fields) {
        show(method.limits);
    }
    m_blankBelow->setChecked(method.limits.isBlankBelowLloq);
    const Analyte& analyte = m_workspace.analyte();
    for (const auto& show : m_suitability) {
        show(analyte.suitability);
    }
    for (QWidget* row : m_suitabilityRows) {
        row->setVisible(std::holds_alternative<PeakRule>(analyte.source.rule));
    }
    m_suitabilityRows.back()->setVisible(std::holds_alternative<PeakRule>(analyte.source.rule) &&
                                         method.analytes.size() > 1);
    for (QWidget* row : {m_endsRow, m_shareRow, m_atLevelRow}) {
        row->setVisible(method.limits.backCalculated.has_value());
    }
    m_internalRow->setVisible(
        std::ranges::any_of(method.analytes, [](const Analyte& a) { return a.internal.analyte != 0; }));
}

bool LimitsSettings::enterLimitOf(const std::string& criterion) {
    for (const auto& [prefix, name] : kFieldOf) {
        auto* field = findChild<QWidget*>(QString::fromLatin1(name));
        if (criterion.starts_with(prefix) && field != nullptr) {
            enter();
            field->setFocus(Qt::TabFocusReason);
            return true;
        }
    }
    return false;
}

} // namespace nuvat
