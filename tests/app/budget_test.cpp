// What the window may cost: processor time of the UI thread, median of several rounds, as a multiple of a calibration
// loop that runs between them. The limits are some three times what was measured, so that they hold on any machine and
// a change of order is noticed; the figures themselves are those of window_bench.
#include "session/report_layout.h"
#include "support/large_batch.h"
#include "support/thread_seconds.h"
#include "theme/style.h"
#include "window_fixture.h"

#include <algorithm>
#include <cmath>
#include <QApplication>
#include <QTest>
#include <QTextLayout>

namespace nuvat {
namespace {

using test::threadSeconds;

/// Work of the kind a window does: text broken into lines, numbers sorted.
double calibrationLoop() {
    const double before = threadSeconds();
    double sum = 0;
    for (int i = 0; i < 20; ++i) {
        QTextLayout layout(QStringLiteral("readings 0.43, curve 0.39, together 0.58, paragraph %1").arg(i), uiFont(13));
        layout.beginLayout();
        for (QTextLine line = layout.createLine(); line.isValid(); line = layout.createLine()) {
            line.setLineWidth(120);
            sum += line.height();
        }
        layout.endLayout();
        std::vector<double> values(2000);
        for (std::size_t k = 0; k < values.size(); ++k) {
            values[k] = std::fmod(static_cast<double>(k) * 0.754877666, 1);
        }
        std::sort(values.begin(), values.end());
        sum += values[3];
    }
    return sum > 0 ? threadSeconds() - before : 0;
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values[values.size() / 2];
}

class Budget : public test::WindowTest {
protected:
    void openPlate(int analytes) {
        OpenBatch open;
        open.document = std::make_unique<Document>(test::largeBatch(32, 48, analytes));
        m_workspace->open(std::move(open));
        settle();
    }

    /// Median cost of an action to the painted window, in calibration loops.
    double costOf(const std::function<void(int)>& action) const {
        constexpr int kRounds = 7;
        std::vector<double> costs;
        for (int round = 0; round < kRounds; ++round) {
            const double loop = calibrationLoop();
            const double before = threadSeconds();
            action(round);
            m_workspace->settle();
            for (int pass = 0; pass < 3; ++pass) {
                QApplication::sendPostedEvents();
                QApplication::processEvents();
            }
            costs.push_back((threadSeconds() - before) / loop);
        }
        return median(costs);
    }

    double costOfSelecting() const {
        return costOf([this](int round) { m_workspace->select({{round, 20}}); });
    }
    double costOfExcluding() {
        ++m_column; // wells that no page excluded yet
        return costOf([this](int round) {
            ASSERT_TRUE(m_workspace->apply(excludePlaces(m_workspace->batch(), {{round, m_column}}, "bubble", 1)));
        });
    }

private:
    int m_column = 20;
};

#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
#define NUVAT_SKIP_BUDGETS GTEST_SKIP() << "instrumented builds cost what they cost"
#else
#define NUVAT_SKIP_BUDGETS static_cast<void>(0)
#endif

TEST_F(Budget, SelectingAWellOfALargePlate) {
    NUVAT_SKIP_BUDGETS;
    openPlate(1);
    for (const ChainPage page : {ChainPage::Data, ChainPage::Layout, ChainPage::Curve, ChainPage::Results}) {
        clickChain(page);
        const double cost = costOfSelecting();
        EXPECT_LT(cost, 5) << pageTitle(page).toStdString();
    }
}

TEST_F(Budget, HoveringOverALargePlate) {
    NUVAT_SKIP_BUDGETS;
    openPlate(1);
    for (const ChainPage page : {ChainPage::Data, ChainPage::Layout}) {
        clickChain(page);
        EXPECT_LT(costOf([this](int round) {
                      m_workspace->hover(Place{round, round});
                  }),
                  0.5)
            << pageTitle(page).toStdString();
    }
}

TEST_F(Budget, EditingALargePlate) {
    NUVAT_SKIP_BUDGETS;
    openPlate(1);
    for (const ChainPage page : {ChainPage::Data, ChainPage::Results, ChainPage::Report}) {
        clickChain(page);
        const double cost = costOfExcluding();
        EXPECT_LT(cost, 20) << pageTitle(page).toStdString();
    }
}

// Nothing that follows an edit stops the window: the report is laid out elsewhere.
TEST_F(Budget, WhatFollowsAnEditOfTenAnalytes) {
    NUVAT_SKIP_BUDGETS;
    openPlate(10);
    clickChain(ChainPage::Report);
    settle();
    ASSERT_TRUE(m_workspace->apply(excludePlaces(m_workspace->batch(), {{3, 22}}, "bubble", 1)));
    double longest = 0;
    const bool isDone = QTest::qWaitFor(
        [&] {
            const double before = threadSeconds();
            QApplication::processEvents();
            longest = std::max(longest, threadSeconds() - before);
            return !m_workspace->report().isLate();
        },
        20'000);
    EXPECT_TRUE(isDone);
    EXPECT_LT(longest / calibrationLoop(), 10);
}

} // namespace
} // namespace nuvat
