#pragma once
#include "app/stations/station.h"

#include "core/schematic/stage_edits.h"

class QComboBox;
class QLabel;
class QMenu;
class QPushButton;
class QScrollArea;
class QStackedWidget;

namespace ember::app {

class FindValueDialog;
class PathPicture;
class VoltageChart;

/// The signal path of a channel: stages inserted, exchanged, moved and taken away, each part's value edited where it
/// stands; and the voltage chart of every pin.
class StagesStation : public Station {
    Q_OBJECT
  public:
    static constexpr StationName called{"stages", "Stages", "PLAN"};
    explicit StagesStation(Document& document, QWidget* parent = nullptr);
    [[nodiscard]] double shareDone() const override;
    void arrive() override;
    [[nodiscard]] PathPicture* picture() const { return path; }
    void showChart(bool chart);
    FindValueDialog* findValue();
    /// The channel's circuit with its volts, by the file's ending: .svg, or a page from A4 to A2.
    [[nodiscard]] Expected<Done> writeDrawing(const QString& file) const;

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void refresh();
    void edit(const Edit& edit);
    void fillInsert(QMenu& menu, std::size_t at);
    void fillStage(QMenu& menu);
    void fillParts(QMenu& menu);
    void fillForms(QMenu& menu);
    void fillNodes(QMenu& menu);
    void fillTaps(QMenu& menu, const OutputTransformer& transformer, std::size_t at);
    void chooseValve(int valve);
    void readValves();
    void insertFeedback();
    void addLoosePart();
    void saveDrawing();
    [[nodiscard]] const Stage* stage() const;
    void popUp(QPushButton* under, void (StagesStation::*fill)(QMenu&));
    PathPicture* path;
    QScrollArea* scroll;
    VoltageChart* chart;
    QStackedWidget* views;
    QComboBox* channel;
    QPushButton *follow, *insert, *change, *part, *valve, *find, *asChart;
    QLabel *words, *power;
    FindValueDialog* finder = nullptr;
};

} // namespace ember::app
