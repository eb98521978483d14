// nuvat-measure BATCH HOST PORT [SECONDS]: measures the planned runs of a batch. nuvat-cli starts it, so that only
// measuring loads Qt.
#include "nuvat/core/base/number.h"
#include "nuvat/core/base/text.h"
#include "nuvat/instrument/list_runner.h"
#include "nuvat/workflow/session.h"

#include <iostream>
#include <QCoreApplication>

namespace nuvat {
namespace {

int explain(const Error& error) {
    std::cerr << "nuvat-cli: " << forTerminal(error.text()) << "\n";
    return 1;
}

class DocumentHost : public RunHost {
public:
    explicit DocumentHost(OpenBatch& open) : m_open(open) {}
    const Batch& batch() const override { return m_open.document->batch(); }
    Result<void> apply(const Result<Command>& command) override { return m_open.document->apply(command); }
    void evaluated(std::function<void(const Batch&, const Evaluation&)> then) override {
        const auto evaluation = m_evaluator.evaluate(batch());
        then(batch(), *evaluation);
    }
    std::int64_t now() const override { return m_open.document->now(); }
    std::filesystem::path path() const override { return m_open.path; }

private:
    OpenBatch& m_open;
    Evaluator m_evaluator;
};

/// The list with the first planned run.
std::optional<int> listOf(const Batch& batch) {
    for (const auto& [place, run] : batch.runs) {
        if (run.state == RunState::Planned || run.state == RunState::Running) {
            return place.carrier;
        }
    }
    return std::nullopt;
}

int measure(OpenBatch& open, const QString& host, quint16 port, std::optional<double> seconds) {
    const auto list = listOf(open.document->batch());
    if (!list) {
        return explain(Error{"runs.none", "No run of this batch is planned.", "Plan runs in its list first."});
    }
    Connection line;
    DocumentHost runs(open);
    ListRunner runner(line, runs);
    runner.setSeconds(seconds);
    const auto leave = [](int status) { QCoreApplication::exit(status); };
    QObject::connect(&line, &Connection::lost, &line, [&](const Error& error) {
        if (!runner.isRunning()) {
            leave(explain(error));
        }
    });
    QObject::connect(&runner, &ListRunner::failed, &line, [&](const Error& error) { leave(explain(error)); });
    QObject::connect(&runner, &ListRunner::cannotWrite, &line, [](const Error& error) { explain(error); });
    QObject::connect(&runner, &ListRunner::ended, &line, [&](const QString& sentence) {
        std::cout << sentence.toStdString() << "\n";
        leave(0);
    });
    QObject::connect(&runner, &ListRunner::runChanged, &line, [&] {
        if (const auto place = runner.place()) {
            std::cout << placeName(runs.batch(), *place) << "  " << runs.batch().runs.at(*place).name << std::endl;
        }
    });
    bool isStarted = false;
    QObject::connect(&line, &Connection::stateChanged, &line, [&] {
        const bool isReady = line.state() == InstrumentState::Idle || line.state() == InstrumentState::Ready;
        if (!isStarted && isReady && !line.identity().isEmpty()) {
            isStarted = true;
            if (const auto begun = runner.startList(*list); !begun) {
                leave(explain(begun.error()));
            }
        }
    });
    line.open(host, port);
    return QCoreApplication::exec();
}

} // namespace
} // namespace nuvat

int main(int argc, char** argv) {
    using namespace nuvat;
    constexpr int kLeast = 4, kMost = 5;
    const auto seconds = argc == kMost ? parseNumber(argv[4]) : std::nullopt;
    const auto port = argc >= kLeast ? parseNumber(argv[3]) : std::nullopt;
    if (argc < kLeast || argc > kMost || !port || (argc == kMost && !seconds)) {
        std::cerr << "nuvat-measure: takes a batch file, host, port and seconds; nuvat-cli measure does the same.\n";
        return 2;
    }
    QCoreApplication application(argc, argv);
    auto batch = openBatch(argv[1]);
    if (!batch) {
        return explain(batch.error());
    }
    if (batch->isReadOnly) {
        return explain(Error{"store.read-only", std::string(argv[1]) + " cannot be written.",
                             "Close it in other programs, or take a copy."});
    }
    if (const auto recovered = recoverRuns(*batch->document, batch->path); !recovered) {
        return explain(recovered.error());
    }
    return measure(*batch, QString::fromLocal8Bit(argv[2]), static_cast<quint16>(*port), seconds);
}
