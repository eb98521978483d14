#pragma once

#include "session/workspace.h"

#include <QWidget>

class QLineEdit;

namespace nuvat {

/// The levels of the standards as bars with the step between them; a double-click or Enter on a level types its
/// concentration.
class SeriesPicture : public QWidget {
    Q_OBJECT
public:
    SeriesPicture(Workspace& workspace, QWidget* parent);
    QRectF levelRect(int index) const;
    QSize sizeHint() const override { return {420, 104}; }
    QSize minimumSizeHint() const override { return {200, 84}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    std::vector<int> numbers() const;
    void edit(int index);
    Workspace& m_workspace;
    QLineEdit* m_editor;
    int m_current = 0;
    int m_edited = -1;
};

} // namespace nuvat
