#pragma once

#include "plots/trace_plot.h"

class QButtonGroup;
class QLabel;
class QPushButton;

namespace nuvat {

class Choice;

/// Whose traces what is drawn applies to.
enum class ApplyTo { Run, Replicates, All };

/// What can be done to a trace with the mouse, and a line on the run above it.
class TraceTools : public QWidget {
    Q_OBJECT
public:
    explicit TraceTools(QWidget* parent);
    void show(const QString& title);
    void setTool(TraceTool tool);
    void setMarkersOn(bool isOn);
    ApplyTo applyTo() const;

Q_SIGNALS:
    void chosen(nuvat::TraceTool tool); ///< Zoom: the one that was in the hand is put down
    void markersAsked();

private:
    QLabel* m_title;
    QButtonGroup* m_tools;
    QPushButton* m_markers;
    Choice* m_applyTo;
};

} // namespace nuvat
