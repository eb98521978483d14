#pragma once

namespace nuvat {

/// How long work tells what it has done and learns that it is no longer wanted. Implementations are thread-safe.
class Progress {
public:
    virtual ~Progress() = default;
    /// @param fraction done so far, 0 to 1
    virtual void report(double fraction) = 0;
    /// True when the work should stop; partial results are dropped.
    virtual bool cancelled() const = 0;
};

/// Progress nobody watches: never cancelled.
class NoProgress : public Progress {
public:
    void report(double) override {}
    bool cancelled() const override { return false; }
};

} // namespace nuvat
