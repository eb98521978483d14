#include "panels/response_page.h"

#include "models/columns_model.h"
#include "nuvat/core/base/number.h"
#include "theme/style.h"
#include "widgets/carrier_view.h"
#include "widgets/controls.h"
#include "widgets/data_table.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QVBoxLayout>

namespace nuvat {

ResponsePage::ResponsePage(Workspace& workspace, QWidget* parent) : Page(workspace, parent) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(frame::kPage, 12, frame::kPage, 12);
    outer->setSpacing(frame::kGap);
    outer->addLayout(makeTop());

    auto* plateCard = new Card(tr("Responses"), this);
    m_plate = new CarrierView(workspace, ViewMode::Responses, QStringLiteral("responsePlate"), plateCard);
    plateCard->body()->addWidget(m_plate);
    outer->addWidget(plateCard, 6);

    outer->addWidget(makeGroups(), 4);

    connect(m_table, &DataTable::rowChosen, this, [this](int row) { m_workspace.selectGroup(groupAt(row).group); });
    connect(m_table, &DataTable::rowHovered, this, [this](int row) {
        m_workspace.hover(row < 0 || row >= m_groups->rowCount() || groupAt(row).places.empty()
                              ? std::nullopt
                              : std::optional(groupAt(row).places.front()));
    });
}

void ResponsePage::change(const std::function<void(Method&, Analyte&)>& edit) {
    Method method = m_workspace.newest().method;
    edit(method, method.analyte(m_workspace.analyteNumber()));
    m_workspace.apply(setMethod(m_workspace.newest(), method));
}

QLayout* ResponsePage::makeTop() {
    auto* top = new QHBoxLayout;
    m_subtract = new Switch(this);
    m_subtract->setObjectName(QStringLiteral("subtractBlank"));
    m_subtract->setAccessibleName(tr("Subtract the blank"));
    top->addWidget(m_subtract);
    top->addWidget(makeLabel(tr("Subtract the blank"), "value", this));
    m_blankBy = new Choice(this);
    m_blankBy->setObjectName(QStringLiteral("blankBy"));
    m_blankBy->setAccessibleName(tr("Which blanks are subtracted"));
    m_blankBy->addItems({tr("of the plate"), tr("of each row"), tr("of each column")});
    top->addWidget(m_blankBy);
    top->addSpacing(10);
    m_blank = makeLabel({}, "mute", this);
    m_blank->setObjectName(QStringLiteral("blankFacts"));
    top->addWidget(m_blank, 1);
    top->addWidget(makeLabel(tr("Responses"), "mute", this));
    m_percent = new Choice(this);
    m_percent->setObjectName(QStringLiteral("percentOf"));
    m_percent->setAccessibleName(tr("What responses are in percent of"));
    m_percent->addItems({tr("as read"), tr("% of zero standard"), tr("% of highest")});
    top->addWidget(m_percent);
    connect(m_subtract, &QAbstractButton::clicked, this,
            [this](bool isOn) { change([isOn](Method& m, Analyte&) { m.subtractsBlank = isOn; }); });
    connect(m_blankBy, &QComboBox::activated, this,
            [this](int index) { change([index](Method& m, Analyte&) { m.blankBy = static_cast<BlankBy>(index); }); });
    connect(m_percent, &QComboBox::activated, this, [this](int index) {
        change([index](Method&, Analyte& a) { a.percentOf = static_cast<PercentOf>(index); });
    });
    return top;
}

const GroupValue& ResponsePage::groupAt(int row) const {
    return m_workspace.evaluation().groups.at(static_cast<std::size_t>(row));
}

