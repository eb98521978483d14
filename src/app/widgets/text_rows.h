#pragma once

#include "nuvat/batch/evaluation.h"

#include <memory>
#include <optional>
#include <QString>
#include <QWidget>
#include <vector>

class QTextLayout;

namespace nuvat {

/// One paragraph of a TextRows.
struct TextRow {
    enum class Kind {
        Heading,
        Value,
        Small,
        Mute,
        Result,    ///< the number a step ends in
        Strong,    ///< several of them
        Highlight, ///< a sentence that asks for a look, on a tint
        Check,     ///< with `right` and the mark of `outcome` beside it
    };
    Kind kind = Kind::Value;
    QString text;
    QString right;
    std::optional<Outcome> outcome;
    int above = 4;          ///< free space over it
    bool isStep = false;    ///< stands beside the line that ties steps together
    bool opensStep = false; ///< with a ring on that line
    bool operator==(const TextRow&) const = default;
};

/// Paragraphs below each other, painted rather than made of labels: a list that changes with each click is laid out in
/// a millisecond. Rows that stay the same keep their layout. Text is selected with the mouse within a row and copied
/// with Ctrl+C or the context menu.
class TextRows : public QWidget {
    Q_OBJECT
public:
    explicit TextRows(QWidget* parent);
    ~TextRows() override;

    void setRows(std::vector<TextRow> rows);
    QString plainText() const; ///< line by line
    /// Area of the text of the first row that reads like this; lets tests click it. Empty when there is none.
    QRectF areaOf(const QString& text) const;

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Laid;
    struct Mark {
        std::size_t row = 0;
        int from = 0, to = 0; ///< positions in its text
    };
    void layOut();
    void drawRow(QPainter& painter, std::size_t index) const;
    std::optional<std::pair<std::size_t, int>> positionAt(QPointF point) const;
    QString selectedText() const;
    void copySelected() const;
    void mark(std::optional<Mark> mark);

    std::vector<TextRow> m_rows;
    std::vector<Laid> m_laid; ///< one for each row
    int m_laidWidth = -1;
    std::optional<Mark> m_mark;
};

} // namespace nuvat
