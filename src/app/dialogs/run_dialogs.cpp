#include "dialogs/run_dialogs.h"

#include "dialogs/form.h"
#include "nuvat/batch/name_rules.h"
#include "nuvat/batch/standard_plan.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/core/base/well.h"
#include "nuvat/report/theme.h"

#include <array>
#include <QCheckBox>
#include <QPlainTextEdit>
#include <sstream>

namespace nuvat {

namespace {

std::optional<double> typed(const QLineEdit* field) {
    return parseTyped(field->text().toStdString());
}

QString numberText(double value) {
    return value == 0 ? QString() : shown(formatNumber(value));
}

/// A list of what will be, below the fields.
QPlainTextEdit* addPreview(QDialog& dialog, QVBoxLayout* body, const char* name, int height) {
    auto* out = new QPlainTextEdit(&dialog);
    out->setObjectName(QString::fromLatin1(name));
    out->setReadOnly(true);
    out->setTabChangesFocus(true);
    out->setMinimumHeight(height);
    out->setLineWrapMode(QPlainTextEdit::NoWrap);
    constexpr int kTab = 90;
    out->setTabStopDistance(kTab);
    body->addWidget(out, 1);
    return out;
}

Choice* addChoice(QDialog& dialog, Form& form, const QString& title, const char* name, const QStringList& items) {
    auto* out = new Choice(&dialog);
    out->setObjectName(QString::fromLatin1(name));
    out->setAccessibleName(title);
    out->addItems(items);
    const int row = form.layout()->rowCount();
    form.layout()->addWidget(makeLabel(title, "mute", &dialog), row, 0);
    form.layout()->addWidget(out, row, 1, Qt::AlignLeft);
    return out;
}

QString planText(const Batch& batch) {
    const auto planned = plannedStandards(batch);
    if (!planned) {
        return text(planned.error().text());
    }
    const std::string& unit = batch.method.plan->volumeUnit;
    QString out =
        QObject::tr("Stock needed: %1 %2").arg(shown(formatFigures(planned->plan.stockNeeded, 4)), text(unit));
    for (std::size_t i = 0; i < planned->numbers.size(); ++i) {
        const PlannedLevel& level = planned->plan.levels[i];
        out += QStringLiteral("\nS%1\t%2\t").arg(planned->numbers[i]).arg(shown(formatNumber(level.concentration)));
        if (!level.isPossible()) {
            out += QObject::tr("not possible");
        }
        for (std::size_t step = 0; level.isPossible() && step < std::max<std::size_t>(1, level.steps.size()); ++step) {
            const double diluent =
                step < level.steps.size() ? level.steps[step].diluentVolume : level.diluentVolume.value_or(0);
            out += (step > 0 ? QObject::tr(", then ") : QString()) +
                   QObject::tr("%1 + %2 %3 diluent")
                       .arg(shown(takeText(*planned, i, step, unit)), shown(formatFigures(diluent, 4)), text(unit));
        }
        for (const std::string& warning : level.warnings) {
            out += QStringLiteral("  ") + shown(warning);
        }
    }
    return out;
}

} // namespace

std::optional<StandardPlan> askPlan(QWidget* parent, const Batch& batch) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(640);
    const Frame frame = makeFrame(dialog, "planDialog", QObject::tr("How the standards are made"), QObject::tr("Keep"));
    const StandardPlan before = batch.method.plan.value_or(StandardPlan{});
    Form form(&dialog);
    form.section(QObject::tr("From the stock to the levels"));
    auto* name = form.line(QObject::tr("Stock"), "planStockName", text(before.stockName));
    auto* stock = form.line(QObject::tr("Its concentration, %1").arg(text(batch.method.analyte().unit)), "planStock",
                            numberText(before.rules.stock));
    auto* volume = form.line(QObject::tr("Volume of each level"), "planVolume", numberText(before.rules.volume));
    auto* unit = form.line(QObject::tr("Unit of volumes"), "planUnit", text(before.volumeUnit));
    auto* least =
        form.line(QObject::tr("Least volume that is pipetted"), "planLeast", numberText(before.rules.leastVolume));
    auto* stockTolerance = form.line(QObject::tr("Tolerance of the stock, ± %"), "planStockTolerance",
                                     numberText(100 * before.rules.stockTolerance));
    auto* volumeTolerance = form.line(QObject::tr("Tolerance of a volume, ± %"), "planVolumeTolerance",
                                      numberText(100 * before.rules.volumeTolerance));
    auto* way =
        addChoice(dialog, form, QObject::tr("Made"), "planWay",
                  {QObject::tr("from the stock, in the fewest steps"), QObject::tr("each from the one before")});
    way->setCurrentIndex(before.rules.way == PlanWay::Serial ? 1 : 0);
    frame.body->addLayout(form.layout());
    constexpr int kPreview = 150;
    auto* preview = addPreview(dialog, frame.body, "planPreview", kPreview);
    frame.body->addWidget(makeLabel(QObject::tr("It stands in the report, before the figure."), "small", &dialog));
    frame.body->addLayout(frame.buttons);
    StandardPlan plan = before;
    const auto show = [&] {
        plan.stockName = name->text().trimmed().toStdString();
        plan.volumeUnit = unit->text().trimmed().toStdString();
        plan.rules = {way->currentIndex() == 1 ? PlanWay::Serial : PlanWay::Direct,
                      typed(stock).value_or(0),
                      typed(volume).value_or(0),
                      typed(least).value_or(0),
                      typed(stockTolerance).value_or(0) / 100,
                      typed(volumeTolerance).value_or(0) / 100};
        Batch planned = batch;
        planned.method.plan = plan;
        preview->setPlainText(planText(planned));
        frame.accept->setEnabled(plannedStandards(planned).has_value());
    };
    for (QLineEdit* field : {name, stock, volume, unit, least, stockTolerance, volumeTolerance}) {
        QObject::connect(field, &QLineEdit::textChanged, &dialog, show);
    }
    QObject::connect(way, &QComboBox::activated, &dialog, show);
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, &QDialog::accept);
    show();
    stock->setFocus();
    return dialog.exec() == QDialog::Accepted ? std::optional(plan) : std::nullopt;
}

