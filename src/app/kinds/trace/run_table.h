#pragma once

#include "kinds/trace/trace_look.h"

#include <QAbstractScrollArea>

namespace nuvat {

/// Which runs a review shows.
enum class RunFilter { All, Standards, Qcs, Unknowns, Blanks, ToLookAt };

/// Every analyte in every run: a line an analyte, a column a run, in each cell one quantity. Cells that ask for a look,
/// are excluded, not found or drawn by hand are told apart by a mark. One cell is the current one: its run is selected,
/// its analyte shown.
class RunTable : public QAbstractScrollArea {
    Q_OBJECT
public:
    RunTable(Workspace& workspace, QWidget* parent);
    void setQuantity(RunQuantity quantity);
    RunQuantity quantity() const { return m_quantity; }
    void setFilter(RunFilter filter);
    const std::vector<Place>& runs() const { return m_runs; } ///< those that are shown
    std::size_t countOf(RunFilter filter) const;
    /// What a cell says: a number, "not found", "–".
    QString cellText(int analyte, Place place) const;
    QRect cellRect(int analyte, Place place) const; ///< empty where it is scrolled away
    /// All cells with headings, tab-separated.
    QString copyText() const;
    /// n, mean, SD and RSD of the analyte shown over the selected runs, or all that are shown.
    QString statistics() const;
    QSize sizeHint() const override { return {500, 230}; }
    int contentHeight() const;

Q_SIGNALS:
    void activated();       ///< Enter or a double-click: look at that run alone
    void pageAsked(int by); ///< PgUp, PgDn
    void shownChanged();    ///< other runs or another quantity

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool viewportEvent(QEvent* event) override;

private:
    struct Cell {
        int analyte;
        std::size_t column;
    };
    void follow();
    void setBars();
    bool isShown(Place place, RunFilter filter) const;
    std::optional<Cell> cellAt(QPoint position) const;
    std::optional<std::size_t> currentColumn() const;
    void choose(int analyte, std::ptrdiff_t column);
    void reveal();
    QRect rectOf(int analyte, std::size_t column) const;
    void drawHead(QPainter& painter, std::size_t column) const;
    void drawName(QPainter& painter, int analyte) const;
    void drawCell(QPainter& painter, int analyte, std::size_t column) const;
    std::optional<double> shareOf(int analyte, double value) const;

    Workspace& m_workspace;
    TraceLook& m_look;
    RunQuantity m_quantity = RunQuantity::Concentration;
    RunFilter m_filter = RunFilter::All;
    std::vector<Place> m_runs;
    std::vector<std::pair<double, double>> m_ranges; ///< one an analyte: the ends of its tint
};

} // namespace nuvat
