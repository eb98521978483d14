#include "actions/actions.h"
#include "kinds/plate/plate_view.h"
#include "models/columns_model.h"
#include "nuvat/batch/command.h"
#include "nuvat/batch/working.h"
#include "nuvat/report/calibration_figure.h"
#include "panels/curve_page.h"
#include "panels/layout_page.h"
#include "panels/working_panel.h"
#include "plots/compare_plot.h"
#include "plots/curve_plot.h"
#include "session/report_layout.h"
#include "support/wells.h"
#include "widgets/data_table.h"
#include "widgets/frame_widgets.h"
#include "widgets/live_form.h"
#include "widgets/series_picture.h"
#include "widgets/text_rows.h"
#include "window_fixture.h"

#include <QAbstractItemModelTester>
#include <QApplication>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QTest>
#include <QWheelEvent>

namespace nuvat {
namespace {

class Pages : public test::WindowTest {};

TEST_F(Pages, HeadingsSelectAndCtrlAddsScatteredWells) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* plate = find<PlateView>("layoutPlate");
    QTest::mouseClick(plate, Qt::LeftButton, {}, plate->columnHeadingRect(4).center().toPoint());
    EXPECT_EQ(m_workspace->selection().places.size(), 8u);
    EXPECT_TRUE(status().startsWith(QStringLiteral("8 wells selected"))) << status().toStdString();
    QTest::mouseClick(plate, Qt::LeftButton, Qt::ControlModifier, plate->rowHeadingRect(7).center().toPoint());
    EXPECT_EQ(m_workspace->selection().places.size(), 8u + 11u);
    clickWell("layoutPlate", {0, 0});
    clickWell("layoutPlate", {5, 7}, Qt::ControlModifier);
    clickWell("layoutPlate", {2, 3}, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{0, 0}, {5, 7}, {2, 3}}));
    clickWell("layoutPlate", {5, 7}, Qt::ControlModifier); // again takes it out
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{0, 0}, {2, 3}}));
}

TEST_F(Pages, AWholeLayoutFromNothing) {
    m_dialogs.next(std::filesystem::path(NUVAT_DEMO_DIR) / "patulin-elisa" / "plate-450.csv");
    click("startImport");
    ASSERT_TRUE(QTest::qWaitFor([this] { return isOnScreen("importAccept"); }, 5000));
    click("importAccept");
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 0}, {6, 1});
    key(Qt::Key_1);
    dragWells("layoutPlate", {7, 0}, {7, 1});
    key(Qt::Key_2);
    dragWells("layoutPlate", {0, 2}, {1, 3});
    click("roleQc");
    dragWells("layoutPlate", {2, 2}, {7, 3});
    key(Qt::Key_4);
    click("fillRest");
    EXPECT_EQ(m_workspace->index().numbersOf(Role::Unknown).size(), 38u);
    EXPECT_EQ(m_workspace->batch().at({0, 4}), (Assignment{Role::Unknown, 7}));

    // What is missing is said, with its place.
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("Working")));
    m_workspace->clearSelection();
    wait();
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("Level S1 has no concentration")));
    typeInto("unit", QStringLiteral("µg/L"));
    typeInto("analyte", QStringLiteral("Patulin"));
    typeInto("seriesFirst", QStringLiteral("500"));
    typeInto("seriesFactor", QStringLiteral("3"));
    EXPECT_EQ(m_workspace->batch().levels.at(7).concentration, 500.0 / 729);
    EXPECT_EQ(m_workspace->batch().method.analyte().unit, "µg/L");
    EXPECT_TRUE(m_workspace->evaluation().fit.isUsable());
    EXPECT_EQ(m_window->findChild<ChainRail*>()->card(ChainPage::Layout)->summary().line,
              QStringLiteral("7 levels · 2 QC · 38 unknowns"));
}

TEST_F(Pages, ALevelIsTypedInItsPicture) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* picture = find<SeriesPicture>("seriesPicture");
    QTest::mouseDClick(picture, Qt::LeftButton, {}, picture->levelRect(3).center().toPoint());
    typeInto("levelEditor", QStringLiteral("20"));
    EXPECT_EQ(m_workspace->batch().levels.at(4).concentration, 20);
    EXPECT_EQ(find<PlateView>("layoutPlate")->wellTexts({3, 0}).value(1),
              QLocale().decimalPoint() == QStringLiteral(",") ? QStringLiteral("20,0") : QStringLiteral("20.0"));
    QTest::mouseDClick(picture, Qt::LeftButton, {}, picture->levelRect(3).center().toPoint());
    typeInto("levelEditor", QStringLiteral("many"));
    EXPECT_EQ(m_workspace->batch().levels.at(4).concentration, 20);
    EXPECT_TRUE(notice().contains(QStringLiteral("\"many\" is not a number")));
}

TEST_F(Pages, LevelsAreTypedOneAfterTheOther) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* picture = find<SeriesPicture>("seriesPicture");
    auto* editor = find<QLineEdit>("levelEditor");
    QTest::mouseClick(picture, Qt::LeftButton, {}, picture->levelRect(0).center().toPoint());
    wait();
    const auto placesBefore = m_workspace->batch().places;
    // A digit begins to type, though 1 to 4 are also the keys of the roles.
    QTest::keyClicks(picture, QStringLiteral("2"));
    QTest::keyClicks(editor, QStringLiteral("11"));
    QTest::keyClick(editor, Qt::Key_Tab);
    wait();
    EXPECT_EQ(m_workspace->batch().levels.at(1).concentration, 211);
    EXPECT_TRUE(editor->isVisible());
    QTest::keyClicks(editor, QStringLiteral("111"));
    QTest::keyClick(editor, Qt::Key_Return);
    wait();
    EXPECT_EQ(m_workspace->batch().levels.at(2).concentration, 111);
    QTest::keyClick(editor, Qt::Key_Backtab);
    QTest::keyClicks(editor, QStringLiteral("99"));
    QTest::keyClick(editor, Qt::Key_Escape);
    wait();
    EXPECT_FALSE(editor->isVisible());
    EXPECT_EQ(m_workspace->batch().levels.at(2).concentration, 111);
    EXPECT_EQ(m_workspace->batch().places, placesBefore);
}

TEST_F(Pages, AColumnOfConcentrationsIsPasted) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* picture = find<SeriesPicture>("seriesPicture");
    QTest::mouseClick(picture, Qt::LeftButton, {}, picture->levelRect(1).center().toPoint());
    QApplication::clipboard()->setText(QStringLiteral("70\n30.5\n12\n"));
    key(Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->batch().levels.at(2).concentration, 70);
    EXPECT_EQ(m_workspace->batch().levels.at(3).concentration, 30.5);
    EXPECT_EQ(m_workspace->batch().levels.at(4).concentration, 12);
    QApplication::clipboard()->setText(QStringLiteral("Level\n70\n"));
    key(Qt::Key_V, Qt::ControlModifier);
    EXPECT_TRUE(notice().contains(QStringLiteral("\"Level\" is not a concentration"))) << notice().toStdString();
}

