#include "panels/method_form.h"

#include "nuvat/batch/command.h"
#include "theme/style.h"

#include <QVBoxLayout>

namespace nuvat {

MethodForm::MethodForm(Workspace& workspace, const QString& name, bool isOpen, QWidget* parent)
    : QWidget(parent), m_workspace(workspace) {
    setObjectName(name + QStringLiteral("Panel"));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 8);
    layout->setSpacing(2);
    m_title = makeTitle(name + QStringLiteral("Title"), isOpen);
    m_subtitle = makeLabel({}, "small", this);
    m_subtitle->setWordWrap(true);
    layout->addWidget(m_title);
    layout->addWidget(m_subtitle);
    layout->addSpacing(4);
    m_form = new LiveForm(this);
    layout->addWidget(m_form);
    connect(&workspace, &Workspace::changed, this, [this] {
        if (isVisible()) {
            refresh();
        }
    });
}

void MethodForm::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
}

QPushButton* MethodForm::makeTitle(const QString& name, bool isOpen) {
    auto* title = makeButton({}, "fold", name, this);
    title->setCheckable(true);
    title->setChecked(isOpen);
    connect(title, &QPushButton::toggled, this, &MethodForm::showOpen);
    return title;
}

LiveForm* MethodForm::addPart(const QString& name, const QString& title) {
    auto* button = makeTitle(name + QStringLiteral("Title"), false);
    button->setText(title);
    auto* part = new LiveForm(this);
    layout()->addWidget(button);
    layout()->addWidget(part);
    m_parts.emplace_back(button, part);
    return part;
}

void MethodForm::enter() {
    m_title->setChecked(true);
    m_title->setFocus(Qt::ShortcutFocusReason);
}

void MethodForm::setTitle(const QString& title, const QString& subtitle) {
    m_title->setText(title);
    m_subtitle->setText(subtitle);
    showOpen();
}

void MethodForm::showOpen() {
    const bool isOpen = m_title->isChecked();
    const auto mark = [](QPushButton* title) {
        title->setIcon(
            icon(title->isChecked() ? QStringLiteral("chevron-down") : QStringLiteral("chevron-right"), theme().ink));
    };
    mark(m_title);
    m_subtitle->setVisible(isOpen && !m_subtitle->text().isEmpty());
    m_form->setVisible(isOpen);
    for (const auto& [title, part] : m_parts) {
        mark(title);
        title->setVisible(isOpen);
        part->setVisible(isOpen && title->isChecked());
    }
}

bool MethodForm::change(const Edit& edit) {
    Method method = m_workspace.newest().method;
    edit(method, method.analyte(m_workspace.analyteNumber()));
    return m_workspace.apply(setMethod(m_workspace.newest(), method));
}

NumberField* MethodForm::number(LiveForm* form, const char* name, const QString& title, const NumberEdit& edit,
                                const QString& whenEmpty) {
    return numberTaken(
        form, name, title,
        [this, edit](std::optional<double> value) {
            return change([&](Method& method, Analyte& analyte) { edit(method, analyte, value); });
        },
        whenEmpty);
}

NumberField* MethodForm::numberTaken(LiveForm* form, const char* name, const QString& title,
                                     std::function<bool(std::optional<double>)> take, const QString& whenEmpty) {
    NumberField* field = form->number(QString::fromLatin1(name), title, whenEmpty);
    field->take = std::move(take);
    // What is being typed belongs to the batch that goes, not to the next one.
    connect(&m_workspace, &Workspace::aboutToReplace, field, &TextField::commit);
    connect(field, &NumberField::notANumber, this, [this, title](const QString& typed) {
        m_workspace.tell(tr("%1: \"%2\" is not a number; Esc gives back the one that holds.").arg(title, typed), true);
    });
    return field;
}

TextField* MethodForm::line(LiveForm* form, const char* name, const QString& title,
                            std::function<bool(const QString&)> take) {
    TextField* field = form->line(QString::fromLatin1(name), title);
    field->takeText = std::move(take);
    connect(&m_workspace, &Workspace::aboutToReplace, field, &TextField::commit);
    return field;
}

} // namespace nuvat
