// The run list and plan of the standards on the Layout page, by mouse and keyboard.
#include "kinds/list/plan_picture.h"
#include "kinds/list/run_blocks.h"
#include "nuvat/batch/run_list.h"
#include "panels/layout_page.h"
#include "trace_window.h"
#include "widgets/data_table.h"
#include "widgets/text_rows.h"

namespace nuvat {
namespace {

class PlanWindow : public test::TraceWindow {
protected:
    void startSulfite() {
        start("sulfite");
        clickChain(ChainPage::Layout);
        key(Qt::Key_P);
        ASSERT_TRUE(isOnScreen("planView"));
    }
    RunBlocks& blocks() { return *find<RunBlocks>("runBlocks"); }
    std::string nameOf(int row) const {
        const auto& runs = m_workspace->newest().runs;
        const auto found = runs.find({row, 0});
        return found == runs.end() ? "" : found->second.name;
    }
    /// Row of the first run that is planned and of this name.
    int plannedRow(const std::string& name) const {
        for (const auto& [place, run] : m_workspace->newest().runs) {
            if (run.state == RunState::Planned && run.name == name) {
                return place.row;
            }
        }
        return -1;
    }
    void bring(int row) {
        m_workspace->select({Place{row, 0}});
        blocks().setFocus();
        key(Qt::Key_Up);
        key(Qt::Key_Down); // which scrolls to it
    }
};

TEST_F(PlanWindow, SaysHowLevelsAreMadeAndTakesAnotherStock) {
    startSulfite();
    auto* table = find<DataTable>("planTable");
    EXPECT_EQ(table->model()->rowCount(), 6);
    const QString before = table->model()->index(0, 2).data().toString();
    EXPECT_TRUE(before.contains(QStringLiteral("of stock"))) << before.toStdString();
    typeInto("viewStock", QStringLiteral("500"));
    EXPECT_EQ(m_workspace->batch().method.plan->rules.stock, 500);
    EXPECT_NE(table->model()->index(0, 2).data().toString(), before);
    typeInto("viewStock", QStringLiteral("20"));
    EXPECT_TRUE(table->model()->index(0, 2).data().toString().contains(QStringLiteral("not possible")))
        << "a level above the stock";
    EXPECT_TRUE(find<QLabel>("planToLookAt")->text().isEmpty()) << "no standard is planned any more";
    click("undo");
    click("undo");
    EXPECT_EQ(table->model()->index(0, 2).data().toString(), before);
}

TEST_F(PlanWindow, AGlassSelectsItsLevel) {
    startSulfite();
    auto* picture = find<PlanPicture>("planPicture");
    const QRectF glass = picture->levelRect(3);
    ASSERT_TRUE(glass.isValid());
    QTest::mouseClick(picture, Qt::LeftButton, {}, glass.center().toPoint());
    wait();
    EXPECT_EQ(m_workspace->selection().group, (Assignment{Role::Standard, 3}));
    QTest::keyClick(picture, Qt::Key_Right);
    wait();
    EXPECT_EQ(m_workspace->selection().group, (Assignment{Role::Standard, 4})) << "the next lower one";
}

TEST_F(PlanWindow, APlannedRunIsDraggedUpAndUndone) {
    startSulfite();
    const int last = m_workspace->carrier().rows - 1;
    const std::string moved = nameOf(last);
    const int target = plannedRow("Mead, sharp");
    ASSERT_GT(target, 0);
    bring(last);
    const QRect from = blocks().rowRect(last), to = blocks().rowRect(target);
    ASSERT_TRUE(from.isValid() && to.isValid());
    dragOver(*blocks().viewport(), from.center(), QPointF(to.center().x(), to.top() + 2));
    EXPECT_EQ(nameOf(target), moved);
    EXPECT_EQ(m_workspace->batch().at({target, 0}).preparation, 2) << "its role went with it";
    click("undo");
    EXPECT_EQ(nameOf(last), moved);
}

TEST_F(PlanWindow, KeysMoveAndRemovePlannedRunsAndLeaveMeasuredOnes) {
    startSulfite();
    const int rows = m_workspace->carrier().rows;
    const int first = plannedRow("Mead, sharp");
    m_workspace->select({Place{first, 0}});
    blocks().setFocus();
    key(Qt::Key_Down, Qt::AltModifier);
    settle();
    EXPECT_EQ(m_workspace->selection().places.front().row, first + 1);
    m_workspace->select({Place{3, 0}});
    key(Qt::Key_Down, Qt::AltModifier);
    EXPECT_TRUE(notice().contains(QStringLiteral("has been measured"))) << notice().toStdString();
    m_workspace->select({Place{rows - 1, 0}});
    key(Qt::Key_Delete);
    settle();
    EXPECT_EQ(m_workspace->carrier().rows, rows - 1);
}

TEST_F(PlanWindow, WhatFollowsAFailureIsPartOfTheMethod) {
    startSulfite();
    EXPECT_EQ(find<QComboBox>("planKeepBest")->currentText(), QStringLiteral("the closest 2"));
    choose("planAfterFailure", QStringLiteral("stop"));
    EXPECT_EQ(m_workspace->batch().method.runRule.afterFailure, AfterFailure::Stop);
    choose("planAbove", QStringLiteral("stays as it is"));
    EXPECT_FALSE(m_workspace->batch().method.runRule.dilutesAbove);
    typeInto("planFileName", QStringLiteral("{vial}-{run}"));
    EXPECT_EQ(m_workspace->batch().method.runRule.fileName, "{vial}-{run}");
    const QString example = find<QLabel>("planFileExample")->text();
    EXPECT_TRUE(example.endsWith(QStringLiteral("-") +
                                 QStringLiteral("%1").arg(plannedRow("Mead, sharp") + 1, 3, 10, QLatin1Char('0'))))
        << example.toStdString();
}

TEST_F(PlanWindow, APlateHasNoRunList) {
    start("patulin");
    clickChain(ChainPage::Layout);
    EXPECT_FALSE(isOnScreen("layoutViews"));
    key(Qt::Key_P);
    EXPECT_FALSE(isOnScreen("planView"));
}

} // namespace
} // namespace nuvat
