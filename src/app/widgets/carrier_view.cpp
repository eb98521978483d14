#include "widgets/carrier_view.h"

#include "theme/style.h"
#include "widgets/controls.h"

#include <QHBoxLayout>
#include <QStackedLayout>
#include <QVBoxLayout>

namespace nuvat {

CarrierView::CarrierView(Workspace& workspace, PlateView::Mode mode, const QString& name, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_bar(new QWidget(this)), m_buttons(new QHBoxLayout(m_bar)),
      m_stack(new QStackedLayout), m_plate(new PlateView(workspace, mode, this)),
      m_list(new RunListView(workspace, this)) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(6);
    m_buttons->setContentsMargins(0, 0, 0, 0);
    m_buttons->setSpacing(5);
    outer->addWidget(m_bar);
    outer->addLayout(m_stack, 1);
    m_stack->addWidget(m_plate);
    m_stack->addWidget(m_list);
    m_plate->setObjectName(name);
    m_list->setObjectName(name + QStringLiteral("List"));
    connect(m_plate, &PlateView::painted, this, &CarrierView::painted);
    connect(m_list, &RunListView::painted, this, &CarrierView::painted);
    connect(&workspace, &Workspace::changed, this, &CarrierView::follow);
    connect(&workspace, &Workspace::carrierChanged, this, &CarrierView::follow);
    follow();
}

void CarrierView::setScale(std::optional<double> low, std::optional<double> high) {
    m_plate->setScale(low, high);
    const auto range = valueRange();
    m_list->setScale(low || !range ? low : std::optional(range->first),
                     high || !range ? high : std::optional(range->second));
}

std::optional<std::pair<double, double>> CarrierView::valueRange() const {
    return m_workspace.carrier().kind == CarrierKind::Plate ? m_plate->valueRange() : m_list->valueRange();
}

void CarrierView::setBrush(std::optional<Role> brush) {
    m_plate->setBrush(brush);
    m_list->setBrush(brush);
}

QWidget* CarrierView::shown() const {
    return m_stack->currentWidget();
}

void CarrierView::follow() {
    const bool hadFocus = shown() != nullptr && shown()->hasFocus();
    m_stack->setCurrentWidget(m_workspace.carrier().kind == CarrierKind::Plate ? static_cast<QWidget*>(m_plate)
                                                                               : m_list);
    setFocusProxy(shown());
    if (hadFocus) {
        shown()->setFocus();
    }
    const auto& carriers = m_workspace.batch().carriers;
    m_bar->setVisible(carriers.size() > 1);
    std::vector<QString> titles;
    for (const auto& [number, carrier] : carriers) {
        titles.push_back(text(carrierName(carriers, number)));
    }
    if (titles != m_titles) {
        m_titles = titles;
        while (QLayoutItem* item = m_buttons->takeAt(0)) {
            delete item->widget();
            delete item;
        }
        for (const auto& [number, carrier] : carriers) {
            auto* button = makeButton(text(carrierName(carriers, number)), "normal",
                                      QStringLiteral("carrier%1").arg(number), m_bar);
            button->setCheckable(true);
            button->setProperty("carrier", number);
            button->setToolTip(tr("Ctrl+PgUp and Ctrl+PgDn go from one to the next"));
            connect(button, &QPushButton::clicked, this, [this, which = number] {
                m_workspace.showCarrier(which);
                follow(); // a button that was pressed again stays down
            });
            m_buttons->addWidget(button);
        }
        m_buttons->addStretch();
    }
    for (int i = 0; i < m_buttons->count(); ++i) {
        if (auto* button = qobject_cast<QPushButton*>(m_buttons->itemAt(i)->widget())) {
            button->setChecked(button->property("carrier").toInt() == m_workspace.carrierNumber());
        }
    }
}

} // namespace nuvat
