// Measuring with an instrument: the real stand-in, through its socket, driven from the window.
#include "kinds/trace/acquire_card.h"
#include "nuvat/batch/run_commands.h"
#include "nuvat/workflow/run_journal.h"
#include "stand_in.h"
#include "trace_window.h"

#include <csignal>
#include <QAbstractButton>
#include <QElapsedTimer>
#include <QLabel>
#include <QLineEdit>

namespace nuvat {
namespace {

using test::StandIn;

class Measuring : public test::TraceWindow {
protected:
    template<class Condition> bool waitFor(Condition condition, int millis = 60'000) const {
        QElapsedTimer clock;
        clock.start();
        while (!condition() && clock.elapsed() < millis) {
            QTest::qWait(10);
        }
        return condition();
    }

    void plan(const std::string& rows) {
        const auto path = m_folder / "list.csv";
        std::ofstream(path) << "name,vial,role,level\n" << rows;
        triggerAction("batch.new");
        wait();
        m_dialogs.next(path);
        triggerAction("runs.plan");
        settle();
        clickChain(ChainPage::Data);
    }

    void connectTo(const StandIn& standIn, const QString& minutes = QStringLiteral("9")) {
        ASSERT_GT(standIn.port(), 0);
        if (!isOnScreen("instrumentConnect")) {
            click("traceInstrument");
        }
        typeInto("instrumentMinutes", minutes);
        typeInto("instrumentPlace", standIn.place(), false);
        click("instrumentConnect");
        ASSERT_TRUE(waitFor([this] { return find<QAbstractButton>("instrumentRun")->isEnabled(); }));
        ASSERT_TRUE(waitFor([this] { return words("instrumentModel") == QStringLiteral("Chromatograph"); }));
    }
    RunState stateOf(int row) const { return m_workspace->newest().runs.at({row, 0}).state; }
    std::size_t pointsOf(int row) const {
        const Reading* reading = m_workspace->newest().reading(Slot{1, Place{row, 0}, "210 nm"});
        const auto trace = reading ? reading->payload.trace() : nullptr;
        return trace ? trace->size() : 0;
    }
    bool isMeasuring() const { return find<QAbstractButton>("instrumentStop")->isEnabled(); }
};

constexpr const char* kThreeRuns = "Blank,1,blank,\nStandard 1,2,standard,1\nStandard 2,3,standard,2\n";

TEST_F(Measuring, AWholeListComesInRunByRun) {
    const StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("1500")});
    plan(kThreeRuns);
    EXPECT_EQ(stateOf(2), RunState::Planned);
    connectTo(standIn);
    EXPECT_EQ(find<StateLine>("instrumentState")->state(), InstrumentState::Idle);
    click("instrumentStart");
    EXPECT_TRUE(waitFor([this] { return stateOf(0) == RunState::Done; }));
    EXPECT_TRUE(waitFor([this] { return !isMeasuring(); }));
    settle();
    EXPECT_EQ(notice(), QStringLiteral("The list is measured: 3 runs."));
    for (int row = 0; row < 3; ++row) {
        EXPECT_EQ(stateOf(row), RunState::Done);
        EXPECT_GE(pointsOf(row), 9u * 60 * 20) << "the whole run";
    }
    // The standards of 1 and 2 hold twice as much of the peak at 4 min.
    const auto areaOfRun = [this](int row) {
        double area = 0;
        for (const Peak& peak :
             m_workspace->wholeEvaluation().traces.at({1, Place{row, 0}, "210 nm"})->features.peaks) {
            area = std::abs(peak.apex - 4) < 0.1 ? peak.area : area;
        }
        return area;
    };
    EXPECT_NEAR(areaOfRun(2) / areaOfRun(1), 2, 0.1);
    EXPECT_TRUE(journalsOf(m_workspace->openBatch().path, m_workspace->newest().info.uid).empty());
}