std::vector<ColumnSpec> ResponsePage::columnsOfGroups() {
    const auto number = [](const std::optional<double>& value, int figures) {
        return value ? shown(formatFigures(*value, figures)) : notDefined();
    };
    return {
        {tr("Group"), false, 92, [this](int row) { return text(shortName(m_workspace.batch(), groupAt(row).group)); },
         [this](int row, int role) {
             return role == cell::kShape  ? QVariant(static_cast<int>(groupAt(row).group.role))
                    : role == cell::kBold ? QVariant(true)
                                          : QVariant();
         }},
        {tr("Name or nominal"), false, 0,
         [this](int row) {
             const Assignment which = groupAt(row).group;
             const std::string& unit = m_workspace.analyte().unit;
             const int analyte = m_workspace.analyteNumber();
             if (const auto x = m_workspace.batch().concentration(which.number, analyte);
                 which.role == Role::Standard && x) {
                 return shown(formatFigures(*x, 4) + " " + unit);
             }
             if (const auto x = m_workspace.batch().nominal(which, analyte)) {
                 return shown(formatNumber(*x) + " " + unit);
             }
             const std::string full = fullName(m_workspace.batch(), which);
             return full == shortName(m_workspace.batch(), groupAt(row).group) ? QString() : text(full);
         }},
        {tr("Wells"), false, 168,
         [this](int row) { return text(placeNames(m_workspace.batch().carriers, groupAt(row).places)); }},
        {tr("Used"), true, 76,
         [this](int row) { return tr("%1 of %2").arg(groupAt(row).response.n).arg(groupAt(row).places.size()); },
         [this](int row, int role) {
             return role == cell::kBold ? QVariant(groupAt(row).response.n < groupAt(row).places.size()) : QVariant();
         }},
        {tr("Mean"), true, 82, [this, number](int row) { return number(groupAt(row).response.mean, 4); }},
        {tr("SD"), true, 82, [this, number](int row) { return number(groupAt(row).response.sd, 2); }},
        {tr("CV, %"), true, 74, [this](int row) {
             const auto cv = groupAt(row).response.cvPercent;
             return cv ? shown(formatDecimals(*cv, 1)) : notDefined();
         }}};
}

QWidget* ResponsePage::makeGroups() {
    m_groups = new ColumnsModel(
        columnsOfGroups(), [this] { return static_cast<int>(m_workspace.evaluation().groups.size()); }, this);
    auto* tableCard = new Card(tr("Replicate groups"), this);
    m_table = new DataTable(m_groups, QStringLiteral("groupsTable"), tableCard);
    tableCard->body()->addWidget(m_table);
    return tableCard;
}

QWidget* ResponsePage::mainWidget() const {
    return m_plate->shown();
}

QString ResponsePage::facts() const {
    return tr("Responses go into the curve; a struck-out well is excluded");
}

void ResponsePage::copy() const {
    QApplication::clipboard()->setText(m_table->copyText());
}

void ResponsePage::followSelection() {
    const auto& groups = m_workspace.evaluation().groups;
    const auto wanted = m_workspace.selection().group;
    int found = -1;
    for (int row = 0; wanted && row < m_groups->rowCount(); ++row) {
        found = groups.at(static_cast<std::size_t>(row)).group == *wanted ? row : found;
    }
    m_table->showRow(found);
}

void ResponsePage::refresh() {
    m_groups->refresh();
    m_subtract->setChecked(m_workspace.batch().method.subtractsBlank);
    const Method& method = m_workspace.batch().method;
    m_blankBy->setCurrentIndex(static_cast<int>(method.blankBy));
    m_blankBy->setVisible(method.subtractsBlank && m_workspace.carrier().kind == CarrierKind::Plate);
    m_percent->setCurrentIndex(static_cast<int>(m_workspace.analyte().percentOf));
    const auto& blanks = m_workspace.evaluation().blanks;
    const auto own = blanks.find({m_workspace.carrierNumber(), -1});
    const bool isByLine = method.blankBy != BlankBy::Carrier && method.subtractsBlank;
    const BlankValue blank = isByLine              ? m_workspace.evaluation().blank
                             : own == blanks.end() ? BlankValue{}
                                                   : own->second;
    if (!blank.description.mean) {
        m_blank->setText(m_workspace.carrier().kind == CarrierKind::Plate ? tr("No usable blank on the plate")
                                                                          : tr("No usable blank in the list"));
    } else {
        QString words =
            tr("Blank %1, mean of %2").arg(shown(formatFigures(*blank.description.mean, 4))).arg(blank.description.n);
        if (blank.description.sd) {
            words += tr(", SD %1").arg(shown(formatFigures(*blank.description.sd, 2)));
        }
        m_blank->setText(words);
    }
}

} // namespace nuvat
