#include "panels/criterion_editor.h"

#include "nuvat/batch/command.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "theme/style.h"
#include "widgets/controls.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QRegularExpression>
#include <QStandardItemModel>
#include <QVBoxLayout>

namespace nuvat {

namespace {

/// The name that ends at the cursor, as far as it is typed.
QString nameBefore(const QString& line, int cursor) {
    static const QRegularExpression name(QStringLiteral("[A-Za-z_][A-Za-z_0-9]*$"));
    return name.match(line.left(cursor)).captured();
}

} // namespace

CriterionEditor::CriterionEditor(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    setObjectName(QStringLiteral("criterionEditor"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(8, 4, 8, 2);
    layout->setSpacing(4);
    makeRow();
    m_values = makeLabel({}, "small", this);
    m_values->setObjectName(QStringLiteral("criterionValues"));
    m_values->setWordWrap(true);
    m_names = makeLabel({}, "small", this);
    m_names->setObjectName(QStringLiteral("criterionNames"));
    m_names->setWordWrap(true);
    layout->addWidget(m_values);
    layout->addWidget(m_names);
    makeCompletion();
    connect(m_scope, &QComboBox::currentIndexChanged, this, &CriterionEditor::showNames);
    connect(&workspace, &Workspace::changed, this, &CriterionEditor::refresh);
    connect(&workspace, &Workspace::aboutToReplace, this, [this] {
        if (m_index) {
            commit();
        }
        m_index.reset(); // it is no criterion of the next batch
    });
    connect(&workspace, &Workspace::opened, this, &CriterionEditor::closed);
}

void CriterionEditor::makeRow() {
    auto* row = new QHBoxLayout;
    row->setSpacing(6);
    const auto line = [&](const char* name, const QString& what, int width) {
        auto* out = new QLineEdit(this);
        out->setObjectName(QString::fromLatin1(name));
        out->setAccessibleName(what);
        out->setPlaceholderText(what);
        out->setMinimumWidth(width);
        out->installEventFilter(this);
        row->addWidget(out, width);
        connect(out, &QLineEdit::textChanged, this, &CriterionEditor::showValues);
        connect(out, &QLineEdit::editingFinished, this, [this] {
            if (m_index) {
                commit();
            }
        });
        return out;
    };
    const auto choice = [&](const char* name, const QString& what, const QStringList& items) {
        auto* out = new Choice(this);
        out->setObjectName(QString::fromLatin1(name));
        out->setAccessibleName(what);
        out->addItems(items);
        row->addWidget(out);
        connect(out, &QComboBox::currentIndexChanged, this, &CriterionEditor::showValues);
        connect(out, &QComboBox::activated, this, [this] {
            if (m_index) {
                commit();
            }
        });
        return out;
    };
    m_title = line("criterionTitle", tr("Title"), 92);
    m_scope =
        choice("criterionScope", tr("Asked of"),
               {tr("the batch"), tr("analyte"), tr("each level"), tr("each unknown"), tr("each QC"), tr("each peak")});
    m_quantity = line("criterionQuantity", tr("Quantity, a formula"), 130);
    m_comparison = choice("criterionComparison", tr("Has to be"), {tr("at most"), tr("at least")});
    m_limit = line("criterionLimit", tr("Limit"), 48);
    m_consequence = choice("criterionConsequence", tr("If not"), {tr("fails"), tr("review")});
    m_done = makeButton({}, "normal", QStringLiteral("criterionDone"), this);
    m_remove = makeButton(tr("Remove"), "normal", QStringLiteral("criterionRemove"), this);
    row->addWidget(m_done);
    row->addWidget(m_remove);
    qobject_cast<QVBoxLayout*>(layout())->addLayout(row);
    connect(m_done, &QPushButton::clicked, this, [this] {
        if (!m_index) {
            commit();
        } else {
            Q_EMIT closed();
        }
    });
    connect(m_remove, &QPushButton::clicked, this, &CriterionEditor::remove);
}

void CriterionEditor::makeCompletion() {
    m_completer = new QCompleter(this);
    m_completer->setWidget(m_quantity);
    m_completer->setModel(new QStandardItemModel(m_completer));
    m_completer->setCompletionMode(QCompleter::PopupCompletion);
    m_completer->setCompletionRole(Qt::UserRole);
    connect(m_completer, qOverload<const QModelIndex&>(&QCompleter::activated), this,
            [this](const QModelIndex& index) { take(index.data(Qt::UserRole).toString()); });
    m_completer->popup()->installEventFilter(this); // the line would take Enter for itself
    connect(m_quantity, &QLineEdit::textEdited, this, &CriterionEditor::complete);
}

void CriterionEditor::complete() {
    const QString begun = nameBefore(m_quantity->text(), m_quantity->cursorPosition());
    m_completer->setCompletionPrefix(begun);
    const bool isWhole = m_completer->completionCount() == 1 && m_completer->currentIndex().data(Qt::UserRole) == begun;
    if (begun.isEmpty() || m_completer->completionCount() == 0 || isWhole) {
        m_completer->popup()->hide();
        return;
    }
    QRect place = m_quantity->rect();
    constexpr int kWidth = 380; // a name and what it means
    place.setWidth(kWidth);
    m_completer->complete(place);
    m_completer->popup()->setCurrentIndex(m_completer->completionModel()->index(0, 0));
}

void CriterionEditor::take(const QString& name) {
    const int cursor = m_quantity->cursorPosition();
    const auto begun = static_cast<int>(nameBefore(m_quantity->text(), cursor).size());
    m_quantity->setSelection(cursor - begun, begun);
    m_quantity->insert(name);
}

void CriterionEditor::enterLimit() {
    m_limit->setFocus(Qt::TabFocusReason);
}

bool CriterionEditor::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const bool isTaking = key == Qt::Key_Return || key == Qt::Key_Enter || key == Qt::Key_Tab;
        if (watched == m_completer->popup()) {
            const QModelIndex chosen = m_completer->popup()->currentIndex();
            if (!isTaking || !chosen.isValid()) {
                return false;
            }
            const QString name = chosen.data(Qt::UserRole).toString();
            m_completer->popup()->hide();
            take(name);
            return true;
        }
        if (key == Qt::Key_Escape) {
            Q_EMIT closed(); // what is committed stays; undo takes it back
            return true;
        }
        if (key == Qt::Key_Return || key == Qt::Key_Enter) {
            commit();
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void CriterionEditor::beginNew() {
    m_index.reset();
    fill({}, false);
    m_title->setFocus(Qt::OtherFocusReason);
}

void CriterionEditor::edit(std::size_t index) {
    m_index = index;
    fill(m_workspace.batch().method.criteria.at(index), true);
}

void CriterionEditor::fill(const Criterion& criterion, bool hasLimit) {
    m_title->setText(text(criterion.title));
    m_scope->setCurrentIndex(static_cast<int>(criterion.scope));
    m_quantity->setText(text(criterion.quantity));
    m_comparison->setCurrentIndex(static_cast<int>(criterion.comparison));
    m_limit->setText(hasLimit ? shown(formatNumber(criterion.limit)) : QString());
    m_consequence->setCurrentIndex(criterion.asksForReview ? 1 : 0);
    showNames();
    m_done->setText(m_index ? tr("Done") : tr("Add"));
    m_remove->setVisible(m_index.has_value());
    showValues();
}

Criterion CriterionEditor::typed() const {
    Criterion out;
    out.title = m_title->text().trimmed().toStdString();
    out.scope = static_cast<CriterionScope>(m_scope->currentIndex());
    out.quantity = m_quantity->text().trimmed().toStdString();
    out.comparison = static_cast<Comparison>(m_comparison->currentIndex());
    out.limit = parseTyped(m_limit->text().toStdString()).value_or(0);
    out.asksForReview = m_consequence->currentIndex() == 1;
    return out;
}

bool CriterionEditor::isComplete() const {
    const Criterion criterion = typed();
    return parseTyped(m_limit->text().toStdString()) && !criterion.title.empty() && !criterion.quantity.empty() &&
           criterionValues(m_workspace.batch(), m_workspace.wholeEvaluation(), m_workspace.analyteNumber(), criterion);
}

void CriterionEditor::commit() {
    if (!isComplete()) {
        return; // the line below says what is missing
    }
    Method method = m_workspace.newest().method;
    if (m_index && *m_index >= method.criteria.size()) {
        return; // an undo has taken it away
    }
    const std::size_t at = m_index.value_or(method.criteria.size());
    if (!m_index) {
        method.criteria.emplace_back();
    } else if (method.criteria[at] == typed()) {
        return;
    }
    method.criteria[at] = typed();
    m_index = at; // before the window hears of the change
    if (m_workspace.apply(setMethod(m_workspace.newest(), method))) {
        m_workspace.selectCriterion(ownCriterionKey(at));
    }
}

void CriterionEditor::remove() {
    Method method = m_workspace.newest().method;
    if (m_index && *m_index < method.criteria.size()) {
        method.criteria.erase(method.criteria.begin() + static_cast<std::ptrdiff_t>(*m_index));
        m_workspace.apply(setMethod(m_workspace.newest(), method));
    }
    Q_EMIT closed();
}

/// After an edit elsewhere, such as an undo.
void CriterionEditor::refresh() {
    if (isHidden()) {
        return; // it is filled when it is shown
    }
    const auto& criteria = m_workspace.newest().method.criteria;
    if (m_index && *m_index >= criteria.size()) {
        Q_EMIT closed();
    } else if (m_index && !(criteria[*m_index] == typed()) && !isAncestorOf(QApplication::focusWidget())) {
        fill(criteria[*m_index], true);
    } else {
        m_done->setText(m_index ? tr("Done") : tr("Add"));
        m_remove->setVisible(m_index.has_value());
        showValues();
    }
}

/// The names of the scope, to be completed; made anew only with the scope, since a list that is open shows them.
void CriterionEditor::showNames() {
    const auto scope = static_cast<CriterionScope>(m_scope->currentIndex());
    auto* model = qobject_cast<QStandardItemModel*>(m_completer->model());
    model->clear();
    QStringList names;
    for (const CriterionVariable& variable : criterionVariables(scope)) {
        names << QString::fromLatin1(variable.name);
        auto* item = new QStandardItem(names.back() + QStringLiteral("  ·  ") + QString::fromLatin1(variable.meaning));
        item->setData(names.back(), Qt::UserRole);
        model->appendRow(item);
    }
    m_names->setText(tr("Names: %1").arg(names.join(QStringLiteral(", "))));
}

void CriterionEditor::showValues() {
    const Criterion criterion = typed();
    const auto setWords = [this](const QString& words, bool isWrong) {
        m_values->setText(words);
        Q_EMIT wordsChanged();
        m_values->setStyleSheet(isWrong ? QStringLiteral("color: %1;").arg(theme().brick.name()) : QString());
    };
    m_done->setEnabled(m_index.has_value());
    if (criterion.quantity.empty()) {
        setWords(tr("Type a formula of the names below, for example abs(error) or cv."), false);
        return;
    }
    const auto values =
        criterionValues(m_workspace.batch(), m_workspace.wholeEvaluation(), m_workspace.analyteNumber(), criterion);
    if (!values) {
        setWords(text(values.error().message), true);
        return;
    }
    const bool hasLimit = parseTyped(m_limit->text().toStdString()).has_value();
    m_done->setEnabled(m_index || (hasLimit && !criterion.title.empty()));
    QStringList met;
    QStringList missed;
    for (const CriterionValue& one : *values) {
        const QString number = one.value ? shown(formatFigures(*one.value, 3)) : notDefined();
        (hasLimit && !one.isMet ? missed : met) << (one.name.empty() ? number : text(one.name) + u' ' + number);
    }
    const QString dot = QStringLiteral(" · ");
    QStringList lines;
    if (!missed.isEmpty()) {
        lines << tr("Not met in %1 of %2: %3").arg(missed.size()).arg(values->size()).arg(missed.join(dot));
    }
    if (!met.isEmpty()) {
        lines << (hasLimit ? tr("Met: %1") : tr("Now: %1")).arg(met.join(dot));
    }
    setWords(lines.isEmpty() ? tr("There is nothing here it applies to yet.") : lines.join(u'\n'), false);
}

} // namespace nuvat
