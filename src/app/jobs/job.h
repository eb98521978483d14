#pragma once

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

/// Runs `work` off the UI thread and hands its result to `done` on the thread of `context`, unless `context` is gone.
/// `work` owns copies of all it needs.
template<class T>
std::shared_ptr<SharedProgress> runJob(QObject* context, std::function<T(Progress&)> work,
                                       std::function<void(T)> done) {
    auto progress = std::make_shared<SharedProgress>();
    const QPointer<QObject> guard(context); // read on the UI thread only
    QThreadPool::globalInstance()->start([=] {
        auto result = std::make_shared<T>(work(*progress));
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
