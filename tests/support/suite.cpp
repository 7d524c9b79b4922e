#include "suite.h"

#include <QTest>

#include <cstdio>
#include <map>
#include <string>

namespace ember::tests {
namespace {

std::map<std::string, MakeTests>& classes() {
    static std::map<std::string, MakeTests> all;
    return all;
}

} // namespace

Entry::Entry(const char* name, MakeTests make) {
    classes()[name] = make;
}

int run(int argc, char** argv) {
    if (argc < 2) {
        int failed = 0;
        for (const auto& [name, make] : classes()) failed += QTest::qExec(make().get(), 1, argv);
        return failed;
    }
    const auto found = classes().find(argv[1]);
    if (found == classes().end()) {
        std::fprintf(stderr, "No class of tests is called %s. There are:\n", argv[1]);
        for (const auto& [name, make] : classes()) std::fprintf(stderr, "  %s\n", name.c_str());
        return 1;
    }
    argv[1] = argv[0];
    return QTest::qExec(found->second().get(), argc - 1, argv + 1);
}

} // namespace ember::tests
