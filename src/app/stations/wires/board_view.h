#pragma once
// A board or strip seen from the side that is soldered: lugs, parts between them, jumpers, and what does not agree with
// the schematic. Parts are dragged from lug to lug.

#include "app/document/document.h"
#include "core/wires/boards.h"

#include <QWidget>

namespace ember::app {

class BoardView : public QWidget {
    Q_OBJECT
  public:
    explicit BoardView(Document& document, QWidget* parent = nullptr);
    void show(const wires::BoardFigures& figures);
    void setJumpering(bool on); ///< two lugs that are clicked get a jumper
    [[nodiscard]] const std::optional<std::size_t>& selected() const { return chosen; }
    /// Where a lug is drawn.
    [[nodiscard]] QPointF lugAt(int lug) const;
    [[nodiscard]] QSize minimumSizeHint() const override { return {560, 240}; }

  Q_SIGNALS:
    /// The board as it is to be.
    void changed(const QString& name, const ember::Board& board);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    struct Grip {
        enum class What { Body, From, To } what = What::Body;
        QPointF from;
        int column = 0, row = 0; ///< by how many lugs it is moved
        int end = 0;             ///< of an end: the lug that it is over
        bool moved = false;
    };
    [[nodiscard]] double pitch() const;          ///< [pixels]
    [[nodiscard]] int lugNear(QPointF at) const; ///< 0: none
    [[nodiscard]] QLineF lineOf(const BoardPart& part) const;
    [[nodiscard]] BoardPart dragged(const BoardPart& part) const;
    [[nodiscard]] QString wordsOf(const BoardPart& part) const;
    void paintPart(QPainter& p, const BoardPart& part, bool lit) const;
    void become(const QString& name, const std::function<void(Board&)>& change);

    Document& document;
    wires::BoardFigures board;
    std::optional<std::size_t> chosen; ///< index in the board's parts
    std::optional<Grip> grip;
    bool jumpering = false;
    int jumperFrom = 0;
};

} // namespace ember::app
