#include "panels/checks_page.h"

#include "dialogs/file_dialogs.h"
#include "models/columns_model.h"
#include "nuvat/batch/command.h"
#include "nuvat/batch/verdict.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "panels/criterion_editor.h"
#include "panels/limits_settings.h"
#include "theme/style.h"
#include "widgets/controls.h"
#include "widgets/cv_plot.h"
#include "widgets/data_table.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QPainter>
#include <QRegularExpression>
#include <QVBoxLayout>

namespace nuvat {

ChecksPage::ChecksPage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addWidget(makeHead());
    outer->addWidget(makeTable());
    m_limits = new LimitsSettings(workspace, this);
    m_limits->hide(); // until the side panel takes it
    auto* cvCard = new Card(tr("Replicates, CV of every sample, %"), this);
    cvCard->body()->addWidget(new CvPlot(workspace, cvCard), 1);
    outer->addWidget(cvCard, 3);

    connectAll();
}

QWidget* ChecksPage::makeHead() {
    m_head = new Card({}, this);
    m_head->body()->setContentsMargins(22, 12, 16, 12);
    auto* headRow = new QHBoxLayout;
    auto* words = new QVBoxLayout;
    words->setSpacing(2);
    m_verdict = makeLabel({}, "value", m_head);
    m_verdict->setObjectName(QStringLiteral("verdict"));
    m_verdict->setFont(uiFont(20, QFont::Bold));
    m_words = makeLabel({}, "mute", m_head);
    m_words->setObjectName(QStringLiteral("verdictWords"));
    m_words->setWordWrap(true);
    words->addWidget(m_verdict);
    words->addWidget(m_words);
    headRow->addLayout(words, 1);
    m_set = new Choice(m_head);
    m_set->setObjectName(QStringLiteral("criteriaSet"));
    m_set->setAccessibleName(tr("Set of criteria"));
    m_set->setToolTip(tr("Limits of the built-in criteria"));
    m_own = makeButton(tr("Add a criterion"), "normal", QStringLiteral("ownCriterion"), m_head);
    m_own->setToolTip(tr("A custom criterion with a formula, in a row below the others"));
    m_override = makeButton(tr("Override…"), "normal", QStringLiteral("overrideCriterion"), m_head);
    headRow->addWidget(m_set);
    headRow->addWidget(m_own);
    headRow->addWidget(m_override);
    m_head->body()->addLayout(headRow);
    return m_head;
}

const CriterionResult& ChecksPage::criterionAt(int row) const {
    return *shownCriteria().at(static_cast<std::size_t>(row));
}

std::vector<ColumnSpec> ChecksPage::columnsOfCriteria() {
    return {{tr("Criterion"), false, 182, [this](int row) { return text(criterionAt(row).title); },
             [](int, int role) { return role == cell::kBold ? QVariant(true) : QVariant(); }},
            {tr("Limit"), false, 172, [this](int row) { return shown(criterionAt(row).limitText); },
             [](int, int role) { return role == cell::kMuted ? QVariant(true) : QVariant(); }},
            {tr("Found"), true, 68, [this](int row) { return shown(criterionAt(row).foundText); },
             [](int, int role) { return role == cell::kBold ? QVariant(true) : QVariant(); }},
            {tr("Against the limit"), false, 112, [](int) { return QString(); },
             [this](int row, int role) {
                 const CriterionResult& c = criterionAt(row);
                 return role == cell::kBar ? QVariant(QVariantList{c.used, static_cast<int>(c.outcome), c.isFloor})
                                           : QVariant();
             }},
            {tr("Outcome"), false, 86,
             [this](int row) {
                 return criterionAt(row).isOverridden() ? tr("Overridden")
                                                        : text(outcomeWord(criterionAt(row).outcome));
             },
             [this](int row, int role) {
                 const Outcome outcome =
                     criterionAt(row).isOverridden() ? Outcome::NotApplicable : criterionAt(row).outcome;
                 return role == cell::kOutcome ? QVariant(static_cast<int>(outcome)) : QVariant();
             }},
            {tr("Where"), false, 0, [this](int row) {
                 const CriterionResult& c = criterionAt(row);
                 return c.isOverridden() ? tr("overridden: %1").arg(text(c.overrideReason)) : shown(c.where);
             }}};
}