TEST_F(Pages, ClearingALevelOffersToRenumberTheRest) {
    startDemo();
    clickChain(ChainPage::Layout);
    const auto third = m_workspace->batch().levels.at(3).concentration;
    m_workspace->selectGroup({Role::Standard, 2});
    find<PlateView>("layoutPlate")->setFocus();
    key(Qt::Key_Delete);
    auto* offered = find<QPushButton>("noticeAction");
    ASSERT_TRUE(offered->isVisible());
    EXPECT_EQ(offered->text(), QStringLiteral("Renumber"));
    QTest::mouseClick(offered, Qt::LeftButton);
    wait();
    EXPECT_EQ(m_workspace->index().numbersOf(Role::Standard), (std::vector<int>{1, 2, 3, 4, 5, 6}));
    EXPECT_EQ(m_workspace->batch().levels.at(2).concentration, third);
    EXPECT_FALSE(offered->isVisible());
}

TEST_F(Pages, AnOfferGoesWithTheBatchAsItWas) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* offered = find<QPushButton>("noticeAction");
    dragWells("layoutPlate", {2, 2}, {5, 3}); // four unknowns
    key(Qt::Key_Delete);
    ASSERT_TRUE(offered->isVisible());
    EXPECT_EQ(offered->text(), QStringLiteral("Undo"));
    // Another edit: Undo there would now take back that one.
    ASSERT_TRUE(m_workspace->apply(setTitle(m_workspace->batch(), "Renamed")));
    EXPECT_FALSE(offered->isVisible());
    // A gap is told when it comes, not again with every edit after it.
    m_workspace->selectGroup({Role::Standard, 2});
    find<PlateView>("layoutPlate")->setFocus();
    key(Qt::Key_Delete);
    EXPECT_TRUE(offered->isVisible());
    dragWells("layoutPlate", {2, 2}, {2, 3});
    key(Qt::Key_4);
    EXPECT_EQ(m_workspace->batch().at({2, 2}).role, Role::Unknown);
    EXPECT_FALSE(offered->isVisible());
}

TEST_F(Pages, NamesArePastedAndDilutionsTyped) {
    startDemo();
    clickChain(ChainPage::Layout);
    m_workspace->selectGroup({Role::Unknown, 3});
    QApplication::clipboard()->setText(QStringLiteral("First pasted\nSecond pasted\n"));
    key(Qt::Key_V, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->batch().samples.at(3).name, "First pasted");
    EXPECT_EQ(m_workspace->batch().samples.at(4).name, "Second pasted");
    auto* table = find<DataTable>("samplesTable");
    const int row = rowOf("samplesTable", QStringLiteral("U03"));
    table->setCurrentIndex(table->model()->index(row, 2));
    table->setFocus();
    key(Qt::Key_Return);
    auto* editor = table->viewport()->findChild<QLineEdit*>();
    ASSERT_NE(editor, nullptr);
    editor->selectAll();
    QTest::keyClicks(editor, QStringLiteral("10"));
    QTest::keyClick(editor, Qt::Key_Return);
    wait();
    EXPECT_EQ(m_workspace->batch().samples.at(3).dilution, 10);
    EXPECT_EQ(cell("samplesTable", row, QStringLiteral("Dilution")), QStringLiteral("× 10"));
}

TEST_F(Pages, TheDilutionMultipliesTheResultAndNotTheFit) {
    startDemo();
    const auto fit = m_workspace->evaluation().fit.parameters;
    const double before = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    Sample sample = m_workspace->batch().samples.at(5);
    sample.dilution = 10;
    ASSERT_TRUE(m_workspace->apply(setSample(m_workspace->batch(), 5, sample)));
    wait();
    EXPECT_EQ(*m_workspace->evaluation().result({Role::Unknown, 5})->result, 2 * before);
    EXPECT_EQ(m_workspace->evaluation().fit.parameters, fit);
}

TEST_F(Pages, TheBlankIsSwitchedOffAndEverythingFollows) {
    startDemo();
    clickChain(ChainPage::Response);
    EXPECT_TRUE(find<QLabel>("blankFacts")->text().startsWith(QStringLiteral("Blank 0")));
    const QString before = cellOf("groupsTable", QStringLiteral("S1"), QStringLiteral("Mean"));
    click("subtractBlank");
    EXPECT_NE(cellOf("groupsTable", QStringLiteral("S1"), QStringLiteral("Mean")), before);
    EXPECT_EQ(m_window->findChild<ChainRail*>()->card(ChainPage::Response)->summary().line,
              QStringLiteral("blank not subtracted"));
}

TEST_F(Pages, SelectionIsLinkedAcrossTheViews) {
    startDemo();
    clickChain(ChainPage::Results);
    auto* table = find<DataTable>("resultsTable");
    const int row = rowOf("resultsTable", QStringLiteral("U07"));
    table->scrollTo(table->model()->index(row, 1));
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualRect(table->model()->index(row, 1)).center());
    wait();
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{0, 4}, {0, 5}}));
    EXPECT_TRUE(m_window->panel()->plainText().startsWith(QStringLiteral("Working · U07")));
    clickChain(ChainPage::Curve);
    EXPECT_TRUE(
        find<CurvePlot>("curvePlot")->readOffText().startsWith(QStringLiteral("U07"))); // the same sample on the curve
    clickChain(ChainPage::Response);
    EXPECT_EQ(find<DataTable>("groupsTable")->currentIndex().row(), rowOf("groupsTable", QStringLiteral("U07")));
    clickChain(ChainPage::Layout);
    EXPECT_EQ(find<DataTable>("samplesTable")->currentIndex().row(), rowOf("samplesTable", QStringLiteral("U07")));
}

TEST_F(Pages, TheReadOffCursorGivesConcentrationAndInterval) {
    startDemo();
    clickChain(ChainPage::Curve);
    m_workspace->clearSelection();
    typeInto("readOffResponse", QStringLiteral("0.914"));
    auto* plot = find<CurvePlot>("curvePlot");
    EXPECT_TRUE(plot->isCursorOn());
    const ReadOff read = readOff(m_workspace->evaluation().fit, 0.914);
    EXPECT_TRUE(plot->readOffText().contains(QStringLiteral("32"))) << plot->readOffText().toStdString();
    EXPECT_NEAR(*read.x, 32.26, 0.01);
    typeInto("readOffResponse", QStringLiteral("3"));
    EXPECT_TRUE(plot->readOffText().contains(QStringLiteral("below the curve: no concentration")));
    typeInto("readOffResponse", QStringLiteral("x"));
    EXPECT_TRUE(notice().contains(QStringLiteral("\"x\" is not a response")));
    // The pointer moves it too.
    QTest::mouseMove(plot, QPoint(plot->width() / 2, plot->height() / 3));
    wait(20);
    EXPECT_TRUE(plot->readOffText().startsWith(QStringLiteral("Response")));
    key(Qt::Key_Escape);
    find<CurvePlot>("curvePlot")->setFocus();
    key(Qt::Key_R);
    EXPECT_FALSE(plot->isCursorOn());
}

