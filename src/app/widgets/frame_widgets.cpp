#include "widgets/frame_widgets.h"

#include "theme/style.h"
#include "widgets/controls.h"

#include <QAbstractItemView>
#include <QCompleter>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QListView>
#include <QStandardItemModel>
#include <QStyle>
#include <QTimer>
#include <utility>

namespace nuvat {

Finder::Finder(std::function<std::vector<Finding>()> find, QWidget* parent)
    : QLineEdit(parent), m_find(std::move(find)), m_model(new QStandardItemModel(this)) {
    setObjectName(QStringLiteral("finder"));
    setPlaceholderText(tr("Find an action, sample or well   Ctrl+K"));
    setAccessibleName(tr("Find an action, sample or well"));
    setClearButtonEnabled(false);
    auto* completer = new QCompleter(m_model, this);
    completer->setFilterMode(Qt::MatchContains);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setMaxVisibleItems(10);
    auto* view = new QListView;
    completer->setPopup(view);
    setCompleter(completer);
    connect(completer, qOverload<const QModelIndex&>(&QCompleter::activated), this, [this](const QModelIndex& index) {
        const int which = index.data(Qt::UserRole).toInt();
        QTimer::singleShot(0, this, [this, which] { go(which); }); // after the completer has put its text in
    });
}

void Finder::focusInEvent(QFocusEvent* event) {
    QLineEdit::focusInEvent(event);
    // The list of findings takes and gives back the focus while someone types; that is no new search.
    if (event->reason() == Qt::PopupFocusReason || event->reason() == Qt::ActiveWindowFocusReason) {
        return;
    }
    m_findings = m_find();
    m_model->clear();
    for (std::size_t i = 0; i < m_findings.size(); ++i) {
        const Finding& finding = m_findings[i];
        auto* item = new QStandardItem(finding.hint.isEmpty() ? finding.text
                                                              : finding.text + QStringLiteral("   ") + finding.hint);
        item->setData(static_cast<int>(i), Qt::UserRole);
        m_model->appendRow(item);
    }
    selectAll();
}

void Finder::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape) {
        clear();
        clearFocus();
        return;
    }
    // Enter without a choice from the list takes the first that fits.
    if ((event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) && !text().isEmpty()) {
        for (std::size_t i = 0; i < m_findings.size(); ++i) {
            if (m_model->item(static_cast<int>(i))->text().contains(text(), Qt::CaseInsensitive)) {
                completer()->popup()->hide();
                go(static_cast<int>(i));
                return;
            }
        }
    }
    QLineEdit::keyPressEvent(event);
}

void Finder::go(int index) {
    clear();
    clearFocus();
    if (index >= 0 && index < static_cast<int>(m_findings.size())) {
        const auto run = m_findings[static_cast<std::size_t>(index)].go;
        run();
    }
}

NoticeBar::NoticeBar(QWidget* parent) : QFrame(parent), m_timer(new QTimer(this)) {
    setObjectName(QStringLiteral("notice"));
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 6, 8, 6);
    m_label = makeLabel({}, "value", this);
    m_label->setObjectName(QStringLiteral("noticeText"));
    m_label->setWordWrap(true);
    m_label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    layout->addWidget(m_label, 1);
    m_action = makeButton({}, "normal", QStringLiteral("noticeAction"), this);
    m_action->hide();
    layout->addWidget(m_action, 0, Qt::AlignTop);
    connect(m_action, &QPushButton::clicked, this, [this] {
        hide();
        if (const auto action = std::exchange(m_offered, {})) {
            action();
        }
    });
    m_button = makeButton(tr("Close"), "normal", QStringLiteral("noticeClose"), this);
    layout->addWidget(m_button, 0, Qt::AlignTop);
    m_timer->setSingleShot(true);
    connect(m_timer, &QTimer::timeout, this, &QWidget::hide);
    connect(m_button, &QPushButton::clicked, this, [this] {
        if (m_isBusy && m_cancel) {
            m_cancel();
        }
        m_isBusy = false;
        hide();
    });
    hide();
}

void NoticeBar::tell(const QString& sentence, bool isError) {
    const Theme& t = theme();
    m_isBusy = false;
    m_label->setText(sentence);
    dropOffer();
    m_button->setText(tr("Close"));
    setStyleSheet(QStringLiteral("#notice { background: %1; border-left: 4px solid %2; }")
                      .arg((isError ? t.brickSoft : t.pineSoft).name(), (isError ? t.brick : t.pine).name()));
    show();
    if (isError) {
        m_timer->stop();
    } else {
        m_timer->start(6000);
    }
}

void NoticeBar::offer(const QString& sentence, const QString& buttonText, std::function<void()> action) {
    tell(sentence, false);
    m_offered = std::move(action);
    m_action->setText(buttonText);
    m_action->show();
    m_timer->start(20000);
}

void NoticeBar::withdrawOffer() {
    if (m_offered) {
        dropOffer();
        hide();
    }
}

void NoticeBar::dropOffer() {
    m_offered = nullptr;
    m_action->hide();
}

void NoticeBar::busy(const QString& what, std::function<void()> cancel) {
    const Theme& t = theme();
    m_isBusy = true;
    m_cancel = std::move(cancel);
    m_label->setText(what);
    dropOffer();
    m_button->setText(tr("Cancel"));
    setStyleSheet(QStringLiteral("#notice { background: %1; border-left: 4px solid %2; }")
                      .arg(t.slateSoft.name(), t.slate.name()));
    m_timer->stop();
    show();
}

void NoticeBar::done() {
    if (m_isBusy) {
        m_isBusy = false;
        hide();
    }
}

QString NoticeBar::sentence() const {
    return isHidden() ? QString() : m_label->text();
}

StatusLine::StatusLine(QWidget* parent) : QFrame(parent) {
    setObjectName(QStringLiteral("statusLine"));
    setFixedHeight(frame::kStatus);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(14, 0, 14, 0);
    m_facts = makeLabel({}, "small", this);
    m_facts->setObjectName(QStringLiteral("statusFacts"));
    m_keys = makeLabel({}, "small", this);
    layout->addWidget(m_facts, 1);
    layout->addWidget(m_keys);
}

void StatusLine::show(const QString& facts, const QString& keys) {
    m_facts->setText(facts);
    m_keys->setText(keys);
}

QString StatusLine::facts() const {
    return m_facts->text();
}

} // namespace nuvat
