// A plate read from the real stand-in through its socket into an open batch.
#include "dialogs/plate_reader.h"
#include "nuvat/batch/kinetics.h"
#include "stand_in.h"
#include "window_fixture.h"

#include <QLabel>
#include <QLineEdit>
#include <QTest>

namespace nuvat {
namespace {

class PlateReading : public test::WindowTest {
protected:
    PlateReader* reader() const { return m_window->findChild<PlateReader*>(); }
    void open(const test::StandIn& standIn) {
        triggerAction("batch.new");
        wait();
        triggerAction("instrument.plate");
        ASSERT_NE(reader(), nullptr);
        set("readerPlace", standIn.place());
    }
    void set(const char* field, const QString& text) const {
        reader()->findChild<QLineEdit*>(QString::fromLatin1(field))->setText(text);
    }
    void press() const {
        QTest::mouseClick(reader()->findChild<QPushButton*>(QStringLiteral("dialogAccept")), Qt::LeftButton);
    }
    QString label(const char* name) const { return reader()->findChild<QLabel*>(QString::fromLatin1(name))->text(); }
    bool waitForReadings(std::size_t count) const {
        return QTest::qWaitFor([&] { return m_workspace->newest().readings.size() >= count; }, 60'000);
    }
};

TEST_F(PlateReading, FillsTheEmptyPlateOfTheBatchAtEachWavelength) {
    const test::StandIn standIn({QStringLiteral("plate-reader"), QStringLiteral("--speed"), QStringLiteral("40")});
    open(standIn);
    set("readerWavelengths", QStringLiteral("450 630"));
    press();
    ASSERT_TRUE(QTest::qWaitFor([&] { return label("readerCount").contains(QStringLiteral("of 192 wells")); }, 30'000));
    ASSERT_TRUE(waitForReadings(2));
    settle();
    const Batch& batch = m_workspace->batch();
    EXPECT_EQ(batch.carriers.size(), 1u) << "the plate that was there and empty";
    EXPECT_EQ(batch.channels(), (std::vector<std::string>{"450 nm", "630 nm"}));
    const auto grid = batch.reading(1, "450 nm")->payload.grid();
    ASSERT_NE(grid, nullptr);
    EXPECT_TRUE(std::ranges::all_of(grid->wells, [](const ReadingWell& well) { return well.value.has_value(); }));
    EXPECT_GT(*grid->at(0, 0)->value, *batch.reading(1, "630 nm")->payload.grid()->at(0, 0)->value)
        << "the band stands at 450 nm";
    EXPECT_TRUE(notice().contains(QStringLiteral("2 readings"))) << notice().toStdString();
    // Another read goes on a plate of its own.
    press();
    ASSERT_TRUE(waitForReadings(4));
    EXPECT_EQ(m_workspace->newest().carriers.size(), 2u);
}

TEST_F(PlateReading, IsReadOverTimeAndStopped) {
    const test::StandIn standIn({QStringLiteral("plate-reader"), QStringLiteral("--speed"), QStringLiteral("60")});
    open(standIn);
    set("readerCycles", QStringLiteral("50"));
    set("readerInterval", QStringLiteral("60"));
    press();
    ASSERT_TRUE(
        QTest::qWaitFor([&] { return label("readerCount").section(QLatin1Char(' '), 0, 0).toInt() > 3 * 96; }, 60'000));
    press(); // stop
    ASSERT_TRUE(waitForReadings(3));
    settle();
    EXPECT_LT(m_workspace->batch().readings.size(), 50u);
    const auto timed = timedChannels(m_workspace->batch());
    ASSERT_EQ(timed.size(), 1u) << "taken for readings over time, as from a file";
    EXPECT_EQ(timed.front().reads[1].first - timed.front().reads[0].first, 60);
}

TEST_F(PlateReading, NeitherEnterNorEscEndsIt) {
    const test::StandIn standIn({QStringLiteral("plate-reader"), QStringLiteral("--speed"), QStringLiteral("10")});
    open(standIn);
    reader()->findChild<QLineEdit*>(QStringLiteral("readerWavelengths"))->setFocus();
    QTest::keyClick(reader()->focusWidget(), Qt::Key_Return);
    ASSERT_TRUE(
        QTest::qWaitFor([&] { return label("readerCount").section(QLatin1Char(' '), 0, 0).toInt() > 5; }, 30'000));
    QTest::keyClick(reader(), Qt::Key_Return); // a hand that presses twice
    QTest::keyClick(reader(), Qt::Key_Escape);
    EXPECT_FALSE(reader()->isVisible());
    ASSERT_TRUE(waitForReadings(1)) << "it goes on behind";
    settle();
    const auto grid = m_workspace->batch().readings.begin()->second->payload.grid();
    EXPECT_TRUE(std::ranges::all_of(grid->wells, [](const ReadingWell& well) { return well.value.has_value(); }));
    // The same window serves the next batch.
    triggerAction("batch.new");
    wait();
    triggerAction("instrument.plate");
    EXPECT_TRUE(reader()->isVisible());
    press();
    ASSERT_TRUE(waitForReadings(1)) << "into the batch that is open when it begins";
}

TEST_F(PlateReading, WhatCameBeforeTheLineWasCutIsKept) {
    const test::StandIn standIn({QStringLiteral("plate-reader"), QStringLiteral("--speed"), QStringLiteral("3"),
                                 QStringLiteral("--misbehave"), QStringLiteral("cut"), QStringLiteral("--after"),
                                 QStringLiteral("40")});
    open(standIn);
    press();
    ASSERT_TRUE(waitForReadings(1));
    settle();
    const auto grid = m_workspace->batch().readings.begin()->second->payload.grid();
    const auto read =
        std::ranges::count_if(grid->wells, [](const ReadingWell& well) { return well.value.has_value(); });
    EXPECT_GT(read, 0);
    EXPECT_LT(read, 96);
    EXPECT_TRUE(notice().contains(QStringLiteral("closed the line"))) << notice().toStdString();
}

TEST_F(PlateReading, WhatIsNoPlateReaderIsSaid) {
    const test::StandIn standIn({QStringLiteral("chromatograph")});
    open(standIn);
    press();
    ASSERT_TRUE(QTest::qWaitFor([&] { return notice().contains(QStringLiteral("reads no plates")); }, 30'000))
        << notice().toStdString();
    set("readerPlace", QStringLiteral("nowhere"));
    press();
    EXPECT_TRUE(notice().contains(QStringLiteral("is no place of an instrument")));
    set("readerPlace", standIn.place());
    set("readerWavelengths", QStringLiteral("blue"));
    press();
    EXPECT_TRUE(notice().contains(QStringLiteral("is no wavelength")));
    EXPECT_TRUE(m_workspace->newest().readings.empty());
}

} // namespace
} // namespace nuvat
