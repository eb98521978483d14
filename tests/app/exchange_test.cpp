// Parts of a batch that go to files and come back, and the report as it is put together.
#include "nuvat/report/report_file.h"
#include "nuvat/workflow/export.h"
#include "widgets/block_list.h"
#include "window_fixture.h"

#include <algorithm>
#include <fstream>
#include <QApplication>
#include <QClipboard>
#include <QLineEdit>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class ExchangeTest : public test::WindowTest {};

TEST_F(ExchangeTest, PartsOfTheLayoutAreCopiedPastedAndMoved) {
    startDemo();
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 0}, {1, 1});
    triggerAction("edit.copy");
    EXPECT_EQ(QApplication::clipboard()->text(), QStringLiteral("\t1\t2\nA\tS1\tS1\nB\tS2\tS2\n"));
    clickWell("layoutPlate", {6, 10});
    triggerAction("data.paste");
    settle();
    EXPECT_EQ(m_workspace->batch().at({6, 10}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(m_workspace->batch().at({7, 11}), (Assignment{Role::Standard, 2}));
    triggerAction("edit.undo");
    settle();
    EXPECT_EQ(m_workspace->batch().at({6, 10}).role, Role::Unknown);
    // Moved with the keyboard, as far as the plate goes.
    dragWells("layoutPlate", {7, 0}, {7, 1});
    key(Qt::Key_Down, Qt::AltModifier);
    EXPECT_TRUE(notice().contains(QStringLiteral("over the edge"))) << notice().toStdString();
    key(Qt::Key_Right, Qt::AltModifier);
    settle();
    EXPECT_EQ(m_workspace->batch().at({7, 2}).role, Role::Blank);
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{7, 1}, {7, 2}}));
    triggerAction("edit.undo");
    triggerAction("layout.mirrorAcross");
    settle();
    EXPECT_EQ(m_workspace->batch().at({0, 11}), (Assignment{Role::Standard, 1}));
}

TEST_F(ExchangeTest, ReplicatesStandInBlocks) {
    startDemo();
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 8}, {3, 11});
    choose("replicates", QStringLiteral("4 each"));
    choose("direction", QStringLiteral("blocks"));
    key(Qt::Key_4);
    settle();
    const Assignment first = m_workspace->batch().at({0, 8});
    EXPECT_EQ(m_workspace->batch().at({1, 9}), first);
    EXPECT_EQ(m_workspace->batch().at({2, 8}).number, first.number + 1);
    EXPECT_EQ(m_workspace->batch().at({0, 10}).number, first.number + 2);
}

TEST_F(ExchangeTest, LayoutsGoThroughFiles) {
    startDemo();
    const auto before = m_workspace->batch();
    const auto path = m_folder / "layout.csv";
    m_dialogs.next(path);
    triggerAction("layout.export");
    EXPECT_TRUE(notice().contains(QStringLiteral("was exported"))) << notice().toStdString();
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 0}, {7, 11});
    key(Qt::Key_0);
    settle();
    EXPECT_TRUE(m_workspace->batch().places.empty());
    m_dialogs.next(path);
    triggerAction("layout.import");
    settle();
    EXPECT_EQ(m_workspace->batch().places, before.places);
    EXPECT_EQ(m_workspace->batch().levels, before.levels);
    EXPECT_EQ(m_workspace->batch().samples, before.samples);
    std::ofstream(m_folder / "wrong.csv") << "well;role;number\nA1;standard;1\nZ9;standard;2\n";
    m_dialogs.next(m_folder / "wrong.csv");
    triggerAction("layout.import");
    EXPECT_TRUE(notice().contains(QStringLiteral("line 3"))) << notice().toStdString();
    EXPECT_EQ(m_workspace->batch().places, before.places);
}

