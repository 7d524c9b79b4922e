#pragma once
// Four numbers in one register, and the choice between a function compiled for any processor and the same compiled for
// 256-bit registers with fused multiply-add. For .cpp files of this folder only.

#include <cstring>

namespace ember::circuit::wide {

using Four = double __attribute__((vector_size(32)));

inline __attribute__((always_inline)) void load(Four& to, const double* from) {
    std::memcpy(&to, from, sizeof to);
}
inline __attribute__((always_inline)) void store(double* to, const Four& from) {
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
