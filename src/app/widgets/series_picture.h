#pragma once

#include "session/workspace.h"

#include <QWidget>

class QLineEdit;

namespace nuvat {

/// The levels of the standards as bars with the step between them. A double-click, Enter or a digit on a level types
/// its concentration; Tab and Enter go on to the next level, Shift+Tab to the one before, Esc leaves it as it was.
class SeriesPicture : public QWidget {
    Q_OBJECT
public:
    SeriesPicture(Workspace& workspace, QWidget* parent);
    QRectF levelRect(int index) const;
    /// Gives the levels from the current one on the concentrations of a pasted column.
    void paste(const QString& column);
    QSize sizeHint() const override { return {420, 104}; }
    QSize minimumSizeHint() const override { return {200, 84}; }

protected:
    bool event(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    std::vector<int> numbers() const;
    void edit(int index);
    bool editorKey(QKeyEvent* event);
    bool commit();
    void closeEditor();
    void goTo(int index);
    Workspace& m_workspace;
    QLineEdit* m_editor;
    int m_current = 0;
    int m_edited = -1;
};

} // namespace nuvat