TEST_F(Pages, TheCurveZoomsAndFitsAgain) {
    startDemo();
    clickChain(ChainPage::Curve);
    auto* plot = find<CurvePlot>("curvePlot");
    const auto fitted = plot->mainRect()->axis(QCPAxis::atLeft)->range();
    QWheelEvent wheel(QPointF(400, 200), plot->mapToGlobal(QPointF(400, 200)), {}, QPoint(0, 240), Qt::NoButton, {},
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(plot, &wheel);
    EXPECT_LT(plot->mainRect()->axis(QCPAxis::atLeft)->range().size(), fitted.size());
    choose("weighting", QStringLiteral("1/x")); // a change keeps the zoom
    EXPECT_LT(plot->mainRect()->axis(QCPAxis::atLeft)->range().size(), fitted.size());
    plot->setFocus();
    key(Qt::Key_Z);
    EXPECT_NEAR(plot->mainRect()->axis(QCPAxis::atLeft)->range().size(), fitted.size(), 1e-9);
    choose("axis", QStringLiteral("Linear"));
    EXPECT_EQ(plot->mainRect()->axis(QCPAxis::atBottom)->scaleType(), QCPAxis::stLinear);
}

TEST_F(Pages, EveryModelAndWeightingShowsACurveOrSaysWhyNot) {
    startDemo();
    clickChain(ChainPage::Curve);
    for (const char* model : {"Line", "Line through origin", "Line through a fixed point", "Quadratic", "Cubic",
                              "Log-log line", "Point to point", "Monotone spline", "4PL logistic", "5PL logistic"}) {
        for (const char* weighting : {"none", "1/x", "1/x²", "1/y", "1/y²", "1/s²"}) {
            choose("model", QString::fromUtf8(model));
            choose("weighting", QString::fromUtf8(weighting));
            const Fit& fit = m_workspace->evaluation().fit;
            const QString quality = find<QLabel>("fitQuality")->text();
            if (!fit.isUsable()) { // a 5PL may have no best fit; then it says so
                EXPECT_EQ(fit.model, Model::Logistic5) << model << weighting << fit.message;
                EXPECT_EQ(quality, QStringLiteral("No curve"));
                continue;
            }
            EXPECT_EQ(quality.startsWith(QStringLiteral("R²")), !isInterpolation(fit.model)) << quality.toStdString();
            EXPECT_EQ(find<DataTable>("parametersTable")->model()->rowCount(), static_cast<int>(fit.size()));
        }
    }
}

/// A choice of the settings beside the curve, with the mouse.
void choosePart(const Segments* segments, int index) {
    const auto buttons = segments->findChildren<QPushButton*>();
    QTest::mouseClick(buttons.at(index), Qt::LeftButton);
}

TEST_F(Pages, TheCurveIsSetBesideItLive) {
    startDemo();
    clickChain(ChainPage::Curve);
    key(Qt::Key_S);
    ASSERT_TRUE(find<QWidget>("curveSettingsPanel")->isVisible());
    choosePart(find<Segments>("fitTo"), 1);
    wait();
    EXPECT_EQ(m_workspace->analyte().fit.fitTo, FitTo::Means);
    EXPECT_EQ(m_workspace->evaluation().fit.n, 7u);
    choose("interval", QStringLiteral("profile likelihood"));
    EXPECT_EQ(m_workspace->analyte().interval, IntervalMethod::Profile);
    // Holding a begins with the fitted one, and the field waits for another.
    const double fitted = m_workspace->evaluation().fit.parameter("a");
    choosePart(find<Segments>("holdA"), 1);
    wait();
    EXPECT_EQ(m_workspace->analyte().fit.heldA, fitted);
    auto* held = find<NumberField>("heldA");
    EXPECT_TRUE(held->hasFocus());
    typeInto("heldA", QStringLiteral("2,3x"));
    EXPECT_TRUE(notice().contains(QStringLiteral("\"2,3x\" is not a number"))) << notice().toStdString();
    EXPECT_EQ(m_workspace->analyte().fit.heldA, fitted);
    EXPECT_EQ(held->text(), QStringLiteral("2,3x")); // what was typed is there to be mended
    typeInto("heldA", QStringLiteral("2,3"));
    EXPECT_EQ(m_workspace->analyte().fit.heldA, 2.3);
    // A range by hand begins as the one there is.
    choose("rangeBy", QStringLiteral("by hand"));
    EXPECT_EQ(m_workspace->analyte().range.uloq, 500);
    typeInto("lloq", QStringLiteral("2"));
    typeInto("uloq", QStringLiteral("100"));
    choosePart(find<Segments>("beyond"), 1);
    wait();
    EXPECT_EQ(m_workspace->evaluation().range.lloq, 2.0);
    EXPECT_EQ(m_workspace->analyte().range.extrapolation, 2);
    m_workspace->selectGroup({Role::Unknown, 5});
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("profile likelihood")));
    // Each was an edit of its own, with its own words.
    EXPECT_EQ(m_workspace->document()->undoLabel(), "Results up to a factor of 2 beyond the range are marked");
    for (int k = 0; k < 8; ++k) {
        m_workspace->undo();
    }
    wait();
    EXPECT_EQ(m_workspace->analyte().fit.fitTo, FitTo::Replicates);
    EXPECT_FALSE(m_workspace->analyte().fit.heldA);
}

