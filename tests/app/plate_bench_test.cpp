// Work on plates in the window beyond the first slice: effects of rows and columns, what wells show.
#include "kinds/plate/plate_view.h"
#include "nuvat/core/base/number.h"
#include "nuvat/report/theme.h"
#include "widgets/heat_scale.h"
#include "window_fixture.h"

#include <fstream>
#include <QApplication>
#include <QClipboard>
#include <QTest>

namespace nuvat {
namespace {

class PlateBench : public test::WindowTest {
protected:
    std::filesystem::path write(const std::string& name, const std::string& content) const {
        std::ofstream(m_folder / name) << content;
        return m_folder / name;
    }
};

TEST_F(PlateBench, EffectsOfRowsAndColumnsAreSaidAndFollowTheLayout) {
    startDemo();
    clickChain(ChainPage::Data);
    const auto said = [this](const char* words) {
        return QTest::qWaitFor([&] { return this->words("readingEffects").contains(QLatin1String(words)); }, 10'000);
    };
    EXPECT_TRUE(said("No row, column or edge effect")) << words("readingEffects").toStdString();
    EXPECT_TRUE(isOnScreen("effectsPicture"));
    // Without the unknowns of columns 5 to 12 only those of two columns are left: too few to tell.
    clickChain(ChainPage::Layout);
    dragWells("layoutPlate", {0, 4}, {7, 11});
    key(Qt::Key_0);
    clickChain(ChainPage::Data);
    EXPECT_TRUE(said("Too few unknowns")) << words("readingEffects").toStdString();
    EXPECT_FALSE(isOnScreen("effectsPicture"));
}

TEST_F(PlateBench, AColumnThatReadsLowIsNamed) {
    std::string text;
    for (int column = 1; column <= 12; ++column) {
        text += "\t" + std::to_string(column);
    }
    for (int row = 0; row < 8; ++row) {
        text += std::string("\n") + static_cast<char>('A' + row);
        for (int column = 0; column < 12; ++column) {
            text += "\t" + std::to_string((column == 11 ? 0.7 : 1.0) * (1 + 0.01 * ((7 * row + 5 * column) % 9)));
        }
    }
    drop(write("low.tsv", text + "\n"));
    click("importAccept");
    clickChain(ChainPage::Layout);
    key(Qt::Key_4);
    dragWells("layoutPlate", {0, 0}, {7, 11});
    key(Qt::Key_Escape);
    clickChain(ChainPage::Data);
    EXPECT_TRUE(
        QTest::qWaitFor([&] { return words("readingEffects").startsWith(QStringLiteral("Column 12 reads")); }, 10'000))
        << words("readingEffects").toStdString();
    EXPECT_TRUE(words("readingEffects").contains(QStringLiteral("below the rest of the plate")));
}

TEST_F(PlateBench, WellsShowWhatIsAskedFor) {
    startDemo();
    clickChain(ChainPage::Data);
    auto* plate = find<PlateView>("dataPlate");
    const Place outlier{1, 4}; // B5: U08, whose replicates differ
    const auto shows = [&](const char* what) {
        choose("dataOf", QString::fromLatin1(what));
        settle();
        return plate->wellTexts(outlier).value(0);
    };
    const AnalyteEvaluation& evaluation = m_workspace->evaluation();
    const SampleResult* result = evaluation.result(m_workspace->batch().at(outlier));
    ASSERT_NE(result, nullptr);
    EXPECT_EQ(shows("Reading"), QStringLiteral("0.710"));
    EXPECT_EQ(shows("Response"), shown(formatDecimals(*evaluation.at(outlier).value, 3)));
    EXPECT_EQ(shows("Concentration"), shown(formatFigures(*result->replicates[0].readOff.x * result->dilution, 3)));
    const auto scale = find<HeatScale>("heatScale");
    EXPECT_GT(scale->high(), 1000) << "the scale goes with what is shown";
    EXPECT_LT(scale->high(), 5000) << "what lies beyond the range has no number on it";
    EXPECT_EQ(plate->wellTexts({3, 4}).value(0), QStringLiteral("Above"));
    EXPECT_LE(scale->mapTo(scale->window(), QPoint(scale->width(), 0)).x(),
              plate->mapTo(plate->window(), QPoint(plate->width(), 0)).x() + 20)
        << "nothing of the bar is cut off";
    EXPECT_EQ(shows("CV, %"), shown(formatDecimals(*result->concentration.cvPercent, 1)));
    EXPECT_EQ(plate->wellTexts({1, 5}), plate->wellTexts(outlier)) << "of the replicates together";
    EXPECT_EQ(shows("Status"), QStringLiteral("Review"));
    EXPECT_FALSE(isOnScreen("heatScale")) << "words have no scale";
    EXPECT_EQ(plate->wellTexts({0, 0}).value(0), QStringLiteral("Pass")) << "a standard within its limit";
    key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_TRUE(QApplication::clipboard()->text().contains(QStringLiteral("Review\tReview")));
    key(Qt::Key_V);
    EXPECT_TRUE(plate->wellTexts(outlier).isEmpty()) << "no classes without decision limits";
    key(Qt::Key_V); // round to the readings again
    EXPECT_EQ(plate->wellTexts(outlier).value(0), QStringLiteral("0.710"));
    EXPECT_TRUE(isOnScreen("heatScale"));
}

} // namespace
} // namespace nuvat
