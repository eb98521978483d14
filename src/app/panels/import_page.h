#pragma once

#include "nuvat/batch/batch.h"
#include "nuvat/formats/plate_file.h"
#include "session/workspace.h"

#include <QWidget>

class QGridLayout;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace nuvat {

class Card;
class Choice;
class FileView;
class Switch;
class ImportPlate;

/// What a file of plates offers: its reads, or its cells and why no plate was found in them.
struct ImportOffer {
    std::vector<PlateImport> reads;
    std::shared_ptr<const PlateFile> cells; ///< where there are no reads
    std::optional<Error> error;             ///< the same
    PlateCut cut;                           ///< as which it was read
    bool isPasted = false;                  ///< a block of a person's own: how it is cut is not kept for files
};

/// Shows a file with what was understood of it, before anything of it is imported, and lets it be corrected.
class ImportPage : public QWidget {
    Q_OBJECT
public:
    explicit ImportPage(QWidget* parent);
    /// @param batch that is open, or nullptr; @param carrier that it shows
    /// @param follows whether another file of the same drop went before; @param waiting how many are previewed after it
    void show(ImportOffer offer, const Batch* batch, int carrier, bool follows, int waiting);
    /// The reads that are taken, as they belong together: those of one plate or list. A read name that comes again
    /// begins the next plate.
    std::vector<std::vector<PlateImport>> plates() const;
    /// Where the first of them goes; the others are new plates.
    int target() const;
    /// The recipe with what was corrected here.
    PlateRecipe corrected() const;

Q_SIGNALS:
    void accepted();
    void rejected();

private:
    QWidget* makeHead();
    QWidget* makeFile();
    QWidget* makeSide();
    void makeReadRows(QGridLayout* grid, QWidget* parent);
    void makeCutRows(QGridLayout* grid, QWidget* parent);
    void fillTargets();
    void fillReads();
    void showRead();
    void showCut();
    void showMarked();
    void sayNote();
    std::size_t shownRead() const;
    std::shared_ptr<const PlateFile> shownFile() const;
    void readAgain();
    std::vector<std::shared_ptr<const PlateFile>> files() const;
    Result<std::vector<PlateImport>> readSheets() const;
    void markWells();
    QString toLookAt() const;

    ImportOffer m_offer;                     ///< as it came
    PlateCut m_cut;                          ///< as it is read now
    std::optional<Error> m_error;            ///< why there are no reads
    std::shared_ptr<const PlateFile> m_file; ///< that is shown where there are no reads
    std::vector<PlateImport> m_reads;
    std::vector<std::string> m_keys; ///< of each read, as the file has it
    std::vector<bool> m_isTaken;     ///< of each read
    PlateRecipe m_recipe;
    std::optional<Batch> m_batch;
    int m_carrier = 1, m_waiting = 0;
    bool m_follows = false;
    std::vector<int> m_targets; ///< carrier of each item of the list; 0: a new one
    FileView* m_view;
    std::vector<QWidget*> m_readRow, m_nameRow, m_notationRow, m_targetRow; ///< shown or hidden together
    Choice *m_read, *m_target, *m_separator, *m_decimal;
    Switch* m_take;
    QLineEdit *m_name, *m_unit;
    QLabel *m_title, *m_understood, *m_note, *m_wells, *m_warnings;
    ImportPlate* m_plate;
    QPushButton *m_accept, *m_fromCell, *m_mark, *m_asFound;
};

} // namespace nuvat
