// dim-ember [BUILD] [--demo] [--pictures FOLDER [BUILD ...]]

#include "app/theme/theme.h"
#include "app/window/first_paint.h"
#include "app/window/main_window.h"
#include "app/window/pictures.h"

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QSettings>

#include <cstdio>
#include <memory>
#include <string_view>

using namespace ember::app;

namespace {

/// "1280x800"; empty where it is not two numbers.
QSize sizeFrom(const QString& text) {
    const QStringList parts = text.split('x');
    return parts.size() == 2 ? QSize(parts[0].toInt(), parts[1].toInt()) : QSize();
}

} // namespace

int main(int argc, char** argv) {
    // What is said without a window needs no display; the scale is fixed before there is one.
    bool words = false;
    for (int k = 1; k < argc; ++k) {
        const std::string_view a = argv[k];
        words = words || a == "--help" || a == "-h" || a == "--version" || a == "-v" || a == "--help-all";
        if (a == "--scale" && k + 1 < argc) qputenv("QT_SCALE_FACTOR", argv[k + 1]);
    }
    const std::unique_ptr<QCoreApplication> app(words ? new QCoreApplication(argc, argv)
                                                      : new QApplication(argc, argv));
    QCoreApplication::setOrganizationName("dim-ember");
    QCoreApplication::setApplicationName("dim-ember");
    QCoreApplication::setApplicationVersion("0.1.0");
    QCommandLineParser parser;
    parser.setApplicationDescription("A bench companion for people who build valve amplifiers.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("BUILD", "a build to open, *.ember.json", "[BUILD ...]");
    const QCommandLineOption demo("demo", "open the demo build"),
        folder("pictures",
               "write pictures to FOLDER and end: the main views of the demo, or every station of each BUILD",
               "FOLDER"),
        theme("theme", "of the pictures: dusk or day", "THEME", "dusk"),
        size("size", "of the pictures' window", "WIDTHxHEIGHT", "1280x800"),
        scale("scale", "device pixels for each of the window's", "FACTOR");
    const QCommandLineOption paint("quit-after-paint", "end after the first paint (for timing)");
    parser.addOptions({demo, folder, theme, size, scale, paint});
    parser.process(*app);
    const bool shooting = parser.isSet(folder);
    const bool day = shooting ? parser.value(theme) == "day" : QSettings().value("theme").toInt() == 1;
    if (shooting &&
        (!sizeFrom(parser.value(size)).isValid() || (parser.value(theme) != "day" && parser.value(theme) != "dusk"))) {
        std::fprintf(stderr, "--size is two numbers, such as 1280x800; --theme is dusk or day\n");
        return 2;
    }
    ember::theme::apply(static_cast<QApplication&>(*app),
                        day ? ember::theme::Mode::Daylight : ember::theme::Mode::Dusk);
    QString state = QDir::fromNativeSeparators(qEnvironmentVariable("XDG_STATE_HOME"));
    if (state.isEmpty()) state = QDir::homePath() + "/.local/state";
    state += shooting || parser.isSet(paint) ? "/dim-ember/scratch" : "/dim-ember";
    MainWindow window(state);
    if (shooting) {
        if (!parser.positionalArguments().isEmpty())
            return picturesOf(window, parser.positionalArguments(), parser.value(folder), sizeFrom(parser.value(size)));
        window.openDemo();
        return demoPictures(window, parser.value(folder));
    }
    // The window first, what it holds right after: an old file or a question must not keep the screen empty.
    afterFirstPaint(window, [&] {
        if (parser.isSet(paint)) return sayPaintedAndQuit();
        window.showSafetyWordsOnce();
        window.offerRecovery();
        if (window.document().holdsBuild()) return;
        if (!parser.positionalArguments().isEmpty()) window.openFile(parser.positionalArguments().constFirst());
        if (!window.document().holdsBuild()) window.openDemo();
    });
    window.show();
    return QApplication::exec();
}
