#pragma once

#include "panels/page.h"

class QButtonGroup;
class QLabel;
class QLineEdit;
class QPushButton;

namespace nuvat {

class Choice;
class ColumnsModel;
class DataTable;
class CarrierView;
class SeriesPicture;

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
    void copy() const override; ///< the layout as a matrix of place names
    /// The role's key or button: assigns it to the selection, or takes it as the brush when nothing is selected.
    void useRole(Role role);
    /// Takes a pasted column: concentrations when the picture of the levels has the focus, names otherwise.
    bool paste(const QString& column) override;
    CarrierView* plate() const { return m_plate; }

private:
    /// Gives places a role, and offers the way back or on where much went or a gap came.
    void assign(const std::vector<Place>& places, Role role);
    void fillTheRest();
    void pasteNames(const QString& names);
    std::size_t groupsAt(const std::vector<Place>& places) const;
    Direction direction() const;
    void refresh() override;
    void followSelection() override;
    void applySeries();
    void showSeries();
    QWidget* makeToolRow();
    QWidget* makeSeriesCard();
    QWidget* makeSamplesCard();
    Assignment sampleAt(int row) const;

    CarrierView* m_plate = nullptr;
    std::vector<QPushButton*> m_roles;
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
    ColumnsModel* m_samples = nullptr;
    DataTable* m_samplesTable = nullptr;
    QLabel* m_sampleCount = nullptr;
};

} // namespace nuvat