TEST_F(Pages, AModelThatIsDeterminedIsOfferedWhereTheOneInUseIsNot) {
    startDemo();
    clickChain(ChainPage::Curve);
    EXPECT_FALSE(find<QWidget>("offerTake")->isVisible());
    // Four levels do not determine a 5PL.
    ASSERT_TRUE(m_workspace->apply(assignRole(m_workspace->batch(), {{4, 0}, {4, 1}, {5, 0}, {5, 1}, {6, 0}, {6, 1}},
                                              Role::Empty, 2, Direction::Across)));
    choose("model", QStringLiteral("5PL logistic"));
    ASSERT_FALSE(m_workspace->evaluation().fit.isUsable());
    auto* take = find<QPushButton>("offerTake");
    ASSERT_TRUE(QTest::qWaitFor([&] { return take->isVisible(); }, 10'000));
    EXPECT_TRUE(find<QLabel>("offerWords")->text().contains(QStringLiteral("is first")));
    const QString offered = take->text();
    click("offerTake");
    EXPECT_TRUE(m_workspace->evaluation().fit.isUsable());
    EXPECT_TRUE(offered.contains(text(modelTitle(m_workspace->analyte().fit.model)))) << offered.toStdString();
    EXPECT_FALSE(take->isVisible());
}

TEST_F(Pages, OnlySettingsThatApplyAreShown) {
    startDemo();
    clickChain(ChainPage::Curve);
    const auto expectShown = [this](const std::vector<const char*>& shown, const std::vector<const char*>& hidden) {
        for (const char* name : shown) {
            EXPECT_TRUE(find<QWidget>(name)->isVisible()) << name;
        }
        for (const char* name : hidden) {
            EXPECT_FALSE(find<QWidget>(name)->isVisible()) << name;
        }
    };
    expectShown({"fitTo", "weightFrom", "weightFloor", "heldA", "heldD", "beyond"},
                {"theta", "fixedX", "lloq", "precision", "extrapolation", "analyteReading", "keepBest"});
    EXPECT_EQ(find<QComboBox>("interval")->findText(QStringLiteral("Fieller")), -1);
    choose("weighting", QStringLiteral("variance function"));
    expectShown({"theta"}, {"weightFrom", "weightFloor"});
    choose("model", QStringLiteral("Line through a fixed point"));
    expectShown({"fixedX", "fixedY"}, {"heldA", "heldD"});
    EXPECT_NE(find<QComboBox>("interval")->findText(QStringLiteral("Fieller")), -1);
    choose("model", QStringLiteral("Monotone spline"));
    expectShown({}, {"fitTo", "weightFrom", "theta", "heldA", "fixedX"});
    choose("rangeBy", QStringLiteral("from precision"));
    expectShown({"precision"}, {"lloq"});
    click("replicateSettingsTitle");
    expectShown({"keepBest", "outlierTest", "average", "dilutionSe"}, {});
    typeInto("keepBest", QStringLiteral("1"));
    EXPECT_TRUE(notice().contains(QStringLiteral("whole number from 2"))) << notice().toStdString();
    typeInto("keepBest", QStringLiteral("2"));
    EXPECT_EQ(m_workspace->batch().method.replicates.keepBest, 2);
    // Esc gives back what holds; Tab takes what was typed and goes on.
    auto* dilution = find<NumberField>("dilutionSe");
    dilution->setFocus();
    dilution->selectAll();
    QTest::keyClicks(dilution, QStringLiteral("7"));
    QTest::keyClick(dilution, Qt::Key_Escape);
    EXPECT_EQ(dilution->text(), QStringLiteral("0"));
    dilution->selectAll();
    QTest::keyClicks(dilution, QStringLiteral("2"));
    QTest::keyClick(dilution, Qt::Key_Tab);
    wait();
    EXPECT_EQ(m_workspace->batch().method.dilutionRelativeSe, 0.02);
    EXPECT_TRUE(find<NumberField>("keepBest")->hasFocus());
    click("curveSettingsTitle");
    expectShown({}, {"fitTo", "interval", "keepBest"});
}

TEST_F(Pages, LaboratoryAndNoteAreTypedAndStandInTheReport) {
    startDemo();
    withDialog(
        [&] { m_window->actions().get(QStringLiteral("batch.title"))->trigger(); }, QStringLiteral("detailsDialog"),
        [](QDialog& dialog) {
            dialog.findChild<QLineEdit*>(QStringLiteral("detailsLaboratory"))->setText(QStringLiteral("Bench 4"));
            dialog.findChild<QLineEdit*>(QStringLiteral("detailsNote"))->setText(QStringLiteral("Repeat of Monday"));
            QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("dialogAccept")), Qt::LeftButton);
        });
    EXPECT_EQ(m_workspace->batch().info.laboratory, "Bench 4");
    EXPECT_EQ(m_workspace->batch().info.note, "Repeat of Monday");
    // With the keyboard alone: Tab from field to field, Enter keeps, Esc leaves all as it was.
    const auto typed = [this](const std::function<void(QDialog&)>& answer) {
        withDialog([&] { m_window->actions().get(QStringLiteral("batch.title"))->trigger(); },
                   QStringLiteral("detailsDialog"), answer);
    };
    typed([](QDialog& dialog) {
        QTest::keyClicks(dialog.focusWidget(), QStringLiteral("Week 39"));
        QTest::keyClick(dialog.focusWidget(), Qt::Key_Tab);
        QTest::keyClicks(dialog.focusWidget(), QStringLiteral("Bench 5"));
        QTest::keyClick(dialog.focusWidget(), Qt::Key_Return);
    });
    EXPECT_EQ(m_workspace->batch().info.title, "Week 39");
    EXPECT_EQ(m_workspace->batch().info.laboratory, "Bench 5");
    typed([](QDialog& dialog) {
        QTest::keyClicks(dialog.focusWidget(), QStringLiteral("never kept"));
        QTest::keyClick(dialog.focusWidget(), Qt::Key_Escape);
    });
    EXPECT_EQ(m_workspace->batch().info.title, "Week 39");
    key(Qt::Key_Z, Qt::ControlModifier);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->batch().info.laboratory, "Alderbrook laboratory");
}

TEST_F(Pages, ABatchWithoutANameIsFoundAgainOnTheStartPage) {
    click("demo-patulin");
    ASSERT_TRUE(m_workspace->apply(setTitle(m_workspace->batch(), "Left without a name")));
    m_workspace->close();
    m_window->showPage(ChainPage::Data);
    wait();
    QPushButton* found = nullptr;
    for (auto* button : m_window->findChildren<QPushButton*>()) {
        found =
            button->isVisible() && button->text().startsWith(QStringLiteral("Left without a name")) ? button : found;
    }
    ASSERT_NE(found, nullptr);
    QTest::mouseClick(found, Qt::LeftButton);
    wait();
    EXPECT_EQ(m_workspace->batch().info.title, "Left without a name");
    EXPECT_EQ(m_workspace->index().numbersOf(Role::Unknown).size(), 38u);
}

TEST_F(Pages, TheStripOfErrorsJudgesTheEndLevelsByTheirOwnLimit) {
    startDemo();
    clickChain(ChainPage::Curve);
    const auto outsideWith = [this](double atLowest) {
        Method method = m_workspace->batch().method;
        method.limits.backCalculated = 15;
        method.limits.backCalculatedAtLowest = atLowest;
        EXPECT_TRUE(m_workspace->apply(setMethod(m_workspace->batch(), method)));
        wait();
        return find<CurvePlot>("curvePlot")->errorsOutside();
    };
    // The lowest level of the demo is 16.7 and 18.1 % off, all others less than 12 %.
    EXPECT_EQ(outsideWith(25), 0);
    EXPECT_EQ(outsideWith(17), 1);
    EXPECT_EQ(outsideWith(10), 2);
}

