#include "panels/working_panel.h"

#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/core/fit/diagnostics.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <algorithm>
#include <QHBoxLayout>
#include <QPainter>
#include <QPlainTextEdit>
#include <QScrollArea>
#include <QVBoxLayout>

namespace nuvat {

namespace {

/// One step with its ring on the line that ties the steps together.
class StepRow : public QWidget {
public:
    StepRow(const WorkingStep& step, bool isLast, QWidget* parent) : QWidget(parent), m_isLast(isLast) {
        auto* layout = new QVBoxLayout(this);
        layout->setContentsMargins(21, 0, 0, 7);
        layout->setSpacing(2);
        auto* title = makeLabel(shown(step.title), "small", this);
        title->setWordWrap(true);
        layout->addWidget(title);
        bool isFirst = true;
        for (const std::string& line : step.lines) {
            auto* label = makeLabel(shown(line), "value", this);
            label->setWordWrap(true);
            label->setTextInteractionFlags(Qt::TextSelectableByMouse);
            label->setFocusPolicy(Qt::NoFocus);
            if (step.isResult && isFirst) {
                label->setFont(uiFont(step.lines.size() <= 2 ? 15 : 13, QFont::Bold));
            }
            isFirst = isFirst && step.lines.size() > 2; // a list of places is bold as a whole
            layout->addWidget(label);
        }
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        const Theme& t = theme();
        painter.setPen(QPen(t.line, 2));
        painter.drawLine(QPointF(7, 9), QPointF(7, m_isLast ? 9 : height()));
        painter.setPen(QPen(t.plum, 2));
        painter.setBrush(t.card);
        painter.drawEllipse(QPointF(7, 9), 4.5, 4.5);
    }

private:
    bool m_isLast;
};

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
    m_content = new QWidget(all);
    m_layout = new QVBoxLayout(m_content);
    m_layout->setContentsMargins(14, 11, 14, 14);
    m_layout->setSpacing(4);
    allLayout->addWidget(m_content, 1);
    scroll->setWidget(all);
    outer->addWidget(scroll);
    connect(&workspace, &Workspace::changed, this, &WorkingPanel::rebuild);
    connect(&workspace, &Workspace::aboutToReplace, this, &WorkingPanel::commitNote);
    connect(&workspace, &Workspace::selectionChanged, this, [this] {
        commitNote();
        rebuild();
    });
    rebuild();
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
    QStringList lines;
    for (const QLabel* label : m_content->findChildren<QLabel*>()) {
        lines << label->text();
    }
    return lines.join(u'\n');
}

QLabel* WorkingPanel::addText(const QString& what, const char* kind) {
    auto* label = makeLabel(what, kind, m_content);
    label->setWordWrap(true);
    m_layout->addWidget(label);
    return label;
}

void WorkingPanel::addHeading(const QString& what) {
    m_layout->addSpacing(6);
    addText(what, "heading");
}

void WorkingPanel::addTitle(const QString& title, const QString& subtitle) {
    addText(title, "heading");
    if (!subtitle.isEmpty()) {
        addText(subtitle, "small");
    }
    m_layout->addSpacing(5);
}

void WorkingPanel::addCheck(const QString& title, const QString& found, Outcome outcome) {
    auto* row = new QWidget(m_content);
    auto* layout = new QHBoxLayout(row);
    layout->setContentsMargins(0, 2, 0, 2);
    auto* name = makeLabel(title, "value", row);
    name->setWordWrap(true);
    layout->addWidget(name, 1);
    layout->addWidget(makeLabel(found, "value", row));
    auto* mark = makeLabel(text(outcomeWord(outcome)), "mark", row);
    mark->setStyleSheet(
        QStringLiteral("background: %1; color: %2; border-radius: 4px; padding: 1px 7px; font-weight: bold; "
                       "font-size: 12px;")
            .arg(theme().outcomeSoft(outcome).name(), theme().outcome(outcome).name()));
    layout->addWidget(mark, 0, Qt::AlignVCenter);
    m_layout->addWidget(row);
}

void WorkingPanel::addSteps() {
    const Selection& selection = m_workspace.selection();
    const Batch& batch = m_workspace.batch();
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    Working working;
    if (selection.places.size() == 1) {
        working = workingOf(batch, evaluation, selection.places.front());
    } else if (selection.group) {
        working = workingOf(batch, evaluation, *selection.group);
    } else {
        std::vector<double> raw;
        for (const Place place : selection.places) {
            if (const auto value = evaluation.at(place).raw) {
                raw.push_back(*value);
            }
        }
        const Description d = describe(raw);
        working.title = tr("%1 wells").arg(selection.places.size()).toStdString();
        working.subtitle = "of more than one sample";
        const auto textOf = [](const std::optional<double>& v) {
            return v ? formatFigures(*v, 4) : std::string("not defined");
        };
        working.steps.push_back({"Raw readings, mean of " + std::to_string(raw.size()), {textOf(d.mean)}, true});
        working.steps.push_back({"SD", {textOf(d.sd)}, false});
        working.steps.push_back({"CV", {d.cvPercent ? formatPercent(*d.cvPercent) : "not defined"}, false});
    }
    addTitle(tr("Working · %1").arg(text(working.title)), text(working.subtitle));
    for (std::size_t i = 0; i < working.steps.size(); ++i) {
        m_layout->addWidget(new StepRow(working.steps[i], i + 1 == working.steps.size(), m_content));
    }
    if (!working.checks.empty()) {
        addHeading(tr("Checks"));
        for (const WorkingCheck& check : working.checks) {
            addCheck(text(check.title), shown(check.found), check.outcome);
        }
    }
}

void WorkingPanel::addCriterion() {
    const std::string& key = m_workspace.selection().criterion;
    std::vector<CriterionResult> all = m_workspace.evaluation().criteria;
    const auto& ofBatch = m_workspace.wholeEvaluation().criteria;
    all.insert(all.end(), ofBatch.begin(), ofBatch.end());
    for (const CriterionResult& criterion : all) {
        if (criterion.key != key) {
            continue;
        }
        addTitle(text(criterion.title), shown(criterion.limitText));
        std::vector<WorkingStep> steps{{"Found", {criterion.foundText}, true}};
        if (!criterion.where.empty()) {
            steps.push_back({"Where", {criterion.where}, false});
        }
        if (criterion.isOverridden()) {
            steps.push_back({"Overridden", {criterion.overrideReason}, false});
        }
        for (std::size_t i = 0; i < steps.size(); ++i) {
            m_layout->addWidget(new StepRow(steps[i], i + 1 == steps.size(), m_content));
        }
        addCheck(tr("Outcome"), {}, criterion.outcome);
        addHeading(tr("Why this criterion"));
        addText(text(criterion.why), "mute");
    }
}

void WorkingPanel::addOverview() {
    const Batch& batch = m_workspace.batch();
    addTitle(tr("Working"), tr("Select a well, a point or a row to see how its number came about."));
    if (!m_workspace.isOpen()) {
        return;
    }
    std::vector<std::string> sentences = m_workspace.evaluation().fit.warnings;
    for (const Problem& problem : m_workspace.evaluation().problems) {
        sentences.push_back(problem.message);
    }
    const auto highlight = [this](const std::string& sentence) {
        auto* label = addText(shown(sentence), "value");
        label->setStyleSheet(
            QStringLiteral("background: %1; border-radius: 6px; padding: 6px 8px;").arg(theme().saffronSoft.name()));
    };
    std::for_each(sentences.begin(), sentences.end(), highlight);
    if (const Fit& fit = m_workspace.evaluation().fit; fit.isUsable()) {
        const Diagnostics found = diagnose(fit);
        const std::optional<FitTest> lack = found.lackOfFit ? std::optional(found.lackOfFit->test) : std::nullopt;
        if (lack || found.mandel || found.runs || found.equalVariances) {
            addHeading(tr("What the standards say of the fit"));
        }
        for (const auto& test : {lack, found.mandel, found.runs, found.equalVariances}) {
            if (test && test->isSignificant) {
                highlight(test->sentence);
            } else if (test) {
                addText(shown(test->sentence), "small");
            }
        }
    }
    addHeading(tr("Method"));
    addText(tr("%1, revision %2").arg(text(batch.method.title)).arg(batch.method.revision), "value");
    addText(text(modelFormula(m_workspace.analyte().fit.model)), "small");
}

void WorkingPanel::addActions() {
    const Selection& selection = m_workspace.selection();
    bool canExclude = false;
    bool canRestore = false;
    for (const Place place : selection.places) {
        const bool isOut = m_workspace.batch().exclusions.contains(place);
        canRestore = canRestore || isOut;
        canExclude = canExclude || (!isOut && m_workspace.batch().at(place).role != Role::Empty &&
                                    m_workspace.evaluation().at(place).raw);
    }
    if (selection.places.empty()) {
        return;
    }
    addHeading(tr("What you can do"));
    const auto add = [this](const QString& what, const QString& name, auto signal) {
        auto* button = makeButton(what, "chip", name, m_content);
        connect(button, &QPushButton::clicked, this, signal, Qt::QueuedConnection);
        m_layout->addWidget(button);
    };
    const bool isOne = selection.places.size() == 1;
    if (canExclude) {
        add(isOne ? tr("Exclude this well…  X") : tr("Exclude these wells…  X"), QStringLiteral("panelExclude"),
            [this] { Q_EMIT excludeAsked(); });
    }
    if (canRestore) {
        add(isOne ? tr("Restore this well  X") : tr("Restore what is excluded"), QStringLiteral("panelRestore"),
            [this] { Q_EMIT restoreAsked(); });
    }
    add(tr("Show on the plate"), QStringLiteral("panelShowPlate"),
        [this] { Q_EMIT showAsked(QStringLiteral("Layout")); });
    if (selection.group && selection.group->role != Role::Blank) {
        add(tr("Show on the curve"), QStringLiteral("panelShowCurve"),
            [this] { Q_EMIT showAsked(QStringLiteral("Curve")); });
    }
}

void WorkingPanel::addNote() {
    m_noteOf.reset();
    m_note = nullptr;
    const auto group = m_workspace.selection().group;
    if (!group || group->role != Role::Unknown) {
        return;
    }
    const auto sample = m_workspace.batch().samples.find(group->number);
    if (sample == m_workspace.batch().samples.end()) {
        return;
    }
    addHeading(tr("Note"));
    m_note = new QPlainTextEdit(text(sample->second.note), m_content);
    m_note->setObjectName(QStringLiteral("sampleNote"));
    m_note->setPlaceholderText(tr("Add a note; it is kept with the sample"));
    m_note->setFixedHeight(52);
    m_note->setTabChangesFocus(true);
    m_note->installEventFilter(this);
    m_layout->addWidget(m_note);
    m_noteOf = group->number;
}

void WorkingPanel::commitNote() {
    if (m_note == nullptr || !m_noteOf) {
        return;
    }
    if (isNoteChanged()) {
        Sample after = m_workspace.batch().samples.at(*m_noteOf);
        after.note = m_note->toPlainText().toStdString();
        const int number = *m_noteOf;
        m_noteOf.reset(); // the command rebuilds the panel
        m_workspace.apply(setSample(m_workspace.batch(), number, after));
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

void WorkingPanel::addHistory() {
    if (!m_workspace.isOpen() || m_workspace.document()->history().empty()) {
        return;
    }
    addHeading(tr("History"));
    const auto& history = m_workspace.document()->history();
    int count = 0;
    for (auto line = history.rbegin(); line != history.rend() && count < 8; ++line, ++count) {
        const QString prefix = line->kind == EventKind::Undone   ? tr("undone: ")
                               : line->kind == EventKind::Redone ? tr("redone: ")
                                                                 : QString();
        addText(clockText(line->timeMillis) + QStringLiteral(" · ") + prefix + shown(line->label) +
                    (line->reason.empty() ? QString() : QStringLiteral(": ") + text(line->reason)),
                "small");
    }
}

void WorkingPanel::rebuild() {
    if (m_note != nullptr && m_noteOf && isNoteChanged()) {
        commitNote(); // which rebuilds the panel
        return;
    }
    m_note = nullptr;
    while (QLayoutItem* item = m_layout->takeAt(0)) {
        if (QWidget* widget = item->widget()) {
            widget->hide();
            widget->setParent(nullptr); // gone at once for findChildren; deleted when its signals have returned
            widget->deleteLater();
        }
        delete item;
    }
    const Selection& selection = m_workspace.selection();
    if (!selection.criterion.empty()) {
        addCriterion();
    } else if (!selection.places.empty()) {
        addSteps();
    } else {
        addOverview();
    }
    addActions();
    addNote();
    addHistory();
    m_layout->addStretch(1);
}

} // namespace nuvat
