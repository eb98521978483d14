#pragma once

#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

class Choice;

/// Whose line is shown, where each sample has one by standard addition; hidden else.
class LineChoice : public QWidget {
    Q_OBJECT
public:
    LineChoice(Workspace& workspace, QWidget* parent);
    void refresh();

private:
    Workspace& m_workspace;
    Choice* m_choice;
};

} // namespace nuvat
