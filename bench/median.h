#pragma once
// The time that a piece of work takes, as the median of several rounds.

#include <algorithm>
#include <chrono>
#include <functional>
#include <vector>

/// Milliseconds of the middle one of `rounds` runs of `work`.
inline double medianOf(int rounds, const std::function<void()>& work) {
    std::vector<double> all;
    for (int k = 0; k < rounds; ++k) {
        const auto from = std::chrono::steady_clock::now();
        work();
        all.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - from).count());
    }
    std::nth_element(all.begin(), all.begin() + rounds / 2, all.end());
    return all[static_cast<std::size_t>(rounds / 2)];
}
