// Runs of traces from the files to the report, with real clicks, drags, keys and drops.
#include "kinds/list/run_list_view.h"
#include "kinds/trace/run_strip.h"
#include "kinds/trace/trace_wall.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "nuvat/workflow/export.h"
#include "panels/working_panel.h"
#include "plots/trace_plot.h"
#include "trace_window.h"
#include "widgets/carrier_view.h"
#include "widgets/chain_rail.h"

#include <cmath>
#include <fstream>
#include <gtest/gtest.h>
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPushButton>
#include <QTest>
#include <random>

namespace nuvat {
namespace {

using test::TraceWindow;

TEST_F(TraceWindow, OpeningABatchReadsOnlyTheTracesThatAreLookedAt) {
    startEsters();
    m_workspace->close();
    auto opened = openBatch(m_folder / "esters.nuvat");
    ASSERT_TRUE(opened) << opened.error().text();
    m_workspace->open(std::move(*opened));
    wait();
    const auto inMemory = [this] {
        return std::ranges::count_if(m_workspace->batch().readings,
                                     [](const auto& entry) { return entry.second->payload.isInMemory(); });
    };
    EXPECT_TRUE(evaluation().fit.isUsable());
    EXPECT_LE(inMemory(), 2); // the one on the page, and in the picture of the chain
    clickChain(ChainPage::Results);
    settle();
    EXPECT_LE(inMemory(), 2);
}

TEST_F(TraceWindow, FilesBecomeRunsAnalytesAndConcentrations) {
    std::vector<std::filesystem::path> files;
    for (const int level : {1, 2, 4, 8}) {
        files.push_back(
            runFile("level " + std::to_string(level) + ".csv", level, 2.0 * level, static_cast<unsigned>(level)));
    }
    files.push_back(runFile("sample 10.csv", 3, 8, 20));
    files.push_back(runFile("sample 9.csv", 5, 6, 21));
    std::ofstream(m_folder / "notes.txt") << "no numbers here\n";
    files.push_back(m_folder / "notes.txt");
    drop(files);
    ASSERT_TRUE(isOnScreen("traceImportTitle"));
    EXPECT_TRUE(words("traceImportUnderstood").startsWith(QStringLiteral("text: 6 runs")))
        << words("traceImportUnderstood").toStdString();
    EXPECT_TRUE(words("traceImportWarnings").contains(QStringLiteral("notes.txt")))
        << "a file that cannot be read is named";
    EXPECT_FALSE(m_workspace->isOpen()) << "nothing is made before it is imported";
    click("traceImportAccept");
    ASSERT_EQ(m_workspace->batch().carriers.at(1).rows, 6);
    EXPECT_EQ(m_workspace->batch().runs.at({4, 0}).name, "sample 9") << "numbers are counted";
    ASSERT_TRUE(isOnScreen("dataTraces"));

    clickChain(ChainPage::Response);
    clickRun("responseRuns", 2);
    click("takePeaks");
    ASSERT_EQ(m_workspace->batch().method.analytes.size(), 2u);
    typeInto("traceAnalyte", QStringLiteral("Malate"));
    EXPECT_EQ(m_workspace->batch().method.analyte(1).name, "Malate");
    EXPECT_EQ(find<QPushButton>("analyte1")->text(), QStringLiteral("Malate"));

    clickChain(ChainPage::Layout);
    auto* list = m_window->findChild<RunListView*>(QStringLiteral("layoutPlateList"));
    ASSERT_NE(list, nullptr);
    choose("replicates", QStringLiteral("1 each"));
    dragOver(*list->viewport(), list->cellRect(0, 1).center(), list->cellRect(3, 1).center());
    key(Qt::Key_1);
    dragOver(*list->viewport(), list->cellRect(4, 1).center(), list->cellRect(5, 1).center());
    key(Qt::Key_4);
    EXPECT_EQ(m_workspace->batch().at({3, 0}), (Assignment{Role::Standard, 4}));
    EXPECT_EQ(m_workspace->batch().at({5, 0}).role, Role::Unknown);
    for (int level = 1; level <= 4; ++level) {
        m_workspace->apply(setLevel(m_workspace->newest(), level, std::pow(2, level - 1), 1));
    }
    wait();
    ASSERT_TRUE(evaluation().fit.isUsable()) << evaluation().fit.message;
    ASSERT_EQ(evaluation().results.size(), 2u);
    EXPECT_NEAR(*evaluation().results[0].readOff.x, 5, 0.2);
    EXPECT_NEAR(*evaluation().results[1].readOff.x, 3, 0.2);
}

TEST_F(TraceWindow, TheEndOfAPeakIsDraggedAndTakenBack) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    const double before = areaOf(1), other = areaOf(2);
    const Peak peak = peakOf(1, 1);
    dragOver(plot(), plot().pixelOf(peak.end, peak.endY), plot().pixelOf(peak.apex + 0.03, peak.endY));
    EXPECT_LT(areaOf(1), 0.9 * before) << "the tail was cut off";
    EXPECT_EQ(areaOf(2), other) << "other runs stay as they were";
    EXPECT_TRUE(isOnScreen("takeBack"));
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("drawn by hand")));
    // It stays when the rules change.
    typeInto("leastHeight", QStringLiteral("12"));
    EXPECT_LT(areaOf(1), 0.9 * before);
    EXPECT_EQ(m_workspace->batch().handEdits.size(), 1u);
    click("takeBack");
    EXPECT_NEAR(areaOf(1), before, 0.02 * before);
    click("undo");
    EXPECT_LT(areaOf(1), 0.9 * before);
}

