#pragma once

#include "kinds/trace/peak_table.h"
#include "panels/page.h"
#include "plots/trace_plot.h"

class QLabel;
class QPushButton;
class QTimer;
class QStackedWidget;

namespace nuvat {

class AcquireCard;
class Acquisition;
class Card;
class Choice;
class RunStrip;
class Segments;
class TraceWall;

/// How several traces lie over each other.
enum class OverlayMode { AsMeasured, Offset, Stacked, Normalised, Difference };

/// What the instrument gave, run by run: one trace, several over each other, or a wall of small ones.
class TraceDataPage : public Page {
    Q_OBJECT
public:
    TraceDataPage(Workspace& workspace, QWidget* parent);
    QString keysHint() const override;
    QString facts() const override;
    QWidget* mainWidget() const override;
    std::vector<PageAction> actions() override;
    void copy() const override; ///< the peak table
    bool escape() override;
    QWidget* picture() const override;
    TracePlot* plot() const { return m_plot; }

protected:
    void showEvent(QShowEvent* event) override;

private:
    enum class Show { One, Overlay, Wall };
    QWidget* makeTop();
    QWidget* makeOverlayBar(QWidget* parent);
    QWidget* makeWallBar(QWidget* parent);
    void makeWall(QWidget* parent);
    void show(Show what);
    void refresh() override;
    void followSelection() override;
    void followLook();
    void showTraces();
    std::vector<PlottedTrace> overlaid() const;
    void setUpOverlay(std::vector<PlottedTrace>& traces) const;
    std::vector<Place> runsShown() const;
    void fillChannels();
    void showInstrument(bool isShown);
    void showLive();

    TraceLook& m_look;
    Acquisition& m_acquisition;
    AcquireCard* m_acquire;
    QPushButton* m_instrument;
    QTimer* m_live; ///< frames of a run that grows
    Show m_what = Show::One;
    bool m_isLookStale = false;
    Choice* m_channel;
    Segments* m_mode;
    QWidget *m_overlayBar, *m_wallBar;
    Choice* m_overlay;
    RunStrip* m_strip;
    QStackedWidget* m_stack;
    TracePlot* m_plot;
    TraceWall* m_wall = nullptr;
    PeakTable* m_peaks;
    Card* m_table;
    QLabel *m_title, *m_page;
};

} // namespace nuvat