// What scripts/demo --live does: content 3 of 10 in the vial is 30 % of the highest level of each ester.
TEST_F(Measuring, ARunOfTheEstersIsRecordedBesideTheOthers) {
    const StandIn standIn({QStringLiteral("gas-chromatograph"), QStringLiteral("--speed"), QStringLiteral("300"),
                           QStringLiteral("--vials"), QStringLiteral("31=3")});
    ASSERT_GT(standIn.port(), 0);
    start("esters");
    const int row = m_workspace->carrier().rows;
    m_window->record(standIn.place());
    ASSERT_TRUE(waitFor([&] {
        const auto run = m_workspace->newest().runs.find({row, 0});
        return run != m_workspace->newest().runs.end() && run->second.state == RunState::Done;
    }));
    settle();
    const Batch& batch = m_workspace->batch();
    EXPECT_EQ(batch.runs.at({row, 0}).name, "Recorded now");
    const Assignment group = batch.at({row, 0});
    ASSERT_EQ(group.role, Role::Unknown);
    const SampleResult* acetate = m_workspace->wholeEvaluation().analyte(1).result(group);
    ASSERT_TRUE(acetate != nullptr && acetate->result);
    EXPECT_NEAR(*acetate->result, 30, 2) << "by its ratio to 1-propanol, whatever was injected";
    const SampleResult* hexanoate = m_workspace->wholeEvaluation().analyte(3).result(group);
    ASSERT_TRUE(hexanoate != nullptr && hexanoate->result);
    EXPECT_NEAR(*hexanoate->result, 1.5, 0.1);
}

TEST_F(Measuring, InjectionByHandSetsTimeZero) {
    const StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("300")});
    plan(kThreeRuns);
    connectTo(standIn, QStringLiteral("5"));
    click("instrumentInjects");
    clickRun("dataRuns", 1);
    find<RunStrip>("dataRuns")->setFocus();
    key(Qt::Key_Return, Qt::ControlModifier); // measures the chosen run
    ASSERT_TRUE(waitFor([this] { return find<QAbstractButton>("instrumentInject")->isEnabled(); }));
    ASSERT_TRUE(waitFor([this] { return Acquisition::of(*m_workspace).runner().run().size() > 100; }));
    EXPECT_TRUE(words("instrumentProgress").contains(QStringLiteral("points")));
    key(Qt::Key_Return, Qt::ControlModifier); // and injects
    ASSERT_TRUE(waitFor([this] { return stateOf(1) == RunState::Done; }));
    const auto trace = m_workspace->newest().reading(Slot{1, Place{1, 0}, "210 nm"})->payload.trace();
    EXPECT_LT(trace->xAt(0), 0) << "what came before the injection has negative times";
    EXPECT_NEAR(trace->xAt(trace->size() - 1), 5, 0.01);
    EXPECT_EQ(stateOf(0), RunState::Planned);
}

TEST_F(Measuring, StopKeepsWhatCame) {
    const StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("60")});
    plan(kThreeRuns);
    connectTo(standIn);
    click("instrumentStart");
    ASSERT_TRUE(waitFor([this] { return Acquisition::of(*m_workspace).runner().run().size() > 200; }));
    click("instrumentStop");
    ASSERT_TRUE(waitFor([this] { return !isMeasuring(); }));
    EXPECT_GT(pointsOf(0), 200u);
    EXPECT_EQ(stateOf(1), RunState::Planned);
    EXPECT_EQ(notice(), QStringLiteral("Stopped. What was measured is kept."));
}

using Wrong = std::tuple<const char*, const char*>; ///< misbehaviour, a part of what the notice says
class Misbehaving : public Measuring, public ::testing::WithParamInterface<Wrong> {};

TEST_P(Misbehaving, LosesNothingAndSaysWhatToDo) {
    const auto& [what, sentence] = GetParam();
    // The line is right for so many answers, then not: some of them in the middle of the first run.
    const StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("20"),
                           QStringLiteral("--misbehave"), QString::fromLatin1(what), QStringLiteral("--after"),
                           QStringLiteral("40")});
    plan(kThreeRuns);
    Acquisition::of(*m_workspace).line().setTimeout(700);
    connectTo(standIn);
    click("instrumentStart");
    std::size_t came = 0;
    ASSERT_TRUE(waitFor([&] {
        came = std::max(came, Acquisition::of(*m_workspace).runner().run().size());
        return stateOf(0) == RunState::Failed;
    })) << what;
    EXPECT_GT(came, 3u);
    EXPECT_GE(pointsOf(0), came) << what;
    EXPECT_TRUE(notice().contains(QString::fromLatin1(sentence))) << notice().toStdString();
    EXPECT_EQ(stateOf(1), RunState::Planned) << "the list has stopped";
    EXPECT_FALSE(isMeasuring());
}