TEST_F(TraceWindow, ALineIsDrawnAndItsEndMovedUp) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 3);
    const double before = areaOf(3);
    const Peak peak = peakOf(3, 1);
    click("toolLine");
    const double low = std::min(peak.startY, peak.endY);
    dragOver(plot(), plot().pixelOf(peak.start, low - 0.7), plot().pixelOf(peak.end, low - 0.7));
    EXPECT_GT(areaOf(3), before + 0.5 * (peak.end - peak.start)) << "the line lies 0.7 pA lower";
    key(Qt::Key_Escape); // puts the tool down
    EXPECT_FALSE(find<QPushButton>("toolLine")->isChecked());
    const Peak drawn = peakOf(3, 1);
    dragOver(plot(), plot().pixelOf(drawn.end, drawn.endY), plot().pixelOf(drawn.end, drawn.endY + 2));
    EXPECT_NEAR(peakOf(3, 1).endY, drawn.endY + 2, 0.3) << "the end of a line that was drawn moves up and down";
    EXPECT_NEAR(peakOf(3, 1).startY, drawn.startY, 1e-9);
}

TEST_F(TraceWindow, PeaksAreSplitJoinedAndRemoved) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    const std::size_t before = peaksIn(1);
    const Peak peak = peakOf(1, 1);
    const double area = peak.area;
    key(Qt::Key_S);
    QTest::mouseClick(&plot(), Qt::LeftButton, {}, plot().pixelOf(peak.apex + 0.05, peak.apexY / 2).toPoint());
    wait();
    ASSERT_EQ(peaksIn(1), before + 1);
    key(Qt::Key_J);
    dragOver(plot(), plot().pixelOf(peak.start - 0.02, peak.apexY / 2),
             plot().pixelOf(peak.end + 0.02, peak.apexY / 2));
    ASSERT_EQ(peaksIn(1), before);
    EXPECT_NEAR(areaOf(1), area, 1e-6 * area) << "area is additive";
    key(Qt::Key_Delete);
    QTest::mouseClick(&plot(), Qt::LeftButton, {}, plot().pixelOf(peak.apex, peak.apexY / 2).toPoint());
    wait();
    EXPECT_EQ(evaluation().at({1, 0}).state, ResponseState::NotFound) << "a state, never an area of 0";
    EXPECT_EQ(find<RunStrip>("responseRuns")->valueText({1, 0}), QStringLiteral("not found"));
}

TEST_F(TraceWindow, ParametersAreLiveForAllRuns) {
    startEsters();
    clickChain(ChainPage::Response);
    const std::size_t first = peaksIn(1), last = peaksIn(6);
    ASSERT_GE(first, 4u);
    typeInto("leastHeight", QStringLiteral("400"));
    EXPECT_LT(peaksIn(6), last) << "at 400 times the noise, the lowest level loses peaks";
    EXPECT_GT(peaksIn(1), peaksIn(6));
    // A stretch to ignore, drawn on the trace.
    clickRun("responseRuns", 1);
    typeInto("leastHeight", QStringLiteral("8"));
    ASSERT_EQ(peaksIn(1), first);
    click("toolIgnore");
    dragOver(plot(), plot().pixelOf(7.2, 20), plot().pixelOf(8, 20));
    ASSERT_EQ(m_workspace->batch().method.signalRules.at("signal").peaks.ignored.size(), 2u);
    EXPECT_EQ(peaksIn(1), first - 1);
    EXPECT_TRUE(find<QLineEdit>("ignored")->text().startsWith(shown("0 to 2.2; 7.1").chopped(1)));
    typeInto("ignored", QStringLiteral("0 to 2.2"));
    EXPECT_EQ(peaksIn(1), first);
    typeInto("ignored", QStringLiteral("from here"));
    EXPECT_TRUE(notice().contains(QStringLiteral("is no list of stretches")));
}

