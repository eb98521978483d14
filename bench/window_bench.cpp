// What is felt in the window: processor time of the UI thread from an action to the painted window, offscreen, and the
// longest stop in the second after an edit. Each row gives median and worst of its rounds; the start is given as a
// multiple of an empty window made in the same process.
#include "dialogs/file_dialogs.h"
#include "kinds/plate/plate_view.h"
#include "kinds/trace/trace_wall.h"
#include "main_window.h"
#include "support/large_batch.h"
#include "support/large_runs.h"
#include "support/thread_seconds.h"
#include "theme/style.h"

#include <algorithm>
#include <benchmark/benchmark.h>
#include <cstdlib>
#include <map>
#include <memory>
#include <QApplication>
#include <QMainWindow>
#include <QTest>
#include <sys/resource.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

namespace nuvat {
namespace {

using test::threadSeconds;

struct Size {
    const char* name;
    int rows, columns, analytes;
};
constexpr const char* kThreePlates = "3x384"; // the demo of polyphenols
constexpr std::array<Size, 5> kSizes{
    {{"96", 8, 12, 1}, {"384", 16, 24, 1}, {kThreePlates, 16, 24, 1}, {"1536", 32, 48, 1}, {"1536x10", 32, 48, 10}}};
constexpr std::array<ChainPage, 7> kPages{ChainPage::Data,   ChainPage::Layout,  ChainPage::Response, ChainPage::Curve,
                                          ChainPage::Checks, ChainPage::Results, ChainPage::Report};
constexpr int kRounds = 9;
constexpr const char* kChild = "--child";

/// Everything that is due at once: queued calls, layouts, paints.
void paintAll() {
    for (int pass = 0; pass < 4; ++pass) {
        QApplication::sendPostedEvents();
        QApplication::processEvents();
    }
}

double secondsOf(const std::function<void()>& action) {
    const double before = threadSeconds();
    action();
    paintAll();
    return threadSeconds() - before;
}

/// The longest stop while timers and jobs of the last edit come to rest.
double longestStop() {
    double longest = 0;
    for (int i = 0; i < 700; ++i) {
        const double before = threadSeconds();
        QApplication::processEvents();
        longest = std::max(longest, threadSeconds() - before);
        std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    return longest;
}

void report(benchmark::State& state, std::vector<double> seconds) {
    std::sort(seconds.begin(), seconds.end());
    state.counters["median_ms"] = 1e3 * seconds[seconds.size() / 2];
    state.counters["worst_ms"] = 1e3 * seconds.back();
}

/// The window with a batch of a size, kept from one row of the table to the next.
class Desk {
public:
    static Desk& of(const Size& size) {
        if (!current || current->m_name != size.name) {
            current.reset();
            current = std::make_unique<Desk>(size);
        }
        return *current;
    }
    static inline std::unique_ptr<Desk> current;
    explicit Desk(const Size& size) : m_name(size.name), window(workspace, dialogs) {
        OpenBatch open;
        if (auto demo = m_name == kThreePlates ? demoBatch("polyphenols", {}) : Result<OpenBatch>(OpenBatch{})) {
            open = std::move(*demo);
        }
        if (!open.document) {
            open.document = std::make_unique<Document>(test::largeBatch(size.rows, size.columns, size.analytes));
        }
        window.resize(1280, 800);
        window.show();
        workspace.open(std::move(open));
        paintAll();
    }
    void show(ChainPage page) {
        window.showPage(page);
        paintAll();
        longestStop();
    }
    const Batch& batch() const { return workspace.newest(); }

private:
    std::string m_name;

public:
    Workspace workspace;
    FileDialogs dialogs;
    MainWindow window;
};

void select(benchmark::State& state, const Size& size, ChainPage page) {
    Desk& desk = Desk::of(size);
    desk.show(page);
    std::vector<double> seconds;
    for (auto _ : state) {
        const int n = static_cast<int>(seconds.size());
        const Place place{n % size.rows, 3 + n % (size.columns - 3)};
        seconds.push_back(secondsOf([&] { desk.workspace.select({place}); }));
        state.SetIterationTime(seconds.back());
    }
    desk.workspace.clearSelection();
    report(state, seconds);
}

void edit(benchmark::State& state, const Size& size, ChainPage page) {
    Desk& desk = Desk::of(size);
    desk.show(page);
    std::vector<double> seconds;
    std::vector<double> elapsed; // with what other threads do meanwhile
    double longest = 0;
    for (auto _ : state) {
        const auto before = std::chrono::steady_clock::now();
        const auto apply = [&](Result<Command> command) { desk.workspace.apply(std::move(command)); };
        const int n = static_cast<int>(seconds.size());
        Method method = desk.batch().method;
        method.analyte().fit.weighting = n % 2 == 0 ? Weighting::None : Weighting::InverseY2;
        const auto change = [&] {
            switch (n % 5) {
            case 0:
                return apply(setMethod(desk.batch(), method));
            case 1:
                return apply(excludePlaces(desk.batch(), {{n % size.rows, 3}}, "bubble", 1));
            case 2:
                return apply(setLevel(desk.batch(), 3, 250.0 + n));
            case 3:
                return apply(setSample(desk.batch(), 2, {"sample " + std::to_string(n), 2, ""}));
            default:
                return desk.workspace.undo();
            }
        };
        seconds.push_back(secondsOf([&] {
            change();
            desk.workspace.settle();
        }));
        elapsed.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - before).count());
        state.SetIterationTime(seconds.back());
        longest = std::max(longest, longestStop());
    }
    report(state, seconds);
    std::sort(elapsed.begin(), elapsed.end());
    state.counters["painted_ms"] = 1e3 * elapsed[elapsed.size() / 2];
    state.counters["stop_ms"] = 1e3 * longest;
}

void hover(benchmark::State& state, const Size& size, ChainPage page) {
    Desk& desk = Desk::of(size);
    desk.show(page);
    std::vector<double> seconds;
    for (auto _ : state) {
        const int n = static_cast<int>(seconds.size());
        seconds.push_back(secondsOf([&] { desk.workspace.hover(Place{n % size.rows, n % size.columns}); }));
        state.SetIterationTime(seconds.back());
    }
    desk.workspace.hover(std::nullopt);
    report(state, seconds);
}

/// Runs of many analytes; made once, since it takes longer than what is measured.
struct RunsDesk {
    explicit RunsDesk(int runs) : window(workspace, dialogs) {
        constexpr int kAnalytes = 24, kPoints = 3000;
        OpenBatch open;
        open.document = std::make_unique<Document>(test::largeRuns(runs, kAnalytes, kPoints));
        window.resize(1280, 800);
        window.show();
        workspace.open(std::move(open));
        workspace.settle();
        paintAll();
    }
    Workspace workspace;
    FileDialogs dialogs;
    MainWindow window;
    static RunsDesk& of(int runs) {
        static std::map<int, std::unique_ptr<RunsDesk>> desks;
        auto& desk = desks[runs];
        desk = desk ? std::move(desk) : std::make_unique<RunsDesk>(runs);
        return *desk;
    }
};

/// A base line dragged on one trace, until curve, checks and results of all analytes stand in the window.
void dragBaseline(benchmark::State& state, int runs) {
    RunsDesk& desk = RunsDesk::of(runs);
    desk.window.showPage(ChainPage::Response);
    paintAll();
    const Slot slot{1, Place{17, 0}, "Analyte 1 a"};
    desk.workspace.select({*slot.place});
    paintAll();
    std::vector<double> seconds, elapsed;
    double y = 41;
    for (auto _ : state) {
        const auto before = std::chrono::steady_clock::now();
        y += 0.01;
        seconds.push_back(secondsOf([&] {
            desk.workspace.apply(
                drawOn(desk.workspace.newest(), {slot}, {{PeakEditKind::Line, 1, 2.2, 2.5, y, y}, "", 0}));
            desk.workspace.settle();
        }));
        elapsed.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - before).count());
        state.SetIterationTime(elapsed.back());
        longestStop();
    }
    report(state, seconds);
    std::sort(elapsed.begin(), elapsed.end());
    state.counters["painted_ms"] = 1e3 * elapsed[elapsed.size() / 2];
}

