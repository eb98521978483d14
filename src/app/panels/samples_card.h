#pragma once

#include "session/workspace.h"
#include "widgets/controls.h"

class QLabel;

namespace nuvat {

class ColumnsModel;
class DataTable;

/// What stands behind the numbers of a layout: QCs and check standards with name and nominal, samples with name and the
/// dilution of each preparation, as they were typed last.
class SamplesCard : public Card {
    Q_OBJECT
public:
    SamplesCard(Workspace& workspace, QWidget* parent);
    /// Shows the batch as it is now.
    void refresh();
    /// Shows the group that is selected.
    void followSelection();
    /// Takes a pasted column of names from the selected sample on.
    void pasteNames(const QString& names);

private:
    Assignment groupAt(int row) const;
    QcSample knownOf(const Batch& batch, Assignment group) const;
    QString nameText(int row) const;
    QString valueText(int row) const;
    bool editName(int row, const QString& typed);
    bool editValue(int row, const QString& typed);
    /// A number of a sample that may be absent.
    struct ColumnSpec numberColumn(const QString& heading, std::optional<double> Sample::*member);
    struct ColumnSpec commentColumn();
    void showColumns();

    Workspace& m_workspace;
    std::vector<Assignment> m_groups;
    ColumnsModel* m_samples = nullptr;
    DataTable* m_table = nullptr;
    QLabel* m_count = nullptr;
};

/// Names the unknowns from the selected one on, else from the first. @param names as pasteSampleNames() takes them
void nameSamples(Workspace& workspace, const std::string& names);

} // namespace nuvat