TEST_F(TraceWindow, ZoomStaysFromRunToRun) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    dragOver(plot(), plot().pixelOf(4.2, 20), plot().pixelOf(6, 20));
    find<RunStrip>("responseRuns")->setFocus();
    EXPECT_NEAR(plot().window().xLow, 4.2, 0.05);
    EXPECT_NEAR(plot().window().xHigh, 6, 0.05);
    key(Qt::Key_Down);
    EXPECT_NEAR(plot().window().xLow, 4.2, 0.05);
    EXPECT_TRUE(words("responseTitle").contains(QStringLiteral("Level 2")));
    clickChain(ChainPage::Data);
    EXPECT_NEAR(find<TracePlot>("dataTraces")->window().xHigh, 6, 0.05) << "and from page to page";
    key(Qt::Key_Z);
    EXPECT_EQ(find<TracePlot>("dataTraces")->window().xHigh, 9);
}

TEST_F(TraceWindow, RunsLieOverEachOtherAndOnAWall) {
    startEsters();
    clickChain(ChainPage::Data);
    key(Qt::Key_O);
    EXPECT_EQ(find<TracePlot>("dataTraces")->traces().size(), 24u);
    clickRun("dataRuns", 1);
    auto* strip = find<RunStrip>("dataRuns");
    QTest::mouseClick(strip->viewport(), Qt::LeftButton, Qt::ControlModifier, strip->rowRect(2).center());
    wait();
    EXPECT_EQ(find<TracePlot>("dataTraces")->traces().size(), 2u) << "those that are selected";
    choose("traceOverlay", QStringLiteral("Difference of two"));
    EXPECT_EQ(find<TracePlot>("dataTraces")->traces().size(), 3u);
    strip->setFocus();
    key(Qt::Key_W);
    auto* wall = find<TraceWall>("traceWall");
    ASSERT_TRUE(wall->isVisible());
    EXPECT_EQ(words("wallPage"), QStringLiteral("Runs 1 to 12 of 24"));
    EXPECT_TRUE(wall->cellRect(11).has_value());
    key(Qt::Key_PageDown);
    EXPECT_EQ(words("wallPage"), QStringLiteral("Runs 13 to 24 of 24"));
    QTest::mouseDClick(wall, Qt::LeftButton, {}, wall->cellRect(13)->center().toPoint());
    wait();
    EXPECT_FALSE(wall->isVisible());
    EXPECT_TRUE(words("traceTitle").contains(QStringLiteral("Cider base, vat 5")));
}

TEST_F(TraceWindow, MarkersGiveTheLineBetweenThem) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    key(Qt::Key_M);
    ASSERT_TRUE(isOnScreen("markerLine"));
    const auto markers = *plot().markers();
    const double y = plot().window().yHigh - 1;
    dragOver(plot(), plot().pixelOf(markers.from, y), plot().pixelOf(6.2, y));
    dragOver(plot(), plot().pixelOf(markers.to, y), plot().pixelOf(7, y));
    const auto trace = m_workspace->batch().reading({1, Place{1, 0}, "signal"})->payload.trace();
    const auto [x, values] = trace->points();
    const auto line = lineBetween(x, values, *plot().markers());
    ASSERT_TRUE(line);
    EXPECT_TRUE(words("markerLine").contains(shown(formatFigures(line->b, 5)))) << words("markerLine").toStdString();
    EXPECT_TRUE(words("markerLine").contains(QStringLiteral("R²")));
    find<RunStrip>("responseRuns")->setFocus();
    key(Qt::Key_C, Qt::ControlModifier);
    const QString copied = QApplication::clipboard()->text();
    EXPECT_TRUE(copied.contains(QStringLiteral("Isoamyl acetate")));
    EXPECT_TRUE(copied.contains(QStringLiteral("slope"))) << "all values with one key";
}

TEST_F(TraceWindow, SeriesOfAllAnalytesAreTypedInOneTable) {
    startEsters();
    clickChain(ChainPage::Layout);
    click("seriesAll");
    auto* table = find<QTableView>("seriesTable");
    ASSERT_TRUE(table->isVisible());
    EXPECT_EQ(cell("seriesTable", 2, QStringLiteral("S1")), shown("5.000"));
    EXPECT_EQ(cell("seriesTable", 2, QStringLiteral("each next ÷")), shown("2.500"));
    const QPoint first = table->visualRect(table->model()->index(2, 1)).center();
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, first);
    wait();
    QTest::mouseDClick(table->viewport(), Qt::LeftButton, {}, first);
    auto* editor = table->findChild<QLineEdit*>();
    ASSERT_NE(editor, nullptr);
    QTest::keyClicks(editor, QStringLiteral("8"));
    QTest::keyClick(editor, Qt::Key_Return);
    wait();
    EXPECT_EQ(*m_workspace->batch().concentration(1, 3), 8);
    EXPECT_NEAR(*m_workspace->batch().concentration(6, 3), 8 / std::pow(2.5, 5), 1e-12);
    EXPECT_EQ(*m_workspace->batch().concentration(1, 2), 20) << "others stay";
    EXPECT_EQ(m_workspace->analyteNumber(), 3);
}