QWidget* ChecksPage::makeTable() {
    m_criteria = new ColumnsModel(
        columnsOfCriteria(), [this] { return static_cast<int>(shownCriteria().size()); }, this);
    auto* tableCard = new Card({}, this);
    tableCard->body()->setContentsMargins(6, 4, 6, 6);
    m_table = new DataTable(m_criteria, QStringLiteral("criteriaTable"), tableCard);
    tableCard->body()->addWidget(m_table);
    m_table->verticalHeader()->setMinimumSectionSize(31);
    m_editor = new CriterionEditor(m_workspace, tableCard);
    m_editor->hide();
    tableCard->body()->addWidget(m_editor);
    connect(m_editor, &CriterionEditor::wordsChanged, this, &ChecksPage::resizeRows);
    connect(m_editor, &CriterionEditor::closed, this, [this] {
        const bool hadFocus = m_editor->isAncestorOf(QApplication::focusWidget());
        m_editor->hide();
        resizeRows();
        if (hadFocus) {
            m_table->setFocus();
        }
    });
    return tableCard;
}

void ChecksPage::connectAll() {
    connect(m_table, &DataTable::rowChosen, this,
            [this](int row) { m_workspace.selectCriterion(criterionAt(row).key); });
    connect(m_table, &QAbstractItemView::activated, this, [this](const QModelIndex& index) {
        constexpr int kLimitColumn = 1;
        if (index.column() == kLimitColumn) {
            changeLimit();
        } else {
            Q_EMIT pageAsked(ChainPage::Layout);
        }
    });
    connect(m_set, &QComboBox::activated, this, [this](int index) {
        const auto& sets = shippedCriteria();
        if (index >= static_cast<int>(sets.size())) {
            return; // the batch's own, which is in use
        }
        Method method = m_workspace.newest().method;
        method.criteriaName = sets[static_cast<std::size_t>(index)].name;
        method.limits = sets[static_cast<std::size_t>(index)].limits;
        m_workspace.apply(setMethod(m_workspace.newest(), method));
    });
    connect(m_own, &QPushButton::clicked, this, [this] {
        m_editor->show();
        m_editor->beginNew();
        resizeRows();
    });
    connect(m_override, &QPushButton::clicked, this, &ChecksPage::overrideSelected);
}

const CriterionResult* ChecksPage::selectedCriterion() const {
    for (const CriterionResult* criterion : shownCriteria()) {
        if (criterion->key == m_workspace.selection().criterion) {
            return criterion;
        }
    }
    return nullptr;
}

/// The row of a custom criterion that is selected; a new one that is being typed stays.
void ChecksPage::showEditor() {
    const auto& criteria = m_workspace.batch().method.criteria;
    for (std::size_t i = 0; i < criteria.size(); ++i) {
        if (m_workspace.selection().criterion == ownCriterionKey(i)) {
            if (m_editor->isHidden() || m_editor->index() != i) {
                m_editor->edit(i);
            }
            m_editor->show();
            resizeRows();
            return;
        }
    }
    if (m_editor->index()) {
        m_editor->hide();
        resizeRows();
    }
}

void ChecksPage::changeLimit() {
    const CriterionResult* criterion = selectedCriterion();
    if (criterion == nullptr) {
        Q_EMIT settingsAsked();
    } else if (m_editor->isVisible() && m_editor->index()) {
        m_editor->enterLimit();
    } else {
        Q_EMIT settingsAsked();
        if (!m_limits->enterLimitOf(criterion->key)) {
            m_workspace.tell(tr("%1 has no limit that can be set.").arg(text(criterion->title)), false);
        }
    }
}

