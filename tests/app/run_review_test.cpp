// Reviewing a batch of runs: the table of analytes and runs, what asks for a look, exclusions of one analyte.
#include "kinds/trace/run_chart.h"
#include "kinds/trace/run_table.h"
#include "nuvat/batch/run_review.h"
#include "trace_window.h"
#include "widgets/data_table.h"
#include "widgets/live_form.h"

#include <QAbstractButton>
#include <QClipboard>
#include <QLabel>
#include <QLineEdit>
#include <QPlainTextEdit>

namespace nuvat {
namespace {

class Review : public test::TraceWindow {
protected:
    void startAcids() {
        start("acids");
        clickChain(ChainPage::Response);
        key(Qt::Key_R);
        ASSERT_TRUE(isOnScreen("reviewTable"));
    }
    RunTable& table() const { return *find<RunTable>("reviewTable"); }
    void clickCell(int analyte, int row) const {
        const QRect cell = table().cellRect(analyte, {row, 0});
        ASSERT_FALSE(cell.isEmpty());
        QTest::mouseClick(table().viewport(), Qt::LeftButton, {}, cell.center());
        wait();
    }
    Place run() const { return m_workspace->selection().places.front(); }
};

TEST_F(Review, TheTableShowsEveryAnalyteInEveryRun) {
    startAcids();
    EXPECT_EQ(table().runs().size(), 24u);
    EXPECT_EQ(m_workspace->batch().method.analytes.size(), 9u);
    clickCell(3, 6); // malic acid, the highest standard
    EXPECT_EQ(m_workspace->analyteNumber(), 3);
    EXPECT_EQ(run(), Place(6, 0));
    const double back =
        *RunReview(m_workspace->batch(), m_workspace->wholeEvaluation()).value(RunQuantity::Concentration, 3, {6, 0});
    EXPECT_NEAR(back, 500, 15);
    EXPECT_EQ(table().cellText(3, {6, 0}).toDouble(), std::round(back));
    key(Qt::Key_Right);
    key(Qt::Key_Down);
    EXPECT_EQ(run(), Place(7, 0));
    EXPECT_EQ(m_workspace->analyteNumber(), 4);
    choose("runQuantity", QStringLiteral("Time"));
    EXPECT_EQ(table().cellText(3, {6, 0}).left(3), QStringLiteral("7.6"));
    key(Qt::Key_C, Qt::ControlModifier);
    const QStringList lines = QApplication::clipboard()->text().split(u'\n');
    EXPECT_EQ(lines.at(0).count(u'\t'), 24);
    EXPECT_TRUE(lines.at(3).startsWith(QStringLiteral("Malic acid\t")));
    click("runFilter1"); // standards
    EXPECT_EQ(table().runs().size(), 6u);
    EXPECT_TRUE(status().contains(QStringLiteral("n 6"))) << status().toStdString();
}

TEST_F(Review, SpaceGoesToWhatAsksForALookAndAReasonLetsItStand) {
    startAcids();
    const auto review = [this] { return RunReview(m_workspace->batch(), m_workspace->wholeEvaluation()); };
    const std::size_t before = review().countToLookAt(3);
    ASSERT_GE(before, 1u); // the ratio of Perry, lot 5 at least
    clickCell(3, 0);
    key(Qt::Key_Space);
    const Place found = run();
    const int analyte = m_workspace->analyteNumber();
    EXPECT_TRUE(review().asksForLook(analyte, found));
    EXPECT_FALSE(words("reviewReasons").isEmpty());
    withReason([this] { key(Qt::Key_K); }, QStringLiteral("seen, agreed"));
    settle();
    EXPECT_TRUE(review().isAccepted(analyte, found));
    EXPECT_TRUE(words("reviewReasons").startsWith(QStringLiteral("Accepted.")));
    key(Qt::Key_Space);
    EXPECT_TRUE(run() != found || m_workspace->analyteNumber() != analyte) << "it does not come again";
    clickCell(analyte, found.row);
    key(Qt::Key_K); // taken back
    settle();
    EXPECT_FALSE(review().isAccepted(analyte, found));
}

TEST_F(Review, OneAnalyteOfARunIsLeftOutOrTheWholeRun) {
    startAcids();
    clickCell(2, 5);
    withReason([this] { key(Qt::Key_X); }, QStringLiteral("split peak"));
    settle();
    EXPECT_TRUE(m_workspace->batch().isExcluded({5, 0}, 2));
    EXPECT_FALSE(m_workspace->batch().isExcluded({5, 0}, 1));
    EXPECT_EQ(m_workspace->wholeEvaluation().analyte(2).fit.n, 5u);
    EXPECT_EQ(m_workspace->wholeEvaluation().analyte(1).fit.n, 6u);
    withReason([this] { key(Qt::Key_X, Qt::ShiftModifier); }, QStringLiteral("vial was turned"));
    settle();
    EXPECT_TRUE(m_workspace->batch().isExcluded({5, 0}));
    EXPECT_EQ(m_workspace->wholeEvaluation().analyte(1).fit.n, 5u);
    key(Qt::Key_X); // restores it
    settle();
    EXPECT_TRUE(m_workspace->batch().exclusions.empty());
}

TEST_F(Review, EnterLooksAtOneRunAndEscComesBackToIt) {
    startAcids();
    clickCell(4, 9);
    key(Qt::Key_Return);
    EXPECT_FALSE(isOnScreen("reviewTable"));
    EXPECT_TRUE(isOnScreen("responseTrace"));
    EXPECT_EQ(run(), Place(9, 0));
    key(Qt::Key_R);
    EXPECT_TRUE(isOnScreen("reviewTable"));
    key(Qt::Key_B); // what is drawn is drawn on one run
    EXPECT_TRUE(isOnScreen("responseTrace"));
    EXPECT_EQ(plot().tool(), TraceTool::Line);
}

TEST_F(Review, ChartsLeadToTheRun) {
    startAcids();
    clickCell(3, 2);
    ASSERT_TRUE(isOnScreen("runChart1")) << "the ratio of the qualifier";
    auto* ratio = find<RunChart>("runChart1");
    const auto at = ratio->pointOf({14, 0});
    ASSERT_TRUE(at);
    QTest::mouseClick(ratio, Qt::LeftButton, {}, at->toPoint());
    wait();
    EXPECT_EQ(run(), Place(14, 0));
}

TEST_F(Review, LimitsOfTheSeparationAreTypedAndGivenToAll) {
    startAcids();
    clickChain(ChainPage::Checks);
    m_workspace->selectCriterion("suitability-tailing");
    find<DataTable>("criteriaTable")->setFocus();
    key(Qt::Key_L); // unfolds the limits
    typeInto("limitPlates", QStringLiteral("2000"));
    settle();
    EXPECT_EQ(m_workspace->batch().method.analyte(m_workspace->analyteNumber()).suitability.plates, 2000);
    click("limitsForAll");
    settle();
    for (const Analyte& analyte : m_workspace->batch().method.analytes) {
        EXPECT_EQ(analyte.suitability.plates, 2000);
    }
}

TEST_F(Review, AnalytesArePastedAsAList) {
    startAcids();
    QApplication::clipboard()->setText(
        QStringLiteral("Analyte\tTime\tUnit\nMalic acid\t7.6\tg/L\nShikimic acid\t8.9\t\n"));
    key(Qt::Key_V, Qt::ControlModifier);
    settle();
    const auto& analytes = m_workspace->batch().method.analytes;
    ASSERT_EQ(analytes.size(), 10u);
    EXPECT_EQ(analytes[0].name, "Malic acid");
    EXPECT_EQ(analytes[0].unit, "g/L");
    EXPECT_EQ(m_workspace->batch().concentration(1, 1), 500) << "its levels came along";
    EXPECT_EQ(analytes[1].name, "Shikimic acid");
}

TEST_F(Review, ThePlanOfTheStandardsStandsInTheReport) {
    startAcids();
    clickChain(ChainPage::Layout);
    withDialog([this] { triggerAction("runs.standards"); }, QStringLiteral("planDialog"),
               [](QDialog& dialog) {
                   auto* preview = dialog.findChild<QPlainTextEdit*>(QStringLiteral("planPreview"));
                   auto* stock = dialog.findChild<QLineEdit*>(QStringLiteral("planStock"));
                   stock->setText(QStringLiteral("100"));
                   EXPECT_TRUE(preview->toPlainText().contains(QStringLiteral("not possible")))
                       << "S1 of 500 lies above it";
                   stock->setText(QStringLiteral("2000"));
                   EXPECT_TRUE(
                       preview->toPlainText().contains(QStringLiteral("S1\t500\t2.500 mL of stock + 7.500 mL diluent")))
                       << preview->toPlainText().toStdString();
                   dialog.findChild<QPushButton*>(QStringLiteral("dialogAccept"))->click();
               });
    settle();
    ASSERT_TRUE(m_workspace->batch().method.plan);
    EXPECT_EQ(m_workspace->batch().method.plan->rules.stock, 2000);
}

TEST_F(Review, ARunListIsBuiltOfBlocksAndItsRolesFollowNames) {
    startAcids();
    const int rows = m_workspace->carrier().rows;
    withDialog([this] { triggerAction("runs.build"); }, QStringLiteral("runListDialog"),
               [](QDialog& dialog) {
                   dialog.findChild<QPlainTextEdit*>(QStringLiteral("listSamples"))
                       ->setPlainText(QStringLiteral("Vat 9\t10\nVat 10"));
                   const QString preview =
                       dialog.findChild<QPlainTextEdit*>(QStringLiteral("listPreview"))->toPlainText();
                   EXPECT_TRUE(preview.startsWith(QStringLiteral("14 runs"))) << preview.toStdString();
                   dialog.findChild<QPushButton*>(QStringLiteral("dialogAccept"))->click();
               });
    settle();
    const Batch& batch = m_workspace->batch();
    EXPECT_EQ(batch.carriers.at(1).rows, rows + 14);
    EXPECT_EQ(batch.runs.at({rows, 0}).state, RunState::Planned);
    EXPECT_EQ(batch.at({rows + 1, 0}).role, Role::Standard);
    EXPECT_EQ(batch.at({rows + 1, 0}).number, 6) << "the lowest level, which is there already";
    EXPECT_TRUE(notice().startsWith(QStringLiteral("14 runs planned."))) << notice().toStdString();
    withDialog([this] { triggerAction("runs.nameRules"); }, QStringLiteral("nameRulesDialog"),
               [](QDialog& dialog) {
                   auto* rules = dialog.findChild<QPlainTextEdit*>(QStringLiteral("nameRules"));
                   auto* accept = dialog.findChild<QPushButton*>(QStringLiteral("dialogAccept"));
                   rules->setPlainText(QStringLiteral("Vat # = emperor"));
                   EXPECT_FALSE(accept->isEnabled());
                   rules->setPlainText(QStringLiteral("Vat # = unknown\nK* = QC"));
                   EXPECT_TRUE(accept->isEnabled());
                   accept->click();
               });
    settle();
    ASSERT_EQ(m_workspace->batch().method.nameRules.size(), 2u);
    EXPECT_EQ(m_workspace->batch().method.nameRules[1].role, Role::Qc);
}

} // namespace
} // namespace nuvat
