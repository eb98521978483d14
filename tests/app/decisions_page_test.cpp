// What is made of results in the window: decision limits, columns, rows, derived values.
#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/calibration_figure.h"
#include "widgets/controls.h"
#include "widgets/decision_picture.h"
#include "widgets/text_rows.h"
#include "window_fixture.h"

#include <cmath>
#include <fstream>
#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class ResultTools : public test::WindowTest {
protected:
    /// Ticks or unticks a column in the menu, as a person does.
    void tick(const char* column) const {
        auto* menu = find<QPushButton>("resultsColumns")->menu();
        Q_EMIT menu->aboutToShow();
        auto* action = menu->findChild<QAction*>(QString::fromLatin1(column));
        ASSERT_NE(action, nullptr) << column;
        action->trigger();
        settle();
    }
    QStringList headings() const {
        QStringList out;
        const auto* model = find<QTableView>("resultsTable")->model();
        for (int i = 0; i < model->columnCount(); ++i) {
            out << model->headerData(i, Qt::Horizontal).toString();
        }
        return out;
    }
};

TEST_F(ResultTools, DecisionLimitsAreTypedNamedAndCounted) {
    startDemo();
    clickChain(ChainPage::Results);
    EXPECT_FALSE(isOnScreen("resultClasses"));
    typeInto("decisionLimits", QStringLiteral("50; 100"));
    typeInto("decisionClasses", QStringLiteral("low; middle; high"));
    settle();
    EXPECT_EQ(m_workspace->analyte().decisions.limits, (std::vector<double>{50, 100}));
    EXPECT_TRUE(isOnScreen("resultClasses"));
    EXPECT_TRUE(words("resultClasses").contains(QStringLiteral("middle"))) << words("resultClasses").toStdString();
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U02"), QStringLiteral("Class")), QStringLiteral("low"));
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U09"), QStringLiteral("Class")), QStringLiteral("high"));
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U03"), QStringLiteral("Class")), QStringLiteral("spans 50"));
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U03"), QStringLiteral("Status")), QStringLiteral("Review"));
    // By the value alone it has a class.
    choose("decisionBy", QStringLiteral("the value"));
    settle();
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U03"), QStringLiteral("Class")), QStringLiteral("middle"));
    // A click on a sample in the picture selects it.
    auto* picture = find<DecisionPicture>("decisionPicture");
    const auto point = picture->pointOf(9);
    ASSERT_TRUE(point);
    QTest::mouseClick(picture, Qt::LeftButton, {}, point->toPoint());
    EXPECT_EQ(m_workspace->selection().group, (Assignment{Role::Unknown, 9}));
    // What is no number stays as it was typed, and nothing of the method changes.
    typeInto("decisionLimits", QStringLiteral("50; many"));
    EXPECT_TRUE(notice().contains(QStringLiteral("\"many\" is not a number"))) << notice().toStdString();
    EXPECT_EQ(m_workspace->analyte().decisions.limits.size(), 2u);
    typeInto("decisionLimits", QStringLiteral("100; 50"));
    EXPECT_TRUE(notice().contains(QStringLiteral("have to rise"))) << notice().toStdString();
    // The wells of the plate show the classes.
    clickChain(ChainPage::Data);
    choose("dataOf", QStringLiteral("Class"));
    settle();
    EXPECT_TRUE(find<QWidget>("dataPlate")->isVisible());
}

TEST_F(ResultTools, ColumnsAreChosenOrderedAndUndone) {
    startDemo();
    clickChain(ChainPage::Results);
    EXPECT_EQ(headings().size(), 9);
    tick("column_wells");
    EXPECT_EQ(headings().back(), QStringLiteral("Wells"));
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U08"), QStringLiteral("Wells")), QStringLiteral("B5 and B6"));
    tick("column_cv");
    EXPECT_FALSE(headings().contains(QStringLiteral("CV, %")));
    // A heading is dragged before the others.
    auto* table = find<QTableView>("resultsTable");
    table->horizontalHeader()->moveSection(5, 1);
    wait(50);
    settle();
    EXPECT_EQ(headings().value(1), QStringLiteral("Result, µg/L"));
    EXPECT_EQ(m_workspace->batch().method.resultColumns.at(1), "result");
    QTest::keySequence(table, QKeySequence::Copy);
    EXPECT_TRUE(QApplication::clipboard()->text().startsWith(QStringLiteral("Place\tResult, µg/L\tSample")));
    triggerAction("edit.undo");
    triggerAction("edit.undo");
    triggerAction("edit.undo");
    settle();
    EXPECT_EQ(headings().size(), 9);
    EXPECT_TRUE(m_workspace->batch().method.resultColumns.empty());
}

