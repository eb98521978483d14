#include "jobs/job.h"
#include "kinds/plate/plate_view.h"
#include "nuvat/store/batch_file.h"
#include "panels/working_panel.h"
#include "widgets/file_view.h"
#include "widgets/frame_widgets.h"
#include "window_fixture.h"

#include <atomic>
#include <chrono>
#include <csignal>
#include <fcntl.h>
#include <fstream>
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QTest>
#include <QThreadPool>
#include <QToolButton>
#include <sqlite3.h>
#include <sys/stat.h>
#include <thread>
#include <unistd.h>

namespace nuvat {
namespace {

std::filesystem::path demoPlate() {
    return std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv";
}

class Import : public test::WindowTest {
protected:
    std::filesystem::path write(const std::string& name, const std::string& content) {
        std::ofstream(m_folder / name, std::ios::binary) << content;
        return m_folder / name;
    }
};

TEST_F(Import, ByTheMenuSaysWhatWasUnderstoodAndTakesItIn) {
    m_dialogs.next(demoPlate());
    auto* menu = find<QToolButton>("batchMenu")->menu();
    const auto actions = menu->actions();
    const auto import = std::find_if(actions.begin(), actions.end(),
                                     [](QAction* a) { return a->text().startsWith(QStringLiteral("Import")); });
    ASSERT_NE(import, actions.end());
    (*import)->trigger();
    ASSERT_TRUE(QTest::qWaitFor([this] { return isOnScreen("importTitle"); }, 5000));
    EXPECT_EQ(words("importTitle"), QStringLiteral("Understood of plate-450.csv"));
    EXPECT_EQ(
        find<QLabel>("importUnderstood")->text(),
        QStringLiteral(
            "8 × 12 matrix, semicolon-separated, decimal point, UTF-8; 95 of 96 wells with a number; read at 450 nm"));
    EXPECT_TRUE(find<QLabel>("importWarnings")->text().contains(QStringLiteral("line 9, cell 9 (well D8): \"OVER\"")));
    EXPECT_FALSE(m_workspace->isOpen()); // nothing is made yet
    click("importAccept");
    ASSERT_TRUE(m_workspace->isOpen());
    EXPECT_EQ(m_window->currentPage(), ChainPage::Data);
    EXPECT_EQ(find<PlateView>("dataPlate")->wellTexts({0, 0}),
              QStringList{QLocale().decimalPoint() == QStringLiteral(",") ? QStringLiteral("0,194")
                                                                          : QStringLiteral("0.194")});
    EXPECT_EQ(find<PlateView>("dataPlate")->wellTexts({3, 7}), QStringList{QStringLiteral("over")});
}

TEST_F(Import, ByDroppingIsTheSameAndCanBeLeft) {
    startDemo();
    const Batch before = m_workspace->batch();
    drop(write("again.tsv", "\t1\t2\t3\nA\t0.1\t0.2\t0.3\nB\t0.4\t0.5\t0.6\n"));
    EXPECT_TRUE(isOnScreen("importTitle"));
    key(Qt::Key_Escape);
    EXPECT_FALSE(isOnScreen("importTitle"));
    EXPECT_EQ(m_workspace->batch(), before);
    // Its size does not fit the plate that is laid out, so it goes to another one.
    drop(m_folder / "again.tsv");
    EXPECT_EQ(find<QComboBox>("importTarget")->currentText(), QStringLiteral("a new plate"));
    click("importAccept");
    EXPECT_EQ(m_workspace->batch().carriers.at(2), (Carrier{CarrierKind::Plate, "", 2, 3}));
    EXPECT_EQ(m_workspace->carrierNumber(), 2);
    EXPECT_TRUE(isOnScreen("carrier1"));
    click("undo");
    EXPECT_EQ(m_workspace->batch(), before);
}

TEST_F(Import, SheetsOfASpreadsheetAreReadsOrPlates) {
    drop(std::filesystem::path(NUVAT_TEST_DIR) / "fixtures/spreadsheets/openpyxl.xlsx");
    EXPECT_EQ(words("importUnderstood"),
              QStringLiteral("8 × 12 matrix, sheet Reading, XLSX; 94 of 96 wells with a number; read at 450 nm"));
    EXPECT_TRUE(words("importWarnings").contains(QStringLiteral("cell C6 (well B2)")));
    EXPECT_TRUE(words("importWarnings").contains(QStringLiteral("Sheet Old is hidden")));
    choose("importRead", QStringLiteral("2 of 2"));
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("sheet List")));
    click("importAccept");
    const Batch& batch = m_workspace->batch();
    ASSERT_EQ(batch.carriers.size(), 2u) << "of another size, so of another plate";
    EXPECT_EQ(batch.carriers.at(2).rows, 2);
    ASSERT_EQ(batch.readings.size(), 2u);
    EXPECT_FALSE(m_workspace->evaluation().at(Place{1, 1, 1}).raw) << "OVER is no reading";
}