namespace {

/// One sample a line; a second column is its dilution.
std::vector<PlannedRun> samplesOf(const QString& lines) {
    std::vector<PlannedRun> out;
    std::istringstream stream(lines.toStdString());
    std::string line;
    while (std::getline(stream, line)) {
        const std::size_t tab = line.find('\t');
        const std::string name(trimmed(line.substr(0, tab)));
        const auto dilution = tab == std::string::npos ? std::nullopt : parseDilution(line.substr(tab + 1));
        if (!name.empty()) {
            out.push_back({name, "", Role::Unknown, {}, dilution.value_or(1), {}});
        }
    }
    return out;
}

int countIn(const QLineEdit* field, int otherwise) {
    bool isNumber = false;
    const int value = field->text().trimmed().toInt(&isNumber);
    return isNumber && value >= 0 ? value : otherwise;
}

} // namespace

std::optional<std::vector<PlannedRun>> askRunList(QWidget* parent, const Batch& batch) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(620);
    const Frame frame =
        makeFrame(dialog, "runListDialog", QObject::tr("Build the run list"), QObject::tr("Add the runs"));
    Form form(&dialog);
    form.section(QObject::tr("Blocks of the list, in their order"));
    auto* standards =
        form.line(QObject::tr("Standards, injections of each level"), "listStandards", QStringLiteral("1"));
    auto* every = form.line(QObject::tr("QCs after every … samples (0: none)"), "listEvery", QStringLiteral("10"));
    auto* injections = form.line(QObject::tr("Injections of each sample"), "listInjections", QStringLiteral("1"));
    auto* vial = form.line(QObject::tr("First vial"), "listVial", QStringLiteral("1"));
    frame.body->addLayout(form.layout());
    const auto box = [&](const QString& title, const char* name, bool isOn) {
        auto* out = new QCheckBox(title, &dialog);
        out->setObjectName(QString::fromLatin1(name));
        out->setChecked(isOn);
        frame.body->addWidget(out);
        return out;
    };
    auto* first = box(QObject::tr("A blank before the first standard"), "listBlankFirst", true);
    auto* after = box(QObject::tr("A blank after the highest standard, for carry-over"), "listBlankAfter", true);
    auto* rinse = box(QObject::tr("A blank after every sample"), "listRinse", false);
    frame.body->addWidget(makeLabel(QObject::tr("Samples, one a line; a dilution behind a tab"), "mute", &dialog));
    auto* samples = new QPlainTextEdit(&dialog);
    samples->setObjectName(QStringLiteral("listSamples"));
    samples->setAccessibleName(QObject::tr("Samples"));
    samples->setMinimumHeight(90);
    QString names;
    for (const auto& [number, sample] : batch.samples) {
        const bool isLaidOut =
            std::any_of(batch.places.begin(), batch.places.end(), [number = number](const auto& one) {
                return one.second.role == Role::Unknown && one.second.number == number;
            });
        names += isLaidOut ? QString() : text(sample.name) + u'\n';
    }
    samples->setPlainText(names);
    frame.body->addWidget(samples, 1);
    constexpr int kPreview = 120;
    auto* preview = addPreview(dialog, frame.body, "listPreview", kPreview);
    frame.body->addLayout(frame.buttons);
    std::vector<PlannedRun> runs;
    const auto show = [&] {
        ListBlocks blocks;
        blocks.blankFirst = first->isChecked();
        blocks.blankAfterHighest = after->isChecked();
        blocks.rinseBetween = rinse->isChecked();
        blocks.standardInjections = countIn(standards, 1);
        blocks.qcEvery = countIn(every, 0);
        blocks.sampleInjections = countIn(injections, 1);
        blocks.firstVial = std::max(1, countIn(vial, 1));
        blocks.samples = samplesOf(samples->toPlainText());
        runs = runsOfBlocks(batch, blocks);
        QString lines = runs.size() == 1 ? QObject::tr("1 run") : QObject::tr("%1 runs").arg(runs.size());
        for (const PlannedRun& run : runs) {
            lines += QStringLiteral("\n") + QObject::tr("vial %1").arg(text(run.vial)) + u'\t' +
                     text(std::string(roleWord(run.role))) + u'\t' + text(run.name) +
                     (run.level ? QStringLiteral("  ") + shown(formatNumber(*run.level)) : QString());
        }
        preview->setPlainText(lines);
        frame.accept->setEnabled(!runs.empty());
    };
    for (QLineEdit* field : {standards, every, injections, vial}) {
        QObject::connect(field, &QLineEdit::textChanged, &dialog, show);
    }
    for (QCheckBox* one : {first, after, rinse}) {
        QObject::connect(one, &QCheckBox::toggled, &dialog, show);
    }
    QObject::connect(samples, &QPlainTextEdit::textChanged, &dialog, show);
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, &QDialog::accept);
    show();
    samples->setFocus();
    return dialog.exec() == QDialog::Accepted ? std::optional(runs) : std::nullopt;
}

