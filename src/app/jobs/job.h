#pragma once

#include "nuvat/core/base/error.h"
#include "nuvat/core/base/progress.h"

#include <atomic>
#include <functional>
#include <memory>
#include <QCoreApplication>
#include <QPointer>
#include <QThreadPool>

namespace nuvat {

/// Progress that one thread reports and another reads.
class SharedProgress : public Progress {
public:
    void report(double fraction) override { m_fraction = fraction; }
    bool cancelled() const override { return m_isCancelled; }
    void cancel() { m_isCancelled = true; }
    double fraction() const { return m_fraction; }

private:
    std::atomic<double> m_fraction{0};
    std::atomic<bool> m_isCancelled{false};
};

/// job.no-memory or job.failed for the exception that is being handled.
Error errorOfException();

/// Runs `work` off the UI thread and hands its result to `done` on the thread of `context`. When `context` goes first
/// the work is cancelled and its result dropped. `work` owns copies of all it needs; what it throws becomes an Error.
template<class T>
std::shared_ptr<SharedProgress> runJob(QObject* context, std::function<Result<T>(Progress&)> work,
                                       std::function<void(Result<T>)> done) {
    auto progress = std::make_shared<SharedProgress>();
    QObject::connect(context, &QObject::destroyed, context, [progress] { progress->cancel(); });
    const QPointer<QObject> guard(context); // read on the UI thread only
    QThreadPool::globalInstance()->start([=] {
        auto result = std::make_shared<Result<T>>(tl::unexpected(Error{}));
        try {
            *result = work(*progress);
        } catch (...) {
            *result = tl::unexpected(errorOfException());
        }
        QMetaObject::invokeMethod(
            QCoreApplication::instance(),
            [=] {
                if (guard) {
                    done(std::move(*result));
                }
            },
            Qt::QueuedConnection);
    });
    return progress;
}

} // namespace nuvat