TEST_F(Pages, ModelsAreComparedAndOneIsTaken) {
    startDemo();
    clickChain(ChainPage::Curve);
    const FitOptions before = m_workspace->analyte().fit;
    click("showComparison");
    auto* table = find<DataTable>("compareTable");
    ASSERT_TRUE(QTest::qWaitFor([table] { return table->model()->rowCount() > 30; }, 20'000));
    EXPECT_EQ(cell("compareTable", 0, QStringLiteral("AICc")),
              QLocale().decimalPoint() == QStringLiteral(",") ? QStringLiteral("0,0") : QStringLiteral("0.0"));
    EXPECT_FALSE(find<QLabel>("compareWords")->text().isEmpty());
    EXPECT_EQ(m_workspace->analyte().fit, before); // looking changes nothing
    int wanted = -1;
    for (int row = 0; row < table->model()->rowCount(); ++row) {
        wanted = cell("compareTable", row, QStringLiteral("Model")) == QStringLiteral("Quadratic") && wanted < 0
                     ? row
                     : wanted;
    }
    ASSERT_GE(wanted, 0);
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {},
                      table->visualRect(table->model()->index(wanted, 0)).center());
    const QString change = cell("changesTable", 0, QStringLiteral("Looked at"));
    // Both curves over one another, and what the checks would say.
    const auto* plot = find<ComparePlot>("comparePlot");
    EXPECT_GT(plot->graph(0)->dataCount(), 100);
    EXPECT_GT(plot->graph(1)->dataCount(), 100);
    EXPECT_NE(plot->graph(0)->dataMainValue(80), plot->graph(1)->dataMainValue(80));
    EXPECT_TRUE(find<QLabel>("compareChecks")->text().contains(QStringLiteral("Fit, R²")))
        << find<QLabel>("compareChecks")->text().toStdString();
    const QVariantList marks = table->model()->index(wanted, 2).data(cell::kLevels).toList();
    EXPECT_EQ(marks.size(), 7);
    EXPECT_FALSE(find<QLabel>("compareWords")->text().contains(QStringLiteral("x2")));
    EXPECT_TRUE(marks.contains(false));
    click("compareTake");
    EXPECT_EQ(m_workspace->analyte().fit.model, Model::Quadratic);
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(m_workspace->analyte().fit, before);
    EXPECT_FALSE(change.isEmpty());
}

TEST_F(Pages, ANumberTypedWhileReadingOffIsAResponse) {
    startDemo();
    clickChain(ChainPage::Curve);
    key(Qt::Key_R);
    QTest::keyClicks(m_window->focusWidget(), QStringLiteral("1"));
    EXPECT_EQ(find<QLineEdit>("readOffResponse")->text(), QStringLiteral("1"));
    EXPECT_TRUE(find<QLineEdit>("readOffResponse")->hasFocus());
}

TEST_F(Pages, ACriterionIsOverriddenWithAReasonAndTakenBack) {
    startDemo();
    clickChain(ChainPage::Checks);
    auto* button = find<QPushButton>("overrideCriterion");
    EXPECT_FALSE(button->isEnabled());
    m_workspace->selectCriterion("unknown-cv");
    EXPECT_TRUE(button->isEnabled());
    withReason([&] { click("overrideCriterion"); }, QStringLiteral("sample is known to clog"));
    EXPECT_EQ(cellOf("criteriaTable", QStringLiteral("Replicate CV of unknowns"), QStringLiteral("Outcome")),
              QStringLiteral("Overridden"));
    EXPECT_TRUE(cellOf("criteriaTable", QStringLiteral("Replicate CV of unknowns"), QStringLiteral("Where"))
                    .contains(QStringLiteral("sample is known to clog")));
    // U08 is also what the scatter of the samples asks about.
    m_workspace->selectCriterion("sample-scatter");
    withReason([&] { click("overrideCriterion"); }, QStringLiteral("sample is known to clog"));
    EXPECT_EQ(find<QLabel>("verdict")->text(), QStringLiteral("Review before release"));
    m_workspace->selectCriterion("replicates");
    withReason([&] { click("overrideCriterion"); }, QStringLiteral("one is enough"));
    EXPECT_EQ(find<QLabel>("verdict")->text(), QStringLiteral("Accepted"));
    EXPECT_EQ(button->text(), QStringLiteral("Withdraw override"));
    click("overrideCriterion");
    EXPECT_EQ(find<QLabel>("verdict")->text(), QStringLiteral("Review before release"));
    // A met criterion offers nothing to override.
    m_workspace->selectCriterion("r-squared");
    EXPECT_FALSE(button->isEnabled());
}

TEST_F(Pages, TheSetOfCriteriaIsChosenAndACriterionOfOnesOwnAdded) {
    startDemo();
    clickChain(ChainPage::Checks);
    choose("criteriaSet", QStringLiteral("Chromatographic, ICH M10"));
    EXPECT_EQ(m_workspace->batch().method.limits.backCalculated, 15);
    EXPECT_TRUE(cellOf("criteriaTable", QStringLiteral("Worst back-calculated level"), QStringLiteral("Limit"))
                    .contains(QStringLiteral("at the lowest")));
    choose("criteriaSet", QStringLiteral("Ligand binding, ICH M10"));
    // With the keyboard alone: Tab from field to field, names completed, Enter adds it.
    click("ownCriterion");
    auto* quantity = find<QLineEdit>("criterionQuantity");
    const auto values = [this] { return find<QLabel>("criterionValues")->text(); };
    QTest::keyClicks(m_window->focusWidget(), QStringLiteral("Narrow enough"));
    find<QComboBox>("criterionScope")->setCurrentIndex(3);
    quantity->setFocus();
    QTest::keyClicks(quantity, QStringLiteral("intervall"));
    wait();
    EXPECT_TRUE(values().contains(QStringLiteral("character 1"))) << values().toStdString();
    EXPECT_FALSE(find<QPushButton>("criterionDone")->isEnabled());
    quantity->clear();
    QTest::keyClicks(quantity, QStringLiteral("2*inter"));
    wait();
    auto* popup = find<QWidget>("criterionEditor")->findChild<QCompleter*>()->popup();
    EXPECT_TRUE(popup->isVisible());
    QTest::keyClick(popup, Qt::Key_Return);
    wait();
    EXPECT_EQ(quantity->text(), QStringLiteral("2*interval"));
    EXPECT_TRUE(values().startsWith(QStringLiteral("Now: U01 "))) << values().toStdString();
    typeInto("criterionLimit", QStringLiteral("10"), false);
    EXPECT_TRUE(values().startsWith(QStringLiteral("Not met in "))) << values().toStdString();
    EXPECT_TRUE(m_workspace->batch().method.criteria.empty()); // nothing is made yet
    choose("criterionConsequence", QStringLiteral("review"));
    EXPECT_EQ(find<QLineEdit>("criterionTitle")->text(), QStringLiteral("Narrow enough"));
    EXPECT_TRUE(find<QPushButton>("criterionDone")->isEnabled());
    QTest::keyClick(find<QLineEdit>("criterionLimit"), Qt::Key_Return);
    wait();
    ASSERT_EQ(m_workspace->batch().method.criteria.size(), 1u);
    EXPECT_EQ(cellOf("criteriaTable", QStringLiteral("Narrow enough"), QStringLiteral("Outcome")),
              QStringLiteral("Review"));
    // It is edited where it stands; undo takes an edit back, and the row follows.
    typeInto("criterionLimit", QStringLiteral("1000"));
    EXPECT_EQ(m_workspace->batch().method.criteria.front().limit, 1000);
    EXPECT_EQ(cellOf("criteriaTable", QStringLiteral("Narrow enough"), QStringLiteral("Outcome")),
              QStringLiteral("Pass"));
    find<DataTable>("criteriaTable")->setFocus();
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(find<QLineEdit>("criterionLimit")->text(), QStringLiteral("10"));
    // Another criterion selected: the row goes, and comes back with its own.
    m_workspace->selectCriterion("unknown-cv");
    EXPECT_FALSE(find<QWidget>("criterionEditor")->isVisible());
    m_workspace->selectCriterion("own-1");
    EXPECT_TRUE(find<QWidget>("criterionEditor")->isVisible());
    click("criterionRemove");
    EXPECT_TRUE(m_workspace->batch().method.criteria.empty());
    EXPECT_FALSE(find<QWidget>("criterionEditor")->isVisible());
}

TEST_F(Pages, LimitsAreChangedBesideTheCriteria) {
    startDemo();
    clickChain(ChainPage::Checks);
    EXPECT_FALSE(find<QWidget>("limitUnknownCv")->isVisible()); // folded away until somebody wants them
    m_workspace->selectCriterion("unknown-cv");
    find<DataTable>("criteriaTable")->setFocus();
    key(Qt::Key_L);
    auto* field = find<NumberField>("limitUnknownCv");
    EXPECT_TRUE(field->hasFocus());
    QTest::keyClicks(field, QStringLiteral("25"));
    QTest::keyClick(field, Qt::Key_Tab);
    wait();
    EXPECT_EQ(m_workspace->batch().method.limits.unknownCv, 25);
    EXPECT_EQ(cellOf("criteriaTable", QStringLiteral("Replicate CV of unknowns"), QStringLiteral("Outcome")),
              QStringLiteral("Pass"));
    EXPECT_TRUE(find<QComboBox>("criteriaSet")->currentText().endsWith(QStringLiteral("changed")));
    EXPECT_TRUE(find<NumberField>("limitQcRecovery")->hasFocus());
    // An empty limit is not used, and its criterion goes.
    field->setFocus();
    field->selectAll();
    QTest::keyClick(field, Qt::Key_Delete);
    QTest::keyClick(field, Qt::Key_Return);
    wait();
    EXPECT_FALSE(m_workspace->batch().method.limits.unknownCv);
    EXPECT_FALSE(find<DataTable>("criteriaTable")->copyText().contains(QStringLiteral("Replicate CV of unknowns")));
    EXPECT_EQ(find<NumberField>("limitQcWithin")->text(),
              QLocale().decimalPoint() == QStringLiteral(",") ? QStringLiteral("66,67") : QStringLiteral("66.67"));
    find<NumberField>("limitQcWithin")->setFocus();
    find<NumberField>("limitUnknownCv")->setFocus(); // looked at, not typed: 200/3 stays
    EXPECT_EQ(m_workspace->batch().method.limits.qcWithin, 200.0 / 3);
    QTest::mouseClick(find<QWidget>("limitBlankBelow"), Qt::LeftButton);
    wait();
    EXPECT_TRUE(m_workspace->batch().method.limits.isBlankBelowLloq);
    // The wheel over a list scrolls; it does not choose.
    auto* set = find<QComboBox>("criteriaSet");
    const QString before = set->currentText();
    QWheelEvent wheel(QPointF(5, 5), set->mapToGlobal(QPointF(5, 5)), {}, {0, -120}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(set, &wheel);
    EXPECT_EQ(set->currentText(), before);
}

// A batch dropped in while a number is being typed: it belongs to the batch that goes.
TEST_F(Pages, WhatIsBeingTypedStaysWithItsBatch) {
    startDemo();
    const auto first = m_workspace->openBatch().path;
    const auto other = m_folder / "other.nuvat";
    ASSERT_TRUE(m_workspace->saveCopy(other));
    clickChain(ChainPage::Checks);
    click("limitsTitle");
    auto* field = find<NumberField>("limitUnknownCv");
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, QStringLiteral("33"));
    drop(other);
    wait();
    EXPECT_EQ(m_workspace->openBatch().path, other);
    find<NumberField>("limitQcRecovery")->setFocus();
    EXPECT_EQ(m_workspace->batch().method.limits.unknownCv, 20);
    EXPECT_EQ(field->text(), QStringLiteral("20"));
    // The same for the row of a custom criterion.
    Method method = m_workspace->batch().method;
    method.criteria = {{"B", CriterionScope::Sample, "cv", Comparison::AtMost, 5, true}};
    ASSERT_TRUE(m_workspace->apply(setMethod(m_workspace->batch(), method)));
    wait();
    m_workspace->selectCriterion("own-1");
    typeInto("criterionLimit", QStringLiteral("7"), false);
    drop(first);
    wait();
    EXPECT_EQ(m_workspace->batch().method.limits.unknownCv, 33);
    EXPECT_TRUE(m_workspace->batch().method.criteria.empty());
    drop(other);
    wait();
    ASSERT_EQ(m_workspace->batch().method.criteria.size(), 1u);
    EXPECT_EQ(m_workspace->batch().method.criteria.front().limit, 7);
}

// The side panel is as wide as it is: nothing of it may be cut off, whatever applies.
TEST_F(Pages, NoSettingIsWiderThanTheSidePanel) {
    startDemo();
    const auto expectFits = [this](const QString& what) {
        wait();
        auto* scroll = m_window->panel()->findChild<QScrollArea*>();
        EXPECT_LE(scroll->widget()->minimumSizeHint().width(), scroll->viewport()->width()) << what.toStdString();
    };
    clickChain(ChainPage::Curve);
    click("replicateSettingsTitle");
    auto* models = find<QComboBox>("model");
    for (int i = 0; i < models->count(); ++i) {
        choose("model", models->itemText(i));
        for (const QString& weighting : {QStringLiteral("1/y²"), QStringLiteral("variance function")}) {
            choose("weighting", weighting);
            expectFits(models->itemText(i) + weighting);
        }
    }
    choose("rangeBy", QStringLiteral("by hand"));
    expectFits(QStringLiteral("by hand"));
    clickChain(ChainPage::Checks);
    click("limitsTitle");
    expectFits(QStringLiteral("limits"));
}

TEST_F(Pages, ASecondAnalyteHasItsOwnCurveOnEveryPage) {
    startDemo();
    auto* shownAnalyte = find<QComboBox>("analyteShown");
    EXPECT_FALSE(shownAnalyte->isVisible()); // one analyte needs no list
    withDialog([&] { triggerAction("method.addAnalyte"); }, QStringLiteral("askDialog"),
               [](QDialog& dialog) {
                   QTest::keyClicks(dialog.findChild<QLineEdit*>(QStringLiteral("askLine")),
                                    QStringLiteral("Ascladiol"));
                   QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("askAccept")), Qt::LeftButton);
               });
    EXPECT_TRUE(shownAnalyte->isVisible());
    EXPECT_EQ(shownAnalyte->currentText(), QStringLiteral("Ascladiol"));
    EXPECT_FALSE(m_workspace->evaluation().fit.isUsable()); // it has no levels yet
    clickChain(ChainPage::Layout);
    typeInto("seriesFirst", QStringLiteral("50"));
    typeInto("seriesFactor", QStringLiteral("3"));
    EXPECT_EQ(m_workspace->batch().concentration(1, 2), 50);
    EXPECT_EQ(m_workspace->batch().concentration(1, 1), 500);
    EXPECT_TRUE(m_workspace->evaluation().fit.isUsable()) << m_workspace->evaluation().fit.message;
    const double second = *m_workspace->evaluation().result({Role::Unknown, 5})->result;
    choose("analyteShown", QStringLiteral("Patulin"));
    EXPECT_NEAR(*m_workspace->evaluation().result({Role::Unknown, 5})->result, 10 * second, 1e-3 * second);
    choose("analyteShown", QStringLiteral("Ascladiol"));
    triggerAction("method.removeAnalyte");
    EXPECT_EQ(m_workspace->batch().method.analytes.size(), 1u);
    EXPECT_FALSE(m_workspace->batch().concentration(1, 2));
    EXPECT_EQ(m_workspace->analyte().name, "Patulin");
}

