#pragma once

#include "models/columns_model.h"

#include <QTableView>

namespace nuvat {

/// A table in our style over a ColumnsModel: rows are selected, Ctrl+C copies them with their headings as
/// tab-separated text, Enter or double-click edits.
class DataTable : public QTableView {
    Q_OBJECT
public:
    DataTable(ColumnsModel* model, const QString& objectName, QWidget* parent);
    /// Selected rows, or all of them when none is, as tab-separated text with headings.
    QString copyText() const;
    void setRowHeight(int pixels);
    /// Which columns are shown; all are copied.
    void showColumns(const std::vector<bool>& isShown);
    /// Headings can be dragged to another place; the owner then gives the model its columns in that order.
    void setColumnsMovable();
    std::vector<int> columnOrder() const; ///< columns of the model as they stand
    void forgetMoves();                   ///< columns stand as the model has them
    /// Shows a row as selected without telling rowChosen.
    void showRow(int row);

Q_SIGNALS:
    void rowChosen(int row);
    void rowHovered(int row); ///< -1 when the pointer leaves
    void columnMoved();

protected:
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void leaveEvent(QEvent* event) override;

private:
    int wantedWidth(int column) const;
    void distribute();
    ColumnsModel* m_model;
    bool m_isShowing = false;
    bool m_isOrdering = false;
};

} // namespace nuvat
