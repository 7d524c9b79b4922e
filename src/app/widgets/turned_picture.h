#pragma once
// A picture that takes longer to draw than a turn of the event loop may last: drawn piece by piece, a turn each, and
// shown when it is whole. Until then the last one stays.

#include "app/theme/theme.h"
#include "app/widgets/clock.h"

#include <QPainter>
#include <QPixmap>
#include <QWidget>

#include <functional>
#include <optional>
#include <vector>

namespace ember::app {

class TurnedPicture : public QObject {
    Q_OBJECT
  public:
    using Piece = std::function<void(QPainter&)>;
    /// `pieces` says, when a drawing begins, what it consists of; `of` is updated when it is done.
    TurnedPicture(QWidget* of, std::function<std::vector<Piece>()> pieces);

    void renew(); ///< what it shows has changed: draws anew, from the next turn on
    /// For paintEvent(): the last whole one, or at once a new one where that is of another size or theme.
    void paint(QPainter& painter);

  private:
    void begin();
    void drawPiece();
    [[nodiscard]] bool fits(const QPixmap& picture) const;

    QWidget* widget;
    std::function<std::vector<Piece>()> whatItIs;
    std::vector<Piece> pieces;
    std::size_t next = 0;
    QPixmap whole, coming;
    std::optional<theme::Mode> wholeIn;
    Timer turn;
};

} // namespace ember::app
