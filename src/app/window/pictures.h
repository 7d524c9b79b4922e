#pragma once
// Pictures of the program's views as PNG, for those who look at it and for its own pages.

#include <QSize>
#include <QStringList>

namespace ember::app {

class MainWindow;

/// The main views of the demo, worked through on the practice bench, at 1280 x 800. Gives the program's exit code.
int demoPictures(MainWindow& window, const QString& folder);
/// Every station of each build, the dialogs that belong to a build, and one sheet with all of them small.
int picturesOf(MainWindow& window, const QStringList& builds, const QString& folder, QSize size);

} // namespace ember::app
