#include "kinds/list/plan_view.h"

#include "kinds/list/plan_picture.h"
#include "kinds/list/run_blocks.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/core/base/number.h"
#include "nuvat/workflow/fields.h"
#include "theme/style.h"
#include "widgets/data_table.h"
#include "widgets/live_form.h"
#include "widgets/text_rows.h"

#include <QDateTime>
#include <QHBoxLayout>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

namespace {

constexpr int kFigures = 3; // as they are pipetted

QString figuresOr(const std::optional<double>& value, int figures = kFigures) {
    return value ? shown(formatFigures(*value, figures)) : notDefined();
}

} // namespace

PlanView::PlanView(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("planView"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(frame::kGap);
    column->addWidget(makeStandards());
    auto* row = new QHBoxLayout;
    row->setSpacing(frame::kGap);
    row->addWidget(makeList(), 5);
    auto* right = new QVBoxLayout;
    right->setSpacing(frame::kGap);
    right->addWidget(makeChecks(), 1);
    right->addWidget(makeRules());
    row->addLayout(right, 3);
    column->addLayout(row, 1);
}

bool PlanView::changeMethod(const std::function<void(Method&)>& change) {
    Method method = m_workspace.newest().method;
    change(method);
    return m_workspace.apply(setMethod(m_workspace.newest(), method));
}

bool PlanView::changePlan(const std::function<void(StandardPlan&)>& change) {
    StandardPlan plan = m_workspace.newest().method.plan.value_or(StandardPlan{});
    change(plan);
    return m_workspace.apply(setPlan(m_workspace.newest(), plan));
}

NumberField* PlanView::addNumber(QLayout* to, const QString& name, const QString& title,
                                 const std::function<void(StandardPlan&, double)>& set) {
    constexpr int kWidth = 54;
    auto* field = new NumberField(name, kWidth, this);
    field->setAccessibleName(title);
    field->take = [this, set](std::optional<double> value) {
        return changePlan([&](StandardPlan& plan) { set(plan, value.value_or(0)); });
    };
    connect(field, &NumberField::notANumber, this,
            [this](const QString& typed) { m_workspace.tell(tr("\"%1\" is no number.").arg(typed), true); });
    to->addWidget(field);
    return field;
}

QWidget* PlanView::makeStandards() {
    auto* card = new Card(tr("From the stock to the levels"), this);
    card->titleRow()->addStretch();
    m_needed = makeLabel({}, "mute", card);
    m_needed->setObjectName(QStringLiteral("stockNeeded"));
    card->titleRow()->addWidget(m_needed);
    auto* words = new QHBoxLayout;
    words->setSpacing(6);
    const auto say = [&](const QString& text) {
        auto* label = makeLabel(text, "mute", card);
        words->addWidget(label);
        return label;
    };
    say(tr("Stock of"));
    m_stock = addNumber(words, QStringLiteral("viewStock"), tr("Concentration of the stock"),
                        [](StandardPlan& plan, double value) { plan.rules.stock = value; });
    m_stockUnit = say({});
    say(tr("levels of"));
    m_volume = addNumber(words, QStringLiteral("viewVolume"), tr("Volume of each level"),
                         [](StandardPlan& plan, double value) { plan.rules.volume = value; });
    m_volumeUnit = say({});
    say(tr("no less than"));
    m_least = addNumber(words, QStringLiteral("viewLeast"), tr("Least volume that is pipetted"),
                        [](StandardPlan& plan, double value) { plan.rules.leastVolume = value; });
    m_leastUnit = say({});
    m_way = new Choice(card);
    m_way->setObjectName(QStringLiteral("viewWay"));
    m_way->setAccessibleName(tr("Made"));
    m_way->addItems({tr("fewest steps"), tr("each from the one before")});
    connect(m_way, &QComboBox::activated, this, [this](int index) {
        changePlan([&](StandardPlan& plan) { plan.rules.way = index == 1 ? PlanWay::Serial : PlanWay::Direct; });
    });
    words->addWidget(m_way);
    words->addStretch();
    auto* more = makeButton(tr("Tolerances…"), "normal", QStringLiteral("viewMore"), card);
    more->setToolTip(tr("Name of the stock, unit of volumes, tolerances of stock and pipette"));
    connect(more, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("runs.standards")); });
    words->addWidget(more);
    card->body()->addLayout(words);
    auto* row = new QHBoxLayout;
    m_picture = new PlanPicture(m_workspace, card);
    row->addWidget(m_picture, 1);
    const auto level = [this](int i) -> const PlannedLevel& {
        return m_planned->plan.levels[static_cast<std::size_t>(i)];
    };
    const auto unit = [this] { return m_workspace.batch().method.plan->volumeUnit; };
    m_model = new ColumnsModel(
        {{tr("Level"), false, 46,
          [this](int i) { return QStringLiteral("S%1").arg(m_planned->numbers[static_cast<std::size_t>(i)]); }},
         {text(m_workspace.batch().method.analyte().unit), true, 56,
          [level](int i) { return figuresOr(level(i).concentration); }},
         {tr("Take"), false, 0,
          [this, unit, level](int i) {
              QString out = shown(takeText(*m_planned, static_cast<std::size_t>(i), 0, unit(), kFigures));
              const std::size_t steps = level(i).steps.size();
              return !level(i).isPossible() ? tr("not possible")
                     : steps > 1
                         ? tr("%1 in %2 steps")
                               .arg(shown(formatFigures(level(i).steps.front().volume, kFigures)) + u' ' + text(unit()))
                               .arg(steps)
                         : out;
          }},
         {tr("Diluent"), true, 62,
          [level](int i) {
              return figuresOr(level(i).steps.empty() ? level(i).diluentVolume
                                                      : std::optional(level(i).steps.front().diluentVolume));
          }},
         {tr("±, %"), true, 46,
          [level](int i) {
              const auto se = level(i).relativeSe;
              return figuresOr(se && *se > 0 ? std::optional(200 * *se) : std::nullopt, 2);
          }}},
        [this] { return m_planned ? static_cast<int>(m_planned->numbers.size()) : 0; }, this);
    m_table = new DataTable(m_model, QStringLiteral("planTable"), card);
    m_table->setRowHeight(23);
    connect(m_table, &DataTable::rowChosen, this, [this](int i) {
        m_workspace.selectGroup({Role::Standard, m_planned->numbers[static_cast<std::size_t>(i)]});
    });
    row->addWidget(m_table, 1);
    card->body()->addLayout(row);
    m_warning = makeLabel({}, "small", card);
    m_warning->setObjectName(QStringLiteral("planWarning"));
    m_warning->setWordWrap(true);
    card->body()->addWidget(m_warning);
    return card;
}