TEST_F(Pages, APointIsExcludedByDoubleClickAndRestored) {
    startDemo();
    clickChain(ChainPage::Curve);
    auto* plot = find<CurvePlot>("curvePlot");
    const QPoint at = plot->pixelOf({1, 0})->toPoint();
    withReason([&] { QTest::mouseDClick(plot, Qt::LeftButton, {}, at); }, QStringLiteral("edge of the plate"));
    EXPECT_EQ(m_workspace->evaluation().fit.n, 12u);
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("excluded: edge of the plate")));
    EXPECT_TRUE(plot->pixelOf({1, 0})); // it stays on the plot, so that it can be taken back
    QTest::mouseDClick(plot, Qt::LeftButton, {}, plot->pixelOf({1, 0})->toPoint());
    wait();
    EXPECT_EQ(m_workspace->evaluation().fit.n, 13u);
}

TEST_F(Pages, AFitThatIsWeakSaysSo) {
    startDemo();
    clickChain(ChainPage::Curve);
    m_workspace->clearSelection();
    choose("model", QStringLiteral("Quadratic"));
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("turns inside the range of the standards")));
    EXPECT_EQ(m_window->findChild<ChainRail*>()->card(ChainPage::Curve)->summary().state, LinkState::Look);
}

TEST_F(Pages, ANarrowWindowGivesThePageTheRoomOfThePanel) {
    startDemo();
    EXPECT_TRUE(m_window->panel()->isVisible());
    m_window->resize(1040, 700);
    wait();
    EXPECT_FALSE(m_window->panel()->isVisible());
    key(Qt::Key_J, Qt::ControlModifier);
    EXPECT_TRUE(m_window->panel()->isVisible());
    m_window->resize(1400, 800);
    wait();
    EXPECT_TRUE(m_window->panel()->isVisible());
}

