#pragma once

#include "models/columns_model.h"
#include "panels/page.h"

class QCheckBox;
class QLabel;

namespace nuvat {

class DataTable;
class CarrierView;
class Choice;
class Switch;

/// What goes into the curve: blank-corrected responses by well, and mean, SD and CV of each replicate group.
class ResponsePage : public Page {
    Q_OBJECT
public:
    ResponsePage(Workspace& workspace, QWidget* parent);
    QWidget* mainWidget() const override;
    QString keysHint() const override { return tr("Ctrl+C copy · arrows move · X exclude"); }
    QString facts() const override;
    void copy() const override;

private:
    const GroupValue& groupAt(int row) const;
    std::vector<ColumnSpec> columnsOfGroups();
    QWidget* makeGroups();
    QLayout* makeTop();
    void change(const std::function<void(Method&, Analyte&)>& edit);
    void refresh() override;
    void followSelection() override;
    CarrierView* m_plate;
    Switch* m_subtract;
    QLabel* m_blank;
    Choice *m_blankBy, *m_percent;
    ColumnsModel* m_groups;
    DataTable* m_table;
};

} // namespace nuvat
