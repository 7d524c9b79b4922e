#pragma once
// The classes of tests share a program. Each adds itself to the list; run-tests (run_tests.cpp) runs them all.

#include <QObject>

#include <memory>

namespace ember::tests {

using MakeTests = std::unique_ptr<QObject> (*)();

/// Adds a class of tests to the program that it is linked into.
struct Entry {
    Entry(const char* name, MakeTests make);
};

/// `program CLASS [what Qt Test takes]` runs one class and gives the number of its tests that failed. Without a class,
/// or with one that there is not, it names all and gives 1. `program --list` names all. `program --serve` runs each
/// class whose name it reads, a line each, and says servedMark and the number of failed tests after it: what one class
/// has computed of a shipped build is there for the next.
int run(int argc, char** argv);

inline constexpr char servedMark[] = "@served ";

} // namespace ember::tests

#define EMBER_TESTS(Class)                                                                                             \
    static const ember::tests::Entry entryOf##Class{                                                                   \
        #Class, []() -> std::unique_ptr<QObject> { return std::make_unique<Class>(); }};