TEST_F(Pages, HoveringAPointShowsItsValues) {
    startDemo();
    clickChain(ChainPage::Curve);
    auto* plot = find<CurvePlot>("curvePlot");
    QTest::mouseMove(plot, plot->pixelOf({2, 1})->toPoint());
    wait(20);
    EXPECT_EQ(m_workspace->hovered(), (Place{2, 1}));
    EXPECT_TRUE(plot->pointText({2, 1}).startsWith(QStringLiteral("S3 · C2 · response 1")));
    EXPECT_TRUE(plot->pointText({2, 1}).contains(QStringLiteral("µg/L · error")));
    EXPECT_TRUE(plot->pointText({2, 1}).endsWith(QStringLiteral("excluded: bubble in well")));
}

TEST_F(Pages, UndoingALargerPlateTakesItsSelectionAlong) {
    click("startNew");
    ASSERT_TRUE(m_workspace->apply(addReading(m_workspace->batch(), test::plateOf(16, 24, "large.csv"))));
    m_workspace->select({{15, 23}, {0, 0}});
    wait();
    m_workspace->undo();
    wait();
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{0, 0}}));
    EXPECT_EQ(m_workspace->carrier().rows, 8);
}

TEST_F(Pages, ChecksNameThePlacesAndTheWayThere) {
    startDemo();
    clickChain(ChainPage::Checks);
    EXPECT_EQ(find<QLabel>("verdict")->text(), QStringLiteral("Review before release"));
    EXPECT_EQ(cellOf("criteriaTable", QStringLiteral("Replicate CV of unknowns"), QStringLiteral("Where")),
              QStringLiteral("U08 Pressed pulp, bin 11"));
    key(Qt::Key_Space); // next to review
    EXPECT_EQ(m_workspace->selection().criterion, "unknown-cv");
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("cannot both be right")));
    click("panelShowPlate");
    EXPECT_EQ(m_window->currentPage(), ChainPage::Layout);
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{1, 4}, {1, 5}}));
}

TEST_F(Pages, ResultsAreFilteredAndCopied) {
    startDemo();
    clickChain(ChainPage::Results);
    auto* table = find<DataTable>("resultsTable");
    EXPECT_EQ(table->model()->rowCount(), 40);
    click("filterQc");
    EXPECT_EQ(table->model()->rowCount(), 2);
    click("filterReview");
    EXPECT_EQ(table->model()->rowCount(), 4);
    EXPECT_EQ(cell("resultsTable", 0, QStringLiteral("Status")), QStringLiteral("Below"));
    EXPECT_TRUE(cell("resultsTable", 0, QStringLiteral("Result")).startsWith(QStringLiteral("< LLOQ")));
    click("filterAll");
    QTest::keySequence(table, QKeySequence::Copy);
    const QStringList lines = QApplication::clipboard()->text().split(u'\n', Qt::SkipEmptyParts);
    ASSERT_EQ(lines.size(), 41);
    EXPECT_TRUE(lines[0].startsWith(QStringLiteral("Place\tSample\tResponse")));
    EXPECT_TRUE(lines[3].startsWith(QStringLiteral("U01\tClear juice, line A\t")));
}

// A number of levels is a whole one: 6.7 is refused with a sentence, not cut to 6.
TEST_F(Pages, ANumberOfLevelsIsAWholeOne) {
    startDemo();
    clickChain(ChainPage::Checks);
    click("limitsTitle");
    typeInto("limitLevels", QStringLiteral("6.7"));
    EXPECT_EQ(m_workspace->batch().method.limits.levelsAtLeast, 6);
    EXPECT_TRUE(find<NumberField>("limitLevels")->property("isWrong").toBool());
    EXPECT_FALSE(notice().isEmpty());
    typeInto("limitLevels", QStringLiteral("5"));
    EXPECT_EQ(m_workspace->batch().method.limits.levelsAtLeast, 5);
}

// Keys come faster than the list of the finder opens, and go to whatever has the focus then: none is lost, and none
// reaches the plate.
TEST_F(Pages, LettersTypedFastIntoTheFinderAreAllKept) {
    startDemo();
    clickChain(ChainPage::Layout);
    const Batch before = m_workspace->batch();
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_K, Qt::ControlModifier); // and no waiting from here on
    for (const QChar letter : QStringLiteral("drum 4")) {
        QWidget* popup = QApplication::activePopupWidget();
        QTest::keyClick(popup != nullptr ? popup : QApplication::focusWidget(), letter.toLatin1());
    }
    EXPECT_EQ(find<QLineEdit>("finder")->text(), QStringLiteral("drum 4"));
    QWidget* popup = QApplication::activePopupWidget();
    QTest::keyClick(popup != nullptr ? popup : QApplication::focusWidget(), Qt::Key_Return);
    wait();
    EXPECT_EQ(m_workspace->selection().group, (Assignment{Role::Unknown, 9})); // Concentrate, drum 4
    EXPECT_EQ(m_workspace->batch(), before);
}

// The Working is painted, and its numbers can be taken out of it all the same: a double click marks one, a drag a part,
// Ctrl+C is for what is marked.
TEST_F(Pages, NumbersOfTheWorkingAreMarkedAndCopied) {
    startDemo();
    clickChain(ChainPage::Results);
    m_workspace->selectGroup({Role::Unknown, 8});
    wait();
    auto* working = find<TextRows>("working");
    const QString result = shown("222.0 µg/L");
    const QRectF area = working->areaOf(result);
    ASSERT_FALSE(area.isEmpty()) << working->plainText().toStdString();
    QTest::mouseDClick(working, Qt::LeftButton, {}, (area.topLeft() + QPointF(12, 8)).toPoint());
    working->setFocus();
    key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_EQ(QApplication::clipboard()->text(), shown("222.0"));
    // A drag from its beginning to below the row takes the row.
    QTest::mousePress(working, Qt::LeftButton, {}, (area.topLeft() + QPointF(0, 8)).toPoint());
    QTest::mouseMove(working, (area.bottomLeft() + QPointF(40, 30)).toPoint());
    QMouseEvent move(QEvent::MouseMove, area.bottomLeft() + QPointF(40, 30),
                     working->mapToGlobal(area.bottomLeft() + QPointF(40, 30)), Qt::NoButton, Qt::LeftButton, {});
    QApplication::sendEvent(working, &move);
    QTest::mouseRelease(working, Qt::LeftButton, {}, (area.bottomLeft() + QPointF(40, 30)).toPoint());
    key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_EQ(QApplication::clipboard()->text(), result);
    // With nothing marked the key is the page's again.
    m_workspace->selectGroup({Role::Unknown, 5});
    wait();
    key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_TRUE(QApplication::clipboard()->text().startsWith(QStringLiteral("Place\tSample")));
    // Hidden, the panel follows nothing; shown again, it is up to date.
    key(Qt::Key_J, Qt::ControlModifier);
    m_workspace->selectGroup({Role::Unknown, 8});
    key(Qt::Key_J, Qt::ControlModifier);
    EXPECT_TRUE(working->plainText().contains(result));
}

