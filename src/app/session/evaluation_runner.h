#pragma once

#include "nuvat/batch/evaluation.h"
#include "nuvat/core/base/error.h"

#include <chrono>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <QObject>
#include <thread>

namespace nuvat {

/// A batch and what follows from it, of one revision.
struct Evaluated {
    std::uint64_t revision = 0;
    std::shared_ptr<const Batch> batch;
    std::shared_ptr<const Evaluation> evaluation;
};

/// Evaluates batches on a thread of its own. Of several that wait only the newest is evaluated; what an edit did not
/// touch is taken from the last time.
class EvaluationRunner : public QObject {
    Q_OBJECT
public:
    explicit EvaluationRunner(QObject* parent = nullptr);
    ~EvaluationRunner() override; ///< waits for what is being evaluated

    /// @param known what is known of the batch's traces, without having measured them
    void ask(std::uint64_t revision, std::shared_ptr<const Batch> batch, MeasuredTraces known = {});
    /// What was evaluated last, once; nothing when it was taken before. Waits for `revision` so long at most.
    /// @throws what the evaluation threw
    std::optional<Evaluated> take(std::uint64_t revision, std::chrono::milliseconds patience);

Q_SIGNALS:
    void ready(); ///< on the thread of this object: there is something to take

private:
    void work(const std::stop_token& stop);

    std::mutex m_mutex;
    std::condition_variable_any m_changed;
    std::optional<Evaluated> m_wanted; ///< without its evaluation
    MeasuredTraces m_known;            ///< for the next
    std::optional<Evaluated> m_done;
    std::exception_ptr m_failure;
    std::uint64_t m_lastDone = 0; ///< revision, taken or not
    bool m_isRunning = false;
    std::chrono::steady_clock::time_point m_began;
    std::stop_source m_stop; ///< of what is being evaluated
    Evaluator m_evaluator;   ///< of the thread alone
    std::jthread m_thread;   ///< last, so that it ends first
};

} // namespace nuvat
