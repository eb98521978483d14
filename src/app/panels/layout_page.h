#pragma once

#include "panels/page.h"

class QButtonGroup;
class QCheckBox;
class QLabel;
class QLineEdit;
class QMenu;
class QPushButton;
class QStackedWidget;

namespace nuvat {

class Choice;
class CarrierView;
class PlanView;
class SamplesCard;
class Segments;
class SeriesPicture;
class SeriesTable;

/// What sits in each well: roles painted onto the plate, the standard series, samples with names and dilutions.
class LayoutPage : public Page {
    Q_OBJECT
public:
    LayoutPage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override;
    QString facts() const override;
    bool factsComeFirst() const override; ///< while a brush is in hand
    std::vector<PageAction> actions() override;
    bool escape() override;     ///< puts the brush down
    void copy() const override; ///< the selected part of the layout, or all of it, as a matrix of place names
    /// The role's key or button: assigns it to the selection, or takes it as the brush when nothing is selected.
    /// @param isFurther of Role::Unknown: as further dilutions of the samples there are
    void useRole(Role role, bool isFurther = false);
    /// Takes a pasted part of a layout, or a column: concentrations when the picture of the levels has the focus, names
    /// otherwise.
    bool paste(const QString& column) override;
    CarrierView* plate() const { return m_plate; }
    /// Of a run list: how standards are made and runs are ordered, in place of levels and names.
    void showPlan(bool isShown);
    bool isPlanShown() const;

private:
    /// Gives places a role, and offers the way back or on where much went or a gap came.
    void assign(const std::vector<Place>& places, Role role, bool isFurther);
    void fillTheRest();
    std::size_t groupsAt(const std::vector<Place>& places) const;
    Direction direction() const;
    void refresh() override;
    void followSelection() override;
    void applySeries();
    void showSeries();
    QWidget* makeLevels();
    QWidget* makeToolRow();
    QWidget* makeSeriesCard();
    QWidget* makeOtherRoles(QWidget* parent);
    QWidget* makeArrange(QWidget* parent);
    void fillArrangeMenu(QMenu* menu);
    void addArrangeActions(std::vector<PageAction>& actions);
    void mirror(int how);
    void move(int rows, int columns);
    void showAnchor();
    void toggleAnchor();

    void followCarrier();

    Segments* m_views = nullptr; ///< of a run list
    QStackedWidget* m_stack = nullptr;
    PlanView* m_plan = nullptr;
    CarrierView* m_plate = nullptr;
    std::vector<QPushButton*> m_roles;
    QPushButton* m_others = nullptr;
    bool m_isFurther = false; ///< the brush paints further dilutions
    QPushButton* m_fill = nullptr;
    Choice* m_replicates = nullptr;
    Choice* m_direction = nullptr;
    QLineEdit* m_analyte = nullptr;
    QLineEdit* m_unit = nullptr;
    QLabel* m_ends = nullptr;
    QLineEdit* m_first = nullptr;
    Choice* m_step = nullptr;
    QLineEdit* m_factor = nullptr;
    QLineEdit* m_levels = nullptr;
    SeriesPicture* m_picture = nullptr;
    SeriesTable* m_table = nullptr; ///< in its place, for all analytes
    QPushButton* m_all = nullptr;
    QCheckBox* m_anchor = nullptr;
    SamplesCard* m_samples = nullptr;
};

} // namespace nuvat
