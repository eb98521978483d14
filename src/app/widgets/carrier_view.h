#pragma once

#include "kinds/reading_kind.h"

#include <map>

class QButtonGroup;
class QHBoxLayout;
class QStackedLayout;

namespace nuvat {

/// The carrier that is shown, in the view of its kind, with a switch above it where the batch has several. What a page
/// does with places it does through this, whatever they lie on.
class CarrierView : public QWidget {
    Q_OBJECT
public:
    /// @param name of the plate's widget; those of other kinds add a word
    CarrierView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent);

    void setMode(ViewMode mode);
    void setQuantity(PlateQuantity quantity);
    void setScale(std::optional<double> low, std::optional<double> high);
    std::optional<std::pair<double, double>> valueRange();
    void setBrush(std::optional<Role> brush);
    std::optional<Role> brush() const { return m_brush; }
    /// The one that is shown, for the keyboard.
    QWidget* shown() const;

Q_SIGNALS:
    void painted(const std::vector<nuvat::Place>& places);

private:
    void follow();
    KindView& view(); ///< of the carrier that is shown
    void makeViews();
    void followNames();
    Workspace& m_workspace;
    ViewMode m_mode;
    PlateQuantity m_quantity = PlateQuantity::Reading;
    QString m_name;
    QWidget* m_bar;
    QHBoxLayout* m_buttons;
    QStackedLayout* m_stack;
    std::map<CarrierKind, KindView*> m_views; ///< those of the kinds that the batch has had
    std::optional<Role> m_brush;
    std::optional<double> m_low;
    std::optional<double> m_high;
    std::vector<QString> m_titles; ///< of the buttons
};

} // namespace nuvat
