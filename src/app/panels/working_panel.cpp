#include "panels/working_panel.h"

#include "nuvat/batch/injection_pair.h"
#include "nuvat/batch/layout_checks.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/fit/diagnostics.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/text_rows.h"

#include <algorithm>
#include <QLabel>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

namespace {

using Kind = TextRow::Kind;

constexpr std::size_t kHistoryLines = 8;

} // namespace

WorkingPanel::WorkingPanel(Workspace& workspace, QWidget* parent) : QFrame(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("panel"));
    setFixedWidth(frame::kPanel);
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(1, 0, 0, 0);
    auto* scroll = new QScrollArea(this);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* all = new QWidget(scroll);
    auto* allLayout = new QVBoxLayout(all);
    allLayout->setContentsMargins(0, 0, 0, 0);
    allLayout->setSpacing(0);
    m_top = new QVBoxLayout;
    m_top->setContentsMargins(14, 8, 14, 2);
    allLayout->addLayout(m_top);
    m_line = new QFrame(all);
    m_line->setObjectName(QStringLiteral("line"));
    m_line->setFixedHeight(1);
    m_line->hide();
    allLayout->addWidget(m_line);
    auto* content = new QVBoxLayout;
    content->setContentsMargins(14, 7, 14, 14);
    content->setSpacing(4);
    m_rows = new TextRows(all);
    m_rows->setObjectName(QStringLiteral("working"));
    m_rows->setAccessibleName(tr("Working"));
    content->addWidget(m_rows);
    addButtons(content);
    m_noteHeading = makeLabel(tr("Note"), "heading", all);
    content->addSpacing(6);
    content->addWidget(m_noteHeading);
    m_note = new QPlainTextEdit(all);
    m_note->setObjectName(QStringLiteral("sampleNote"));
    m_note->setPlaceholderText(tr("Add a note; it is kept with the sample"));
    m_note->setFixedHeight(52);
    m_note->setTabChangesFocus(true);
    m_note->installEventFilter(this);
    content->addWidget(m_note);
    m_history = new TextRows(all);
    m_history->setAccessibleName(tr("History"));
    content->addWidget(m_history);
    content->addStretch(1);
    allLayout->addLayout(content, 1);
    scroll->setWidget(all);
    outer->addWidget(scroll);
    connect(&workspace, &Workspace::changed, this, &WorkingPanel::refresh);
    connect(&workspace, &Workspace::aboutToReplace, this, &WorkingPanel::commitNote);
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        commitNote();
        refresh();
    });
    refresh();
}

void WorkingPanel::addButtons(QVBoxLayout* content) {
    const auto add = [&](const QString& what, const char* name, auto signal) {
        auto* button = makeButton(what, "chip", QString::fromLatin1(name), content->parentWidget());
        connect(button, &QPushButton::clicked, this, signal, Qt::QueuedConnection);
        content->addWidget(button);
        return button;
    };
    m_exclude = add({}, "panelExclude", [this] { Q_EMIT excludeAsked(); });
    m_restore = add({}, "panelRestore", [this] { Q_EMIT restoreAsked(); });
    m_showPlate = add(tr("Show on the plate"), "panelShowPlate", [this] { Q_EMIT pageAsked(ChainPage::Layout); });
    m_showCurve = add(tr("Show on the curve"), "panelShowCurve", [this] { Q_EMIT pageAsked(ChainPage::Curve); });
}

void WorkingPanel::addSettings(QWidget* settings) {
    m_top->addWidget(settings);
    settings->hide();
}

void WorkingPanel::showSettings(QWidget* settings) {
    for (int i = 0; i < m_top->count(); ++i) {
        QWidget* one = m_top->itemAt(i)->widget();
        one->setVisible(one == settings);
    }
    m_line->setVisible(settings != nullptr);
}

QString WorkingPanel::plainText() const {
    return m_rows->plainText() + u'\n' + m_history->plainText();
}

void WorkingPanel::addTitle(Rows& rows, const QString& title, const QString& subtitle) const {
    rows.push_back({.kind = Kind::Heading, .text = title});
    if (!subtitle.isEmpty()) {
        rows.push_back({.kind = Kind::Small, .text = subtitle});
    }
}

