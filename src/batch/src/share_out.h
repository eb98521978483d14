#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <exception>
#include <stop_token>
#include <thread>
#include <vector>

namespace nuvat {

/// Calls `work` with 0, 1, … count - 1, each once, on so many processors. No call may depend on another: then their
/// number changes nothing. The first exception by number is thrown when all have ended.
/// @return whether all were done before it was asked to stop
template<class Work>
bool shareOut(std::size_t count, unsigned processors, const std::stop_token& stop, const Work& work) {
    std::atomic<std::size_t> next = 0;
    std::vector<std::exception_ptr> failures(count);
    const auto take = [&] {
        for (std::size_t i = next++; i < count && !stop.stop_requested(); i = next++) {
            try {
                work(i);
            } catch (...) { // no memory, perhaps: the caller is told, not the thread
                failures[i] = std::current_exception();
            }
        }
    };
    std::vector<std::jthread> helpers;
    for (std::size_t i = 1; i < std::min<std::size_t>(processors, count); ++i) {
        helpers.emplace_back(take);
    }
    take();
    helpers.clear(); // waits for them
    for (const std::exception_ptr& failure : failures) {
        if (failure) {
            std::rethrow_exception(failure);
        }
    }
    return !stop.stop_requested();
}

} // namespace nuvat