TEST_F(ExchangeTest, ACurveIsKeptAndUsedWithoutStandards) {
    startDemo();
    const double before = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    const auto path = m_folder / "week-38.nuvat-curve";
    m_dialogs.next(path);
    withDialog([this] { triggerAction("curve.keep"); }, QStringLiteral("askDialog"),
               [](QDialog& dialog) {
                   dialog.findChild<QLineEdit*>(QStringLiteral("askLine"))->setText(QStringLiteral("14"));
                   dialog.accept();
               });
    EXPECT_TRUE(std::filesystem::exists(path)) << notice().toStdString();
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 0}, {6, 1});
    key(Qt::Key_0);
    settle();
    EXPECT_FALSE(m_workspace->evaluation().fit.isUsable());
    m_dialogs.next(path);
    triggerAction("curve.use");
    settle();
    EXPECT_EQ(*m_workspace->evaluation().result({Role::Unknown, 5})->result, before);
    clickChain(ChainPage::Curve);
    EXPECT_TRUE(words("keptCurve").contains(QStringLiteral("valid for 14 days"))) << words("keptCurve").toStdString();
    clickChain(ChainPage::Checks);
    EXPECT_GE(rowOf("criteriaTable", QStringLiteral("Kept curve holds")), 0);
    triggerAction("curve.own");
    settle();
    EXPECT_FALSE(m_workspace->evaluation().fit.isUsable());
}

TEST_F(ExchangeTest, PicturesAreCopiedAndSavedAsPages) {
    startDemo();
    clickChain(ChainPage::Curve);
    triggerAction("page.copyPicture");
    EXPECT_TRUE(QApplication::clipboard()->mimeData()->hasImage());
    m_dialogs.next(m_folder / "curve.pdf");
    triggerAction("page.picture");
    EXPECT_EQ(test::contentOf(m_folder / "curve.pdf").substr(0, 5), "%PDF-");
    m_dialogs.next(m_folder / "book.xlsx");
    triggerAction("results.workbook");
    settle();
    EXPECT_EQ(test::contentOf(m_folder / "book.xlsx").substr(0, 2), "PK");
}

TEST_F(ExchangeTest, SampleNamesComeFromAFile) {
    startDemo();
    std::ofstream(m_folder / "samples.csv") << "Sample;Dilution\nJuice, clear;4\nPerry;1 + 9\n";
    clickChain(ChainPage::Layout);
    clickWell("layoutPlate", {2, 2}); // U01
    const std::string third = m_workspace->batch().samples.at(3).name;
    m_dialogs.next(m_folder / "samples.csv");
    triggerAction("samples.import");
    ASSERT_TRUE(QTest::qWaitFor([&] { return m_workspace->newest().samples.at(1).name == "Juice, clear"; }, 5000))
        << notice().toStdString();
    EXPECT_EQ(m_workspace->newest().samples.at(1).dilution, 4);
    EXPECT_EQ(m_workspace->newest().samples.at(2).name, "Perry");
    EXPECT_EQ(m_workspace->newest().samples.at(2).dilution, 10);
    EXPECT_EQ(m_workspace->newest().samples.at(3).name, third);
}

TEST_F(ExchangeTest, TheReportIsPrinted) {
    startDemo();
    const auto paper = m_folder / "paper.pdf";
    m_dialogs.next(paper);
    key(Qt::Key_P, Qt::ControlModifier);
    for (int i = 0; i < 100 && notice().isEmpty(); ++i) {
        wait(50);
    }
    EXPECT_TRUE(notice().contains(QStringLiteral("sent to the printer"))) << notice().toStdString();
    const std::string printed = test::contentOf(paper);
    EXPECT_TRUE(printed.starts_with("%PDF"));
    std::size_t pages = 0;
    for (auto at = printed.find("/Type /Page\n"); at != std::string::npos; at = printed.find("/Type /Page\n", at + 1)) {
        ++pages;
    }
    EXPECT_EQ(pages, 3u);
}

