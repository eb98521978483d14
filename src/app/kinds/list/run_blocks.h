#pragma once

#include "nuvat/batch/run_list.h"
#include "session/workspace.h"

#include <QAbstractScrollArea>
#include <set>

namespace nuvat {

/// A run list as blocks that are dragged into place: a heading moves its block, a row its run or the runs that are
/// selected. Alt with up and down moves them by keyboard, Delete takes planned runs off the list.
class RunBlocks : public QAbstractScrollArea {
    Q_OBJECT
public:
    RunBlocks(Workspace& workspace, QWidget* parent);
    void refresh();
    void setSeconds(std::optional<double> byRun); ///< from one injection to the next, where it is known
    /// Areas in viewport(): of the heading of a block, by its number from 0, and of a run; empty where it is folded
    /// away.
    QRect headingRect(std::size_t block) const;
    QRect rowRect(int row) const;
    const std::vector<RunBlock>& blocks() const { return m_blocks; }
    void moveBy(int by);   ///< what is selected, one row up (-1) or down
    void removeSelected(); ///< planned runs
    void bringUp(int row); ///< scrolls to a run that cannot be seen

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

private:
    /// A line of the view: the heading of a block, or one of its runs.
    struct Line {
        std::size_t block = 0;
        std::optional<int> row; ///< absent: the heading
        int top = 0;            ///< where it stands, not scrolled
    };
    /// Runs that move together.
    struct Moved {
        int first = 0, count = 0;
    };
    std::optional<std::size_t> lineAt(QPoint position) const;
    QRect lineRect(std::size_t line) const;
    int rowBefore(QPoint position) const; ///< row that what is dropped there comes to stand before
    Moved selected() const;               ///< the runs of the selection that follow each other; a count of 0: none
    bool isFolded(std::size_t block) const { return m_folded.contains(m_blocks[block].first); }
    void fold(std::size_t block);
    void select(int first, int count);
    void move(Moved what, int before);
    void drawHeading(QPainter& painter, QRect area, std::size_t block) const;
    void drawRun(QPainter& painter, QRect area, int row) const;

    Workspace& m_workspace;
    std::vector<RunBlock> m_blocks;
    std::vector<Line> m_lines;
    std::set<int> m_folded; ///< by the first row of the block
    std::optional<double> m_seconds;
    std::optional<QPoint> m_pressed;
    std::optional<Moved> m_dragged;
    std::optional<int> m_dropBefore;
};

/// Words for a block: "Standards", "Blank".
QString blockTitle(const Batch& batch, int carrier, const RunBlock& block);
/// "7 h 21 min"
QString spanText(double seconds);

/// When runs are measured, as bars on the time of the day.
class RunTimeline : public QWidget {
    Q_OBJECT
public:
    RunTimeline(Workspace& workspace, QWidget* parent);
    void setSeconds(std::optional<double> byRun); ///< from one injection to the next, where it is known
    QSize sizeHint() const override { return {400, 46}; }

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    Workspace& m_workspace;
    std::optional<double> m_seconds;
};

} // namespace nuvat