TEST_F(ResultTools, RowsAreSamplesReplicatesOrWells) {
    startDemo();
    clickChain(ChainPage::Results);
    auto* table = find<QTableView>("resultsTable");
    EXPECT_EQ(table->model()->rowCount(), 40);
    key(Qt::Key_V);
    settle();
    EXPECT_EQ(table->model()->rowCount(), 80) << "each in duplicate";
    const int row = rowOf("resultsTable", QStringLiteral("U08"));
    EXPECT_NE(cell("resultsTable", row, QStringLiteral("Response")),
              cell("resultsTable", row + 1, QStringLiteral("Response")));
    key(Qt::Key_V);
    settle();
    EXPECT_TRUE(isOnScreen("resultsPlate"));
    EXPECT_FALSE(isOnScreen("resultsTable"));
    key(Qt::Key_V);
    EXPECT_TRUE(isOnScreen("resultsTable"));
}

TEST_F(ResultTools, DerivedValuesAndNotesHaveColumns) {
    startDemo();
    clickChain(ChainPage::Results);
    typeInto("derivedValues", QStringLiteral("Double [µg/L] = 2 × result; Half = result ÷ 2"));
    settle();
    ASSERT_EQ(m_workspace->analyte().derived.size(), 2u);
    EXPECT_TRUE(headings().contains(QStringLiteral("Double, µg/L"))) << headings().join(u'|').toStdString();
    const SampleResult* one = m_workspace->evaluation().result({Role::Unknown, 2});
    EXPECT_NEAR(*one->derived[0].value, 2 * *one->result, 1e-9);
    typeInto("derivedValues", QStringLiteral("Content = result * weight"));
    EXPECT_TRUE(notice().contains(QStringLiteral("weight"))) << notice().toStdString();
    EXPECT_EQ(m_workspace->analyte().derived.size(), 2u);
    tick("column_note");
    auto* table = find<QTableView>("resultsTable");
    const int row = rowOf("resultsTable", QStringLiteral("U02"));
    table->setCurrentIndex(table->model()->index(row, static_cast<int>(headings().indexOf(QStringLiteral("Note")))));
    table->edit(table->currentIndex());
    QTest::keyClicks(table->findChild<QLineEdit*>(), QStringLiteral("cloudy"));
    QTest::keyClick(table->findChild<QLineEdit*>(), Qt::Key_Return);
    settle();
    EXPECT_EQ(m_workspace->batch().samples.at(2).note, "cloudy");
    EXPECT_EQ(cell("resultsTable", row, QStringLiteral("Note")), QStringLiteral("cloudy"));
}

TEST_F(ResultTools, BlanksByRowAndPercentAreChosenOnResponse) {
    startDemo();
    clickChain(ChainPage::Response);
    choose("blankBy", QStringLiteral("of each column"));
    settle();
    EXPECT_EQ(m_workspace->batch().method.blankBy, BlankBy::Column);
    EXPECT_FALSE(m_workspace->evaluation().problems.empty()) << "columns 3 to 12 have no blank";
    choose("blankBy", QStringLiteral("of the plate"));
    settle();
    EXPECT_TRUE(m_workspace->evaluation().problems.empty());
    const double before = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    choose("percentOf", QStringLiteral("% of highest"));
    settle();
    EXPECT_NEAR(*m_workspace->evaluation().result({Role::Unknown, 5})->result, before, 1e-6 * before);
    EXPECT_LT(std::abs(*m_workspace->evaluation().at({0, 0}).value), 100.0);
    triggerAction("edit.undo");
    settle();
    EXPECT_EQ(m_workspace->analyte().percentOf, PercentOf::Nothing);
}

