// Roles without a key of their own, further dilutions and anchors, with real clicks, drags and keys.
#include "kinds/plate/plate_view.h"
#include "panels/working_panel.h"
#include "plots/curve_plot.h"
#include "widgets/data_table.h"
#include "window_fixture.h"

#include <gtest/gtest.h>
#include <QCheckBox>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class Roles : public test::WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        startDemo();
        clickChain(ChainPage::Layout);
    }

    /// Opens the menu of the button and clicks the entry.
    void chooseRole(const QString& entry) const {
        QMenu* menu = find<QPushButton>("otherRoles")->menu();
        ASSERT_NE(menu, nullptr);
        menu->popup(m_window->mapToGlobal(QPoint(100, 100)));
        for (QAction* action : menu->actions()) {
            if (action->text() == entry) {
                QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(action).center());
                settle();
                return;
            }
        }
        FAIL() << entry.toStdString() << " is not in the menu";
    }

    void clearColumns() {
        dragWells("layoutPlate", {0, 8}, {7, 11});
        key(Qt::Key_0);
        key(Qt::Key_Escape);
        settle();
    }
};

TEST_F(Roles, ARoleFromTheMenuIsPaintedAndHasItsNominal) {
    clearColumns();
    chooseRole(QStringLiteral("Check standard"));
    EXPECT_TRUE(find<QPushButton>("otherRoles")->isChecked());
    EXPECT_EQ(find<QPushButton>("otherRoles")->text(), QStringLiteral("Check standard"));
    dragWells("layoutPlate", {0, 8}, {0, 9});
    settle();
    EXPECT_EQ(m_workspace->batch().at({0, 9}), (Assignment{Role::CheckStandard, 1}));
    key(Qt::Key_Escape);
    EXPECT_FALSE(find<QPushButton>("otherRoles")->isChecked());
    // Its nominal is typed where those of the QCs are.
    auto* table = find<DataTable>("samplesTable");
    const int row = rowOf("samplesTable", QStringLiteral("Check 1"));
    ASSERT_GE(row, 0);
    table->setCurrentIndex(table->model()->index(row, 2));
    table->edit(table->currentIndex());
    QTest::keyClicks(table->findChild<QLineEdit*>(), QStringLiteral("40"));
    QTest::keyClick(table->findChild<QLineEdit*>(), Qt::Key_Return);
    settle();
    EXPECT_EQ(m_workspace->batch().nominal({Role::CheckStandard, 1}, 1), 40.0);
    clickChain(ChainPage::Results);
    EXPECT_TRUE(cellOf("resultsTable", QStringLiteral("Check 1"), QStringLiteral("Sample"))
                    .contains(QStringLiteral("recovery")));
    clickChain(ChainPage::Layout);
    triggerAction("edit.undo");
    EXPECT_EQ(m_workspace->batch().nominal({Role::CheckStandard, 1}, 1), std::nullopt);
}

TEST_F(Roles, SelectedWellsBecomeFurtherDilutions) {
    clearColumns();
    dragWells("layoutPlate", {0, 8}, {0, 11});
    chooseRole(QStringLiteral("Further dilution of the unknowns"));
    settle();
    EXPECT_EQ(m_workspace->batch().at({0, 8}), (Assignment{Role::Unknown, 1, 2}));
    EXPECT_EQ(m_workspace->batch().at({0, 11}), (Assignment{Role::Unknown, 2, 2}));
    auto* table = find<DataTable>("samplesTable");
    const int row = rowOf("samplesTable", QStringLiteral("U01.2"));
    ASSERT_GE(row, 0);
    table->setCurrentIndex(table->model()->index(row, 2));
    table->edit(table->currentIndex());
    QTest::keyClicks(table->findChild<QLineEdit*>(), QStringLiteral("50"));
    QTest::keyClick(table->findChild<QLineEdit*>(), Qt::Key_Return);
    settle();
    EXPECT_EQ(m_workspace->batch().dilution({Role::Unknown, 1, 2}), 50);
    EXPECT_NE(m_workspace->batch().dilution({Role::Unknown, 1}), 50);
    clickChain(ChainPage::Results);
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U01.2"), QStringLiteral("Dilution")), QStringLiteral("× 50"));
    // What both dilutions say together stands below the table and in the working of either.
    EXPECT_TRUE(
        words("resultsCombined").contains(QString::fromStdString(fullName(m_workspace->batch(), {Role::Unknown, 1}))))
        << words("resultsCombined").toStdString();
    m_workspace->selectGroup({Role::Unknown, 1, 2});
    settle();
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("Dilutions taken together")));
    triggerAction("edit.undo");
    clickChain(ChainPage::Layout);
    triggerAction("edit.undo");
    clickChain(ChainPage::Results);
    EXPECT_FALSE(isOnScreen("resultsCombined"));
}

TEST_F(Roles, TheSelectedLevelIsMadeAnAnchor) {
    EXPECT_FALSE(find<QCheckBox>("anchor")->isEnabled());
    clickWell("layoutPlate", {0, 0});
    const Assignment level = m_workspace->batch().at({0, 0});
    ASSERT_EQ(level.role, Role::Standard);
    auto* box = find<QCheckBox>("anchor");
    ASSERT_TRUE(box->isEnabled());
    QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
    settle();
    EXPECT_TRUE(m_workspace->batch().levels.at(level.number).isAnchor);
    EXPECT_TRUE(box->isChecked());
    clickChain(ChainPage::Curve);
    EXPECT_EQ(find<CurvePlot>("curvePlot")->errorsOutside(), 0); // no limit is its own
    clickChain(ChainPage::Layout);
    find<PlateView>("layoutPlate")->setFocus();
    key(Qt::Key_A); // and back
    settle();
    EXPECT_FALSE(m_workspace->batch().levels.at(level.number).isAnchor);
    EXPECT_FALSE(box->isChecked());
}

} // namespace
} // namespace nuvat