void WorkingPanel::addStep(Rows& rows, const WorkingStep& step) const {
    const bool isFirstStep = std::none_of(rows.begin(), rows.end(), [](const TextRow& row) { return row.isStep; });
    rows.push_back({.kind = Kind::Small,
                    .text = shown(step.title),
                    .above = isFirstStep ? 9 : 11,
                    .isStep = true,
                    .opensStep = true});
    const bool isList = step.lines.size() > 2; // a list of places is bold as a whole
    for (std::size_t i = 0; i < step.lines.size(); ++i) {
        const Kind kind = !step.isResult ? Kind::Value : isList ? Kind::Strong : i == 0 ? Kind::Result : Kind::Value;
        rows.push_back({.kind = kind, .text = shown(step.lines[i]), .above = 2, .isStep = true});
    }
}

void WorkingPanel::addSteps(Rows& rows) const {
    const Selection& selection = m_workspace.selection();
    const Batch& batch = m_workspace.batch();
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    const Working working = selection.places.size() == 1 ? workingOf(batch, evaluation, selection.places.front())
                            : selection.group            ? workingOf(batch, evaluation, *selection.group)
                                                         : workingOf(evaluation, selection.places);
    addTitle(rows, tr("Working · %1").arg(text(working.title)), text(working.subtitle));
    for (const WorkingStep& step : working.steps) {
        addStep(rows, step);
    }
    addInjections(rows);
    if (!working.checks.empty()) {
        rows.push_back({.kind = Kind::Heading, .text = tr("Checks"), .above = 17});
        for (const WorkingCheck& check : working.checks) {
            rows.push_back({.kind = Kind::Check,
                            .text = text(check.title),
                            .right = shown(check.found),
                            .outcome = check.outcome,
                            .above = 6});
        }
    }
}

/// Two runs: how the second compares with the first, also before there is any analyte.
void WorkingPanel::addInjections(Rows& rows) const {
    const auto& places = m_workspace.selection().places;
    const Batch& batch = m_workspace.batch();
    if (places.size() != 2 || !batch.hasTraces(places.front().carrier)) {
        return;
    }
    const auto channels = batch.channelsOf(m_workspace.analyteNumber());
    const std::string channel = channels.empty() ? batch.info.channel : channels.front();
    const Slot first{places[0].carrier, places[0], channel}, second{places[1].carrier, places[1], channel};
    const Reading* reading = batch.reading(first);
    const auto trace = reading == nullptr ? nullptr : reading->payload.trace();
    if (const auto pair = compareInjections(m_workspace.wholeEvaluation(), first, second); pair && trace) {
        addStep(rows, {placeTitle(batch, places[1]) + " against " + placeName(batch, places[0]),
                       injectionWords(*pair, trace->xUnit), false});
    }
}

void WorkingPanel::addCriterion(Rows& rows) const {
    const std::string& key = m_workspace.selection().criterion;
    const auto& ofAnalyte = m_workspace.evaluation().criteria;
    const auto& ofBatch = m_workspace.wholeEvaluation().criteria;
    const auto hasKey = [&](const CriterionResult& criterion) { return criterion.key == key; };
    for (const auto* criteria : {&ofAnalyte, &ofBatch}) {
        const auto criterion = std::find_if(criteria->begin(), criteria->end(), hasKey);
        if (criterion == criteria->end()) {
            continue;
        }
        addTitle(rows, text(criterion->title), shown(criterion->limitText));
        addStep(rows, {"Found", {criterion->foundText}, true});
        if (!criterion->where.empty()) {
            addStep(rows, {"Where", {criterion->where}, false});
        }
        if (criterion->isOverridden()) {
            addStep(rows, {"Overridden", {criterion->overrideReason}, false});
        }
        rows.push_back({.kind = Kind::Check, .text = tr("Outcome"), .outcome = criterion->outcome, .above = 10});
        rows.push_back({.kind = Kind::Heading, .text = tr("Why this criterion"), .above = 14});
        rows.push_back({.kind = Kind::Mute, .text = text(criterion->why)});
    }
}