TEST_F(Import, FilesDroppedTogetherArePreviewedOneAfterTheOther) {
    const auto first = write("first.tsv", "\t1\t2\t3\nA\t0.1\t0.2\t0.3\nB\t0.4\t0.5\t0.6\n");
    const auto second = write("second.tsv", "\t1\t2\t3\nA\t1.1\t1.2\t1.3\nB\t1.4\t1.5\t1.6\n");
    drop(std::vector{first, write("broken.tsv", ""), second});
    EXPECT_TRUE(words("importTitle").contains(QStringLiteral("first.tsv"))) << "in the order of their names";
    EXPECT_TRUE(notice().contains(QStringLiteral("broken.tsv"))) << notice().toStdString();
    click("importAccept");
    ASSERT_TRUE(
        QTest::qWaitFor([this] { return words("importTitle").contains(QStringLiteral("second.tsv")); }, 10'000));
    click("importAccept");
    EXPECT_EQ(m_workspace->batch().readings.size(), 2u);
    EXPECT_EQ(m_workspace->batch().carriers.size(), 2u); // plates that come together are two plates
}

/// A file that goes on for as long as somebody reads it.
class EndlessFile {
public:
    explicit EndlessFile(std::filesystem::path path) : m_path(std::move(path)) {
        std::signal(SIGPIPE, SIG_IGN);
        ::mkfifo(m_path.c_str(), 0600);
        m_writer = std::thread([this] {
            const int file = ::open(m_path.c_str(), O_WRONLY);
            const std::string block(64 * 1024, 'a'); // one cell that never ends
            while (!m_isOver && ::write(file, block.data(), block.size()) >= 0) {
                std::this_thread::sleep_for(std::chrono::milliseconds(10));
            }
            ::close(file);
        });
    }
    ~EndlessFile() {
        m_isOver = true;
        m_writer.join();
    }
    EndlessFile(const EndlessFile&) = delete;
    EndlessFile& operator=(const EndlessFile&) = delete;

private:
    std::filesystem::path m_path;
    std::atomic<bool> m_isOver{false};
    std::thread m_writer;
};

TEST_F(Import, OfALongFileIsCancelledByItsButton) {
    startDemo();
    const Batch before = m_workspace->batch();
    const EndlessFile file(m_folder / "long.csv");
    drop(m_folder / "long.csv");
    EXPECT_TRUE(notice().contains(QStringLiteral("Reading long.csv"))) << notice().toStdString();
    click("noticeClose");
    ASSERT_TRUE(QTest::qWaitFor([this] { return notice().contains(QStringLiteral("was cancelled")); }, 5000))
        << notice().toStdString();
    EXPECT_FALSE(isOnScreen("importTitle"));
    EXPECT_EQ(m_workspace->batch(), before);
}

TEST_F(Import, AnotherFileWaitsForTheOneThatIsRead) {
    startDemo();
    const EndlessFile file(m_folder / "long.csv");
    drop(m_folder / "long.csv");
    drop(write("short.tsv", "\t1\t2\nA\t0.1\t0.2\nB\t0.4\t0.5\n"));
    wait(300);
    EXPECT_TRUE(notice().contains(QStringLiteral("Reading long.csv"))) << notice().toStdString();
    EXPECT_FALSE(isOnScreen("importTitle"));
    click("noticeClose");
    ASSERT_TRUE(QTest::qWaitFor([this] { return isOnScreen("importTitle"); }, 5000));
    EXPECT_TRUE(words("importTitle").contains(QStringLiteral("short.tsv")));
    EXPECT_TRUE(notice().contains(QStringLiteral("long.csv was cancelled"))) << notice().toStdString();
}

TEST_F(Import, ClosingTheWindowEndsWhatIsRead) {
    startDemo();
    const EndlessFile file(m_folder / "long.csv");
    drop(m_folder / "long.csv");
    EXPECT_TRUE(notice().contains(QStringLiteral("Reading long.csv")));
    m_window.reset();
    EXPECT_TRUE(QThreadPool::globalInstance()->waitForDone(5000));
    wait(50); // what it leaves for the UI thread finds no window, and needs none
}

// Whatever a job throws becomes a sentence; the program goes on.
TEST(Jobs, ThatThrowEndInASentence) {
    QObject context;
    std::vector<std::string> codes;
    const auto run = [&](const std::function<void()>& work) {
        runJob<int>(
            &context,
            [work](Progress&) -> Result<int> {
                work();
                return 7;
            },
            [&codes](Result<int> result) { codes.push_back(result ? std::to_string(*result) : result.error().code); });
        const std::size_t count = codes.size() + 1;
        ASSERT_TRUE(QTest::qWaitFor([&] { return codes.size() == count; }, 5000));
    };
    run([] {});
    run([] { throw std::runtime_error("no such thing"); });
    run([] { throw std::bad_alloc(); });
    EXPECT_EQ(codes, (std::vector<std::string>{"7", "job.failed", "job.no-memory"}));
}

TEST_F(Import, LeavingThePreviewByTheChainLeavesTheFilesBehindIt) {
    const std::string small = "\t1\t2\nA\t0.1\t0.2\nB\t0.4\t0.5\n";
    startDemo();
    drop(std::vector{write("first.tsv", small), write("second.tsv", small)});
    EXPECT_TRUE(isOnScreen("importTitle"));
    clickChain(ChainPage::Curve);
    drop(write("third.tsv", small));
    EXPECT_TRUE(words("importTitle").contains(QStringLiteral("third.tsv")));
    key(Qt::Key_Escape);
    wait(100);
    EXPECT_FALSE(isOnScreen("importTitle")); // the second one does not come after all
}

std::string matrix(int rows, int columns) {
    std::string text;
    for (int column = 1; column <= columns; ++column) {
        text += "\t" + std::to_string(column);
    }
    for (int row = 0; row < rows; ++row) {
        text += "\n" + std::string(1, static_cast<char>('A' + row));
        for (int column = 0; column < columns; ++column) {
            text += "\t0." + std::to_string(100 + row * columns + column);
        }
    }
    return text + "\n";
}

TEST_F(Import, AReadingOfAnotherPlateIsUsedAgain) {
    drop(write("small.tsv", matrix(8, 12)));
    click("importAccept");
    drop(write("large.tsv", matrix(16, 24)));
    click("importAccept");
    EXPECT_EQ(m_workspace->batch().carriers.at(1).columns, 24);
    auto* table = find<QTableView>("readingsTable");
    const QPoint first = table->visualRect(table->model()->index(0, 0)).center();
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, first);
    QTest::mouseDClick(table->viewport(), Qt::LeftButton, {}, first);
    wait(50); // it is painted
    EXPECT_EQ(m_workspace->batch().carriers.at(1).columns, 12) << notice().toStdString();
    EXPECT_EQ(find<PlateView>("dataPlate")->wellTexts({7, 11}).size(), 1);
}

TEST_F(Import, TheCursorStaysOnAPlateThatShrinks) {
    drop(write("large.tsv", matrix(16, 24)));
    click("importAccept");
    clickWell("dataPlate", {15, 23});
    key(Qt::Key_Z, Qt::ControlModifier);
    drop(write("small.tsv", matrix(8, 12)));
    click("importAccept");
    clickWell("dataPlate", {0, 0}, Qt::ShiftModifier);
    for (const Place place : m_workspace->selection().places) {
        EXPECT_TRUE(m_workspace->batch().holds(place));
    }
    EXPECT_FALSE(m_workspace->selection().places.empty());
}

TEST_F(Import, ByPastingABlock) {
    startDemo();
    clickChain(ChainPage::Data);
    QString block;
    for (int column = 1; column <= 12; ++column) {
        block += QStringLiteral("\t%1").arg(column);
    }
    for (int row = 0; row < 8; ++row) {
        block += QStringLiteral("\n%1").arg(QChar(u'A' + row));
        for (int column = 0; column < 12; ++column) {
            block += QStringLiteral("\t1,%1").arg(10 + column);
        }
    }
    QApplication::clipboard()->setText(block);
    key(Qt::Key_V, Qt::ControlModifier);
    EXPECT_TRUE(find<QLabel>("importUnderstood")->text().contains(QStringLiteral("tab-separated, decimal comma")));
    click("importAccept");
    EXPECT_EQ(m_workspace->batch().firstReading(1)->source, "pasted block");
    EXPECT_EQ(m_workspace->batch().readings.size(), 2u);
    EXPECT_EQ(m_workspace->index().numbersOf(Role::Unknown).size(), 38u); // the layout stays, everything follows
    click("undo");
    EXPECT_EQ(m_workspace->batch().readings.size(), 1u);
}

struct Bad {
    const char* name;
    std::string content;
    const char* says;
};

// Each gives a sentence with file and line or cell, and leaves the open batch as it was.
TEST_F(Import, BadInputLeavesTheBatchAsItWas) {
    startDemo();
    const Batch before = m_workspace->batch();
    const auto history = m_workspace->document()->history().size();
    const std::vector<Bad> all{
        {"empty.csv", "", "empty.csv is empty"},
        {"words.csv", "no;numbers\nat;all\n", "words.csv holds no numbers"},
        {"binary.csv", std::string("\x89PNG\r\n\x1a\n\0\0\0\rIHDR", 16), "binary.csv is not a text file"},
        {"encoding.csv", "Gr\x81\x84\xE1;1\nA;2\n", "encoding.csv are in an encoding Nuvat does not know"},
        {"huge.csv", std::string(5'000'000, ';'), "huge.csv is too large for a plate reading"},
        {"text.nuvat", "this is no batch", "text.nuvat is not a Nuvat batch"},
    };
    for (const Bad& bad : all) {
        drop(write(bad.name, bad.content));
        EXPECT_TRUE(notice().contains(QString::fromUtf8(bad.says))) << bad.name << ": " << notice().toStdString();
        EXPECT_FALSE(isOnScreen("importTitle")) << bad.name;
        EXPECT_EQ(m_workspace->batch(), before) << bad.name;
        EXPECT_EQ(find<QLabel>("batchTitle")->text(), QStringLiteral("Patulin in juice, week 38"));
        click("noticeClose");
    }
    EXPECT_EQ(m_workspace->document()->history().size(), history);
}

// A file that cannot be understood is shown with the reason, and its cells can be marked.
TEST_F(Import, WhatIsNotUnderstoodIsMarkedByHandAndTheNextFileNeedsNoQuestion) {
    startDemo();
    const std::string head = "Instrument 7\nReading at 620 nm\n;1;2;3\n";
    const std::string body = "A;1.5;2.5;3.5\nC;4.5;5.5;6.5\n";
    drop(write("odd.txt", head + body));
    ASSERT_TRUE(isOnScreen("importTitle"));
    EXPECT_EQ(words("importTitle"), QStringLiteral("No plate was found in odd.txt"));
    EXPECT_TRUE(words("importWarnings").contains(QStringLiteral("row B is missing")))
        << words("importWarnings").toStdString();
    EXPECT_FALSE(find<QPushButton>("importAccept")->isEnabled());
    auto* view = find<FileView>("importFile");
    dragOver(*view->viewport(), view->cellArea(4, 2).center(), view->cellArea(5, 4).center());
    EXPECT_EQ(words("importWells"), QStringLiteral("marked: line 4 to 5, cell 2 to 4"));
    view->setFocus();
    QTest::keyClick(view, Qt::Key_Escape);
    EXPECT_EQ(words("importWells"), QStringLiteral("none")) << "Esc gives up the mark, not the preview";
    ASSERT_TRUE(isOnScreen("importTitle"));
    dragOver(*view->viewport(), view->cellArea(4, 2).center(), view->cellArea(5, 4).center());
    click("importMark");
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("2 × 3 cells as marked")))
        << words("importUnderstood").toStdString();
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("6 of 6 wells with a number; read at 620 nm")));
    EXPECT_EQ(view->meaningText(4, 2), QStringLiteral("A1"));
    choose("importTarget", QStringLiteral("a new plate"));
    click("importAccept");
    settle();
    EXPECT_EQ(m_workspace->batch().method.plateRecipe.blocks, (std::vector<CellBlock>{{"", 4, 2, 2, 3}}));
    const int plate = m_workspace->batch().carriers.rbegin()->first;
    EXPECT_EQ(m_workspace->batch().firstReading(1, plate)->payload.grid()->wells.at(5).value, 6.5);
    // The next one of the kind.
    drop(write("next.txt", head + "A;1.1;2.1;3.1\nC;4.1;5.1;6.1\n"));
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("2 × 3 cells as marked")));
    EXPECT_TRUE(find<QPushButton>("importAccept")->isEnabled());
    click("importReject");
    // A pasted block is none of the kind: it is read as it is found, and the recipe stays.
    QApplication::clipboard()->setText(QStringLiteral("\t1\t2\nA\t0.1\t0.2\nB\t0.3\t0.4\n"));
    clickChain(ChainPage::Data);
    key(Qt::Key_V, Qt::ControlModifier);
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("2 × 2 matrix, tab-separated")))
        << words("importUnderstood").toStdString();
    click("importAccept");
    settle();
    EXPECT_EQ(m_workspace->batch().method.plateRecipe.blocks.size(), 1u);
    // One in which there are no such cells says so, and is read as it is found by a click.
    drop(write("other.csv", ";1;2\nA;0.1;0.2\n"));
    EXPECT_TRUE(words("importWarnings").contains(QStringLiteral("other.csv has no cells in line 4 to 5")))
        << words("importWarnings").toStdString();
    click("importAsFound");
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("1 × 2 matrix, semicolon-separated")));
}

