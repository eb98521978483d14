#pragma once

#include <ctime>

namespace nuvat::test {

/// Seconds of processor time of this thread; work in the pool does not keep the window from answering.
inline double threadSeconds() {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return static_cast<double>(now.tv_sec) + 1e-9 * static_cast<double>(now.tv_nsec);
}

} // namespace nuvat::test
