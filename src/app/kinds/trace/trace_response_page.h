#pragma once

#include "kinds/trace/peak_table.h"
#include "panels/page.h"
#include "plots/trace_plot.h"

class QHBoxLayout;
class QLabel;
class QPushButton;

namespace nuvat {

class PeakRuleSettings;
class RunReviewView;
class RunStrip;
class Segments;
class SignalSettings;
class TimePlot;
class TraceTools;
enum class ApplyTo;

/// From traces to responses: what is found in each run, with base lines, starts and ends to drag, and the rules by
/// which it is found at the right.
class TraceResponsePage : public Page {
    Q_OBJECT
public:
    TraceResponsePage(Workspace& workspace, QWidget* parent);
    QString keysHint() const override;
    QString facts() const override;
    bool factsComeFirst() const override { return isReview(); } ///< statistics of the runs that are shown
    QWidget* mainWidget() const override;
    QWidget* settings() const override { return m_settings; }
    void enterSettings() override;
    std::vector<PageAction> actions() override;
    void copy() const override; ///< the peak table, and what the markers say
    bool escape() override;     ///< puts the tool down
    bool next() override;       ///< the next run to look at
    QWidget* picture() const override { return m_plot; }
    TracePlot* plot() const { return m_plot; }
    bool isReview() const; ///< all runs are shown

protected:
    void showEvent(QShowEvent* event) override;

private:
    QWidget* makeChips();
    QWidget* makeOneRun();
    void showReview(bool isReview);
    QWidget* makeTables();
    void makeSettings();
    void useTool(TraceTool tool);
    void draw(const PeakEdit& edit);
    void ignore(const Stretch& stretch);
    void takePeaksOfRun();
    void takeBack();
    void choosePeak(double apex);
    void toggleMarkers();
    void showMarkers();
    QString markerText() const;
    std::vector<Slot> slotsFor(ApplyTo to) const;
    void refresh() override;
    void followSelection() override;
    void followLook();
    void showRun();
    void showBelow();
    void fillChips();
    void stepAnalyte(int by);

    TraceLook& m_look;
    bool m_isLookStale = false;
    Segments* m_mode;
    QWidget* m_oneRun;
    RunReviewView* m_review;
    QHBoxLayout* m_chips;
    std::vector<QString> m_chipNames;
    TraceTools* m_tools;
    QPushButton *m_take, *m_back;
    RunStrip* m_strip;
    QLabel *m_markerLine, *m_facts;
    TracePlot* m_plot;
    PeakTable* m_peaks;
    TimePlot* m_times;
    Segments* m_below;
    QWidget* m_settings;
    PeakRuleSettings* m_rule;
    SignalSettings* m_signal;
};

} // namespace nuvat