INSTANTIATE_TEST_SUITE_P(Lines, Misbehaving,
                         ::testing::Values(Wrong{"cut", "closed the line"}, Wrong{"silent", "did not answer"},
                                           Wrong{"slow", "did not answer"}, Wrong{"garbage", "no reading"}),
                         [](const auto& one) { return std::string(std::get<0>(one.param)); });

TEST_F(Measuring, AVanishedInstrumentLeavesTheRunAndTheWindowAlive) {
    StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("30")});
    plan(kThreeRuns);
    connectTo(standIn);
    click("instrumentStart");
    ASSERT_TRUE(waitFor([this] { return Acquisition::of(*m_workspace).runner().run().size() > 100; }));
    standIn.vanish();
    ASSERT_TRUE(waitFor([this] { return stateOf(0) == RunState::Failed; }));
    EXPECT_GT(pointsOf(0), 100u);
    EXPECT_EQ(find<StateLine>("instrumentState")->state(), InstrumentState::Absent);
    // The same run can be measured again with another one.
    const StandIn other({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("1500")});
    connectTo(other);
    clickRun("dataRuns", 0);
    click("instrumentRun");
    ASSERT_TRUE(waitFor([this] { return stateOf(0) == RunState::Done; }));
    EXPECT_EQ(m_workspace->newest().readings.size(), 4u) << "what came before stays in the batch";
}

TEST_F(Measuring, AnEmptyVialStopsTheListWithASentence) {
    const StandIn standIn(
        {QStringLiteral("chromatograph"), QStringLiteral("--misbehave"), QStringLiteral("empty-vial")});
    plan(kThreeRuns);
    connectTo(standIn);
    click("instrumentStart");
    ASSERT_TRUE(waitFor([this] { return stateOf(0) == RunState::Failed; }));
    EXPECT_TRUE(notice().contains(QStringLiteral("Vial 1 is empty."))) << notice().toStdString();
}

TEST_F(Measuring, WhatIsNoPlaceOfAnInstrumentIsSaid) {
    plan(kThreeRuns);
    if (!isOnScreen("instrumentConnect")) {
        click("traceInstrument");
    }
    typeInto("instrumentPlace", QStringLiteral("somewhere"), false);
    click("instrumentConnect");
    EXPECT_TRUE(notice().contains(QStringLiteral("no place of an instrument")));
}

// A process that measures is killed; what it had written is in the batch when it is opened again.
TEST_F(Measuring, AKilledProgramLosesAtMostASecond) {
    const StandIn standIn({QStringLiteral("chromatograph"), QStringLiteral("--speed"), QStringLiteral("20")});
    ASSERT_GT(standIn.port(), 0);
    const auto path = m_folder / "killed.nuvat";
    {
        auto open = newBatch();
        ASSERT_TRUE(open);
        ASSERT_TRUE(
            open->document->apply(planRuns(open->document->batch(), {{"Mead", "4", Role::Unknown, {}, 1, {}}})));
        ASSERT_TRUE(saveAs(*open, path));
    }
    QProcess measuring;
    measuring.start(QStringLiteral(NUVAT_MEASURE), {QString::fromStdString(path.string()), QStringLiteral("localhost"),
                                                    QString::number(standIn.port())});
    ASSERT_TRUE(measuring.waitForStarted());
    const std::string uid = [&] {
        const auto read = readBatchFile(path);
        return read ? read->document->batch().info.uid : std::string();
    }();
    std::size_t written = 0;
    ASSERT_TRUE(waitFor([&] {
        const auto journals = journalsOf(path, uid);
        written = journals.empty() ? 0 : journals.front().run.channels.front().second.trace()->size();
        return written > 300;
    }));
    measuring.kill();
    ASSERT_TRUE(measuring.waitForFinished());
    const auto journals = journalsOf(path, uid);
    ASSERT_EQ(journals.size(), 1u);
    const std::size_t last = journals.front().run.channels.front().second.trace()->size();
    EXPECT_GE(last, written);
    auto opened = openBatch(path);
    ASSERT_TRUE(opened) << opened.error().text();
    m_workspace->open(std::move(*opened));
    wait();
    clickChain(ChainPage::Data); // an instrument belongs to its page
    ASSERT_TRUE(waitFor([this] { return stateOf(0) == RunState::Failed; }));
    EXPECT_EQ(pointsOf(0), last);
    EXPECT_TRUE(journalsOf(path, uid).empty());
}

} // namespace
} // namespace nuvat
