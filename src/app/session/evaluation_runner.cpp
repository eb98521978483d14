#include "session/evaluation_runner.h"

namespace nuvat {

EvaluationRunner::EvaluationRunner(QObject* parent)
    : QObject(parent), m_thread([this](const std::stop_token& stop) { work(stop); }) {}

EvaluationRunner::~EvaluationRunner() {
    const std::lock_guard lock(m_mutex);
    m_stop.request_stop();
}

void EvaluationRunner::ask(std::uint64_t revision, std::shared_ptr<const Batch> batch, MeasuredTraces known) {
    {
        const std::lock_guard lock(m_mutex);
        // One that takes long gives way; what is quick is shown between edits that come fast.
        constexpr std::chrono::milliseconds kLong(200);
        if (m_isRunning && std::chrono::steady_clock::now() - m_began > kLong) {
            m_stop.request_stop();
        }
        m_wanted = Evaluated{revision, std::move(batch), nullptr};
        known.merge(m_known); // the newer ones count
        m_known = std::move(known);
    }
    m_changed.notify_all();
}

std::optional<Evaluated> EvaluationRunner::take(std::uint64_t revision, std::chrono::milliseconds patience) {
    std::unique_lock lock(m_mutex);
    m_changed.wait_for(lock, patience, [&] { return m_lastDone >= revision; });
    if (m_failure) {
        std::rethrow_exception(std::exchange(m_failure, nullptr));
    }
    return std::exchange(m_done, std::nullopt);
}

void EvaluationRunner::work(const std::stop_token& stop) {
    std::unique_lock lock(m_mutex);
    while (m_changed.wait(lock, stop, [this] { return m_wanted.has_value(); })) {
        Evaluated next = *std::exchange(m_wanted, std::nullopt);
        MeasuredTraces known = std::exchange(m_known, {});
        m_isRunning = true;
        m_began = std::chrono::steady_clock::now();
        const std::stop_token isOvertaken = (m_stop = std::stop_source()).get_token();
        lock.unlock();
        std::exception_ptr failure;
        try {
            m_evaluator.know(std::move(known));
            next.evaluation = m_evaluator.evaluate(next.batch, isOvertaken);
        } catch (...) { // no memory, perhaps: the person is told
            failure = std::current_exception();
        }
        lock.lock();
        m_isRunning = false;
        if (!failure && next.evaluation == nullptr) {
            continue;
        }
        m_lastDone = next.revision;
        m_failure = failure;
        if (!failure) {
            m_done = std::move(next);
        }
        m_changed.notify_all();
        QMetaObject::invokeMethod(this, &EvaluationRunner::ready, Qt::QueuedConnection);
    }
}

} // namespace nuvat
