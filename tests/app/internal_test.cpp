// Internal standards and qualifiers in the window: chosen beside the curve, seen in results and checks.
#include "nuvat/batch/command.h"
#include "widgets/text_rows.h"
#include "window_fixture.h"

#include <fstream>
#include <QApplication>
#include <QComboBox>
#include <QDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTableView>
#include <QTest>

namespace nuvat {
namespace {

class Internal : public test::WindowTest {
protected:
    /// Seven vials: five standards and two samples; each was injected in another amount, which the internal standard
    /// shows. In the last the second channel is twice what it should be.
    void importVials() {
        std::ofstream out(m_folder / "vials.csv");
        out << "Sample,caffeine,caffeine 2,theobromine\n";
        int vial = 0;
        for (const double content : {1.0, 2.0, 5.0, 10.0, 20.0, 7.0, 3.0}) {
            const double share = 0.8 + 0.1 * (vial++ % 4);
            out << "vial " << vial << ',' << 100 * content * share << ',' << (vial == 7 ? 80 : 40) * content * share
                << ',' << 1000 * share << '\n';
        }
        out.close();
        drop(m_folder / "vials.csv");
        click("importAccept");
        settle();
        std::vector<Place> standards, samples;
        for (int row = 0; row < 7; ++row) {
            (row < 5 ? standards : samples).push_back({row, 0});
        }
        m_workspace->apply(assignRole(m_workspace->newest(), standards, Role::Standard, 1, Direction::Down));
        m_workspace->apply(assignRole(m_workspace->newest(), samples, Role::Unknown, 1, Direction::Down));
        const std::array<double, 5> levels{1, 2, 5, 10, 20};
        for (int level = 1; level <= 5; ++level) {
            m_workspace->apply(setLevel(m_workspace->newest(), level, levels[static_cast<std::size_t>(level) - 1]));
        }
        Method method = m_workspace->newest().method;
        method.analyte().name = "caffeine";
        method.analyte().fit.model = Model::Line;
        method.analyte().fit.weighting = Weighting::None;
        method.analyte().range.by = RangeBy::Levels;
        m_workspace->apply(setMethod(m_workspace->newest(), method));
        settle();
    }
    void addAnalyte(const QString& name) {
        withDialog([&] { triggerAction("method.addAnalyte"); }, QStringLiteral("askDialog"),
                   [&](QDialog& dialog) {
                       QTest::keyClicks(dialog.findChild<QLineEdit*>(QStringLiteral("askLine")), name);
                       QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("askAccept")), Qt::LeftButton);
                   });
        settle();
    }
    double resultOf(int sample) const {
        return m_workspace->evaluation().result({Role::Unknown, sample})->result.value_or(-1);
    }
};

TEST_F(Internal, StandardIsChosenAndTakesAwayTheInjection) {
    importVials();
    addAnalyte(QStringLiteral("theobromine"));
    clickChain(ChainPage::Curve);
    choose("analyteReading", QStringLiteral("theobromine"));
    settle();
    choose("analyteShown", QStringLiteral("caffeine"));
    settle();
    EXPECT_GT(std::abs(resultOf(1) - 7), 0.1);
    click("internalSettingsTitle");
    EXPECT_FALSE(isOnScreen("addedConcentration")) << "it is no internal standard";
    choose("internalStandard", QStringLiteral("theobromine"));
    settle();
    EXPECT_NEAR(resultOf(1), 7, 1e-6);
    EXPECT_NEAR(resultOf(2), 3, 1e-6);
    m_workspace->selectGroup({Role::Unknown, 1});
    settle();
    const QString working = find<TextRows>("working")->plainText();
    EXPECT_TRUE(working.contains(QStringLiteral("÷ internal standard theobromine"))) << working.toStdString();
    EXPECT_TRUE(working.contains(QStringLiteral("ratio 0.7000"))) << working.toStdString();
    m_workspace->select({});
    // Of the internal standard itself its concentration is typed.
    choose("analyteShown", QStringLiteral("theobromine"));
    settle();
    EXPECT_TRUE(isOnScreen("addedConcentration"));
    typeInto("addedConcentration", QStringLiteral("0"));
    EXPECT_FALSE(notice().isEmpty()) << "refused, and said why";
    typeInto("addedConcentration", QStringLiteral("10"));
    settle();
    EXPECT_EQ(m_workspace->batch().method.analyte(2).addedConcentration, 10);
    choose("analyteShown", QStringLiteral("caffeine"));
    // One vial was given half of it: what is read off there counts half.
    m_workspace->selectGroup({Role::Unknown, 1});
    settle();
    EXPECT_EQ(find<QLineEdit>("addedHere")->text(), QStringLiteral("10"));
    typeInto("addedHere", QStringLiteral("5"));
    settle();
    EXPECT_NEAR(resultOf(1), 3.5, 1e-6);
    EXPECT_NEAR(resultOf(2), 3, 1e-6);
    auto* here = find<QLineEdit>("addedHere");
    here->setFocus();
    here->selectAll();
    QTest::keyClick(here, Qt::Key_Delete);
    QTest::keyClick(here, Qt::Key_Return);
    settle();
    EXPECT_NEAR(resultOf(1), 7, 1e-6);
    clickChain(ChainPage::Checks);
    EXPECT_GE(rowOf("criteriaTable", QStringLiteral("Internal standard")), 0);
}

TEST_F(Internal, QualifierIsHeldAgainstTheStandards) {
    importVials();
    clickChain(ChainPage::Curve);
    click("internalSettingsTitle");
    EXPECT_FALSE(isOnScreen("qualifierTolerance1"));
    choose("qualifier1", QStringLiteral("caffeine 2"));
    settle();
    EXPECT_TRUE(isOnScreen("qualifierTolerance1"));
    EXPECT_EQ(find<QLineEdit>("qualifierReference1")->placeholderText(), QStringLiteral("40.00"));
    EXPECT_TRUE(m_workspace->evaluation().result({Role::Unknown, 2})->needsReview);
    EXPECT_FALSE(m_workspace->evaluation().result({Role::Unknown, 1})->needsReview);
    // As wide as 100 % it passes; a digit that is no number changes nothing.
    typeInto("qualifierTolerance1", QStringLiteral("100"));
    settle();
    EXPECT_FALSE(m_workspace->evaluation().result({Role::Unknown, 2})->needsReview);
    typeInto("qualifierTolerance1", QStringLiteral("many"));
    EXPECT_EQ(m_workspace->batch().method.analyte().qualifiers.front().tolerance, 100);
    EXPECT_TRUE(notice().contains(QStringLiteral("\"many\" is not a number"))) << notice().toStdString();
    // Esc gives back what holds; Tab goes on from the reference to the tolerance, and takes what was typed.
    auto* tolerance = find<QLineEdit>("qualifierTolerance1");
    QTest::keyClick(tolerance, Qt::Key_Escape);
    EXPECT_EQ(tolerance->text(), QStringLiteral("100"));
    auto* reference = find<QLineEdit>("qualifierReference1");
    reference->setFocus();
    QTest::keyClicks(reference, QStringLiteral("42"));
    QTest::keyClick(reference, Qt::Key_Tab);
    EXPECT_EQ(QApplication::focusWidget(), tolerance);
    settle();
    EXPECT_EQ(m_workspace->batch().method.analyte().qualifiers.front().reference, 42);
    choose("qualifier1", QStringLiteral("none"));
    settle();
    EXPECT_TRUE(m_workspace->batch().method.analyte().qualifiers.empty());
    EXPECT_FALSE(isOnScreen("qualifierTolerance1"));
}

} // namespace
} // namespace nuvat