// Thousands or decimals: only a person knows what 1,234 means.
TEST_F(Import, SeparatorAndDecimalSignAreCorrectedInThePreview) {
    startDemo();
    std::string file = "Absorbance\n;1;2\n";
    for (const char row : {'A', 'B'}) {
        file += std::string(1, row) + ";1,234;5,678\n";
    }
    drop(write("thousands.csv", file));
    EXPECT_EQ(find<QComboBox>("importDecimal")->currentText(), QStringLiteral("comma"));
    choose("importDecimal", QStringLiteral("point"));
    EXPECT_EQ(find<QComboBox>("importSeparator")->currentText(), QStringLiteral("semicolon"));
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("4 of 4 wells")))
        << words("importUnderstood").toStdString();
    click("importAccept");
    settle();
    const int plate = m_workspace->batch().carriers.rbegin()->first;
    EXPECT_EQ(m_workspace->batch().firstReading(1, plate)->payload.grid()->wells.at(0).value, 1234);
    EXPECT_EQ(m_workspace->batch().method.plateRecipe.decimal, ".");
    // A separator that parts nothing is told, with the file still there; as found again all is well.
    drop(write("thousands-2.csv", file));
    choose("importSeparator", QStringLiteral("tab"));
    EXPECT_FALSE(find<QPushButton>("importAccept")->isEnabled());
    EXPECT_FALSE(words("importWarnings").isEmpty());
    click("importAsFound");
    EXPECT_TRUE(find<QPushButton>("importAccept")->isEnabled());
    EXPECT_EQ(find<QComboBox>("importDecimal")->currentText(), QStringLiteral("comma"));
}

