#pragma once

#include "models/columns_model.h"
#include "session/workspace.h"

#include <QWidget>

namespace nuvat {

class DataTable;

/// The standard series of all analytes in words: the first level and the step to the next, one analyte a row, typed one
/// below the other.
class SeriesTable : public QWidget {
    Q_OBJECT
public:
    SeriesTable(Workspace& workspace, QWidget* parent);
    void refresh();

private:
    std::vector<ColumnSpec> columns();
    bool setSeriesOf(int analyte, std::optional<double> first, std::optional<double> step);
    bool setName(int row, std::string Analyte::*member, const QString& typed);
    int levels() const;
    Workspace& m_workspace;
    ColumnsModel* m_model;
    DataTable* m_table;
};

/// The series that the levels of an analyte are: the first concentration, and what the next one is divided by (below 1:
/// multiplied). Nothing where they are none.
struct SeriesWords {
    std::optional<double> first, step;
    int levels = 0;
};
SeriesWords seriesOf(const Batch& batch, int analyte);

} // namespace nuvat
