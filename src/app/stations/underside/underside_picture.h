#pragma once
// The chassis turned over, with wires along the ways that they take.

#include "sight.h"

#include "app/document/document.h"
#include "app/theme/theme.h"
#include "core/wires/hum.h"

#include <QPixmap>
#include <QPushButton>
#include <QWidget>

#include <map>
#include <set>

namespace ember::app {

class UndersidePicture : public QWidget {
    Q_OBJECT
  public:
    explicit UndersidePicture(Document& document, QWidget* parent = nullptr);
    /// Kinds that are drawn in full; the others are faint.
    void setKinds(std::set<wires::RunKind> kinds);
    /// Lit by themselves, everything else faint; empty: none.
    void setLit(std::set<std::string> ids);
    /// By wire: how thick it is drawn [pixels] and what stands beside it; empty: as its kind.
    struct Look {
        double width = 1.6;
        QString words;
    };
    void setLooks(std::map<std::string, Look> looks);
    /// By placed part: words at it, and 0 .. 1 of a glow.
    struct Mark {
        QString words;
        bool good = true;
        double glow = 0;
    };
    void setMarks(std::map<std::size_t, Mark> marks);
    /// A place that is pointed at, in chassis coordinates [m].
    struct Callout {
        QPointF at;
        QString words; ///< "Red: V3 pin 7, plate"
        theme::Role colour = theme::Role::Bone;
        bool lower = false; ///< under the lower chassis of a tower
        bool operator==(const Callout&) const = default;
    };
    /// Shown over everything, and looked at where they are others than before; of a tower the chassis of the last.
    void pointAt(std::vector<Callout> places);
    /// Only to be looked at: nothing is selected or edited, wires are faint, and there is no ruler.
    void setQuiet();
    void showAll();
    [[nodiscard]] double zoom() const { return sight.zoom(); }
    [[nodiscard]] QSize minimumSizeHint() const override { return quiet ? QSize(240, 180) : QSize(360, 220); }
    /// What can be done to a wire, as a menu at a place of the screen.
    void showMenu(const std::string& wire, QPoint at);

  Q_SIGNALS:
    void chosen(const QString& id); ///< a wire was clicked
    void said(const QString& sentence, bool good);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void changeEvent(QEvent* event) override;
    /// A press chooses a wire; dragging moves the piece that was gripped. Escape lets go.
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    struct Grip {
        std::string wire;
        std::size_t piece = 0;
        double share = 0; ///< along the piece
        QPointF from;
        std::vector<wires::Vector> path; ///< while it is dragged
        bool moved = false;
    };
    [[nodiscard]] std::optional<Grip> gripAt(QPointF at) const;
    void edit(const Edit& edit);
    [[nodiscard]] PlateScale scaleNow() const;
    void draw(QPainter& p) const;
    void redraw();
    void laySight();
    void lookAtCallouts();
    void renew();                     ///< draws everything anew; a piece that is dragged goes over what is kept
    [[nodiscard]] bool lower() const; ///< whether the lower chassis is shown
    /// A piece of a wire's path under the chassis that is shown, in pixels.
    struct Piece {
        QPolygonF line;
        bool begins = true, ends = true; ///< with the wire's own end, and not at the hole to the other chassis
    };
    [[nodiscard]] std::vector<Piece> piecesOf(const wires::Run& run, const PlateScale& scale) const;
    void drawRuns(QPainter& p, const PlateScale& scale) const;
    void drawEnds(QPainter& p, const QColor& colour, const Piece& piece, const wires::Run& run) const;
    void drawMarks(QPainter& p, const PlateScale& scale) const;
    void drawCallouts(QPainter& p, const PlateScale& scale) const;
    Document& document;
    std::set<wires::RunKind> kinds;
    std::set<std::string> lit;
    std::map<std::string, Look> looks;
    std::map<std::size_t, Mark> marks;
    std::vector<Callout> callouts;
    std::optional<Grip> grip;
    std::optional<QPointF> panned; ///< pixel at which the picture is held
    Sight sight;
    bool quiet = false;
    QPushButton* storey; ///< of a tower: checked shows the lower chassis
    QPixmap kept;        ///< the picture without what is dragged; null: to be drawn
};

} // namespace ember::app