TEST_F(Import, TheFileShowsWhatEachCellWasUnderstoodAs) {
    startDemo();
    drop(demoPlate());
    auto* view = find<FileView>("importFile");
    EXPECT_EQ(view->meaningText(3, 2), QStringLiteral("name of the read"));
    EXPECT_EQ(view->meaningText(5, 2), QStringLiteral("column number"));
    EXPECT_EQ(view->meaningText(6, 1), QStringLiteral("row letter"));
    EXPECT_EQ(view->meaningText(6, 2), QStringLiteral("A1"));
    EXPECT_EQ(view->meaningText(9, 9), QStringLiteral("D8: no number, unusable"));
    EXPECT_EQ(view->meaningText(1, 1), QString());
    // By keyboard: to a cell above, which names the read.
    view->setFocus();
    QTest::keyClick(view, Qt::Key_Right);
    click("importNameFromCell");
    EXPECT_EQ(find<QLineEdit>("importReadName")->text(), QStringLiteral("Patulin week 38"));
}

TEST_F(Import, LettersInANumberCellAreSaidInThePreview) {
    startDemo();
    const Batch before = m_workspace->batch();
    std::string text = test::contentOf(demoPlate());
    text.replace(text.find("1.562"), 5, "1.5b2");
    drop(write("letters.csv", text));
    EXPECT_TRUE(find<QLabel>("importWarnings")
                    ->text()
                    .contains(QStringLiteral("letters.csv, line 6, cell 4 (well A3): \"1.5b2\" is not a number")))
        << find<QLabel>("importWarnings")->text().toStdString();
    click("importReject");
    EXPECT_EQ(m_workspace->batch(), before);
}

