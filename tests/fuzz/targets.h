#pragma once
// What reads text and files that came from somewhere else, each behind one call that takes any bytes. Whatever it is
// given, it returns: with what it read, or with a sentence. A fuzzer calls it (fuzz_main.cpp), and so does the suite
// (test_hostile_input.cpp) with a short fixed run.

#include <span>
#include <string_view>

namespace ember::fuzz {

using Bytes = std::span<const unsigned char>;

struct Target {
    std::string_view name; ///< also of its folder of examples in tests/fuzz/corpus
    void (*read)(Bytes input);
};

/// build, journal, points, capture, sound, dxf, log.
std::span<const Target> targets();
/// nullptr: there is none of this name.
const Target* findTarget(std::string_view name);

} // namespace ember::fuzz
