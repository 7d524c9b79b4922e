// One target for the fuzzer's engine: EMBER_FUZZ_TARGET is its name in targets.h. Built and run by scripts/fuzz.
#include "targets.h"

#include <cstddef>
#include <cstdint>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const ember::fuzz::Target* target = ember::fuzz::findTarget(EMBER_FUZZ_TARGET);
    target->read({data, size});
    return 0;
}
