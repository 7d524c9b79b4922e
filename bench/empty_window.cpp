// The peer of the start bench: a window with nothing in it.
#include "app/window/first_paint.h"

#include <QApplication>
#include <QMainWindow>

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    QMainWindow window;
    window.resize(1280, 800);
    ember::app::afterFirstPaint(window, ember::app::sayPaintedAndQuit);
    window.show();
    return QApplication::exec();
}