/// One page of the wall to the next, 24 traces, all read from memory.
void turnWall(benchmark::State& state, int runs) {
    RunsDesk& desk = RunsDesk::of(runs);
    desk.window.showPage(ChainPage::Data);
    paintAll();
    QTest::keyClick(&desk.window, Qt::Key_W);
    auto* wall = desk.window.findChild<TraceWall*>(QStringLiteral("traceWall"));
    wall->setGrid(6, 4);
    paintAll();
    std::vector<double> seconds;
    for (auto _ : state) {
        seconds.push_back(secondsOf([&] { QTest::keyClick(wall, Qt::Key_PageDown); }));
        state.SetIterationTime(seconds.back());
    }
    report(state, seconds);
}

/// Processor seconds of a process of its own that shows the window once and ends.
double secondsOfStart(const char* what) {
    const pid_t child = fork();
    if (child == 0) {
        ::execl("/proc/self/exe", "window_bench", kChild, what, nullptr);
        ::_exit(1);
    }
    int status = 0;
    rusage used{};
    ::wait4(child, &status, 0, &used);
    const auto seconds = [](const timeval& t) {
        return static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_usec);
    };
    return seconds(used.ru_utime) + seconds(used.ru_stime);
}

/// Median of the ratio to an empty window started in the same round.
void start(benchmark::State& state, const char* what) {
    std::vector<double> seconds;
    std::vector<double> ratios;
    for (auto _ : state) {
        const double empty = secondsOfStart("empty");
        seconds.push_back(secondsOfStart(what));
        ratios.push_back(seconds.back() / empty);
        state.SetIterationTime(seconds.back());
    }
    report(state, seconds);
    std::sort(ratios.begin(), ratios.end());
    state.counters["of_empty"] = ratios[ratios.size() / 2];
}

