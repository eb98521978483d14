#include "panels/result_settings.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/stats/decision.h"
#include "nuvat/report/calibration_figure.h"

#include <QRegularExpression>

namespace nuvat {

Result<std::vector<double>> numbersOfLine(const QString& line) {
    static const QRegularExpression between(QStringLiteral("[;\\s]+"));
    std::vector<double> out;
    for (const QString& word : line.split(between, Qt::SkipEmptyParts)) {
        const auto number = parseTyped(word.toStdString());
        if (!number) {
            return fail("method.decisions", "\"" + word.toStdString() + "\" is not a number.",
                        "Type the limits with semicolons between them, for example 0.45; 0.9.");
        }
        out.push_back(*number);
    }
    return out;
}

Result<std::vector<DerivedValue>> derivedOfLine(const QString& line) {
    static const QRegularExpression pattern(QStringLiteral(R"(^\s*([^\[=]+?)\s*(?:\[([^\]]*)\])?\s*=\s*(.+?)\s*$)"));
    std::vector<DerivedValue> out;
    for (const QString& part : line.split(u';', Qt::SkipEmptyParts)) {
        if (part.trimmed().isEmpty()) {
            continue;
        }
        const auto match = pattern.match(part);
        if (!match.hasMatch()) {
            return fail("method.derived", "\"" + part.trimmed().toStdString() + "\" says no value.",
                        "Type for example: Content [mg/g] = result * volume / mass.");
        }
        QString formula = match.captured(3);
        formula.replace(u'×', u'*').replace(u'÷', u'/').replace(u'−', u'-');
        out.push_back(
            {match.captured(1).toStdString(), match.captured(2).trimmed().toStdString(), formula.toStdString()});
    }
    return out;
}

QString lineOfDerived(const std::vector<DerivedValue>& derived) {
    QStringList out;
    for (const DerivedValue& one : derived) {
        out << text(one.name) + (one.unit.empty() ? QString() : QStringLiteral(" [%1]").arg(text(one.unit))) +
                   QStringLiteral(" = ") + text(one.formula);
    }
    return out.join(QStringLiteral("; "));
}

namespace {

/// The names of classes that have one, "–" for the others.
QString lineOfClasses(const std::vector<std::string>& classes) {
    QStringList out;
    bool isAny = false;
    for (const std::string& one : classes) {
        out << (one.empty() ? notDefined() : text(one));
        isAny = isAny || !one.empty();
    }
    return isAny ? out.join(QStringLiteral("; ")) : QString();
}

} // namespace

ResultSettings::ResultSettings(Workspace& workspace, QWidget* parent)
    : MethodForm(workspace, QStringLiteral("resultSettings"), true, parent) {
    m_limits = line(form(), "decisionLimits", tr("Decision limits"),
                    [this](const QString& typed) { return takeLimits(typed); });
    m_limits->setPlaceholderText(tr("none"));
    form()->row(
        tr("Decision limits"), {m_limits},
        tr("In rising order, with semicolons between them: 0.45; 0.9. Results are parted into classes by them"));
    m_classes = line(form(), "decisionClasses", tr("Names of the classes"),
                     [this](const QString& typed) { return takeClasses(typed); });
    m_classes->setPlaceholderText(tr("from the lowest"));
    m_classesRow = form()->row(tr("Classes"), {m_classes},
                               tr("Names from the lowest class to the highest, with semicolons: mild; even; bold"));
    m_by = form()->choice(QStringLiteral("decisionBy"), tr("Decided by"),
                          {tr("the interval"), tr("the value"), tr("shown to be above"), tr("shown to be below")});
    m_byRow = form()->row(tr("Decided by"), {m_by},
                          tr("By the interval, a sample whose interval holds a limit is not decided. Shown: by a "
                             "one-sided test at the confidence of the method"));
    m_cutOffFactor = form()->number(QStringLiteral("cutOffFactor"), tr("SDs above the mean of the negatives"));
    m_cutOffFactor->setNumber(3); // common practice
    m_cutOffFactor->take = [](std::optional<double> value) { return value && *value >= 0; };
    auto* cutOff = makeButton(tr("Take as limit"), "small", QStringLiteral("cutOffTake"), form());
    m_cutOffFactor->setMaximumWidth(52);
    m_cutOffRow = form()->row(tr("Cut-off, SD ×"), {m_cutOffFactor, cutOff},
                              tr("A cut-off from the negative controls: their mean and so many of their SDs"));
    connect(cutOff, &QPushButton::clicked, this, &ResultSettings::takeCutOff);
    m_derived = line(form(), "derivedValues", tr("Derived values"),
                     [this](const QString& typed) { return takeDerived(typed); });
    m_derived->setPlaceholderText(tr("Content [mg/g] = …"));
    form()->row(tr("Derived values"), {m_derived},
                tr("Content [mg/g] = result * volume / mass. Over result, dilution, volume and mass; several with "
                   "semicolons between them. Volume and mass are typed under Layout"));
    m_least = number(
        form(), "leastDilution", tr("Least dilution"),
        [](Method& method, Analyte&, std::optional<double> value) { method.leastDilution = value.value_or(1); },
        tr("none"));
    form()->row(
        tr("Least dilution, ×"), {m_least},
        tr("Every sample has to be diluted so much at least; part of the factor that is typed, never besides it"));
    connect(m_by, &QComboBox::activated, this, [this](int index) {
        change([index](Method&, Analyte& a) { a.decisions.by = static_cast<DecisionBy>(index); });
    });
}

bool ResultSettings::takeLimits(const QString& typed) {
    const auto limits = numbersOfLine(typed);
    if (!limits) {
        m_workspace.tell(limits.error());
        return false;
    }
    return change([&](Method&, Analyte& a) {
        a.decisions.limits = *limits;
        a.decisions.classes.resize(limits->empty() ? 0 : limits->size() + 1);
    });
}

bool ResultSettings::takeClasses(const QString& typed) {
    const QStringList names = typed.split(u';');
    const std::size_t wanted =
        m_workspace.newest().method.analyte(m_workspace.analyteNumber()).decisions.classes.size();
    if (static_cast<std::size_t>(names.size()) > wanted) {
        m_workspace.tell(tr("There are %1 names for %2 classes; each limit parts two.").arg(names.size()).arg(wanted),
                         true);
        return false;
    }
    return change([&](Method&, Analyte& a) {
        for (std::size_t i = 0; i < wanted; ++i) {
            const QString name = names.value(static_cast<qsizetype>(i)).trimmed();
            a.decisions.classes[i] = name == notDefined() || name == u'-' ? std::string() : name.toStdString();
        }
    });
}

bool ResultSettings::takeDerived(const QString& typed) {
    const auto derived = derivedOfLine(typed);
    if (!derived) {
        m_workspace.tell(derived.error());
        return false;
    }
    return change([&](Method&, Analyte& a) { a.derived = *derived; });
}

/// What the negative controls read, well by well; what is below the curve counts as nothing.
std::vector<double> ResultSettings::negatives() const {
    std::vector<double> out;
    for (const SampleResult& result : m_workspace.evaluation().results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.group.role == Role::NegativeControl && replicate.state == ResponseState::Used) {
                out.push_back(replicate.readOff.x.value_or(0) * result.factor());
            }
        }
    }
    return out;
}