namespace {

/// Rules of lines "pattern = role". @param wrong the first line that is none
std::vector<NameRule> rulesOf(const QString& lines, QString& wrong) {
    std::vector<NameRule> out;
    for (const QString& line : lines.split(u'\n')) {
        if (line.trimmed().isEmpty()) {
            continue;
        }
        const auto sign = line.lastIndexOf(u'=');
        const std::string pattern = line.left(sign).trimmed().toStdString();
        const std::string word = lowerCase(line.mid(sign + 1).trimmed().toStdString());
        std::optional<Role> role;
        for (const Role one : rolesInUse()) {
            role = word == lowerCase(roleWord(one)) || word == name(one) ? one : role;
        }
        if (sign < 1 || pattern.empty() || !role) {
            wrong = wrong.isEmpty() ? line.trimmed() : wrong;
            continue;
        }
        out.push_back({pattern, *role});
    }
    return out;
}

} // namespace

std::optional<std::vector<NameRule>> askNameRules(QWidget* parent, const Method& method) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(480);
    const Frame frame =
        makeFrame(dialog, "nameRulesDialog", QObject::tr("Roles by names of runs"), QObject::tr("Keep"));
    frame.body->addWidget(makeLabel(QObject::tr("Roles by names of runs"), "title", &dialog));
    auto* words = makeLabel(QObject::tr("One rule a line, the first that fits counts. * stands for any text, # for a "
                                        "number that tells levels and samples apart."),
                            "small", &dialog);
    words->setWordWrap(true);
    frame.body->addWidget(words);
    auto* rules = new QPlainTextEdit(&dialog);
    rules->setObjectName(QStringLiteral("nameRules"));
    rules->setAccessibleName(QObject::tr("Rules"));
    QString lines;
    for (const NameRule& rule : method.nameRules.empty() ? usualNameRules() : method.nameRules) {
        lines += text(rule.pattern) + QStringLiteral(" = ") + text(std::string(roleWord(rule.role))) + u'\n';
    }
    rules->setPlainText(lines);
    constexpr int kHeight = 220;
    rules->setMinimumHeight(kHeight);
    frame.body->addWidget(rules, 1);
    auto* problem = makeLabel({}, "small", &dialog);
    problem->setObjectName(QStringLiteral("nameRulesProblem"));
    frame.body->addWidget(problem);
    frame.body->addLayout(frame.buttons);
    std::vector<NameRule> taken;
    const auto show = [&] {
        QString wrong;
        taken = rulesOf(rules->toPlainText(), wrong);
        problem->setText(wrong.isEmpty() ? QString()
                                         : QObject::tr("\"%1\" is no rule; write for example QC * = QC.").arg(wrong));
        frame.accept->setEnabled(wrong.isEmpty());
    };
    QObject::connect(rules, &QPlainTextEdit::textChanged, &dialog, show);
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, &QDialog::accept);
    show();
    if (dialog.exec() != QDialog::Accepted) {
        return std::nullopt;
    }
    return taken == usualNameRules() ? std::vector<NameRule>{} : taken;
}

