// Several plates with several reads, and a list of single values, from the file to the report, with real clicks and
// keys.
#include "kinds/list/run_list_view.h"
#include "kinds/plate/plate_view.h"
#include "nuvat/report/report_file.h"
#include "nuvat/report/theme.h"
#include "nuvat/workflow/export.h"
#include "widgets/carrier_view.h"
#include "widgets/chain_rail.h"
#include "window_fixture.h"

#include <fstream>
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QComboBox>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class Carriers : public test::WindowTest {
protected:
    /// A file with two matrices of 2 × 6 wells: standards in columns 1 and 2 of row A and B, blanks in column 3,
    /// samples in 4 to 6; everything `offset` higher, and 0.25 at 620 nm.
    std::filesystem::path plateFile(const std::string& name, double offset) const {
        std::ofstream out(m_folder / name);
        for (const char* read : {"450 nm", "620 nm"}) {
            out << "Read at " << read << "\n\t1\t2\t3\t4\t5\t6\n";
            for (int row = 0; row < 2; ++row) {
                out << (row == 0 ? "A" : "B");
                for (const double x : {row == 0 ? 1.0 : 2.0, row == 0 ? 1.01 : 2.01, 0.0, 1.5, 1.51, 1.2}) {
                    out << '\t' << (read[0] == '4' ? 0.5 + offset + 0.4 * x : 0.25);
                }
                out << '\n';
            }
            out << '\n';
        }
        return m_folder / name;
    }

    void importBoth() {
        drop(std::vector{plateFile("one.tsv", 0), plateFile("two.tsv", 0.3)});
        EXPECT_EQ(find<QComboBox>("importRead")->count(), 2);
        EXPECT_EQ(find<QLineEdit>("importReadName")->text(), QStringLiteral("450 nm"));
        click("importAccept");
        ASSERT_TRUE(
            QTest::qWaitFor([this] { return words("importTitle").contains(QStringLiteral("two.tsv")); }, 10'000));
        EXPECT_EQ(find<QComboBox>("importTarget")->currentText(), QStringLiteral("a new plate"));
        click("importAccept");
    }

    CarrierView* view(const char* plate) const {
        return qobject_cast<CarrierView*>(find<PlateView>(plate)->parentWidget());
    }

    /// The button of a carrier on the page that is shown.
    void clickCarrier(const char* plate, int number) const {
        auto* button = view(plate)->findChild<QPushButton*>(QStringLiteral("carrier%1").arg(number));
        ASSERT_NE(button, nullptr);
        ASSERT_TRUE(button->isVisible());
        QTest::mouseClick(button, Qt::LeftButton);
        wait();
    }

    void layOut() {
        clickChain(ChainPage::Layout);
        for (int carrier = 1; carrier <= 2; ++carrier) {
            clickCarrier("layoutPlate", carrier);
            if (carrier == 1) {
                dragWells("layoutPlate", {0, 0, 1}, {1, 1, 1});
                key(Qt::Key_1);
            }
            dragWells("layoutPlate", {0, 2, carrier}, {1, 2, carrier});
            key(Qt::Key_2);
            dragWells("layoutPlate", {0, 3, carrier}, {1, 4, carrier});
            key(Qt::Key_4);
        }
        Method method = m_workspace->batch().method;
        method.analyte().fit = {.model = Model::Line};
        method.analyte().unit = "mg/L";
        method.analyte().range.by = RangeBy::Levels;
        ASSERT_TRUE(m_workspace->apply(setMethod(m_workspace->batch(), method)));
        ASSERT_TRUE(m_workspace->apply(setSeries(m_workspace->batch(), {1, false, 2, 2})));
        wait();
    }
};

TEST_F(Carriers, TwoFilesOfTwoReadsAreTwoPlates) {
    importBoth();
    const Batch& batch = m_workspace->newest();
    EXPECT_EQ(batch.carriers.size(), 2u);
    EXPECT_EQ(batch.readings.size(), 4u);
    EXPECT_EQ(batch.channels(), (std::vector<std::string>{"450 nm", "620 nm"}));
    EXPECT_EQ(batch.info.channel, "450 nm");
    EXPECT_EQ(m_workspace->carrierNumber(), 2);
    EXPECT_EQ(find<PlateView>("dataPlate")->wellTexts({0, 3, 2}), QStringList{shown("1.400")});
    // The keyboard goes from plate to plate.
    find<PlateView>("dataPlate")->setFocus();
    key(Qt::Key_PageUp, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->carrierNumber(), 1);
    EXPECT_EQ(find<PlateView>("dataPlate")->wellTexts({0, 3, 1}), QStringList{shown("1.100")});
    click("undo");
    EXPECT_EQ(batch.carriers.size(), 1u);
    EXPECT_EQ(batch.readings.size(), 2u);
    click("redo");
    EXPECT_EQ(m_workspace->batch().carriers.size(), 2u);
}

TEST_F(Carriers, GoThroughTheWholeChain) {
    importBoth();
    layOut();
    const auto result = [this](int number) { return m_workspace->evaluation().result({Role::Unknown, number}); };
    // Numbered on over the plates, and read off one curve with the blank of their own plate.
    ASSERT_NE(result(4), nullptr);
    EXPECT_EQ(result(3)->replicates.front().place, (Place{0, 3, 2}));
    ASSERT_TRUE(result(3)->result);
    EXPECT_NEAR(*result(3)->result, *result(1)->result, 1e-9);
    EXPECT_NEAR(*result(1)->result, 1.5, 0.02);
    // A formula over both reads: the constant at 620 nm goes out with the blank.
    clickChain(ChainPage::Curve);
    const double plain = *m_workspace->evaluation().at({0, 3, 2}).raw;
    choose("analyteReading", QStringLiteral("a formula"));
    typeInto("responseFormula", QStringLiteral("450 nm - 620 nm"));
    EXPECT_NEAR(*m_workspace->evaluation().at({0, 3, 2}).raw, plain - 0.25, 1e-12);
    EXPECT_NEAR(*result(3)->result, 1.5, 0.02);
    m_workspace->selectGroup({Role::Unknown, 3});
    settle();
    EXPECT_TRUE(status().contains(QStringLiteral("2 wells selected"))) << status().toStdString();
    // A formula that cannot be read is said and not taken.
    typeInto("responseFormula", QStringLiteral("450 nm - "));
    EXPECT_FALSE(notice().isEmpty());
    EXPECT_EQ(std::get<ValueRule>(m_workspace->analyte().source.rule).formula, "450 nm - 620 nm");
    // One curve a plate: the second has no standards of its own and says so.
    choose("curveOf", QStringLiteral("standards of each plate"));
    wait();
    EXPECT_EQ(m_workspace->wholeEvaluation().analytes.size(), 2u);
    click("undo");
    EXPECT_EQ(m_workspace->wholeEvaluation().analytes.size(), 1u);
    // Results, export and the saved file say which plate.
    clickChain(ChainPage::Results);
    const std::string csv = resultsCsv(m_workspace->batch(), m_workspace->wholeEvaluation());
    EXPECT_NE(csv.find("Plate 2 · A4; Plate 2 · A5"), std::string::npos) << csv;
    clickChain(ChainPage::Report);
    settle();
    const Batch before = m_workspace->batch();
    ASSERT_TRUE(m_workspace->saveAs(m_folder / "plates.nuvat"));
    m_workspace->close();
    drop(m_folder / "plates.nuvat");
    EXPECT_EQ(m_workspace->batch(), before);
}

TEST_F(Carriers, AListIsTypedPaintedAndReadOff) {
    click("startNew");
    clickChain(ChainPage::Data);
    click("dataTypeList");
    EXPECT_EQ(m_workspace->carrier().kind, CarrierKind::RunList);
    auto* list = find<RunListView>("dataPlateList");
    ASSERT_TRUE(list->isVisible());
    list->setFocus();
    // Names and values as fast as they are typed: Enter goes down, Tab goes on to the value.
    const std::vector<std::pair<const char*, const char*>> rows{
        {"Water", "0.05"},   {"Std 1", "0.25"},   {"Std 2", "0.45"},    {"Std 3", "0.85"},
        {"Perry 4", "0.55"}, {"Perry 4", "0.56"}, {"Scrumpy 7", "0.65"}};
    list->edit(0, 1);
    for (const auto& [name, value] : rows) {
        QTest::keyClicks(QApplication::focusWidget(), QString::fromLatin1(name));
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
        QTest::keyClicks(QApplication::focusWidget(), QString::fromLatin1(value));
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Tab);
    }
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
    wait();
    EXPECT_EQ(list->cellText(4, 1), QStringLiteral("Perry 4"));
    EXPECT_EQ(list->cellText(4, 3), shown("0.55"));
    // A value is typed at once; Esc gives back what was there; a page is a page of the list.
    list->setFocus();
    QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->cellRect(6, 3).center());
    QTest::keyClicks(list, QStringLiteral("7"));
    QTest::keyClicks(QApplication::focusWidget(), QStringLiteral("5"));
    wait();
    EXPECT_EQ(find<QLineEdit>("runEditor")->text(), QStringLiteral("75"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Escape);
    wait();
    EXPECT_EQ(list->cellText(6, 3), shown("0.65"));
    QTest::keyClick(list, Qt::Key_PageDown);
    wait();
    EXPECT_GT(m_workspace->selection().places.front().row, 10);
    // Roles with the same keys as on the plate.
    clickChain(ChainPage::Layout);
    auto* layout = find<RunListView>("layoutPlateList");
    const auto dragRuns = [&](int from, int to) {
        QTest::mousePress(layout->viewport(), Qt::LeftButton, {}, layout->cellRect(from, 0).center());
        wait();
        const QPoint end = layout->cellRect(to, 0).center();
        QMouseEvent move(QEvent::MouseMove, QPointF(end), layout->viewport()->mapToGlobal(QPointF(end)), Qt::NoButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(layout->viewport(), &move);
        QTest::mouseRelease(layout->viewport(), Qt::LeftButton, {}, end);
        wait();
    };
    dragRuns(0, 0);
    key(Qt::Key_2);
    choose("replicates", QStringLiteral("1 each"));
    layout->setFocus();
    dragRuns(1, 3);
    key(Qt::Key_1);
    dragRuns(4, 6);
    key(Qt::Key_4);
    const Batch& batch = m_workspace->newest();
    EXPECT_EQ(batch.at({3, 0}), (Assignment{Role::Standard, 3}));
    EXPECT_EQ(batch.at({5, 0}), (Assignment{Role::Unknown, 1})); // the same name: replicates
    EXPECT_EQ(batch.at({6, 0}), (Assignment{Role::Unknown, 2}));
    EXPECT_EQ(batch.samples.at(2).name, "Scrumpy 7");
    Method method = batch.method;
    method.analyte().fit = {.model = Model::Line};
    method.analyte().range.by = RangeBy::Levels;
    ASSERT_TRUE(m_workspace->apply(setMethod(batch, method)));
    wait();
    ASSERT_TRUE(m_workspace->apply(setSeries(batch, {1, false, 2, 3})));
    wait();
    EXPECT_NEAR(*m_workspace->evaluation().result({Role::Unknown, 2})->result, 3, 0.01);
    // X takes a run out, with a reason, as it does with a well.
    dragRuns(6, 6);
    withReason([this] { key(Qt::Key_X); }, QStringLiteral("fingerprint"));
    EXPECT_TRUE(batch.exclusions.contains(Place{6, 0}));
    EXPECT_TRUE(m_workspace->document()->history().back().label.starts_with("run 7 (U02) excluded"))
        << m_workspace->document()->history().back().label;
}

TEST_F(Carriers, AListOfSamplesIsImported) {
    std::ofstream(m_folder / "cuvettes.csv")
        << "Sample;Absorbance 765 nm\nBlank;0,051\nCider 1;0,42\nCider 1;0,43\nCider 2;over\n";
    drop(m_folder / "cuvettes.csv");
    EXPECT_TRUE(words("importUnderstood").contains(QStringLiteral("list of 4 samples")))
        << words("importUnderstood").toStdString();
    EXPECT_TRUE(words("importWarnings").contains(QStringLiteral("line 5, cell 2 (Cider 2)")))
        << words("importWarnings").toStdString();
    click("importAccept");
    auto* list = find<RunListView>("dataPlateList");
    EXPECT_TRUE(list->isVisible());
    EXPECT_EQ(list->cellText(2, 1), QStringLiteral("Cider 1"));
    EXPECT_EQ(list->cellText(2, 3), shown("0.43"));
    EXPECT_EQ(m_workspace->batch().info.channel, "Absorbance 765 nm");
    // What a file gave is not typed over.
    list->edit(2, 3, QStringLiteral("9"));
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    wait();
    EXPECT_TRUE(notice().contains(QStringLiteral("not typed over"))) << notice().toStdString();
    EXPECT_EQ(list->cellText(2, 3), shown("0.43"));
}

} // namespace
} // namespace nuvat
