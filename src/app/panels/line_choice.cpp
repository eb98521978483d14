#include "panels/line_choice.h"

#include "nuvat/report/theme.h"
#include "widgets/controls.h"

#include <QVBoxLayout>

namespace nuvat {

LineChoice::LineChoice(Workspace& workspace, QWidget* parent) : QWidget(parent), m_workspace(workspace) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    column->addWidget(makeLabel(tr("Line of"), "small", this));
    m_choice = new Choice(this);
    m_choice->setObjectName(QStringLiteral("lineOf"));
    m_choice->setAccessibleName(tr("Sample whose line is shown"));
    m_choice->setMinimumWidth(150);
    column->addWidget(m_choice);
    connect(m_choice, &QComboBox::activated, this, [this](int index) {
        m_workspace.selectGroup({Role::Unknown, m_choice->itemData(index).toInt()});
    });
    hide();
}

void LineChoice::refresh() {
    const auto& lines = m_workspace.evaluation().additions;
    setVisible(!lines.empty());
    m_choice->clear();
    for (const AdditionLine& line : lines) {
        m_choice->addItem(text(fullName(m_workspace.batch(), {Role::Unknown, line.sample})), line.sample);
        if (line.sample == m_workspace.curve().shownSample) {
            m_choice->setCurrentIndex(m_choice->count() - 1);
        }
    }
}

} // namespace nuvat
