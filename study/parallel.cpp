#include "parallel.hpp"

#include <algorithm>
#include <atomic>
#include <thread>
#include <vector>

namespace heron::study {

void in_parallel(std::size_t n, unsigned threads, const std::function<void(std::size_t)> &work) {
    std::atomic<std::size_t> next{0};
    std::vector<std::thread> pool;
    for (unsigned t = 0; t < std::max(1U, threads); ++t)
        pool.emplace_back([&] {
            for (auto i = next++; i < n; i = next++)
                work(i);
        });
    for (auto &t : pool)
        t.join();
}

} // namespace heron::study
