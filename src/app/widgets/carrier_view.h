#pragma once

#include "widgets/plate_view.h"
#include "widgets/run_list_view.h"

class QButtonGroup;
class QHBoxLayout;
class QStackedLayout;

namespace nuvat {

/// The carrier that is shown: a plate or a list of runs, with a switch above it where the batch has several. What a
/// page does with places it does through this, whatever they lie on.
class CarrierView : public QWidget {
    Q_OBJECT
public:
    /// @param name of the plate's widget; the list's is `name` + "List"
    CarrierView(Workspace& workspace, PlateView::Mode mode, const QString& name, QWidget* parent);

    void setMode(PlateView::Mode mode) { m_plate->setMode(mode); }
    void setScale(std::optional<double> low, std::optional<double> high);
    std::optional<std::pair<double, double>> valueRange() const;
    void setBrush(std::optional<Role> brush);
    std::optional<Role> brush() const { return m_plate->brush(); }
    PlateView* plate() const { return m_plate; }
    RunListView* list() const { return m_list; }
    /// The one that is shown, for the keyboard.
    QWidget* shown() const;

Q_SIGNALS:
    void painted(const std::vector<nuvat::Place>& places);

private:
    void follow();
    Workspace& m_workspace;
    QWidget* m_bar;
    QHBoxLayout* m_buttons;
    QStackedLayout* m_stack;
    PlateView* m_plate;
    RunListView* m_list;
    std::vector<QString> m_titles; ///< of the buttons
};

} // namespace nuvat
