// The start page with the batches that were open lately.
#include "panels/start_page.h"

#include <algorithm>
#include <gtest/gtest.h>
#include <QPushButton>
#include <QScrollArea>
#include <QSignalSpy>
#include <QTest>

namespace nuvat {
namespace {

/// The buttons of batches that a person sees, from top to bottom.
QList<QPushButton*> shownBatches(const StartPage& page) {
    QList<QPushButton*> out;
    for (QPushButton* button : page.findChildren<QPushButton*>()) {
        if (button->isVisible() && button->text().contains(QStringLiteral(".nuvat"))) {
            out.push_back(button);
        }
    }
    std::sort(out.begin(), out.end(), [&](const QPushButton* l, const QPushButton* r) {
        return l->mapTo(&page, QPoint()).y() < r->mapTo(&page, QPoint()).y();
    });
    return out;
}

QList<std::pair<QString, QString>> batches(const QStringList& names) {
    QList<std::pair<QString, QString>> out;
    for (const QString& one : names) {
        out.push_back({QStringLiteral("/data/%1.nuvat").arg(one), QStringLiteral("Batch %1").arg(one)});
    }
    return out;
}

TEST(StartPage, ShowsTheLatestBatchesAndNoOldOnesBetweenThem) {
    StartPage page(nullptr);
    page.resize(1092, 730);
    page.show();
    EXPECT_TRUE(shownBatches(page).isEmpty());
    page.setRecent(batches({QStringLiteral("a"), QStringLiteral("b"), QStringLiteral("c")}));
    QTest::qWait(10);
    EXPECT_EQ(shownBatches(page).size(), 3);
    page.setRecent(batches({QStringLiteral("d"), QStringLiteral("a")}));
    EXPECT_LE(shownBatches(page).size(), 2); // at once, also before the old ones are deleted
    QTest::qWait(10);
    const auto shown = shownBatches(page);
    ASSERT_EQ(shown.size(), 2);
    EXPECT_EQ(shown[0]->text(), QStringLiteral("Batch d   d.nuvat"));
    EXPECT_EQ(shown[1]->text(), QStringLiteral("Batch a   a.nuvat"));
    const QRect first(shown[0]->mapTo(&page, QPoint()), shown[0]->size());
    const QRect second(shown[1]->mapTo(&page, QPoint()), shown[1]->size());
    EXPECT_FALSE(first.intersects(second));
    EXPECT_TRUE(page.rect().contains(first) && page.rect().contains(second));
    EXPECT_EQ(shown[0]->toolTip(), QStringLiteral("/data/d.nuvat"));
    page.setRecent({});
    EXPECT_TRUE(shownBatches(page).isEmpty());
}

TEST(StartPage, ReachesEveryBatchWithoutAName) {
    StartPage page(nullptr);
    page.resize(1092, 730);
    QStringList many;
    for (int i = 0; i < 12; ++i) {
        many << QString::number(i) + QStringLiteral(".nuvat");
    }
    page.show();
    page.setUnnamed(batches(many), QStringLiteral("/data"));
    QTest::qWait(10);
    auto* area = page.findChild<QScrollArea*>();
    auto* last = page.findChildren<QPushButton*>().last();
    EXPECT_EQ(last->text(), QStringLiteral("Batch 11.nuvat"));
    EXPECT_LT(area->height(), last->height() * 6); // the page stays whole
    area->ensureWidgetVisible(last);
    QTest::qWait(10);
    EXPECT_TRUE(last->visibleRegion().boundingRect().height() > last->height() / 2);
    QSignalSpy chosen(&page, &StartPage::recentChosen);
    QTest::mouseClick(last, Qt::LeftButton);
    EXPECT_EQ(chosen.size(), 1);
}

TEST(StartPage, OpensTheBatchThatIsClickedAndAsksForTheRest) {
    StartPage page(nullptr);
    page.resize(1092, 730);
    page.setRecent(batches({QStringLiteral("a"), QStringLiteral("b")}));
    page.show();
    QTest::qWait(10);
    QSignalSpy chosen(&page, &StartPage::recentChosen);
    QTest::mouseClick(shownBatches(page).at(1), Qt::LeftButton);
    ASSERT_EQ(chosen.size(), 1);
    EXPECT_EQ(chosen.front().front().toString(), QStringLiteral("/data/b.nuvat"));
    const auto asks = [&](const char* button, auto signal) {
        QSignalSpy spy(&page, signal);
        QTest::mouseClick(page.findChild<QAbstractButton*>(QString::fromLatin1(button)), Qt::LeftButton);
        return spy.size();
    };
    EXPECT_EQ(asks("startImport", &StartPage::importAsked), 1);
    EXPECT_EQ(asks("startOpen", &StartPage::openAsked), 1);
    EXPECT_EQ(asks("demo-patulin", &StartPage::demoChosen), 1);
    EXPECT_EQ(asks("startNew", &StartPage::newAsked), 1);
}

} // namespace
} // namespace nuvat
