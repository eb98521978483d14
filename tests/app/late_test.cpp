// Edits whose evaluation comes later: what is shown is of one revision, nothing that is typed meanwhile is lost.
#include "nuvat/workflow/export.h"
#include "kinds/list/run_list_view.h"
#include "window_fixture.h"

#include <gtest/gtest.h>
#include <QLineEdit>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class Late : public test::WindowTest {
protected:
    /// A batch whose evaluation takes a while: intervals by bootstrap for several analytes.
    void slowDown(std::size_t analytes) {
        Method method = m_workspace->newest().method;
        method.analytes.resize(analytes, method.analyte());
        EXPECT_TRUE(m_workspace->apply(setMethod(m_workspace->newest(), method)));
        Command levels;
        for (std::size_t i = 2; i <= analytes; ++i) {
            const auto series = setSeries(m_workspace->newest(), {500, true, 3, 7}, static_cast<int>(i));
            levels.changes.insert(levels.changes.end(), series->changes.begin(), series->changes.end());
        }
        EXPECT_TRUE(m_workspace->apply(levels));
        wait();
        for (Analyte& analyte : method.analytes) {
            analyte.interval = IntervalMethod::Bootstrap;
        }
        EXPECT_TRUE(m_workspace->apply(setMethod(m_workspace->newest(), method)));
    }

    bool edit(int level, double x) const { return m_workspace->apply(setLevel(m_workspace->newest(), level, x)); }
};

TEST_F(Late, WhatIsShownIsOfOneRevision) {
    startDemo();
    int shown = 0;
    int late = 0;
    QObject::connect(m_workspace.get(), &Workspace::changed, m_workspace.get(), [&] {
        ++shown;
        EXPECT_EQ(evaluationJson(m_workspace->batch(), m_workspace->wholeEvaluation()),
                  evaluationJson(m_workspace->batch(), evaluate(m_workspace->batch())));
    });
    for (int i = 0; i < 40; ++i) {
        // Edits that change the number of places too: an old evaluation has none for the new ones.
        ASSERT_TRUE(i % 5 == 4 ? m_workspace->apply(addCarrier(m_workspace->newest(), Carrier{}))
                               : edit(1 + i % 7, 100.0 + i));
        late += m_workspace->isLate() ? 1 : 0;
        QTest::qWait(i % 3); // now and then one is done before the next comes
    }
    wait();
    EXPECT_FALSE(m_workspace->isLate());
    EXPECT_EQ(m_workspace->batch(), m_workspace->newest());
    EXPECT_GE(shown, 1);
    EXPECT_GE(late, 1);
    EXPECT_EQ(m_workspace->document()->history().size(), m_workspace->snapshot().history.size());
}

TEST_F(Late, ValuesTypedFasterThanTheyAreEvaluatedAreAllThere) {
    startDemo();
    triggerAction("carrier.addList");
    slowDown(2);
    auto* list = find<RunListView>("dataPlateList");
    ASSERT_TRUE(list->isVisible());
    list->edit(0, 3, QStringLiteral("1"));
    for (int i = 1; i <= 8; ++i) {
        auto* editor = find<QLineEdit>("runEditor");
        QTest::keyClicks(editor, QStringLiteral("0")); // 10, 20, …
        QTest::keyClick(editor, Qt::Key_Return);       // and on to the next run
        list->edit(i, 3, QString::number(i + 1));
    }
    QTest::keyClick(find<QLineEdit>("runEditor"), Qt::Key_Escape);
    EXPECT_TRUE(m_workspace->isLate());
    wait();
    for (int i = 0; i < 8; ++i) {
        EXPECT_EQ(list->cellText(i, 3), QString::number(10 * (i + 1))) << i;
    }
}

TEST_F(Late, ALongEvaluationIsSaidAndTakenBack) {
    startDemo();
    slowDown(150);
    const std::string title = m_workspace->document()->undoLabel();
    QElapsedTimer timer;
    timer.start();
    EXPECT_TRUE(QTest::qWaitFor([this] { return notice().startsWith(QStringLiteral("Evaluating ")); }, 5'000));
    EXPECT_TRUE(m_workspace->isLate());
    EXPECT_TRUE(find<QPushButton>("undo")->isEnabled());
    click("noticeClose"); // which says Cancel
    EXPECT_EQ(m_workspace->document()->redoLabel(), title);
    EXPECT_EQ(m_workspace->analyte().interval, IntervalMethod::Propagation);
    EXPECT_EQ(notice(), QString());
}

} // namespace
} // namespace nuvat
