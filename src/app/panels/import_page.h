#pragma once

#include "nuvat/formats/plate_file.h"
#include "session/workspace.h"

#include <QWidget>

class QLabel;
class QPushButton;

namespace nuvat {

class ColumnsModel;
class DataTable;
class ImportPlate;

/// Says what was understood of a file before anything of it is imported.
class ImportPage : public QWidget {
    Q_OBJECT
public:
    explicit ImportPage(QWidget* parent);
    /// @param waiting how many files are previewed after this one
    void show(PlateImport import, bool hasBatch, int waiting);
    const PlateImport& import() const { return m_import; }

Q_SIGNALS:
    void accepted();
    void rejected();

private:
    PlateImport m_import;
    QLabel* m_title;
    QLabel* m_understood;
    QLabel* m_headings;
    QLabel* m_warnings;
    QLabel* m_note;
    ImportPlate* m_plate;
    QPushButton* m_accept;
};

} // namespace nuvat
