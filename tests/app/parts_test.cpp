// Parts of the window on their own: summaries of the chain, tables, the plate's geometry, notices.
#include "kinds/plate/plate_view.h"
#include "kinds/reading_kind.h"
#include "models/columns_model.h"
#include "nuvat/report/theme.h"
#include "nuvat/report/trace_figure.h"
#include "support/sample_batch.h"
#include "widgets/chain_rail.h"
#include "widgets/data_table.h"
#include "widgets/frame_widgets.h"
#include "widgets/heat_scale.h"

#include <gtest/gtest.h>
#include <QApplication>
#include <QClipboard>
#include <QPainter>
#include <QPushButton>
#include <QSignalSpy>
#include <QTest>

namespace nuvat {
namespace {

QString line(ChainPage page, const Batch& batch) {
    return summarise(page, batch, evaluate(batch), 1, 3, kindOf(batch, 1)).line;
}
LinkState state(ChainPage page, const Batch& batch) {
    return summarise(page, batch, evaluate(batch), 1, 3, kindOf(batch, 1)).state;
}

TEST(ChainSummaries, SayHowFarTheWorkIs) {
    const Batch empty;
    for (int i = 0; i < kChainPages; ++i) {
        EXPECT_EQ(state(static_cast<ChainPage>(i), empty), LinkState::Nothing) << i;
    }
    const Batch batch = test::sampleDocument().batch();
    for (int i = 0; i < kChainPages; ++i) {
        EXPECT_EQ(state(static_cast<ChainPage>(i), batch), LinkState::Fine) << i;
    }
    EXPECT_EQ(line(ChainPage::Data, batch), QStringLiteral("1 reading · 96 wells"));
    EXPECT_EQ(line(ChainPage::Layout, batch), QStringLiteral("7 levels · 2 QC · 6 unknowns"));
    EXPECT_EQ(line(ChainPage::Response, batch), shown("blank 0.0600 subtracted"));
    EXPECT_EQ(line(ChainPage::Curve, batch), shown("4PL · 1/y² · R² 1.0000"));
    EXPECT_EQ(line(ChainPage::Checks, batch), QStringLiteral("10 met"));
    EXPECT_EQ(line(ChainPage::Results, batch), QStringLiteral("6 reported"));
    EXPECT_EQ(line(ChainPage::Report, batch), QStringLiteral("3 pages"));
}

TEST(ChainSummaries, PointAtWhatIsMissing) {
    Batch batch = test::sampleDocument().batch();
    batch.levels[2].concentration.reset();
    EXPECT_EQ(state(ChainPage::Layout, batch), LinkState::Look);
    batch = test::sampleDocument().batch();
    batch.method.analyte().unit.clear();
    EXPECT_EQ(state(ChainPage::Layout, batch), LinkState::Look);
    batch = test::sampleDocument().batch();
    batch.exclusions[{7, 0}] = {"x", 1};
    batch.exclusions[{7, 1}] = {"x", 1};
    EXPECT_EQ(state(ChainPage::Response, batch), LinkState::Look);
    batch = test::sampleDocument().batch();
    for (auto& [number, level] : batch.levels) {
        level.concentration = 1;
    }
    EXPECT_EQ(state(ChainPage::Curve, batch), LinkState::Failed);
    EXPECT_EQ(line(ChainPage::Curve, batch), QStringLiteral("no curve"));
    EXPECT_EQ(state(ChainPage::Checks, batch), LinkState::Failed);
    EXPECT_EQ(state(ChainPage::Results, batch), LinkState::Failed);
    EXPECT_EQ(state(ChainPage::Report, batch), LinkState::Nothing);
}

class TableTest : public testing::Test {
protected:
    QStringList m_rows{QStringLiteral("one"), QStringLiteral("two"), QStringLiteral("three")};
    QString m_edited;
    ColumnsModel* make(QObject* parent) {
        return new ColumnsModel(
            {{QStringLiteral("Name"),
              false,
              80,
              [this](int row) { return m_rows[row]; },
              {},
              [](int row) { return row != 1; },
              [this](int row, const QString& text) {
                  m_edited = QStringLiteral("%1:%2").arg(row).arg(text);
                  return true;
              }},
             {QStringLiteral("Length"), true, 0, [this](int row) { return m_rows[row].size(); }},
             {QString(), false, 40, [](int) { return QStringLiteral("picture"); }}},
            [this] { return static_cast<int>(m_rows.size()); }, parent);
    }
};

TEST_F(TableTest, AsksItsColumnsAndEditsThroughThem) {
    QObject parent;
    ColumnsModel* model = make(&parent);
    EXPECT_EQ(model->rowCount(), 3);
    EXPECT_EQ(model->index(2, 1).data(), 5);
    EXPECT_TRUE(model->flags(model->index(0, 0)).testFlag(Qt::ItemIsEditable));
    EXPECT_FALSE(model->flags(model->index(1, 0)).testFlag(Qt::ItemIsEditable));
    EXPECT_TRUE(model->setData(model->index(0, 0), QStringLiteral("new")));
    EXPECT_EQ(m_edited, QStringLiteral("0:new"));
    EXPECT_FALSE(model->setData(model->index(0, 1), QStringLiteral("new")));
    m_rows.removeLast();
    EXPECT_FALSE(model->index(2, 0).data().isValid()); // gone, although the view does not know yet
    QSignalSpy reset(model, &QAbstractItemModel::modelReset);
    model->refresh();
    EXPECT_EQ(reset.count(), 1);
    EXPECT_EQ(model->rowCount(), 2);
}

TEST_F(TableTest, CopiesWithItsHeadings) {
    QWidget parent;
    auto* table = new DataTable(make(&parent), QStringLiteral("t"), &parent);
    parent.resize(400, 300);
    table->resize(400, 300);
    parent.show();
    EXPECT_EQ(table->copyText(), QStringLiteral("Name\tLength\none\t3\ntwo\t3\nthree\t5\n")); // no pictures
    table->selectionModel()->select(table->model()->index(0, 0),
                                    QItemSelectionModel::Select | QItemSelectionModel::Rows);
    table->selectionModel()->select(table->model()->index(2, 0),
                                    QItemSelectionModel::Select | QItemSelectionModel::Rows);
    EXPECT_EQ(table->copyText(), QStringLiteral("Name\tLength\none\t3\nthree\t5\n"));
}

TEST_F(TableTest, ShowingARowIsNotChoosingIt) {
    QWidget parent;
    auto* table = new DataTable(make(&parent), QStringLiteral("t"), &parent);
    parent.show();
    QSignalSpy chosen(table, &DataTable::rowChosen);
    table->showRow(2);
    EXPECT_EQ(table->currentIndex().row(), 2);
    EXPECT_EQ(chosen.count(), 0);
    QTest::keyClick(table, Qt::Key_Up);
    ASSERT_EQ(chosen.count(), 1);
    EXPECT_EQ(chosen.first().first(), 1);
    table->showRow(-1);
    EXPECT_FALSE(table->currentIndex().isValid());
}

TEST(PlateGeometry, EveryWellIsWhereItIsDrawn) {
    Workspace workspace;
    PlateView plate(workspace, ViewMode::Roles, nullptr);
    plate.resize(700, 400);
    plate.show();
    for (int row = 0; row < 8; ++row) {
        for (int column = 0; column < 12; ++column) {
            QTest::mouseClick(&plate, Qt::LeftButton, {}, plate.wellRect({row, column}).center().toPoint());
            ASSERT_EQ(workspace.selection().places, (std::vector<Place>{{row, column}}));
        }
    }
    QTest::mouseClick(&plate, Qt::LeftButton, {}, QPoint(4, 4)); // the corner takes the whole plate
    EXPECT_EQ(workspace.selection().places.size(), 96u);
    plate.setFocus();
    QTest::keyClick(&plate, Qt::Key_Right);
    EXPECT_EQ(workspace.selection().places.size(), 1u);
    QTest::keyClick(&plate, Qt::Key_A, Qt::ControlModifier);
    EXPECT_EQ(workspace.selection().places.size(), 96u);
}

TEST(HeatScales, KeepTheirEndsApart) {
    HeatScale scale(nullptr);
    scale.setRange(0, 2);
    QSignalSpy changed(&scale, &HeatScale::scaleChanged);
    QTest::mousePress(&scale, Qt::LeftButton, {}, QPoint(scale.width() - 5, 8));
    EXPECT_EQ(changed.count(), 1);
    for (int i = 0; i < 100; ++i) {
        QTest::keyClick(&scale, Qt::Key_Left);
    }
    EXPECT_GT(scale.high(), scale.low());
    QTest::mouseDClick(&scale, Qt::LeftButton, {}, QPoint(60, 8));
    EXPECT_EQ(scale.low(), 0);
    EXPECT_EQ(scale.high(), 2);
}

TEST(Notices, ErrorsStayUntilTheyAreClosed) {
    NoticeBar bar(nullptr);
    bar.tell(QStringLiteral("It failed."), true);
    EXPECT_EQ(bar.sentence(), QStringLiteral("It failed."));
    QTest::mouseClick(bar.findChild<QPushButton*>(QStringLiteral("noticeClose")), Qt::LeftButton);
    EXPECT_TRUE(bar.sentence().isEmpty());
    bool isCancelled = false;
    bar.busy(QStringLiteral("Reading …"), [&] { isCancelled = true; });
    EXPECT_EQ(bar.findChild<QPushButton*>(QStringLiteral("noticeClose"))->text(), QStringLiteral("Cancel"));
    QTest::mouseClick(bar.findChild<QPushButton*>(QStringLiteral("noticeClose")), Qt::LeftButton);
    EXPECT_TRUE(isCancelled);
    bar.busy(QStringLiteral("Reading …"), {});
    bar.done();
    EXPECT_TRUE(bar.sentence().isEmpty());
    bar.tell(QStringLiteral("It failed."), true);
    bar.done(); // a job that ended does not take an error away
    EXPECT_FALSE(bar.sentence().isEmpty());
}

TEST(TraceFigures, APeakIsFilledNoHigherThanTheLineUnderItsRider) {
    Trace trace{"time", "min", "signal", "mV", 0, 0.01, {}, {}, {}};
    for (int i = 0; i <= 1000; ++i) {
        const double x = 0.01 * i, z = (x - 6) / 0.15;
        trace.y.push_back((x < 2 ? 0 : 100 * (1 - std::exp(-(x - 2) / 0.1)) * std::exp(-(x - 2) / 2)) +
                          6 * std::exp(-z * z / 2));
    }
    PeakRules rules;
    rules.skim = SkimKind::Tangent;
    rules.leastHeight = {0.5, false};
    const auto [x, y] = trace.points();
    const auto found = measurePeaks(x, y, rules);
    ASSERT_EQ(found->peaks.size(), 2u);
    const Peak &parent = found->peaks[0], &rider = found->peaks[1];
    ASSERT_EQ(rider.split, PeakSplit::Skim);
    QImage image(1000, 1000, QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    const TraceAxes axes{QRectF(0, 0, 1000, 1000), {0, 10, 0, 25}};
    drawPeak(painter, axes, trace, found->peaks, parent, Qt::red, {Qt::black, 1, 1, 0});
    painter.end();
    const double line = (rider.startY + rider.endY) / 2; // near its apex
    const auto colourAt = [&](double atX, double atY) {
        return image.pixelColor(static_cast<int>(axes.x(atX)), static_cast<int>(axes.y(atY)));
    };
    EXPECT_EQ(colourAt(rider.apex, line - 2), QColor(Qt::red));
    EXPECT_EQ(colourAt(rider.apex, line + 3), QColor(Qt::white)) << "that area is the rider's";
    EXPECT_EQ(colourAt(rider.start - 0.5, line), QColor(Qt::red));
}

} // namespace
} // namespace nuvat
