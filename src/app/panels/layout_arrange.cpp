// Parts of the layout that are copied, mirrored, moved and taken from files.
#include "kinds/list/plan_view.h"
#include "kinds/list/run_blocks.h"
#include "nuvat/batch/layout_transfer.h"
#include "nuvat/core/base/well.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/layout_page.h"
#include "widgets/carrier_view.h"
#include "widgets/controls.h"

#include <QApplication>
#include <QClipboard>
#include <QMenu>
#include <QPushButton>

namespace nuvat {

QWidget* LayoutPage::makeArrange(QWidget* parent) {
    auto* button = makeButton(tr("Arrange"), "tool", QStringLiteral("arrange"), parent);
    button->setToolTip(tr("Mirror, repeat on another plate, export and import the layout"));
    auto* menu = new QMenu(button);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fillArrangeMenu(menu); });
    button->setMenu(menu);
    return button;
}

void LayoutPage::fillArrangeMenu(QMenu* menu) {
    menu->clear();
    menu->addAction(tr("Mirror left to right"), this, [this] { mirror(0); });
    menu->addAction(tr("Mirror top to bottom"), this, [this] { mirror(1); });
    menu->addAction(tr("Turn by half"), this, [this] { mirror(2); });
    const auto& carriers = m_workspace.batch().carriers;
    const int shownOne = m_workspace.carrierNumber();
    menu->addSeparator();
    for (const auto& [number, carrier] : carriers) {
        if (number != shownOne && carrier.kind == carriers.at(shownOne).kind) {
            menu->addAction(
                tr("Repeat this layout on %1").arg(text(carrierName(carriers, number))), this,
                [this, shownOne, to = number] { m_workspace.apply(copyLayoutTo(m_workspace.newest(), shownOne, to)); });
        }
    }
    menu->addSeparator();
    menu->addAction(tr("Export the layout as CSV…"), this,
                    [this] { Q_EMIT actionAsked(QStringLiteral("layout.export")); });
    menu->addAction(tr("Take sample names from a file…"), this,
                    [this] { Q_EMIT actionAsked(QStringLiteral("samples.import")); });
    menu->addAction(tr("Take a layout from CSV…"), this,
                    [this] { Q_EMIT actionAsked(QStringLiteral("layout.import")); });
}

void LayoutPage::mirror(int how) {
    m_workspace.apply(mirrorLayout(m_workspace.newest(), m_workspace.carrierNumber(), static_cast<Mirror>(how)));
}

/// What is selected goes along, and stays selected where it is then.
void LayoutPage::move(int rows, int columns) {
    if (isPlanShown()) { // whole runs, not their roles
        if (rows != 0) {
            m_plan->blocks()->moveBy(rows);
        }
        return;
    }
    std::vector<Place> places = m_workspace.selection().places;
    if (places.empty()) {
        m_workspace.tell(tr("Select what is to be moved first."), false);
        return;
    }
    if (!m_workspace.apply(moveLayout(m_workspace.newest(), places, rows, columns))) {
        return;
    }
    for (Place& place : places) {
        place.row += rows;
        place.column += columns;
    }
    m_workspace.afterwards([this, places] {
        if (std::ranges::all_of(places, [this](Place p) { return m_workspace.batch().holds(p); })) {
            m_workspace.select(places);
        }
    });
}

void LayoutPage::addArrangeActions(std::vector<PageAction>& actions) {
    const auto add = [&](const char* id, const QString& what, const QKeySequence& keys, std::function<void()> run) {
        actions.push_back(
            {QString::fromLatin1(id), what, keys.isEmpty() ? QList<QKeySequence>{} : QList{keys}, std::move(run)});
    };
    add("layout.left", tr("Move the selected wells to the left"), QKeySequence(tr("Alt+Left")),
        [this] { move(0, -1); });
    add("layout.right", tr("Move the selected wells to the right"), QKeySequence(tr("Alt+Right")),
        [this] { move(0, 1); });
    add("layout.up", tr("Move the selected wells up"), QKeySequence(tr("Alt+Up")), [this] { move(-1, 0); });
    add("layout.down", tr("Move the selected wells down"), QKeySequence(tr("Alt+Down")), [this] { move(1, 0); });
    add("layout.mirrorAcross", tr("Mirror the layout left to right"), {}, [this] { mirror(0); });
    add("layout.mirrorDown", tr("Mirror the layout top to bottom"), {}, [this] { mirror(1); });
    add("layout.turn", tr("Turn the layout by half"), {}, [this] { mirror(2); });
}

/// One well is where the cursor is: people then mean the plate.
void LayoutPage::copy() const {
    std::vector<Place> places = m_workspace.selection().places;
    if (places.size() < 2) {
        places.clear();
        for (int row = 0; row < m_workspace.carrier().rows; ++row) {
            for (int column = 0; column < m_workspace.carrier().columns; ++column) {
                places.push_back({row, column, m_workspace.carrierNumber()});
            }
        }
    }
    std::erase_if(places, [first = places.front().carrier](Place p) { return p.carrier != first; });
    QApplication::clipboard()->setText(text(copyLayout(m_workspace.batch(), places)));
}

} // namespace nuvat