TEST_F(TraceWindow, WhatIsTypedBelongsToTheAnalyteItWasTypedFor) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 1);
    auto* name = find<QLineEdit>("traceAnalyte");
    name->setFocus();
    name->selectAll();
    QTest::keyClicks(name, QStringLiteral("Acetate"));
    key(Qt::Key_Right, Qt::AltModifier);
    EXPECT_EQ(m_workspace->analyteNumber(), 2);
    EXPECT_EQ(m_workspace->batch().method.analyte(1).name, "Acetate");
    EXPECT_EQ(name->text(), QStringLiteral("Isoamyl acetate"));
    auto* expected = find<QLineEdit>("peakExpected");
    expected->setFocus();
    expected->selectAll();
    QTest::keyClicks(expected, shown("4.63"));
    const Peak& other = peakOf(1, 4);
    QTest::mouseClick(&plot(), Qt::LeftButton, {},
                      plot().pixelOf(other.apex, other.startY + other.height / 2).toPoint());
    wait();
    EXPECT_EQ(m_workspace->analyteNumber(), 4);
    key(Qt::Key_Tab);
    EXPECT_EQ(std::get<PeakRule>(m_workspace->batch().method.analyte(2).source.rule).expected, 4.63);
    EXPECT_EQ(std::get<PeakRule>(m_workspace->batch().method.analyte(4).source.rule).expected, 7.49);
    EXPECT_EQ(m_workspace->batch().method.analyte(4).name, "Ethyl octanoate");
}

TEST_F(TraceWindow, ARunIsLeftOutWithAReason) {
    startEsters();
    clickChain(ChainPage::Response);
    clickRun("responseRuns", 4);
    const double before = evaluation().fit.parameters.at(1);
    withReason([this] { key(Qt::Key_X); }, QStringLiteral("air in the syringe"));
    EXPECT_EQ(evaluation().at({4, 0}).state, ResponseState::Excluded);
    EXPECT_NE(evaluation().fit.parameters.at(1), before);
}

TEST_F(TraceWindow, ARecipeIsCorrectedAndKept) {
    const auto path = m_folder / "cell.csv";
    {
        std::ofstream out(path);
        out << "time (s),potential (V),current\n";
        for (int i = 0; i < 80; ++i) {
            out << i << ',' << 0.01 * i << ',' << 1 + 5 * std::exp(-std::pow((i - 40) / 6.0, 2)) << '\n';
        }
    }
    drop(path);
    ASSERT_TRUE(isOnScreen("traceImportTitle"));
    choose("traceImportX", QStringLiteral("potential"));
    auto* table = find<QTableView>("traceImportColumns");
    table->model()->setData(table->model()->index(2, 2), QStringLiteral("µA"));
    table->model()->setData(table->model()->index(0, 1), QString());
    wait();
    EXPECT_TRUE(words("traceImportUnderstood").contains(QStringLiteral("1 channel")))
        << words("traceImportUnderstood").toStdString();
    EXPECT_TRUE(words("traceImportUnderstood").contains(shown("Potential, V from 0 to 0.79")));
    click("traceImportAccept");
    EXPECT_EQ(m_workspace->batch().method.traceRecipe.x, "potential");
    drop(path);
    EXPECT_EQ(find<QComboBox>("traceImportX")->currentText(), QStringLiteral("potential"))
        << "the next needs no question";
    click("traceImportAccept");
    EXPECT_EQ(m_workspace->batch().carriers.at(1).rows, 2);
}

TEST_F(TraceWindow, TheDemosEndInAReportAndAWorkbook) {
    for (const char* name : {"esters", "ascorbic-acid"}) {
        auto demo = demoBatch(name, m_folder / (std::string(name) + ".nuvat"));
        ASSERT_TRUE(demo) << demo.error().text();
        m_workspace->open(std::move(*demo));
        wait();
        const auto pdf = m_folder / (std::string(name) + ".pdf");
        m_dialogs.next(pdf);
        click("primary");
        ASSERT_TRUE(QTest::qWaitFor([&] { return std::filesystem::exists(pdf); }, 20'000)) << name;
        const auto xlsx = m_folder / (std::string(name) + ".xlsx");
        ASSERT_TRUE(writeXlsx(m_workspace->batch(), m_workspace->wholeEvaluation(), xlsx));
        EXPECT_GT(std::filesystem::file_size(xlsx), 4000u);
        EXPECT_FALSE(evaluation().results.empty());
    }
}

} // namespace
} // namespace nuvat
