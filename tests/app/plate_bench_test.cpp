// Work on plates in the window beyond the first slice: effects of rows and columns.
#include "window_fixture.h"

#include <fstream>
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

} // namespace
} // namespace nuvat
