// What is told about the core: no window, no Qt Widgets.

#include "../support/suite.h"

#include <QCoreApplication>

int main(int argc, char** argv) {
    QCoreApplication app(argc, argv);
    return ember::tests::run(argc, argv);
}
