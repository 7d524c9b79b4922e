#pragma once
// The way from a heater winding to its heaters as a column of symbols: the winding in series, resistors in the leads,
// rectifier, reservoir, regulator with its heat, reference. Values are edited where they stand.

#include "app/stations/placed_fields.h"
#include "core/wires/heaters.h"

#include <QWidget>

class QMenu;
class QPushButton;

namespace ember::app {

class HeaterFeedStrip : public QWidget {
    Q_OBJECT
  public:
    explicit HeaterFeedStrip(Document& document, QWidget* parent = nullptr);
    /// Which winding of the transformer; its figures are the document's.
    void show(std::size_t winding);

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

  private:
    enum class Symbol { Winding, Against, Leads, Rectifier, Reservoir, Filter, Regulator, Heat, Reference };
    struct Choice {
        QString words;
        Edit edit;
    };
    struct Cell {
        Symbol symbol;
        QString title;                                       ///< of its button where there are choices
        std::vector<std::pair<std::string, QString>> fields; ///< pointer and what it is called, at most two
        std::function<std::vector<Choice>()> choices = {};
        QPushButton* button = nullptr;
    };
    void rebuild();
    void addCell(Cell cell);
    void addDirectCurrent(const HeaterWinding& w);
    void addReference(const HeaterWinding& w);
    void place();
    void edit(const Edit& edit);
    [[nodiscard]] std::string at(const std::string& key) const;
    [[nodiscard]] double row() const;                            ///< height of each [pixels]
    [[nodiscard]] QStringList figuresOf(const Cell& cell) const; ///< at most two short lines
    void paintSymbol(QPainter& p, const Cell& cell, QPointF centre) const;

    Document& document;
    PlacedFields fields;
    std::vector<Cell> cells;
    std::size_t winding = 0;
    std::string shape; ///< what the cells were made for
};

} // namespace ember::app
