#pragma once
#include "app/document/document.h"
#include "app/stations/station.h"

#include <QMainWindow>

class QStackedWidget;

namespace ember::app {

class PathView;
class EmberLine;
class FindingsPanel;
class ValuesSheet;
class LogLine;

class MainWindow : public QMainWindow {
    Q_OBJECT
  public:
    explicit MainWindow(const QString& stateFolder, QWidget* parent = nullptr);
    [[nodiscard]] Document& document() { return doc; }
    void openDemo();
    bool openFile(const QString& file);
    void newBuild();
    /// Offers what a killed program left behind; with `ask` false it is restored at once.
    void offerRecovery();
    void showSafetyWordsOnce();
    void go(int station);
    void go(const QString& stationId);
    /// A station is made when it is first wanted, or soon after the window was painted.
    Station* station(int index);
    template <typename T>
    T* station() {
        return static_cast<T*>(station(indexOf(T::called.id)));
    }
    [[nodiscard]] int stationCount() const { return static_cast<int>(stations.size()); }
    [[nodiscard]] QString stationId(int index) const { return stations[static_cast<std::size_t>(index)].name.id; }
    LogLine* logLine() { return log; }
    bool save();
    void applyTheme(int mode);
    void showShortcuts();
    void showValues(const QString& words = {});

  protected:
    void showEvent(QShowEvent* event) override;
    void closeEvent(QCloseEvent* event) override;

  private:
    void buildMenus();
    void refreshTitle();
    void refreshPath();
    bool saveAs();
    bool mayClose();
    void remember(const QString& file);
    void fillRecent();
    [[nodiscard]] int indexOf(const QString& stationId) const;
    void makeNextStation();

    struct Entry {
        StationName name;
        Station* (*make)(Document&);
        Station* made = nullptr;
    };
    template <typename T>
    static Entry entry() {
        return {T::called, [](Document& d) -> Station* { return new T(d); }};
    }
    Document doc;
    std::vector<Entry> stations;
    PathView* path;
    EmberLine* line;
    FindingsPanel* findings;
    LogLine* log;
    QStackedWidget* table;
    QMenu* recent = nullptr;
    ValuesSheet* values = nullptr;
};

} // namespace ember::app
