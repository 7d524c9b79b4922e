// What a user does in the real window.

#include "../support/suite.h"

#include <QApplication>

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    return ember::tests::run(argc, argv);
}