QWidget* ChecksPage::settings() const {
    return m_limits;
}

int ChecksPage::analyteOf(const CriterionResult& criterion) const {
    const auto& whole = m_workspace.wholeEvaluation().criteria;
    const bool isOfBatch =
        std::any_of(whole.begin(), whole.end(), [&](const CriterionResult& c) { return &c == &criterion; });
    return isOfBatch ? 0 : m_workspace.analyteNumber();
}

void ChecksPage::overrideSelected() {
    const CriterionResult* criterion = selectedCriterion();
    if (criterion == nullptr) {
        return;
    }
    const CriterionResult copy = *criterion; // the list is made anew by the command
    const int analyte = analyteOf(*criterion);
    if (copy.isOverridden()) {
        m_workspace.apply(withdrawOverride(m_workspace.newest(), analyte, copy));
    } else if (const auto reason = askOverride(this, text(copy.title))) {
        m_workspace.apply(overrideCriterion(m_workspace.newest(), analyte, copy, reason->toStdString(),
                                            m_workspace.document()->now()));
    }
}

void ChecksPage::refreshButtons() {
    const CriterionResult* criterion = selectedCriterion();
    const bool isMissed =
        criterion != nullptr && (criterion->outcome == Outcome::Fail || criterion->outcome == Outcome::Review);
    const bool isOverridden = criterion != nullptr && criterion->isOverridden();
    m_override->setEnabled(isMissed);
    m_override->setText(isOverridden ? tr("Withdraw override") : tr("Override…"));
    m_override->setToolTip(isMissed ? tr("Lets the selected criterion stand, for a reason")
                                    : tr("Select a criterion that is not met"));
}

std::vector<const CriterionResult*> ChecksPage::shownCriteria() const {
    std::vector<const CriterionResult*> out;
    for (const CriterionResult& criterion : m_workspace.evaluation().criteria) {
        if (criterion.outcome != Outcome::NotApplicable) {
            out.push_back(&criterion);
        }
    }
    for (const CriterionResult& criterion : m_workspace.wholeEvaluation().criteria) {
        if (criterion.outcome != Outcome::NotApplicable) {
            out.push_back(&criterion);
        }
    }
    return out;
}

QWidget* ChecksPage::mainWidget() const {
    return m_table;
}

QString ChecksPage::facts() const {
    return tr("%1 criteria, %2 met")
        .arg(m_criteria->rowCount())
        .arg(m_workspace.evaluation().countCriteria(Outcome::Pass));
}

void ChecksPage::copy() const {
    QApplication::clipboard()->setText(m_table->copyText());
}

void ChecksPage::followSelection() {
    int found = -1;
    // Not the rows of the table: between a change of the batch and refresh() they may be more.
    for (int row = 0; row < static_cast<int>(shownCriteria().size()); ++row) {
        found = shownCriteria()[static_cast<std::size_t>(row)]->key == m_workspace.selection().criterion ? row : found;
    }
    m_table->showRow(found);
    showEditor();
    refreshButtons();
}