QWidget* PlanView::makeList() {
    auto* card = new Card(tr("Run list"), this);
    card->titleRow()->addStretch();
    m_count = makeLabel({}, "mute", card);
    m_count->setObjectName(QStringLiteral("planCount"));
    card->titleRow()->addWidget(m_count);
    auto* add = makeButton(tr("Add runs…"), "normal", QStringLiteral("planAddRuns"), card);
    connect(add, &QPushButton::clicked, this, [this] { Q_EMIT actionAsked(QStringLiteral("runs.build")); });
    card->titleRow()->addWidget(add);
    m_blocks = new RunBlocks(m_workspace, card);
    card->body()->addWidget(m_blocks, 1);
    m_timeline = new RunTimeline(m_workspace, card);
    card->body()->addWidget(m_timeline);
    return card;
}

QWidget* PlanView::makeChecks() {
    auto* card = new Card(tr("Before it starts"), this);
    card->titleRow()->addStretch();
    m_toLookAt = makeLabel({}, "small", card);
    m_toLookAt->setObjectName(QStringLiteral("planToLookAt"));
    card->titleRow()->addWidget(m_toLookAt);
    auto* scroll = new QScrollArea(card);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_checks = new TextRows(scroll);
    m_checks->setObjectName(QStringLiteral("planChecks"));
    m_checks->setAccessibleName(tr("Before it starts"));
    scroll->setWidget(m_checks);
    card->body()->addWidget(scroll, 1);
    return card;
}

QWidget* PlanView::makeRules() {
    auto* card = new Card(tr("When something fails"), this);
    card->titleRow()->addWidget(makeLabel(tr("part of the method"), "small", card));
    m_rules = new LiveForm(card);
    m_keepBest = m_rules->choice(QStringLiteral("planKeepBest"), tr("Injections that count"),
                                 {tr("all"), tr("the closest 2"), tr("the closest 3"), tr("the closest 4")});
    m_rules->row(tr("Injections that count"), {m_keepBest},
                 tr("Of several injections of one vial those that lie closest together; common practice: 2 of 3"));
    connect(m_keepBest, &QComboBox::activated, this, [this](int index) {
        changeMethod([&](Method& method) { method.replicates.keepBest = index == 0 ? 0 : index + 1; });
    });
    m_afterFailure = m_rules->choice(QStringLiteral("planAfterFailure"), tr("A standard or QC fails"),
                                     {tr("go on"), tr("repeat once, then stop"), tr("stop")});
    m_rules->row(tr("A standard or QC fails"), {m_afterFailure});
    connect(m_afterFailure, &QComboBox::activated, this, [this](int index) {
        changeMethod([&](Method& method) { method.runRule.afterFailure = static_cast<AfterFailure>(index); });
    });
    m_above = m_rules->choice(QStringLiteral("planAbove"), tr("A sample above ULOQ"),
                              {tr("stays as it is"), tr("dilute and repeat")});
    m_rules->row(tr("A sample above ULOQ"), {m_above}, tr("At the end of the list, where the instrument can dilute"));
    connect(m_above, &QComboBox::activated, this,
            [this](int index) { changeMethod([&](Method& method) { method.runRule.dilutesAbove = index == 1; }); });
    m_fileName = m_rules->line(QStringLiteral("planFileName"), tr("Names of runs' files"));
    QString fields;
    for (const FieldName& field : runFields()) {
        fields += QStringLiteral("{%1} %2\n").arg(text(field.name), text(field.meaning));
    }
    m_rules->row(tr("Names of files"), {m_fileName}, fields.trimmed());
    m_fileName->takeText = [this](const QString& typed) {
        return changeMethod([&](Method& method) { method.runRule.fileName = typed.trimmed().toStdString(); });
    };
    card->body()->addWidget(m_rules);
    m_example = makeLabel({}, "small", card);
    m_example->setObjectName(QStringLiteral("planFileExample"));
    card->body()->addWidget(m_example);
    return card;
}