TEST_F(ResultTools, AnotherSetOfDataIsComparedWithTheOneBefore) {
    startDemo();
    const double before = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    // The same plate once more, with two wells that read lower.
    QString text = QString::fromStdString(
        test::contentOf(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv"));
    auto lines = text.split(u'\n');
    for (QString& line : lines) {
        if (line.startsWith(u'G')) {
            QStringList cells = line.split(u';');
            ASSERT_GT(cells.size(), 4);
            cells[3] = cells[4] = QStringLiteral("0.800");
            line = cells.join(u';');
        }
    }
    std::ofstream(m_folder / "again.csv") << lines.join(u'\n').toStdString();
    drop(m_folder / "again.csv");
    for (int i = 0; i < 100 && !isOnScreen("importAccept"); ++i) {
        wait(50);
    }
    click("importAccept");
    settle();
    clickChain(ChainPage::Results);
    tick("compareBefore");
    for (int i = 0; i < 100 && cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Before")) == notDefined();
         ++i) {
        wait(20);
    }
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Before")), shown(formatFigures(before, 4)));
    const double after = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    EXPECT_NE(after, before);
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U05"), QStringLiteral("Change, %")),
              shown((after > before ? "+" : "") + formatDecimals(100 * (after - before) / before, 1)));
    EXPECT_EQ(cellOf("resultsTable", QStringLiteral("U06"), QStringLiteral("Change, %")), QStringLiteral("0.0"));
    tick("compareBefore");
    EXPECT_EQ(headings().size(), 9);
}

// What is typed wrongly stays to be corrected, Esc gives back what holds, and no key on the way does anything else.
TEST_F(ResultTools, LinesKeepWhatIsTypedWronglyUntilItIsRightOrGivenUp) {
    startDemo();
    clickChain(ChainPage::Results);
    typeInto("decisionLimits", QStringLiteral("50; 100"));
    settle();
    auto* line = find<QLineEdit>("decisionLimits");
    line->setFocus();
    line->selectAll();
    QTest::keyClicks(line, QStringLiteral("50; lots"));
    key(Qt::Key_Tab);
    EXPECT_TRUE(line->property("isWrong").toBool());
    EXPECT_NE(QApplication::focusWidget(), line) << "Tab goes on all the same";
    triggerAction("results.by"); // the page is drawn anew
    settle();
    EXPECT_EQ(line->text(), QStringLiteral("50; lots"));
    EXPECT_EQ(m_workspace->analyte().decisions.limits, (std::vector<double>{50, 100}));
    line->setFocus();
    key(Qt::Key_Escape);
    EXPECT_EQ(line->text(), QStringLiteral("50; 100"));
    EXPECT_FALSE(line->property("isWrong").toBool());
    // X, V and digits are text here, not keys of the page.
    line->selectAll();
    QTest::keyClicks(line, QStringLiteral("75 xv1"));
    EXPECT_TRUE(m_workspace->batch().exclusions.size() < 2);
    key(Qt::Key_Escape);
    line->selectAll();
    QTest::keyClicks(line, QStringLiteral("75"));
    key(Qt::Key_Return);
    settle();
    EXPECT_EQ(m_workspace->analyte().decisions.limits, (std::vector<double>{75}));
    EXPECT_EQ(QApplication::focusWidget(), line);
    // Down the panel by Tab, as fast as one types.
    QTest::keyClick(line, Qt::Key_Tab);
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("low; high"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    settle();
    EXPECT_EQ(m_workspace->analyte().decisions.classes, (std::vector<std::string>{"low", "high"}));
}

TEST_F(ResultTools, ACutOffComesFromTheNegativeControls) {
    startDemo();
    clickChain(ChainPage::Results);
    EXPECT_FALSE(isOnScreen("cutOffTake"));
    m_workspace->apply(assignRole(m_workspace->newest(), {{6, 10}, {6, 11}, {7, 10}, {7, 11}}, Role::NegativeControl, 2,
                                  Direction::Across));
    settle();
    std::vector<double> values;
    for (const SampleResult& result : m_workspace->evaluation().results) {
        for (const ReplicateResult& replicate : result.replicates) {
            if (result.group.role == Role::NegativeControl) {
                values.push_back(replicate.readOff.x.value_or(0) * result.dilution);
            }
        }
    }
    ASSERT_EQ(values.size(), 4u);
    const double mean = (values[0] + values[1] + values[2] + values[3]) / 4;
    double squares = 0;
    for (const double value : values) {
        squares += (value - mean) * (value - mean);
    }
    typeInto("cutOffFactor", QStringLiteral("2"));
    click("cutOffTake");
    settle();
    const DecisionRule& rule = m_workspace->analyte().decisions;
    ASSERT_EQ(rule.limits.size(), 1u);
    EXPECT_NEAR(rule.limits[0], mean + 2 * std::sqrt(squares / 3), 1e-3 * rule.limits[0]);
    EXPECT_EQ(rule.classes, (std::vector<std::string>{"negative", "positive"}));
    EXPECT_TRUE(notice().contains(QStringLiteral("mean of 4 negative controls"))) << notice().toStdString();
}

TEST_F(ResultTools, PercentOfTheControlsStandsInWorkingAndInAColumn) {
    startDemo();
    clickChain(ChainPage::Results);
    m_workspace->apply(assignRole(m_workspace->newest(), {{6, 10}, {6, 11}, {7, 10}, {7, 11}}, Role::NegativeControl, 2,
                                  Direction::Across));
    settle();
    const SampleResult& first = *m_workspace->evaluation().result({Role::Unknown, 1});
    ASSERT_TRUE(first.ofControl);
    m_workspace->selectGroup({Role::Unknown, 1});
    settle();
    const QString working = find<TextRows>("working")->plainText();
    EXPECT_TRUE(working.contains(QStringLiteral("Of the negative controls"))) << working.toStdString();
    EXPECT_TRUE(working.contains(QStringLiteral("inhibition"))) << working.toStdString();
    EXPECT_FALSE(headings().contains(QStringLiteral("Inhibition, %")));
    tick("column_inhibition");
    EXPECT_TRUE(headings().contains(QStringLiteral("Inhibition, %")));
}

} // namespace
} // namespace nuvat