void ChecksPage::refresh() {
    const AnalyteEvaluation& evaluation = m_workspace.evaluation();
    m_criteria->refresh();
    resizeRows();
    QStringList sets;
    const std::string& inUse = m_workspace.batch().method.criteriaName;
    int current = -1;
    for (const CriteriaSet& set : shippedCriteria()) {
        current = set.name == inUse && set.limits == m_workspace.batch().method.limits ? static_cast<int>(sets.size())
                                                                                       : current;
        sets << text(set.name);
    }
    if (current < 0) { // limits that were changed, or that an older version had
        current = static_cast<int>(sets.size());
        sets << tr("%1, changed").arg(text(inUse));
    }
    m_set->clear();
    m_set->addItems(sets);
    m_set->setCurrentIndex(current);
    refreshButtons();
    const Evaluation& whole = m_workspace.wholeEvaluation();
    m_verdict->setText(text(verdictTitle(whole.verdict)));
    QString words = tr("Import a reading and assign standards; the criteria follow at once.");
    if (whole.verdict != Outcome::NotApplicable) {
        // The sentence without the title that stands above it.
        const QString sentence = text(verdictSentence(m_workspace.batch(), whole));
        words = sentence.mid(sentence.indexOf(u':') + 2);
        words[0] = words[0].toUpper();
        if (whole.analytes.size() > 1 && evaluation.verdict != Outcome::NotApplicable) {
            words += tr(" %1 alone: %2.")
                         .arg(text(m_workspace.analyte().name), text(verdictTitle(evaluation.verdict)).toLower());
        }
    }
    m_words->setToolTip(plainTip(words));
    // The table below names the criteria; here their number is enough.
    static const QRegularExpression names(QStringLiteral(" \\([^)]*\\)"));
    m_words->setText(words.remove(names));
    const QString style =
        QStringLiteral(
            "#card { border-left: 6px solid %1; border-top-left-radius: 3px; border-bottom-left-radius: 3px; }")
            .arg((whole.verdict == Outcome::Review ? theme().saffron : theme().outcome(whole.verdict)).name());
    if (style != m_head->styleSheet()) { // reading one takes milliseconds
        m_head->setStyleSheet(style);
    }
}

int ChecksPage::editorHeight() const {
    return m_editor->isHidden() ? 0 : m_editor->layout()->totalHeightForWidth(m_table->width());
}

/// The table takes the height of its rows; what is left goes to the plot below it.
void ChecksPage::resizeRows() {
    // Breaking the texts of all rows into lines takes longer than the rest of an edit; most edits change no text.
    QStringList texts{QString::number(m_table->viewport()->width())};
    for (const CriterionResult* criterion : shownCriteria()) {
        texts << text(criterion->title) << text(criterion->limitText) << text(criterion->foundText)
              << text(criterion->where);
    }
    if (texts != m_laidOut) {
        m_laidOut = texts;
        m_table->resizeRowsToContents();
    }
    int height = m_table->horizontalHeader()->sizeHint().height() + 4;
    for (int row = 0; row < m_criteria->rowCount(); ++row) {
        height += m_table->rowHeight(row);
    }
    // Criteria beyond the room are scrolled to; the plot keeps a height at which it says something.
    constexpr int kLeastPlot = 150;
    constexpr int kLeastTable = 130;
    const int others = m_head->sizeHint().height() + editorHeight() + 3 * 24;
    m_table->setFixedHeight(std::min(height, std::max(kLeastTable, this->height() - others - kLeastPlot)));
}

void ChecksPage::showEvent(QShowEvent* event) {
    Page::showEvent(event);
    resizeRows();
}

void ChecksPage::resizeEvent(QResizeEvent* event) {
    Page::resizeEvent(event);
    resizeRows();
}

void ChecksPage::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().paper);
}

std::vector<PageAction> ChecksPage::actions() {
    return {{QStringLiteral("checks.limit"),
             tr("Change the limit of the selected criterion"),
             {QKeySequence(Qt::Key_L)},
             [this] { changeLimit(); }}};
}

bool ChecksPage::next() {
    const auto all = shownCriteria();
    std::size_t start = 0;
    for (std::size_t i = 0; i < all.size(); ++i) {
        start = all[i]->key == m_workspace.selection().criterion ? i + 1 : start;
    }
    for (std::size_t i = 0; i < all.size(); ++i) {
        const CriterionResult& c = *all[(start + i) % all.size()];
        if (!c.isOverridden() && (c.outcome == Outcome::Review || c.outcome == Outcome::Fail)) {
            m_workspace.selectCriterion(c.key);
            return true;
        }
    }
    m_workspace.tell(tr("Every criterion is met; there is nothing to review."), false);
    return true;
}

} // namespace nuvat
