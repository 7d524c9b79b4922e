#pragma once
// Four numbers in one register, and the choice between a function compiled for any processor and the same compiled for
// 256-bit registers with fused multiply-add. For .cpp files of this folder only.

#include <cstddef>
#include <cstring>

// The address sanitizer is asked once about whole blocks that a kernel reads and writes, not at each number.
#if defined(__SANITIZE_ADDRESS__)
#include <sanitizer/asan_interface.h>
#define EMBER_KERNEL __attribute__((no_sanitize("address", "undefined")))
#else
#define EMBER_KERNEL
#endif

namespace ember::circuit::wide {

using Four = double __attribute__((vector_size(32)));

/// Under the address sanitizer: stops with its report where one of these numbers may not be touched.
inline void mayTouch([[maybe_unused]] const double* block, [[maybe_unused]] std::ptrdiff_t count) {
#if defined(__SANITIZE_ADDRESS__)
    if (count <= 0) return;
    // NOLINTNEXTLINE: the interface takes no pointer to const, and changes nothing
    const void* bad = __asan_region_is_poisoned(const_cast<double*>(block), static_cast<std::size_t>(count) * 8);
    if (bad) (void)*static_cast<const volatile char*>(bad);
#endif
}

EMBER_KERNEL inline __attribute__((always_inline)) void load(Four& to, const double* from) {
    std::memcpy(&to, from, sizeof to);
}
EMBER_KERNEL inline __attribute__((always_inline)) void store(double* to, const Four& from) {
    std::memcpy(to, &from, sizeof from);
}

#if defined(__x86_64__)
#define EMBER_WIDE __attribute__((target("avx2,fma")))
inline bool available() {
    return __builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma");
}
#else
#define EMBER_WIDE
inline bool available() {
    return false;
}
#endif

} // namespace ember::circuit::wide