void WorkingPanel::addOverview(Rows& rows) const {
    addTitle(rows, tr("Working"), tr("Select a well, a point or a row to see how its number came about."));
    if (!m_workspace.isOpen()) {
        return;
    }
    const Fit& fit = m_workspace.evaluation().fit;
    const auto highlight = [&rows](const std::string& sentence) {
        rows.push_back({.kind = Kind::Highlight, .text = shown(sentence), .above = 6});
    };
    std::for_each(fit.warnings.begin(), fit.warnings.end(), highlight);
    for (const Problem& problem : m_workspace.evaluation().problems) {
        highlight(problem.message);
    }
    if (fit.isUsable()) {
        const Diagnostics found = diagnose(fit);
        const std::optional<FitTest> lack = found.lackOfFit ? std::optional(found.lackOfFit->test) : std::nullopt;
        if (lack || found.mandel || found.runs || found.equalVariances) {
            rows.push_back({.kind = Kind::Heading, .text = tr("Fit diagnostics"), .above = 12});
        }
        for (const auto& test : {lack, found.mandel, found.runs, found.equalVariances}) {
            if (test && test->isSignificant) {
                highlight(test->sentence);
            } else if (test) {
                rows.push_back({.kind = Kind::Small, .text = shown(test->sentence)});
            }
        }
    }
    const Method& method = m_workspace.batch().method;
    rows.push_back({.kind = Kind::Heading, .text = tr("Method"), .above = 12});
    rows.push_back({.kind = Kind::Value, .text = tr("%1, revision %2").arg(text(method.title)).arg(method.revision)});
    rows.push_back({.kind = Kind::Small, .text = text(modelFormula(m_workspace.analyte().fit.model))});
}

void WorkingPanel::setPage(ChainPage page) {
    const bool isOther = m_page != page && (m_page == ChainPage::Layout || page == ChainPage::Layout);
    m_page = page;
    if (isOther) {
        refresh();
    }
}

/// What the layout has and what it lacks, before anything is read.
void WorkingPanel::addLayoutChecks(Rows& rows) const {
    rows.push_back({.kind = Kind::Heading, .text = tr("Layout checks"), .above = 17});
    for (const LayoutCheck& check :
         layoutChecks(m_workspace.batch(), m_workspace.index(), m_workspace.analyteNumber())) {
        rows.push_back({.kind = Kind::Check,
                        .text = text(check.title),
                        .right = shown(check.found),
                        .outcome = check.outcome,
                        .above = 6});
        if (!check.advice.empty()) {
            rows.push_back({.kind = Kind::Mute, .text = text(check.advice), .above = 1});
        }
    }
}

/// The buttons for what is selected; their heading is the last of the rows.
void WorkingPanel::showButtons(Rows& rows) {
    const Selection& selection = m_workspace.selection();
    bool canExclude = false;
    bool canRestore = false;
    for (const Place place : selection.places) {
        const bool isOut = m_workspace.batch().isExcluded(place, m_workspace.analyteNumber());
        canRestore = canRestore || isOut;
        canExclude = canExclude || (!isOut && m_workspace.batch().at(place).role != Role::Empty &&
                                    m_workspace.evaluation().at(place).raw);
    }
    const bool isOne = selection.places.size() == 1;
    if (!selection.places.empty()) {
        rows.push_back({.kind = Kind::Heading, .text = tr("What you can do"), .above = 17});
    }
    const bool isList = m_workspace.carrier().kind == CarrierKind::RunList;
    const bool isOfOne = m_workspace.batch().method.analytes.size() > 1 && m_workspace.batch().hasTraces();
    m_exclude->setText(isOfOne  ? tr("Exclude for %1…  X").arg(text(m_workspace.analyte().name))
                       : isList ? (isOne ? tr("Exclude this run…  X") : tr("Exclude these runs…  X"))
                       : isOne  ? tr("Exclude this well…  X")
                                : tr("Exclude these wells…  X"));
    m_showPlate->setText(isList ? tr("Show in the list") : tr("Show on the plate"));
    m_exclude->setVisible(canExclude);
    m_restore->setText(isOne ? (isList ? tr("Restore this run  X") : tr("Restore this well  X"))
                             : tr("Restore what is excluded"));
    m_restore->setVisible(canRestore);
    m_showPlate->setVisible(!selection.places.empty());
    m_showCurve->setVisible(!selection.places.empty() && selection.group && selection.group->role != Role::Blank);
}

