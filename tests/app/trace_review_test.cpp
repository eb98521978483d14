// Looking through runs: peaks given to analytes, times over the batch, lines of additions, pictures.
#include "kinds/trace/time_plot.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "panels/working_panel.h"
#include "plots/curve_plot.h"
#include "trace_window.h"
#include "widgets/chain_rail.h"
#include "widgets/live_form.h"

#include <QComboBox>
#include <QImage>
#include <QLineEdit>

namespace nuvat {
namespace {

class TraceReview : public test::TraceWindow {
protected:
    void showTimes() const {
        auto buttons = find<Segments>("responseBelow")->findChildren<QAbstractButton*>();
        QTest::mouseClick(buttons.at(1), Qt::LeftButton);
        wait();
    }
    void clickPeak(double apex) const {
        QTest::mouseClick(&plot(), Qt::LeftButton, {},
                          QPointF(plot().pixelOf(apex, 0).x(), plot().plotArea().center().y()).toPoint());
        wait();
    }
};

TEST_F(TraceReview, APeakIsGivenToTheAnalyteAndTakenFromIt) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    const double own = *evaluation().at({1, 0}).position;
    const double other = *m_workspace->wholeEvaluation().analyte(2).at({1, 0}).position;
    key(Qt::Key_G);
    clickPeak(other);
    EXPECT_EQ(*evaluation().at({1, 0}).position, other);
    EXPECT_EQ(m_workspace->wholeEvaluation().analyte(2).at({1, 0}).state, ResponseState::NotFound);
    EXPECT_EQ(evaluation().at({2, 0}).state, ResponseState::Used) << "other runs stay as they were";
    EXPECT_TRUE(isOnScreen("takeBack"));
    click("takeBack");
    EXPECT_EQ(*evaluation().at({1, 0}).position, own);
    // Its own peak is clicked: it is no longer the analyte's, and stays so when the rules change.
    clickPeak(own);
    EXPECT_EQ(evaluation().at({1, 0}).state, ResponseState::NotFound);
    typeInto("leastHeight", QStringLiteral("12"));
    EXPECT_EQ(evaluation().at({1, 0}).state, ResponseState::NotFound);
    click("undo");
    click("undo");
    EXPECT_EQ(evaluation().at({1, 0}).position, own);
}

TEST_F(TraceReview, TimesOfAllRunsShowDriftAndLeadToTheRun) {
    startEsters();
    clickChain(ChainPage::Response);
    showTimes();
    ASSERT_TRUE(isOnScreen("responseTimes"));
    EXPECT_FALSE(isOnScreen("responsePeaks"));
    EXPECT_TRUE(words("timeFacts").contains(QStringLiteral("2 not found"))) << words("timeFacts").toStdString();
    auto& times = *find<TimePlot>("responseTimes");
    EXPECT_FALSE(times.pointOf(0)) << "the solvent has no peak";
    const auto at = times.pointOf(8);
    ASSERT_TRUE(at);
    QTest::mouseClick(&times, Qt::LeftButton, {}, at->toPoint());
    wait();
    EXPECT_TRUE(m_workspace->selection().holds({8, 0}));
    EXPECT_FALSE(words("responseTitle").contains(QStringLiteral("near the edge")));
    // A window that the peaks have drifted out of the middle of: each run says so, and Space goes to them.
    typeInto("peakWindow", shown(formatNumber(0.024)));
    EXPECT_TRUE(words("timeFacts").contains(QStringLiteral("near an edge"))) << words("timeFacts").toStdString();
    find<RunStrip>("responseRuns")->setFocus();
    key(Qt::Key_Space);
    const Response& response = evaluation().at(m_workspace->selection().places.at(0));
    EXPECT_TRUE(response.isNearEdge || response.state == ResponseState::NotFound);
}

TEST_F(TraceReview, TheLineOfEachSampleIsShownAndTheAddedSolutionTyped) {
    auto demo = demoBatch("ascorbic-acid", m_folder / "a.nuvat");
    ASSERT_TRUE(demo) << demo.error().text();
    m_workspace->open(std::move(*demo));
    wait();
    clickChain(ChainPage::Curve);
    ASSERT_TRUE(isOnScreen("lineOf"));
    EXPECT_FALSE(isOnScreen("model")) << "the lines of additions are always straight";
    const QString first = cell("standardsTable", 0, QStringLiteral("Response"));
    choose("lineOf", QStringLiteral("Russet juice, lot 12"));
    EXPECT_EQ(cell("standardsTable", 0, QStringLiteral("Place")), QStringLiteral("U02  run 9"));
    EXPECT_NE(cell("standardsTable", 0, QStringLiteral("Response")), first);
    EXPECT_TRUE(find<CurvePlot>("curvePlot")->readOffText().startsWith(QStringLiteral("U02")));
    // The selection of a sample anywhere moves it.
    m_workspace->selectGroup({Role::Unknown, 1});
    wait();
    EXPECT_EQ(cell("standardsTable", 0, QStringLiteral("Response")), first);
    const double before = *evaluation().results.at(0).result;
    typeInto("additionStandard", QStringLiteral("1000"));
    // Each response times 1 + added/1000: a steeper line through the same point, and less content.
    EXPECT_LT(*evaluation().results.at(0).result, before);
    EXPECT_NEAR(*evaluation().results.at(0).result, before, 0.1 * before);
    click("undo");
    EXPECT_EQ(*evaluation().results.at(0).result, before);
}

TEST_F(TraceReview, AFolderIsImportedByTheMenu) {
    std::filesystem::create_directories(m_folder / "runs" / "day 2");
    for (const char* name : {"runs/one.csv", "runs/two.csv", "runs/day 2/other.csv"}) {
        runFile(name, 5, 6, 3);
    }
    m_dialogs.next(m_folder / "runs");
    triggerAction("data.importFolder");
    (void)QTest::qWaitFor([this] { return isOnScreen("traceImportTitle"); }, 10'000);
    ASSERT_TRUE(isOnScreen("traceImportTitle"));
    click("traceImportAccept");
    EXPECT_EQ(m_workspace->batch().carriers.at(1).rows, 2) << "its own files, not those of folders in it";
}

TEST_F(TraceReview, ARunIsNamedByWhatTheFileSaysOfItself) {
    const auto path = m_folder / "0417.csv";
    {
        std::ofstream out(path);
        out << "Operator: M.\nSample: Perry, lot 8\n\ntime (min),signal (mV)\n";
        for (int i = 0; i < 80; ++i) {
            out << i << ',' << 1 + 5 * std::exp(-std::pow((i - 40) / 6.0, 2)) << '\n';
        }
    }
    drop(path);
    ASSERT_TRUE(isOnScreen("traceImportTitle"));
    choose("traceImportNamedBy", QStringLiteral("Sample: Perry, lot 8"));
    EXPECT_TRUE(words("traceImportUnderstood").contains(QStringLiteral("Perry, lot 8")));
    click("traceImportAccept");
    EXPECT_EQ(m_workspace->batch().runs.at({0, 0}).name, "Perry, lot 8");
    drop(path);
    EXPECT_EQ(find<QComboBox>("traceImportNamedBy")->currentText(), QStringLiteral("Sample: Perry, lot 8"))
        << "the next needs no question";
    click("traceImportAccept");
    EXPECT_EQ(m_workspace->batch().runs.at({1, 0}).name, "Perry, lot 8");
}

TEST_F(TraceReview, PicturesGoOut) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    m_dialogs.next(m_folder / "trace.svg");
    triggerAction("page.picture");
    std::ifstream file(m_folder / "trace.svg");
    const std::string svg((std::istreambuf_iterator<char>(file)), {});
    EXPECT_NE(svg.find("<svg"), std::string::npos);
    EXPECT_NE(svg.find("Time, min"), std::string::npos) << "the axis is named";
    EXPECT_NE(svg.find("Ethyl acetate"), std::string::npos) << "and so is the peak";
    EXPECT_TRUE(notice().contains(QStringLiteral("trace.svg")));
    clickChain(ChainPage::Data);
    m_dialogs.next(m_folder / "trace.png");
    triggerAction("page.picture");
    const QImage image(QString::fromStdString((m_folder / "trace.png").string()));
    EXPECT_GT(image.width(), 1500);
    clickChain(ChainPage::Curve);
    m_dialogs.next(m_folder / "curve.svg");
    triggerAction("page.picture");
    EXPECT_TRUE(std::filesystem::exists(m_folder / "curve.svg"));
    m_dialogs.next(m_folder / "no such folder" / "curve.svg");
    triggerAction("page.picture");
    EXPECT_TRUE(notice().contains(QStringLiteral("cannot be written"))) << notice().toStdString();
}

} // namespace
} // namespace nuvat
