#include "suite.h"

#include <QTest>

#include <cstdio>
#include <iostream>
#include <map>
#include <string>
#include <string_view>

namespace ember::tests {
namespace {

std::map<std::string, MakeTests>& classes() {
    static std::map<std::string, MakeTests> all;
    return all;
}

int serve(char* program) {
    int failed = 0;
    for (std::string name; std::getline(std::cin, name);) {
        const auto found = classes().find(name);
        const int here = found == classes().end() ? 1 : QTest::qExec(found->second().get(), 1, &program);
        std::printf("%s%d\n", servedMark, here);
        std::fflush(stdout);
        failed += here;
    }
    return failed > 0 ? 1 : 0;
}

} // namespace

Entry::Entry(const char* name, MakeTests make) {
    classes()[name] = make;
}

int run(int argc, char** argv) {
    const std::string_view asked = argc > 1 ? argv[1] : "";
    if (asked == "--serve") return serve(argv[0]);
    const auto found = classes().find(std::string(asked));
    if (found == classes().end()) {
        for (const auto& [name, make] : classes()) std::printf("%s\n", name.c_str());
        return asked == "--list" ? 0 : 1;
    }
    argv[1] = argv[0];
    return QTest::qExec(found->second().get(), argc - 1, argv + 1);
}

} // namespace ember::tests
