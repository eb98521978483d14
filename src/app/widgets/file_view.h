#pragma once

#include "nuvat/formats/plate_file.h"

#include <map>
#include <memory>
#include <optional>
#include <QAbstractScrollArea>
#include <vector>

namespace nuvat {

/// What a cell of a file was understood as.
enum class CellMeaning { Value, Unusable, OfAnotherRead, ColumnNumber, Label, ReadName };

/// A file as it stands, with what was understood painted on it. Cells are marked by dragging, or with the arrows and
/// Shift.
class FileView : public QAbstractScrollArea {
    Q_OBJECT
public:
    explicit FileView(QWidget* parent);
    /// @param file may be null; @param reads found in it; @param shown the one that is emphasised
    void show(std::shared_ptr<const PlateFile> file, const std::vector<PlateImport>& reads, std::size_t shown);
    /// The marked cells; one at least is always marked where there is a file.
    std::optional<CellBlock> marked() const;
    QString markedText() const; ///< of the first marked cell
    /// Where a cell stands in viewport(). @param line, cell 1-based
    QRect cellArea(int line, int cell) const;
    /// What a cell was understood as, in words; empty when as nothing.
    QString meaningText(int line, int cell) const;

Q_SIGNALS:
    void markChanged();
    void taken();                       ///< Enter: the marked cells are the wells
    void readClicked(std::size_t read); ///< a value of another read

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool viewportEvent(QEvent* event) override;

private:
    struct Spot { ///< index of a row of the table, and of a cell in it
        int row = 0;
        int cell = 0;
    };
    struct Mark {
        CellMeaning meaning = CellMeaning::Value;
        std::size_t read = 0;
        double share = 0; ///< of the range of the values
        QString words;
    };
    void understand(const std::vector<PlateImport>& reads, std::size_t shown);
    void markRead(const PlateImport& read, std::size_t index, bool isShown);
    std::string_view cellText(int line, int cell) const;
    void measureColumns();
    void updateBars();
    const Mark* markAt(int line, int cell) const;
    std::optional<Spot> spotAt(const QPoint& at) const;
    QRect areaOf(Spot spot) const; ///< in viewport()
    int rowCount() const { return m_file == nullptr ? 0 : static_cast<int>(m_file->table.rows.size()); }
    int cellCount() const { return static_cast<int>(m_lefts.size()) - 1; }
    void moveTo(Spot spot, bool isExtended);
    void drawRow(QPainter& painter, int row) const;
    void drawCell(QPainter& painter, const QRect& area, const QString& words, const Mark* mark) const;
    void drawHeads(QPainter& painter) const;
    void drawMarked(QPainter& painter) const;

    std::shared_ptr<const PlateFile> m_file;
    std::map<std::pair<int, int>, Mark> m_marks; ///< by line and cell, 1-based
    std::size_t m_shown = 0;
    std::vector<int> m_lefts; ///< of each cell, and the end of the last
    Spot m_from, m_to;        ///< corners of what is marked
};

} // namespace nuvat
