#pragma once

#include "models/columns_model.h"
#include "nuvat/workflow/trace_import.h"

#include <QWidget>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace nuvat {

class Choice;
class DataTable;
class Segments;
class TracePlot;

/// Says what was understood of files of traces before anything of them is imported, and lets it be corrected: which
/// column is x, what columns are called and measured in, whether they are channels or runs.
class TraceImportPage : public QWidget {
    Q_OBJECT
public:
    explicit TraceImportPage(QWidget* parent);
    /// @param files what was read; @param batch that is open, or nullptr: its method's recipe is where it begins
    /// @param unread sentences about files that could not be read; @param waiting how many files are previewed after it
    void show(std::vector<TraceFile> files, const Batch* batch, const QStringList& unread, int waiting);
    /// The runs as they are shown now.
    const std::vector<ImportedRun>& runs() const { return m_runs; }
    const TraceRecipe& recipe() const { return m_recipe; }

Q_SIGNALS:
    void accepted();
    void rejected();

private:
    QWidget* makeHead();
    QWidget* makeColumns();
    std::vector<ColumnSpec> columnSpecs();
    ColumnRecipe columnAt(int row) const;
    bool correct(int row, const std::function<void(ColumnRecipe&)>& edit);
    void understand();
    void fillNames();
    void showTraces();
    QString understoodText() const;
    const FileContent* content() const { return m_files.empty() ? nullptr : &m_files.front().content; }

    std::vector<TraceFile> m_files;
    TraceRecipe m_recipe;
    std::vector<ImportedRun> m_runs;
    std::vector<std::string> m_names; ///< of the columns of the first file
    QStringList m_unread;
    QLabel *m_title, *m_understood, *m_note, *m_header, *m_warnings;
    Choice *m_x, *m_namedBy;
    Segments* m_columnsAre;
    QWidget *m_xRow, *m_columnsAreRow, *m_namedByRow;
    ColumnsModel* m_model;
    DataTable* m_table;
    TracePlot* m_plot;
    QPushButton* m_accept;
};

} // namespace nuvat