void WorkingPanel::showNote() {
    const auto group = m_workspace.selection().group;
    const auto& samples = m_workspace.batch().samples;
    const auto sample = group && group->role == Role::Unknown ? samples.find(group->number) : samples.end();
    const bool hasNote = sample != samples.end();
    m_noteHeading->setVisible(hasNote);
    m_note->setVisible(hasNote);
    m_noteOf = hasNote ? std::optional(group->number) : std::nullopt;
    const QString note = hasNote ? text(sample->second.note) : QString();
    if (note != m_note->toPlainText()) {
        m_note->setPlainText(note);
    }
    m_note->document()->setModified(false);
}

void WorkingPanel::commitNote() {
    if (m_noteOf && isNoteChanged()) {
        const auto before = m_workspace.newest().samples.find(*m_noteOf);
        Sample after = before == m_workspace.newest().samples.end() ? Sample{} : before->second;
        after.note = m_note->toPlainText().toStdString();
        const int number = *m_noteOf;
        m_noteOf.reset(); // the command refreshes the panel
        m_workspace.apply(setSample(m_workspace.newest(), number, after));
    }
}

/// Whether a person typed something that the batch does not hold yet.
bool WorkingPanel::isNoteChanged() const {
    const auto sample = m_workspace.batch().samples.find(*m_noteOf);
    return sample != m_workspace.batch().samples.end() && m_note->document()->isModified() &&
           sample->second.note != m_note->toPlainText().toStdString();
}

bool WorkingPanel::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_note && event->type() == QEvent::FocusOut) {
        QMetaObject::invokeMethod(this, &WorkingPanel::commitNote, Qt::QueuedConnection);
    }
    return QFrame::eventFilter(watched, event);
}

void WorkingPanel::showHistory() {
    Rows rows;
    if (m_workspace.isOpen() && !m_workspace.document()->history().empty()) {
        rows.push_back({.kind = Kind::Heading, .text = tr("History"), .above = 6});
        const auto& history = m_workspace.document()->history();
        for (auto line = history.rbegin(); line != history.rend() && rows.size() <= kHistoryLines; ++line) {
            const QString prefix = line->kind == EventKind::Undone   ? tr("undone: ")
                                   : line->kind == EventKind::Redone ? tr("redone: ")
                                                                     : QString();
            rows.push_back({.kind = Kind::Small,
                            .text = clockText(line->timeMillis) + QStringLiteral(" · ") + prefix + shown(line->label) +
                                    (line->reason.empty() ? QString() : QStringLiteral(": ") + text(line->reason))});
        }
    }
    m_history->setRows(std::move(rows));
}

/// Nothing is built while the panel is hidden; it comes up to date when it is shown.
void WorkingPanel::refresh() {
    if (m_noteOf && isNoteChanged()) {
        commitNote(); // which comes back here
        return;
    }
    m_isStale = !isVisible();
    if (m_isStale) {
        return;
    }
    const Selection& selection = m_workspace.selection();
    Rows rows;
    if (!selection.criterion.empty()) {
        addCriterion(rows);
    } else if (!selection.places.empty()) {
        addSteps(rows);
    } else {
        addOverview(rows);
    }
    if (m_page == ChainPage::Layout && m_workspace.isOpen() && selection.criterion.empty()) {
        addLayoutChecks(rows);
    }
    showButtons(rows);
    m_rows->setRows(std::move(rows));
    showNote();
    showHistory();
}

void WorkingPanel::showEvent(QShowEvent* event) {
    QFrame::showEvent(event);
    if (m_isStale) {
        refresh();
    }
}

} // namespace nuvat
