// Independent pieces of work on several threads.
#pragma once
#include "units/cancel.h"
#include <atomic>
#include <cstddef>
#include <functional>
#include <future>
#include <thread>
#include <vector>

namespace ng {

inline std::size_t usable_threads() {
    return std::max<std::size_t>(1, std::thread::hardware_concurrency());
}

/// Calls work(0) ... work(count - 1), each once and begun in this order, on `threads` threads of which the
/// caller's is one; none is begun once `cancel` is raised. An exception of one leaves here when all have
/// ended.
inline void in_parallel(std::size_t count, std::size_t threads, const std::function<void(std::size_t)>& work,
                        const CancelFlag* cancel = nullptr) {
    std::atomic<std::size_t> next = 0;
    const auto pieces = [&] {
        for (std::size_t k = next++; k < count && !(cancel && cancel->load(std::memory_order_relaxed));
             k = next++)
            work(k);
    };
    std::vector<std::future<void>> others;
    for (std::size_t k = 1; k < threads && k < count; ++k)
        others.push_back(std::async(std::launch::async, pieces));
    pieces();
    for (auto& other : others) other.get();
}

/// `work` on a thread of its own where `threads` is more than one, else done by the thread that asks for its
/// result. What it touches must outlive the future, which waits for it in any case.
template <class Work> auto beside(std::size_t threads, Work work) {
    return std::async(threads > 1 ? std::launch::async : std::launch::deferred, std::move(work));
}

} // namespace ng