QString PlanView::fileExample() const {
    const Batch& batch = m_workspace.batch();
    const auto next = nextPlanned(batch, m_workspace.carrierNumber());
    return text(runFileName(batch, next.value_or(Place{0, 0, m_workspace.carrierNumber()}),
                            QDateTime::currentMSecsSinceEpoch()));
}

void PlanView::refreshStandards() {
    const Batch& batch = m_workspace.batch();
    const StandardPlan plan = batch.method.plan.value_or(StandardPlan{});
    const auto numberOf = [](double value) { return value > 0 ? std::optional(value) : std::nullopt; };
    m_stock->setNumber(numberOf(plan.rules.stock));
    m_volume->setNumber(numberOf(plan.rules.volume));
    m_least->setNumber(numberOf(plan.rules.leastVolume));
    m_way->setCurrentIndex(plan.rules.way == PlanWay::Serial ? 1 : 0);
    m_stockUnit->setText(text(batch.method.analyte().unit) + QStringLiteral(" ·"));
    m_volumeUnit->setText(text(plan.volumeUnit) + QStringLiteral(" ·"));
    m_leastUnit->setText(text(plan.volumeUnit));
    m_planned.reset();
    if (batch.method.plan) {
        if (auto planned = plannedStandards(batch)) {
            m_planned = std::move(*planned);
        }
    }
    m_model->setHeading(1, text(batch.method.analyte().unit));
    m_model->refresh();
    m_picture->refresh();
    m_needed->setText(
        m_planned
            ? tr("stock needed %1 %2").arg(shown(formatFigures(m_planned->plan.stockNeeded, 3)), text(plan.volumeUnit))
            : QString());
    QString warning;
    for (std::size_t i = 0; m_planned && i < m_planned->numbers.size(); ++i) {
        for (const std::string& one : m_planned->plan.levels[i].warnings) {
            warning += (warning.isEmpty() ? QString() : QStringLiteral("  ")) +
                       QStringLiteral("S%1: ").arg(m_planned->numbers[i]) + shown(one);
        }
    }
    m_warning->setText(warning);
    m_warning->setVisible(!warning.isEmpty());
}

void PlanView::refreshChecks() {
    const auto checks = listChecks(m_workspace.batch(), m_workspace.carrierNumber());
    std::vector<TextRow> rows;
    std::size_t bad = 0;
    for (const bool wanted : {false, true}) { // what asks for a look first
        for (const ListCheck& check : checks) {
            if (check.isGood == wanted) {
                rows.push_back({.kind = TextRow::Kind::Check,
                                .text = shown(check.sentence),
                                .outcome = check.isGood ? Outcome::Pass : Outcome::Review,
                                .above = 6});
                bad += check.isGood ? 0 : 1;
            }
        }
    }
    if (checks.empty()) {
        rows.push_back({.kind = TextRow::Kind::Mute,
                        .text = tr("No run is planned. Add runs, or paste a list of name, vial, role and level.")});
    }
    m_checks->setRows(std::move(rows));
    m_toLookAt->setText(bad == 0 ? QString() : tr("%1 to look at").arg(bad));
}

void PlanView::refreshRules() {
    const Method& method = m_workspace.batch().method;
    m_keepBest->setCurrentIndex(std::clamp(method.replicates.keepBest - 1, 0, m_keepBest->count() - 1));
    m_afterFailure->setCurrentIndex(static_cast<int>(method.runRule.afterFailure));
    m_above->setCurrentIndex(method.runRule.dilutesAbove ? 1 : 0);
    m_fileName->setHeld(text(method.runRule.fileName));
    m_example->setText(tr("Next: %1").arg(fileExample()));
}

void PlanView::refresh() {
    if (!m_workspace.isOpen() || m_workspace.carrier().kind != CarrierKind::RunList) {
        return;
    }
    refreshStandards();
    const auto seconds = secondsByRun(m_workspace.batch(), m_workspace.carrierNumber());
    m_blocks->setSeconds(seconds);
    m_blocks->refresh();
    m_timeline->setSeconds(seconds);
    refreshChecks();
    refreshRules();
    const Batch& batch = m_workspace.batch();
    std::size_t planned = 0;
    for (const auto& [place, run] : batch.runs) {
        planned += place.carrier == m_workspace.carrierNumber() && run.state == RunState::Planned ? 1u : 0u;
    }
    m_count->setText(tr("%1, %2 planned")
                         .arg(counted(static_cast<std::size_t>(m_workspace.carrier().rows), tr("run"), tr("runs")))
                         .arg(planned) +
                     (seconds && planned > 0
                          ? QStringLiteral(" · ") + tr("%1 left").arg(spanText(static_cast<double>(planned) * *seconds))
                          : QString()));
}

} // namespace nuvat
