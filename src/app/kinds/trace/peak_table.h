#pragma once

#include "kinds/trace/trace_look.h"
#include "widgets/data_table.h"

namespace nuvat {

/// The peaks of the run that is looked at, with what was measured of each.
class PeakTable : public QObject {
    Q_OBJECT
public:
    PeakTable(Workspace& workspace, const QString& name, QWidget* parent);
    DataTable* table() const { return m_table; }
    void refresh();
    /// Marks the row of the analyte shown.
    void showAnalyte();

Q_SIGNALS:
    void chosen(int row);

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void fitColumns();
    std::vector<ColumnSpec> columns();
    const Peak& peak(int row) const;
    QString nameOf(int row) const;
    ColumnSpec numberColumn(const QString& heading, int width, std::function<std::optional<double>(const Peak&)> value,
                            int figures);
    Workspace& m_workspace;
    TraceLook& m_look;
    std::shared_ptr<const MeasuredTrace> m_measured;
    std::vector<int> m_analytes; ///< of each peak; 0: none
    ColumnsModel* m_model;
    DataTable* m_table;
};

/// "cut by the end of the trace; flat top": what is to be said of a peak.
QString remarkText(const Peak& peak);

} // namespace nuvat
