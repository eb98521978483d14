// Edits whose evaluation comes later: what is shown is of one revision, nothing that is typed meanwhile is lost.
#include "kinds/list/run_list_view.h"
#include "nuvat/workflow/export.h"
#include "session/report_layout.h"
#include "widgets/data_table.h"
#include "widgets/live_form.h"
#include "window_fixture.h"

#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <QAction>
#include <QApplication>
#include <QElapsedTimer>
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
    slowDown(150);
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

// The results that were asked for are those of the batch that goes, as it was when it went.
TEST_F(Late, WhatWasAskedForIsDoneBeforeTheBatchGoes) {
    startDemo();
    slowDown(150);
    wait();
    const auto csv = m_folder / "results.csv";
    m_dialogs.next(csv);
    ASSERT_TRUE(edit(2, 160));
    ASSERT_TRUE(m_workspace->apply(setSample(m_workspace->newest(), 1, {"typed last", 5, ""})));
    m_window->findChild<QAction*>(QStringLiteral("results.export"))->trigger();
    EXPECT_TRUE(m_workspace->isLate());
    EXPECT_FALSE(std::filesystem::exists(csv)); // not with results of before
    m_workspace->close();
    std::ifstream written(csv);
    const std::string text(std::istreambuf_iterator<char>(written), {});
    EXPECT_NE(text.find("typed last"), std::string::npos) << text.substr(0, 400);
}

// A report is of the batch and of the history that it ends with, never of one that is ahead.
TEST_F(Late, NoReportIsLaidOutWhileTheBatchIsBehind) {
    startDemo();
    slowDown(150);
    settle();
    ASSERT_TRUE(m_workspace->apply(setTitle(m_workspace->newest(), "Soon shown")));
    m_workspace->settle(); // its pages come a moment later
    const auto before = m_workspace->report().report();
    ASSERT_NE(before, nullptr);
    Method method = m_workspace->newest().method;
    method.confidence = 0.9; // which every curve is computed again for
    ASSERT_TRUE(m_workspace->apply(setMethod(m_workspace->newest(), method)));
    QElapsedTimer timer;
    timer.start();
    while (m_workspace->isLate() && timer.elapsed() < 10'000) {
        EXPECT_EQ(m_workspace->report().report(), before);
        QCoreApplication::processEvents();
    }
    EXPECT_GT(timer.elapsed(), 200); // long enough for pages to have come
    settle();
    EXPECT_NE(m_workspace->report().report(), before);
}

TEST_F(Late, AFieldKeepsWhatWasTypedUntilItIsShown) {
    startDemo();
    clickChain(ChainPage::Checks);
    click("limitsTitle");
    slowDown(150);
    wait();
    auto* field = find<NumberField>("limitUnknownCv");
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, QStringLiteral("33"));
    QTest::keyClick(field, Qt::Key_Tab);
    EXPECT_EQ(m_workspace->newest().method.limits.unknownCv, 33);
    EXPECT_EQ(field->text(), QStringLiteral("33"));
    wait();
    EXPECT_EQ(field->text(), QStringLiteral("33"));
}

TEST_F(Late, AnEditBeginsWithWhatWasTypedLast) {
    startDemo();
    clickChain(ChainPage::Layout);
    slowDown(150);
    auto* table = find<DataTable>("samplesTable");
    const int row = rowOf("samplesTable", QStringLiteral("U03"));
    table->setFocus();
    const auto type = [&](const QString& factor) {
        table->setCurrentIndex(table->model()->index(row, 2));
        QTest::keyClick(table, Qt::Key_Return);
        auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        ASSERT_NE(editor, nullptr);
        editor->selectAll();
        QTest::keyClicks(editor, factor); // nothing: the one that is there is confirmed
        QTest::keyClick(editor, Qt::Key_Return);
        QApplication::processEvents(); // closes the editor; the evaluation takes longer
        table->setFocus();
    };
    type(QStringLiteral("20"));
    EXPECT_TRUE(m_workspace->isLate());
    type({});
    EXPECT_EQ(m_workspace->newest().samples.at(3).dilution, 20); // not what it was before, though that is still shown
    wait();
    EXPECT_EQ(m_workspace->batch().samples.at(3).dilution, 20);
}

TEST_F(Late, ALongEvaluationIsSaidAndTakenBack) {
    startDemo();
    slowDown(150);
    const std::string title = m_workspace->document()->undoLabel();
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
