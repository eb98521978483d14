#include "widgets/carrier_view.h"

#include "theme/style.h"
#include "widgets/controls.h"

#include <QHBoxLayout>
#include <QStackedLayout>
#include <QVBoxLayout>

namespace nuvat {

CarrierView::CarrierView(Workspace& workspace, ViewMode mode, const QString& name, QWidget* parent)
    : QWidget(parent), m_workspace(workspace), m_mode(mode), m_name(name), m_bar(new QWidget(this)),
      m_buttons(new QHBoxLayout(m_bar)), m_stack(new QStackedLayout) {
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    outer->setSpacing(6);
    m_buttons->setContentsMargins(0, 0, 0, 0);
    m_buttons->setSpacing(5);
    outer->addWidget(m_bar);
    outer->addLayout(m_stack, 1);
    connect(&workspace, &Workspace::changed, this, &CarrierView::follow);
    connect(&workspace, &Workspace::carrierChanged, this, &CarrierView::follow);
    follow();
}

/// One for each kind that the batch has.
void CarrierView::makeViews() {
    for (const auto& [number, carrier] : m_workspace.batch().carriers) {
        if (m_views.contains(carrier.kind)) {
            continue;
        }
        KindView* made =
            kindOf(carrier.kind).makeView(m_workspace, m_mode, m_name, this, [this](const std::vector<Place>& places) {
                Q_EMIT painted(places);
            });
        made->setBrush(m_brush);
        m_stack->addWidget(made->widget());
        m_views[carrier.kind] = made;
        made->setQuantity(m_quantity);
        made->setScale(m_low, m_high);
    }
}

KindView& CarrierView::view() {
    makeViews(); // whoever asks may have heard of the change first
    return *m_views.at(m_workspace.carrier().kind);
}

void CarrierView::setMode(ViewMode mode) {
    m_mode = mode;
    for (const auto& [kind, view] : m_views) {
        view->setMode(mode);
    }
}

void CarrierView::setQuantity(PlateQuantity quantity) {
    m_quantity = quantity;
    for (const auto& [kind, view] : m_views) {
        view->setQuantity(quantity);
    }
}

void CarrierView::setScale(std::optional<double> low, std::optional<double> high) {
    m_low = low;
    m_high = high;
    for (const auto& [kind, view] : m_views) {
        view->setScale(low, high);
    }
}

std::optional<std::pair<double, double>> CarrierView::valueRange() {
    return view().valueRange();
}

void CarrierView::setBrush(std::optional<Role> brush) {
    m_brush = brush;
    for (const auto& [kind, view] : m_views) {
        view->setBrush(brush);
    }
}

QWidget* CarrierView::shown() const {
    return m_stack->currentWidget();
}

void CarrierView::follow() {
    const bool hadFocus = shown() != nullptr && shown()->hasFocus();
    m_stack->setCurrentWidget(view().widget());
    setFocusProxy(shown());
    if (hadFocus) {
        shown()->setFocus();
    }
    followNames();
}

void CarrierView::followNames() {
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
