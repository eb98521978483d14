// The figure of the curve: its settings, other curves behind it, reading off both ways; and methods to begin with.
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "panels/working_panel.h"
#include "plots/curve_plot.h"
#include "widgets/frame_widgets.h"
#include "window_fixture.h"

#include <fstream>
#include <QComboBox>
#include <QDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTest>

namespace nuvat {
namespace {

class CurveFigure : public test::WindowTest {
protected:
    CurvePlot& plot() const { return *find<CurvePlot>("curvePlot"); }
    void type(const char* field, const char* typed) const {
        typeInto(field, QString::fromLatin1(typed));
        settle();
    }
    QStringList entriesOf(QMenu* menu) const {
        Q_EMIT menu->aboutToShow();
        QStringList out;
        for (const QAction* action : menu->actions()) {
            out << action->text();
        }
        return out;
    }
    QAction* entry(QMenu* menu, const QString& text) const {
        Q_EMIT menu->aboutToShow();
        for (QAction* action : menu->actions()) {
            if (action->text() == text) {
                return action;
            }
        }
        ADD_FAILURE() << "no entry " << text.toStdString();
        return nullptr;
    }
};

TEST_F(CurveFigure, ConcentrationsAreReadOffTheOtherWay) {
    startDemo();
    clickChain(ChainPage::Curve);
    const Fit& fit = m_workspace->curve().fit;
    type("readOffConcentration", "20");
    const QString response = shown(formatFigures(nuvat::response(fit, 20), 4));
    EXPECT_TRUE(plot().readOffText().startsWith(QStringLiteral("20.00 µg/L\nResponse ") + response.left(4)))
        << plot().readOffText().toStdString();
    const QPointF at = plot().toPixel(20, nuvat::response(fit, 20));
    EXPECT_NEAR(plot().cursorPixel().x(), at.x(), 1);
    EXPECT_NEAR(plot().cursorPixel().y(), at.y(), 1);
    type("readOffConcentration", "5000");
    EXPECT_TRUE(plot().readOffText().contains(QStringLiteral("outside the range")));
    type("readOffConcentration", "x");
    EXPECT_TRUE(notice().contains(QStringLiteral("\"x\" is not a concentration"))) << notice().toStdString();
}

TEST_F(CurveFigure, AFormulaOfTheResponseSaysWhatItGivesWhileItIsTyped) {
    startDemo();
    clickChain(ChainPage::Curve);
    EXPECT_FALSE(isOnScreen("formulaPreview"));
    choose("analyteReading", QStringLiteral("a formula"));
    auto* line = find<QLineEdit>("responseFormula");
    line->setFocus();
    QTest::keyClicks(line, QStringLiteral("450 nm * 2"));
    EXPECT_TRUE(isOnScreen("formulaPreview"));
    const double first = *m_workspace->curve().at({0, 0}).raw;
    EXPECT_TRUE(words("formulaPreview").startsWith(QStringLiteral("A1 ") + shown(formatFigures(2 * first, 4))))
        << words("formulaPreview").toStdString();
    EXPECT_NE(m_workspace->curve().at({0, 0}).raw, 2 * first) << "nothing is changed by typing alone";
    QTest::keyClicks(line, QStringLiteral(" +"));
    EXPECT_TRUE(words("formulaPreview").contains(QStringLiteral("character 13")))
        << words("formulaPreview").toStdString();
    QTest::keyClick(line, Qt::Key_Backspace);
    QTest::keyClick(line, Qt::Key_Return);
    settle();
    EXPECT_NEAR(*m_workspace->curve().at({0, 0}).raw, 2 * first, 1e-12);
}

TEST_F(CurveFigure, IsDrawnAsItsSettingsSay) {
    startDemo();
    clickChain(ChainPage::Curve);
    click("figureSettingsTitle");
    type("figureXTitle", "Patulin in juice [ug/L]");
    EXPECT_EQ(plot().mainRect()->axis(QCPAxis::atBottom)->label(), QStringLiteral("Patulin in juice [ug/L]"));
    type("figureYHigh", "4");
    EXPECT_DOUBLE_EQ(plot().mainRect()->axis(QCPAxis::atLeft)->range().upper, 4);
    type("figureYLow", "5");
    EXPECT_TRUE(notice().contains(QStringLiteral("has to rise"))) << notice().toStdString();
    EXPECT_FALSE(m_workspace->batch().method.analyte().figure.yLow);
    type("figureMarkers", "150");
    EXPECT_EQ(m_workspace->batch().method.analyte().figure.markerSize, 1.5);
    triggerAction("edit.undo");
    triggerAction("edit.undo");
    triggerAction("edit.undo");
    settle();
    EXPECT_EQ(m_workspace->batch().method.analyte().figure, FigureSettings{});
    EXPECT_EQ(plot().mainRect()->axis(QCPAxis::atBottom)->label(), QStringLiteral("Patulin, µg/L"));
}

TEST_F(CurveFigure, OtherCurvesLieBehindAndComeUpByTheirNames) {
    triggerAction("batch.demo.esters");
    settle();
    clickChain(ChainPage::Curve);
    const auto names = plot().otherNames();
    ASSERT_GE(names.size(), 2u);
    EXPECT_TRUE(plot().otherArea(names.front()).isEmpty());
    key(Qt::Key_O);
    EXPECT_TRUE(plot().isOtherShown(names.front()));
    wait();
    const QRectF label = plot().otherArea(names.front());
    ASSERT_FALSE(label.isEmpty());
    const std::string shownBefore = m_workspace->analyte().name;
    QTest::mouseClick(&plot(), Qt::LeftButton, {}, label.center().toPoint());
    settle();
    EXPECT_EQ(m_workspace->analyte().name, names.front());
    EXPECT_TRUE(plot().isOtherShown(shownBefore)) << "the one before stays behind it";
    key(Qt::Key_O);
    EXPECT_FALSE(plot().isOtherShown(shownBefore));
    QMenu* menu = find<QPushButton>("otherCurves")->menu();
    entry(menu, text(shownBefore))->trigger();
    EXPECT_TRUE(plot().isOtherShown(shownBefore));
}

TEST_F(CurveFigure, AKeptCurveLiesBehindTheOneOfToday) {
    startDemo();
    const auto path = m_folder / "week-37.nuvat-curve";
    m_dialogs.next(path);
    withDialog([this] { triggerAction("curve.keep"); }, QStringLiteral("askDialog"),
               [](QDialog& dialog) { dialog.accept(); });
    m_dialogs.next(path);
    triggerAction("curve.overlay");
    wait();
    ASSERT_EQ(plot().otherNames().size(), 1u);
    EXPECT_FALSE(plot().otherArea(plot().otherNames().front()).isEmpty());
    EXPECT_EQ(m_workspace->analyte().source.curve, CurveOf::Batch) << "it is shown, not used";
}

TEST_F(CurveFigure, LayoutChecksSayWhatIsMissing) {
    startDemo();
    clickChain(ChainPage::Layout);
    auto* panel = m_window->findChild<WorkingPanel*>();
    EXPECT_TRUE(panel->plainText().contains(QStringLiteral("Layout checks"))) << panel->plainText().toStdString();
    EXPECT_TRUE(panel->plainText().contains(QStringLiteral("Every level replicated")));
    EXPECT_FALSE(panel->plainText().contains(QStringLiteral("The method subtracts the blank")));
    clickWell("layoutPlate", {7, 0});
    dragWells("layoutPlate", {7, 0}, {7, 1});
    key(Qt::Key_0);
    settle();
    EXPECT_TRUE(panel->plainText().contains(QStringLiteral("The method subtracts the blank")))
        << panel->plainText().toStdString();
    clickChain(ChainPage::Curve);
    EXPECT_FALSE(panel->plainText().contains(QStringLiteral("Layout checks")));
}

TEST_F(CurveFigure, ABatchBeginsWithAKeptMethodAndRevisionsAreCompared) {
    startDemo();
    triggerAction("method.keep");
    settle();
    clickChain(ChainPage::Response);
    choose("percentOf", QStringLiteral("% of highest"));
    settle();
    triggerAction("method.keep");
    settle();
    auto* menu = find<QMenu>("methodMenu");
    QMenu* kept = entry(menu, QStringLiteral("Kept revisions"))->menu();
    QMenu* second = entry(kept->actions().front()->menu(), QStringLiteral("Revision 2"))->menu();
    QMenu* changes = entry(second, QStringLiteral("What changed since revision 1"))->menu();
    EXPECT_TRUE(entriesOf(changes).contains(QStringLiteral("analytes 1, percent of: nothing → highest")));
    const std::string title = m_workspace->batch().method.title;
    const auto uid = m_workspace->batch().info.uid;
    auto* start = find<QMenu>("startMethods");
    Q_EMIT start->aboutToShow();
    start->actions().front()->trigger();
    settle();
    EXPECT_NE(m_workspace->batch().info.uid, uid);
    EXPECT_EQ(m_workspace->batch().method.title, title);
    EXPECT_EQ(m_workspace->batch().method.revision, 2);
    EXPECT_EQ(m_workspace->index().groupsOf(Role::Standard).size(), 7u);
    EXPECT_TRUE(m_workspace->batch().readings.empty());
}

// A table of times against wells becomes reads, the wells show their curves, and the response is a rate.
TEST_F(CurveFigure, WellsAreReadOverTime) {
    std::ofstream file(m_folder / "kinetic.csv");
    file << "Time (s)";
    for (int column = 1; column <= 12; ++column) {
        file << ";A" << column << ";B" << column;
    }
    for (int t = 0; t <= 120; t += 20) {
        file << "\n" << t;
        for (int column = 1; column <= 12; ++column) {
            file << ";" << 0.1 + 0.0001 * column * t << ";" << 0.1 + 0.0002 * column * t;
        }
    }
    file.close();
    drop(m_folder / "kinetic.csv");
    EXPECT_EQ(find<QComboBox>("importRead")->count(), 7);
    click("importAccept");
    settle();
    clickChain(ChainPage::Data);
    choose("dataOf", QStringLiteral("Over time"));
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 0}, {1, 11});
    key(Qt::Key_4);
    settle();
    clickChain(ChainPage::Curve);
    choose("analyteReading", QStringLiteral("what was read over time"));
    settle();
    EXPECT_NEAR(*m_workspace->evaluation().at({0, 4}).raw, 0.0005, 1e-12);
    EXPECT_EQ(find<QComboBox>("kineticQuantity")->currentText(), QStringLiteral("rate"));
    choose("kineticQuantity", QStringLiteral("value at a time"));
    type("kineticFrom", "30");
    EXPECT_NEAR(*m_workspace->evaluation().at({0, 4}).raw, 0.1 + 0.0005 * 30, 1e-12);
    auto* panel = m_window->findChild<WorkingPanel*>();
    m_workspace->select({{0, 4}});
    wait();
    EXPECT_TRUE(panel->plainText().contains(QStringLiteral("Value at 30 s"))) << panel->plainText().toStdString();
}

} // namespace
} // namespace nuvat