TEST_F(Import, ABatchOfANewerVersionIsRefused) {
    startDemo();
    ASSERT_TRUE(demoBatch(m_folder / "newer.nuvat"));
    sqlite3* db = nullptr;
    ASSERT_EQ(sqlite3_open((m_folder / "newer.nuvat").c_str(), &db), SQLITE_OK);
    const std::string next = std::to_string(BatchFile::kSchemaVersion + 1);
    sqlite3_exec(db, ("PRAGMA user_version = " + next + "; UPDATE batch SET title = 'from tomorrow'").c_str(), nullptr,
                 nullptr, nullptr);
    sqlite3_close(db);
    drop(m_folder / "newer.nuvat");
    EXPECT_TRUE(notice().contains(QStringLiteral("newer Nuvat (schema ") + QString::fromStdString(next)))
        << notice().toStdString();
    EXPECT_EQ(find<QLabel>("batchTitle")->text(), QStringLiteral("Patulin in juice, week 38"));
}

TEST_F(Import, ABatchAmongOtherFilesIsNotGuessedAt) {
    startDemo();
    const Batch before = m_workspace->batch();
    drop(std::vector<std::filesystem::path>{"/a.csv", "/b.nuvat"});
    EXPECT_TRUE(notice().contains(QStringLiteral("b.nuvat is a batch"))) << notice().toStdString();
    EXPECT_EQ(m_workspace->batch(), before);
}

} // namespace
} // namespace nuvat
