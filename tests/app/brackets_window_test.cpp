// Brackets, checks on a peak and two injections in the window, on the demo of mycotoxins.
#include "nuvat/batch/brackets.h"
#include "panels/working_panel.h"
#include "trace_window.h"

#include <QComboBox>

namespace nuvat {
namespace {

class BracketWindow : public test::TraceWindow {
protected:
    void startMycotoxins() {
        start("mycotoxins");
        clickChain(ChainPage::Curve);
    }
    QString panel() const { return m_window->panel()->plainText(); }
};

TEST_F(BracketWindow, TheBracketIsChosenByListKeyAndRun) {
    startMycotoxins();
    ASSERT_TRUE(isOnScreen("bracketShown"));
    EXPECT_EQ(find<QComboBox>("bracketShown")->count(), 2);
    EXPECT_EQ(evaluation().bracket, 1);
    choose("bracketShown", QStringLiteral("Bracket 2 of 2"));
    EXPECT_EQ(evaluation().bracket, 2);
    key(Qt::Key_PageUp, Qt::ControlModifier);
    EXPECT_EQ(evaluation().bracket, 1);
    key(Qt::Key_PageDown, Qt::ControlModifier);
    EXPECT_EQ(evaluation().bracket, 2);
    const auto brackets = bracketsOf(m_workspace->batch(), 1);
    m_workspace->select({Place{brackets[0].ownFirst + 12, 0}}); // a sample of the first
    wait();
    EXPECT_EQ(evaluation().bracket, 1);
    m_workspace->select({Place{brackets[1].first, 0}}); // standards between the two are of both
    wait();
    EXPECT_EQ(evaluation().bracket, 1);
    click("undo");
}

TEST_F(BracketWindow, OneCurveForAllIsChosenAndTakenBack) {
    startMycotoxins();
    const double before = evaluation().fit.parameters[1];
    choose("curveOf", QStringLiteral("all standards"));
    settle();
    EXPECT_EQ(evaluation().bracket, 0);
    EXPECT_FALSE(isOnScreen("bracketShown"));
    EXPECT_NE(evaluation().fit.parameters[1], before);
    click("undo");
    settle();
    EXPECT_EQ(evaluation().fit.parameters[1], before);
    EXPECT_TRUE(isOnScreen("bracketShown"));
}

TEST_F(BracketWindow, APeakShowsItsChecksAndWhatItsQualifierSays) {
    startMycotoxins();
    m_workspace->showAnalyte(12);        // zearalenone
    m_workspace->select({Place{19, 0}}); // something else stands in its qualifier
    wait();
    EXPECT_TRUE(panel().contains(QStringLiteral("Time in its window"))) << panel().toStdString();
    EXPECT_TRUE(panel().contains(QStringLiteral("Qualifier ZEA 319>187 ±30 %"))) << panel().toStdString();
    EXPECT_TRUE(panel().contains(QStringLiteral("Internal standard 50–150 %")));
    EXPECT_TRUE(panel().contains(QStringLiteral("Read off by qualifier ZEA 319>187")));
    EXPECT_TRUE(panel().contains(QStringLiteral("Signal to noise at least 10")));
}

TEST_F(BracketWindow, TwoRunsAreComparedPeakByPeak) {
    startMycotoxins();
    m_workspace->select({Place{7, 0}, Place{31, 0}}); // the highest standard, twice
    wait();
    EXPECT_TRUE(panel().contains(QStringLiteral("Run 32 against run 8"))) << panel().toStdString();
    EXPECT_TRUE(panel().contains(QStringLiteral("peaks in both")));
}

TEST_F(BracketWindow, AnInternalStandardIsAskedForNoCurve) {
    startMycotoxins();
    m_workspace->showAnalyte(13);
    wait();
    EXPECT_TRUE(evaluation().isOnlyInternal);
    EXPECT_EQ(m_workspace->wholeEvaluation().countCriteria(Outcome::Fail), 0u);
    clickChain(ChainPage::Results);
    clickChain(ChainPage::Report);
    EXPECT_TRUE(evaluation().results.empty());
}

} // namespace
} // namespace nuvat
