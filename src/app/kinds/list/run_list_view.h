#pragma once

#include "kinds/reading_kind.h"

#include <QAbstractScrollArea>
#include <QLineEdit>

namespace nuvat {

/// A list of runs, one a row: its name, its role, what was read, the response. Selects and paints as the plate does, by
/// dragging and with the same keys; names and typed values are edited in place (F2, Enter, double-click), and a value
/// by typing it.
class RunListView : public QAbstractScrollArea, public KindView {
    Q_OBJECT
public:
    RunListView(Workspace& workspace, QWidget* parent);

    QWidget* widget() override { return this; }
    void setScale(std::optional<double> low, std::optional<double> high) override;
    std::optional<std::pair<double, double>> valueRange() const override;
    void setBrush(std::optional<Role> brush) override;

    /// Columns: number, name, role, each channel, response.
    int columns() const;
    QString cellText(int row, int column) const;
    /// The same of another state of the batch: an edit begins with the newest.
    QString cellText(const Batch& batch, int row, int column) const;
    /// Area of a cell in the coordinates of viewport().
    QRect cellRect(int row, int column) const;
    /// Opens the editor of a cell that can be typed into. @param typed what it begins with; empty: what is there
    void edit(int row, int column, const QString& typed = {});

Q_SIGNALS:
    void painted(const std::vector<nuvat::Place>& places);
    void runActivated(nuvat::Place place);

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override; ///< keys of the editor

private:
    Place at(int row) const { return {row, 0, m_workspace.carrierNumber()}; }
    int rows() const { return m_workspace.carrier().rows; }
    std::optional<int> rowAt(QPoint position) const;
    std::vector<Place> between(int from, int to) const;
    std::vector<QString> channels() const;
    bool isEditable(int column) const;
    /// @param scale ends of the heat
    void drawRow(QPainter& painter, int row, std::pair<double, double> scale) const;
    void drawHeading(QPainter& painter) const;
    void finishDrag();
    void finishEdit(bool isKept);
    void stale();
    void showRow(int row);
    void moveTo(int row, int column, bool extends);

    Workspace& m_workspace;
    std::optional<double> m_low, m_high;
    std::pair<double, double> m_range{0, 0}; ///< of the values, where the scale has no ends of its own
    std::optional<Role> m_brush;
    std::optional<int> m_dragFrom, m_dragTo;
    std::vector<Place> m_before;
    int m_row = 0;
    int m_column = 1;
    QLineEdit* m_editor;
};

} // namespace nuvat