TEST_F(ExchangeTest, BlocksOfTheReportAreDraggedAndParted) {
    startDemo();
    clickChain(ChainPage::Report);
    auto* list = find<BlockList>("blockList");
    wait(20);
    const auto keys = [this] { return blockKeys(m_workspace->batch().method); };
    const std::string second = keys().at(1);
    QTest::mousePress(list, Qt::LeftButton, {}, list->rowRect(1).center());
    QTest::mouseMove(list, list->rowRect(2).center());
    QTest::mouseMove(list, list->rowRect(3).center());
    QTest::mouseRelease(list, Qt::LeftButton, {}, list->rowRect(3).center());
    settle();
    EXPECT_EQ(keys().at(3), second);
    wait(20);
    // The same by keyboard, and back.
    find<QWidget>(("block_" + second).c_str())->setFocus();
    key(Qt::Key_Up, Qt::AltModifier);
    settle();
    EXPECT_EQ(keys().at(2), second);
    click("addPageBreak");
    settle();
    EXPECT_EQ(keys().back(), kPageBreak);
    click("block_plate-results");
    settle();
    EXPECT_TRUE(hasBlock(m_workspace->batch().method, "plate-results"));
    // How a block is printed is chosen in its row.
    const QList<QAction*> ways = find<QPushButton>("option_figure")->menu()->actions();
    ASSERT_EQ(ways.size(), 2);
    EXPECT_TRUE(ways.at(0)->isChecked());
    ways.at(1)->trigger();
    settle();
    EXPECT_EQ(std::ranges::count(keys(), "figure:tall"), 1);
    EXPECT_EQ(find<QPushButton>("option_figure")->text(), QStringLiteral("half a page"));
    typeInto("reportTop", QStringLiteral("{laboratory} | {method}, revision {revision}"));
    typeInto("fileName", QStringLiteral("{batch}-{number}"));
    settle();
    EXPECT_TRUE(words("fileNameExample").contains(QStringLiteral("-0001.pdf")))
        << words("fileNameExample").toStdString();
    EXPECT_EQ(m_workspace->batch().method.reportTop, "{laboratory} | {method}, revision {revision}");
}

TEST_F(ExchangeTest, WhatAMethodAsksForIsDoneWhenAReadingCameIn) {
    startDemo();
    clickChain(ChainPage::Report);
    click("whenComplete_csv");
    typeInto("fileName", QStringLiteral("results-{number}"));
    settle();
    const auto named = m_folder / "week.nuvat";
    m_dialogs.next(named);
    triggerAction("batch.saveAs");
    settle();
    std::ofstream(m_folder / "again.csv") << resultsCsv(m_workspace->batch(), m_workspace->wholeEvaluation());
    drop(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv");
    for (int i = 0; i < 100 && !isOnScreen("importAccept"); ++i) {
        wait(50);
    }
    click("importAccept");
    for (int i = 0; i < 100 && !std::filesystem::exists(m_folder / "results-0001.csv"); ++i) {
        wait(50);
    }
    EXPECT_TRUE(std::filesystem::exists(m_folder / "results-0001.csv")) << notice().toStdString();
}

TEST_F(ExchangeTest, MethodsAreKeptAndTheChipSaysWhatDiffers) {
    startDemo();
    auto* chip = find<QPushButton>("methodChip");
    triggerAction("method.keep");
    settle();
    EXPECT_TRUE(notice().contains(QStringLiteral("revision 1"))) << notice().toStdString();
    EXPECT_TRUE(chip->text().endsWith(QStringLiteral("revision 1"))) << chip->text().toStdString();
    clickChain(ChainPage::Response);
    choose("percentOf", QStringLiteral("% of highest"));
    settle();
    EXPECT_TRUE(chip->text().contains(QStringLiteral("changed"))) << chip->text().toStdString();
    auto* menu = find<QMenu>("methodMenu");
    Q_EMIT menu->aboutToShow();
    QStringList entries;
    for (const QAction* action : menu->actions()) {
        entries << action->text();
    }
    EXPECT_TRUE(entries.contains(QStringLiteral("analytes 1, percent of: nothing → highest")))
        << entries.join(u'|').toStdString();
    triggerAction("method.keep");
    settle();
    EXPECT_TRUE(chip->text().endsWith(QStringLiteral("revision 2"))) << chip->text().toStdString();
}

TEST_F(ExchangeTest, DilutionsAreTypedAsParts) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* table = find<QTableView>("samplesTable");
    const int row = rowOf("samplesTable", QStringLiteral("U02"));
    const auto type = [&](const QString& typed) {
        table->setCurrentIndex(table->model()->index(row, 2));
        table->edit(table->currentIndex());
        auto* line = table->findChild<QLineEdit*>();
        line->selectAll();
        QTest::keyClicks(line, typed);
        QTest::keyClick(line, Qt::Key_Return);
        settle();
    };
    type(QStringLiteral("1 + 9"));
    EXPECT_EQ(m_workspace->batch().dilution({Role::Unknown, 2}), 10);
    type(QStringLiteral("1:20"));
    EXPECT_EQ(m_workspace->batch().dilution({Role::Unknown, 2}), 10);
    EXPECT_TRUE(notice().contains(QStringLiteral("is no dilution"))) << notice().toStdString();
}

