#pragma once
#include "app/document/document.h"

#include <QMainWindow>

class QStackedWidget;

namespace ember::app {

class PathView;
class EmberLine;
class FindingsPanel;
class ValuesSheet;
class LogLine;
class Station;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(const QString& stateFolder, QWidget* parent = nullptr);
    [[nodiscard]] Document& document() { return doc; }
    void openDemo();
    bool openFile(const QString& file);
    void newBuild();
    /// Offers what a killed program left behind; with `ask` false it is restored at once.
    void offerRecovery(bool ask);
    void showSafetyWordsOnce();
    void go(int station);
    [[nodiscard]] Station* station(int index) const { return stations[static_cast<std::size_t>(index)]; }
    [[nodiscard]] int stationCount() const { return static_cast<int>(stations.size()); }
    LogLine* logLine() { return log; }
    bool save();
    void applyTheme(int mode);
    void showShortcuts();
    void showValues(const QString& words = {});

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    void buildMenus();
    void refreshTitle();
    void refreshPath();
    bool saveAs();
    bool mayClose();
    void remember(const QString& file);
    void fillRecent();
    Document doc;
    std::vector<Station*> stations;
    PathView* path;
    EmberLine* line;
    FindingsPanel* findings;
    LogLine* log;
    QStackedWidget* table;
    QMenu* recent = nullptr;
    ValuesSheet* values = nullptr;
};

} // namespace ember::app