TEST_F(Pages, TheReportFollowsItsSwitches) {
    startDemo();
    clickChain(ChainPage::Report);
    settle();
    EXPECT_EQ(status(), QStringLiteral("3 pages"));
    click("block_results");
    click("block_standards");
    click("block_history");
    settle();
    EXPECT_EQ(status(), QStringLiteral("2 pages"));
    key(Qt::Key_Z, Qt::ControlModifier);
    key(Qt::Key_Z, Qt::ControlModifier);
    key(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(status(), QStringLiteral("3 pages"));
    // Pages of a batch are gone with it, before those of the next one are there.
    auto next = demoBatch(m_folder / "next.nuvat");
    ASSERT_TRUE(next);
    m_workspace->open(std::move(*next));
    EXPECT_EQ(m_workspace->report().report(), nullptr);
    EXPECT_EQ(status(), QStringLiteral("The report is being laid out"));
    settle();
    EXPECT_EQ(status(), QStringLiteral("3 pages"));
}

class Notes : public Pages {
protected:
    void typeNote(int sample, const QString& words) {
        clickChain(ChainPage::Results);
        m_workspace->selectGroup({Role::Unknown, sample});
        wait();
        auto* note = find<QPlainTextEdit>("sampleNote");
        note->setFocus();
        QTest::keyClicks(note, words);
    }
};

TEST_F(Notes, AreKeptWithTheirSample) {
    startDemo();
    typeNote(8, QStringLiteral("repeat tomorrow"));
    m_workspace->selectGroup({Role::Unknown, 9}); // going on commits it
    wait();
    EXPECT_EQ(m_workspace->batch().samples.at(8).note, "repeat tomorrow");
    m_workspace->selectGroup({Role::Unknown, 8});
    wait();
    EXPECT_EQ(find<QPlainTextEdit>("sampleNote")->toPlainText(), QStringLiteral("repeat tomorrow"));
}

TEST_F(Notes, BeingTypedAreKeptWhenTheBatchIsClosed) {
    startDemo();
    typeNote(8, QStringLiteral("repeat tomorrow"));
    key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_FALSE(m_workspace->isOpen());
    auto again = openBatch(m_folder / "demo.nuvat");
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(again->document->batch().samples.at(8).note, "repeat tomorrow");
}

TEST_F(Pages, TheReadOffCursorFollowsZoomAndSize) {
    startDemo();
    clickChain(ChainPage::Curve);
    typeInto("readOffResponse", QStringLiteral("0.914"));
    auto* plot = find<CurvePlot>("curvePlot");
    const double x = *readOff(m_workspace->evaluation().fit, 0.914).x;
    const auto expectOnTheCurve = [&](const char* when) {
        wait(50);
        const QPointF want = plot->toPixel(x, 0.914);
        EXPECT_NEAR(plot->cursorPixel().x(), want.x(), 1) << when;
        EXPECT_NEAR(plot->cursorPixel().y(), want.y(), 1) << when;
    };
    expectOnTheCurve("at first");
    const QPointF centre(plot->width() / 2.0, plot->height() / 3.0);
    QWheelEvent wheel(centre, plot->mapToGlobal(centre), {}, {0, 240}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
    QApplication::sendEvent(plot, &wheel);
    expectOnTheCurve("after the wheel");
    m_window->resize(1000, 660);
    expectOnTheCurve("in a smaller window");
}

TEST_F(Pages, TheNextUnusableWellIsFound) {
    startDemo();
    clickChain(ChainPage::Data);
    key(Qt::Key_N);
    EXPECT_EQ(m_workspace->selection().places, (std::vector<Place>{{3, 7}}));
    EXPECT_TRUE(m_window->panel()->plainText().contains(QStringLiteral("line 9, cell 9")));
    EXPECT_TRUE(find<QLabel>("readingUnusable")->text().contains(QStringLiteral("\"OVER\"")));
    key(Qt::Key_H);
    EXPECT_EQ(find<PlateView>("dataPlate")->mode(), ViewMode::Number);
    key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_TRUE(QApplication::clipboard()->text().startsWith(QStringLiteral("\t1\t2\t3")));
    EXPECT_TRUE(QApplication::clipboard()->text().contains(QStringLiteral("OVER")));
}

TEST_F(Pages, EmptyStatesSayWhatToDoNext) {
    click("startNew");
    ASSERT_TRUE(m_workspace->isOpen());
    EXPECT_TRUE(find<QPushButton>("dataEmptyImport")->isVisible());
    auto* rail = m_window->findChild<ChainRail*>();
    EXPECT_EQ(rail->card(ChainPage::Curve)->summary().state, LinkState::Nothing);
    for (int i = 0; i < kChainPages; ++i) {
        clickChain(static_cast<ChainPage>(i)); // every page opens at any time
        EXPECT_EQ(m_window->currentPage(), static_cast<ChainPage>(i));
    }
    EXPECT_FALSE(find<QPushButton>("primary")->isEnabled());
}

TEST_F(Pages, ModelsKeepTheirContract) {
    startDemo();
    for (int i = 0; i < kChainPages; ++i) {
        clickChain(static_cast<ChainPage>(i)); // a page is made when it is first shown
    }
    m_workspace->close();
    std::vector<std::unique_ptr<QAbstractItemModelTester>> testers;
    for (ColumnsModel* model : m_window->findChildren<ColumnsModel*>()) {
        testers.push_back(
            std::make_unique<QAbstractItemModelTester>(model, QAbstractItemModelTester::FailureReportingMode::Fatal));
    }
    EXPECT_GE(testers.size(), 7u);
    startDemo();
    for (int i = 0; i < kChainPages; ++i) {
        clickChain(static_cast<ChainPage>(i));
    }
    while (m_workspace->document()->canUndo()) {
        m_workspace->undo();
    }
    while (m_workspace->document()->canRedo()) {
        m_workspace->redo();
    }
    wait();
    EXPECT_EQ(m_workspace->evaluation().results.size(), 40u);
}

TEST_F(Pages, EveryControlHasAWordForAScreenReader) {
    startDemo();
    for (int i = 0; i < kChainPages; ++i) {
        clickChain(static_cast<ChainPage>(i));
        for (QAbstractButton* button : m_window->findChildren<QAbstractButton*>()) {
            if (button->isVisible() && button->focusPolicy() != Qt::NoFocus) {
                EXPECT_FALSE(button->text().isEmpty() && button->accessibleName().isEmpty())
                    << button->objectName().toStdString();
            }
        }
    }
}

} // namespace
} // namespace nuvat