/// What such a process does.
void startOnce(const std::string& what) {
    if (what == "empty") {
        QMainWindow window;
        window.resize(1280, 800);
        window.show();
        paintAll();
        return;
    }
    Workspace workspace;
    FileDialogs dialogs;
    MainWindow window(workspace, dialogs);
    window.show();
    if (what == "demo") {
        if (auto demo = demoBatch({})) {
            workspace.open(std::move(*demo));
        }
    }
    paintAll();
}

void registerAll() {
    for (const char* what : {"page", "demo"}) {
        benchmark::RegisterBenchmark((std::string("start/") + what).c_str(),
                                     [=](benchmark::State& s) { start(s, what); })
            ->UseManualTime()
            ->Iterations(11)
            ->Unit(benchmark::kMillisecond);
    }
    for (const int runs : {60, 500}) {
        const auto add = [runs](const char* what, auto run) {
            benchmark::RegisterBenchmark((std::string(what) + "/" + std::to_string(runs) + "x24").c_str(),
                                         [=](benchmark::State& s) { run(s, runs); })
                ->UseManualTime()
                ->Iterations(kRounds)
                ->Unit(benchmark::kMillisecond);
        };
        add("baseline", dragBaseline);
        add("wall", turnWall);
    }
    for (const Size& size : kSizes) {
        for (const ChainPage page : kPages) {
            const auto add = [&](const char* what, auto run) {
                const std::string name = std::string(what) + "/" + size.name + "/" + pageTitle(page).toStdString();
                benchmark::RegisterBenchmark(name.c_str(), [=](benchmark::State& s) { run(s, size, page); })
                    ->UseManualTime()
                    ->Iterations(kRounds)
                    ->Unit(benchmark::kMillisecond);
            };
            add("select", select);
            add("edit", edit);
            add("hover", hover);
        }
    }
}

} // namespace
} // namespace nuvat

int main(int argc, char** argv) {
    ::setenv("QT_QPA_PLATFORM", "offscreen", 0);
    QApplication application(argc, argv);
    if (argc == 3 && std::string(argv[1]) == nuvat::kChild) {
        if (std::string(argv[2]) != "empty") {
            nuvat::applyStyle(application);
        }
        nuvat::startOnce(argv[2]);
        return 0;
    }
    nuvat::applyStyle(application);
    benchmark::Initialize(&argc, argv);
    nuvat::registerAll();
    benchmark::RunSpecifiedBenchmarks();
    nuvat::Desk::current.reset(); // before the application goes
    return 0;
}