TEST_F(ExchangeTest, AWatchedFolderBringsNewFilesToThePreview) {
    startDemo();
    const auto folder = m_folder / "instrument";
    std::filesystem::create_directory(folder);
    const std::string plate =
        test::contentOf(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv");
    std::ofstream(folder / "old.csv") << plate;
    m_dialogs.next(folder);
    triggerAction("data.watch");
    EXPECT_TRUE(notice().contains(QStringLiteral("is watched"))) << notice().toStdString();
    wait(600);
    EXPECT_FALSE(isOnScreen("importAccept")) << "what was there before is not new";
    {
        std::ofstream half(folder / "new.csv");
        half << plate.substr(0, plate.size() / 2);
        half.flush();
        wait(200);
        EXPECT_FALSE(isOnScreen("importAccept")) << "it is still being written";
        half << plate.substr(plate.size() / 2);
    }
    for (int i = 0; i < 200 && !isOnScreen("importAccept"); ++i) {
        wait(50);
    }
    ASSERT_TRUE(isOnScreen("importAccept"));
    click("importAccept");
    settle();
    EXPECT_EQ(m_workspace->batch().readings.size(), 2u);
    EXPECT_EQ(m_workspace->batch().readings.rbegin()->second->source, "new.csv");
    triggerAction("data.watch");
    EXPECT_TRUE(notice().contains(QStringLiteral("no longer watched"))) << notice().toStdString();
}

// Typed and not yet left: the batch that goes keeps it, the next one does not get it.
TEST_F(ExchangeTest, TextsOfTheReportAreKeptWhenTheBatchGoes) {
    startDemo();
    clickChain(ChainPage::Report);
    auto* line = find<QLineEdit>("reportTop");
    line->setFocus();
    QTest::keyClicks(line, QStringLiteral("{laboratory}"));
    const auto path = m_workspace->openBatch().path;
    triggerAction("batch.new");
    settle();
    EXPECT_TRUE(m_workspace->batch().method.reportTop.empty());
    auto opened = openBatch(path);
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(opened->document->batch().method.reportTop, "{laboratory}");
}

TEST_F(ExchangeTest, ALayoutIsRepeatedOnAnotherPlateFromTheMenu) {
    startDemo();
    triggerAction("carrier.addPlate");
    settle();
    m_workspace->showCarrier(1);
    clickChain(ChainPage::Layout);
    auto* menu = find<QPushButton>("arrange")->menu();
    Q_EMIT menu->aboutToShow();
    for (QAction* action : menu->actions()) {
        if (action->text() == QStringLiteral("Repeat this layout on Plate 2")) {
            action->trigger();
        }
    }
    settle();
    EXPECT_EQ(m_workspace->batch().at({0, 0, 2}), (Assignment{Role::Standard, 1}));
    EXPECT_EQ(m_workspace->batch().at({2, 2, 2}).number, m_workspace->batch().at({2, 2}).number + 38)
        << "goes on after the 38 unknowns, in their order";
    triggerAction("edit.undo");
    settle();
    EXPECT_EQ(m_workspace->batch().at({0, 0, 2}).role, Role::Empty);
}

} // namespace
} // namespace nuvat
