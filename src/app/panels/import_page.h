#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/formats/plate_file.h"
#include "session/workspace.h"

#include <QWidget>

class QLabel;
class QPushButton;

class QLineEdit;
class QVBoxLayout;

namespace nuvat {

class ColumnsModel;
class Choice;
class DataTable;
class Switch;
class ImportPlate;

/// Says what was understood of a file before anything of it is imported.
class ImportPage : public QWidget {
    Q_OBJECT
public:
    explicit ImportPage(QWidget* parent);
    /// @param batch that is open, or nullptr; @param carrier that it shows
    /// @param follows whether another file of the same drop went before; @param waiting how many are previewed after it
    void show(std::vector<PlateImport> reads, const Batch* batch, int carrier, bool follows, int waiting);
    /// The reads that are taken, as they belong together: those of one plate or list. A read name that comes again
    /// begins the next plate.
    std::vector<std::vector<PlateImport>> plates() const;
    /// Where the first of them goes; the others are new plates.
    int target() const;
    /// A recipe with what was corrected here.
    PlateRecipe corrected(const PlateRecipe& recipe) const;

Q_SIGNALS:
    void accepted();
    void rejected();

private:
    void makeChoices(QVBoxLayout* layout, QWidget* parent);
    void fillTargets(const Batch* batch, int carrier, bool follows);
    void showRead();
    std::vector<PlateImport> m_reads;
    std::vector<std::string> m_keys; ///< of each read, as the file has it
    std::vector<bool> m_isTaken;     ///< of each read
    std::vector<int> m_targets;      ///< carrier of each item of the list; 0: a new one
    QWidget *m_readRow, *m_targetRow;
    Choice *m_read, *m_target;
    Switch* m_take;
    QLineEdit* m_name;
    QLabel *m_title, *m_takeWord;
    QLabel* m_understood;
    QLabel* m_headings;
    QLabel* m_warnings;
    QLabel* m_note;
    ImportPlate* m_plate;
    QPushButton* m_accept;
};

} // namespace nuvat
