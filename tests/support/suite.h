#pragma once
// The classes of tests share a program. Each adds itself to the list; ctest runs one by its name.

#include <QObject>

#include <memory>

namespace ember::tests {

using MakeTests = std::unique_ptr<QObject> (*)();

/// Adds a class of tests to the program that it is linked into.
struct Entry {
    Entry(const char* name, MakeTests make);
};

/// `program [CLASS [what Qt Test takes]]`: runs one class, or all in the order of their names without one.
/// Gives the number of tests that failed, 1 with a list of the names when no class is called so.
int run(int argc, char** argv);

} // namespace ember::tests

#define EMBER_TESTS(Class)                                                                                             \
    static const ember::tests::Entry entryOf##Class{                                                                   \
        #Class, []() -> std::unique_ptr<QObject> { return std::make_unique<Class>(); }};