std::optional<RunRule> askRunRule(QWidget* parent, const RunRule& before) {
    QDialog dialog(parent);
    dialog.setMinimumWidth(440);
    const Frame frame = makeFrame(dialog, "runRuleDialog", QObject::tr("How lists are measured"), QObject::tr("Keep"));
    Form form(&dialog);
    form.section(QObject::tr("When something fails"));
    auto* after = addChoice(dialog, form, QObject::tr("A standard or QC does not hold"), "ruleAfterFailure",
                            {QObject::tr("go on"), QObject::tr("repeat once, then stop"), QObject::tr("stop")});
    after->setCurrentIndex(static_cast<int>(before.afterFailure));
    frame.body->addLayout(form.layout());
    auto* dilutes = new QCheckBox(QObject::tr("Dilute samples above ULOQ and measure them again at the end"), &dialog);
    dilutes->setObjectName(QStringLiteral("ruleDilutes"));
    dilutes->setChecked(before.dilutesAbove);
    frame.body->addWidget(dilutes);
    frame.body->addWidget(
        makeLabel(QObject::tr("Part of the method. The instrument has to be able to dilute."), "small", &dialog));
    frame.body->addLayout(frame.buttons);
    QObject::connect(frame.accept, &QPushButton::clicked, &dialog, &QDialog::accept);
    if (dialog.exec() != QDialog::Accepted) {
        return std::nullopt;
    }
    return RunRule{static_cast<AfterFailure>(after->currentIndex()), dilutes->isChecked(), before.fileName};
}

} // namespace nuvat
