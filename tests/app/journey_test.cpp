// The analyst's whole way through the real window, from the demo to the report.
#include "kinds/plate/plate_view.h"
#include "nuvat/cli/command_line.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "panels/working_panel.h"
#include "plots/curve_plot.h"
#include "widgets/frame_widgets.h"
#include "window_fixture.h"

#include <QFileInfo>
#include <QLabel>
#include <QProcess>
#include <QPushButton>
#include <QTest>
#include <sstream>

namespace nuvat {
namespace {

class Journey : public test::WindowTest {};

TEST_F(Journey, FromTheDemoToTheReport) {
    // The start page says what to do, and its button starts the demo.
    EXPECT_TRUE(find<QAbstractButton>("demo-patulin")->isVisible());
    click("demo-patulin");
    EXPECT_EQ(find<QLabel>("batchTitle")->text(), QStringLiteral("Patulin in juice, week 38"));
    auto* rail = m_window->findChild<ChainRail*>();
    EXPECT_EQ(rail->card(ChainPage::Curve)->summary().line, shown("4PL · 1/y² · R² 0.9998"));

    clickChain(ChainPage::Results);
    const QString before = cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result"));
    EXPECT_EQ(before, shown("161.3"));

    // Change the weighting on the curve: the result of U05 follows at once.
    clickChain(ChainPage::Curve);
    choose("weighting", QStringLiteral("none"));
    EXPECT_EQ(m_workspace->batch().method.analyte().fit.weighting, Weighting::None);
    EXPECT_FALSE(rail->card(ChainPage::Curve)->summary().line.contains(QStringLiteral("1/y²")));
    clickChain(ChainPage::Results);
    const QString unweighted = cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result"));
    EXPECT_NE(unweighted, before);

    // Exclude a standard by clicking its point and pressing X; a reason is asked for.
    clickChain(ChainPage::Curve);
    auto* plot = find<CurvePlot>("curvePlot");
    const auto at = plot->pixelOf({2, 0});
    ASSERT_TRUE(at);
    QTest::mouseClick(plot, Qt::LeftButton, {}, at->toPoint());
    wait();
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{2, 0}}));
    withReason([this] { key(Qt::Key_X); }, QStringLiteral("pipetting error"));
    EXPECT_TRUE(m_workspace->batch().exclusions.contains({2, 0}));
    EXPECT_NE(m_window->panel()->plainText().indexOf(QStringLiteral("excluded: pipetting error")), -1);
    clickChain(ChainPage::Results);
    const QString withoutPoint = cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result"));
    EXPECT_NE(withoutPoint, unweighted);

    // Undo twice: the exclusion, then the weighting. The number is what it was.
    click("undo");
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result")), unweighted);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result")), before);
    click("redo");
    click("redo");
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result")), withoutPoint);

    // Paint a role: two unknown wells become a third QC; its row appears, U38 is gone.
    clickChain(ChainPage::Layout);
    m_workspace->clearSelection();
    click("roleQc"); // with nothing selected it is a brush
    dragWells("layoutPlate", {7, 10}, {7, 11});
    EXPECT_EQ(m_workspace->batch().at({7, 11}), (Assignment{Role::Qc, 3}));
    click("roleQc"); // puts the brush down
    clickChain(ChainPage::Results);
    EXPECT_GE(rowOf("resultsTable", QStringLiteral("QC 3")), 0);
    EXPECT_EQ(find<QPushButton>("filterUnknown")->text(), QStringLiteral("Unknown 37"));

    // Save under a name, close, open again: everything is there, undo too.
    m_dialogs.next(m_folder / "mine.nuvat");
    key(Qt::Key_S, Qt::ControlModifier);
    EXPECT_TRUE(notice().contains(QStringLiteral("mine.nuvat"))) << notice().toStdString();
    key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_TRUE(find<QPushButton>("startOpen")->isVisible());
    m_dialogs.next(m_folder / "mine.nuvat");
    click("startOpen");
    clickChain(ChainPage::Results);
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result")), withoutPoint);
    click("undo");
    EXPECT_EQ(find<QPushButton>("filterUnknown")->text(), QStringLiteral("Unknown 38"));

    // Export CSV: the same digits as the command line gives for the file.
    clickChain(ChainPage::Results);
    m_dialogs.next(m_folder / "results.csv");
    click("resultsExport");
    std::ostringstream out;
    std::ostringstream err;
    ASSERT_EQ(runCommandLine({"evaluate", (m_folder / "mine.nuvat").string(), "--csv"}, out, err), 0) << err.str();
    EXPECT_EQ(test::contentOf(m_folder / "results.csv"), out.str());

    // The report as PDF, with what a laboratory files.
    clickChain(ChainPage::Report);
    m_dialogs.next(m_folder / "report.pdf");
    click("reportPdf");
    ASSERT_TRUE(QTest::qWaitFor(
        [this] { return QFileInfo::exists(QString::fromStdString((m_folder / "report.pdf").string())); }, 10'000));
    ASSERT_TRUE(QTest::qWaitFor([this] { return notice().contains(QStringLiteral("report.pdf")); }, 5000));
    QProcess pdftotext;
    pdftotext.start(
        QStringLiteral("pdftotext"),
        {QStringLiteral("-layout"), QString::fromStdString((m_folder / "report.pdf").string()), QStringLiteral("-")});
    ASSERT_TRUE(pdftotext.waitForFinished());
    const QString report = QString::fromUtf8(pdftotext.readAllStandardOutput());
    for (const char* part :
         {"Patulin in juice, week 38", "Method and curve", "Parameters", "Standards, back-calculated", "QC hi",
          "Results, by sample", "Cloudy juice, tank 3", "Checks", "History of exclusions", "bubble in well",
          "pipetting error", "1 of 3", "3 of 3", "Review before release"}) {
        EXPECT_TRUE(report.contains(QString::fromUtf8(part))) << part << " in\n" << report.toStdString();
    }
    EXPECT_TRUE(report.contains(withoutPoint));
}

TEST_F(Journey, WithTheKeyboardAlone) {
    startDemo();
    key(Qt::Key_2, Qt::ControlModifier); // Layout
    EXPECT_EQ(m_window->currentPage(), ChainPage::Layout);
    for (int i = 0; i < 2; ++i) {
        key(Qt::Key_Down);
    }
    key(Qt::Key_Right);
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{2, 1}}));
    key(Qt::Key_X); // C2 is excluded: X takes it back
    EXPECT_TRUE(m_workspace->batch().exclusions.empty());
    key(Qt::Key_Down, Qt::ShiftModifier);
    EXPECT_EQ(m_workspace->selection().places.size(), 2u);
    key(Qt::Key_0);
    EXPECT_EQ(m_workspace->batch().at({3, 1}).role, Role::Empty);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->batch().at({3, 1}).role, Role::Standard);
    key(Qt::Key_Z, Qt::ControlModifier); // and the bubble is out again
    EXPECT_TRUE(m_workspace->batch().exclusions.contains({2, 1}));
    key(Qt::Key_6, Qt::ControlModifier); // Results
    key(Qt::Key_Space);                  // next to review
    ASSERT_TRUE(m_workspace->selection().group);
    EXPECT_EQ(m_workspace->selection().group->number, 1); // U01 is below the range
    key(Qt::Key_Space);
    EXPECT_EQ(m_workspace->selection().group->number, 8);
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("Replicate CV")));
    // The finder runs any action.
    key(Qt::Key_K, Qt::ControlModifier);
    auto* finder = find<QLineEdit>("finder");
    EXPECT_TRUE(finder->hasFocus());
    QTest::keyClicks(finder, QStringLiteral("go to curve"));
    QTest::keyClick(finder, Qt::Key_Return);
    wait();
    EXPECT_EQ(m_window->currentPage(), ChainPage::Curve);
    key(Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(finder, QStringLiteral("quince"));
    QTest::keyClick(finder, Qt::Key_Return);
    wait();
    EXPECT_EQ(m_workspace->selection().group->number, 23);
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("Quince mix")));
}

class German : public test::WindowTest {};

TEST_F(German, ShowsTheLocalesDecimalSignAndWritesPoints) {
    startDemo();
    clickChain(ChainPage::Results);
    const QString decimal = QLocale().decimalPoint();
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Result")),
              QStringLiteral("161") + decimal + QStringLiteral("3"));
    m_dialogs.next(m_folder / "results.csv");
    click("resultsExport");
    const double result = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    EXPECT_NE(test::contentOf(m_folder / "results.csv").find(formatNumber(result)), std::string::npos);
    clickChain(ChainPage::Layout);
    typeInto("seriesFirst", QStringLiteral("450,5")); // typed with a comma, whatever the locale
    EXPECT_EQ(m_workspace->batch().levels.at(1).concentration, 450.5);
}

} // namespace
} // namespace nuvat