void ResultSettings::takeCutOff() {
    const auto factor = parseTyped(m_cutOffFactor->text().toStdString());
    const auto found =
        factor && *factor >= 0
            ? cutOff(negatives(), *factor)
            : Result<CutOff>(fail("method.decisions", "The number of SDs has to be 0 or more.", "Type for example 3."));
    if (!found) {
        m_workspace.tell(found.error());
        return;
    }
    // No more digits than the cut-off is known to.
    const std::string shownValue = formatFigures(found->value, 4);
    const bool isDone = change([&](Method&, Analyte& a) {
        a.decisions.limits = {parseNumber(shownValue).value_or(found->value)};
        a.decisions.classes = {"negative", "positive"};
    });
    if (isDone) {
        m_workspace.tell(tr("The cut-off is %1, the mean of %2 negative controls and %3 of their SDs (%4 and %5).")
                             .arg(shown(shownValue))
                             .arg(found->n)
                             .arg(shown(formatNumber(*factor)), shown(formatFigures(found->mean, 3)),
                                  shown(formatFigures(found->sd, 3))),
                         false);
    }
}

void ResultSettings::refresh() {
    const Analyte& analyte = m_workspace.analyte();
    setTitle(tr("Decisions and derived values"), {});
    QStringList limits;
    for (const double limit : analyte.decisions.limits) {
        limits << shown(formatNumber(limit));
    }
    m_limits->setHeld(limits.join(QStringLiteral("; ")));
    m_classes->setHeld(lineOfClasses(analyte.decisions.classes));
    m_derived->setHeld(lineOfDerived(analyte.derived));
    m_by->setCurrentIndex(static_cast<int>(analyte.decisions.by));
    m_classesRow->setVisible(!limits.isEmpty());
    m_cutOffRow->setVisible(!m_workspace.index().groupsOf(Role::NegativeControl).empty());
    m_byRow->setVisible(!limits.isEmpty());
    const double least = m_workspace.batch().method.leastDilution;
    m_least->setNumber(least > 1 ? std::optional(least) : std::nullopt);
}

} // namespace nuvat
