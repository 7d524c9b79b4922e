#pragma once
// The bias supply as the fall draws the high voltage, hanging below ground: from its winding or the plate winding to
// what each adjuster reaches, in true volts. Values are edited where they stand.

#include "app/stations/placed_fields.h"
#include "app/widgets/clock.h"
#include "core/build/path.h"

#include "app/widgets/turned_picture.h"

#include <QWidget>

class QMenu;
class QPushButton;

namespace ember::app {

class BiasFall : public QWidget {
    Q_OBJECT
  public:
    BiasFall(Document& document, QWidget* parent = nullptr);
    /// Where the supply is fed from: undoable.
    void feedFrom(BiasSource from);

  Q_SIGNALS:
    void said(const QString& sentence, bool good);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    static constexpr double top = 44, bottomGap = 48;                                         ///< margins [pixel]
    static constexpr double reservoirLeft = 146, plateau = 96, slope = 88, figuresRight = 58; ///< widths [pixel]
    void rebuildFields();
    void fillMenu(QMenu& menu);
    void placeFields();
    [[nodiscard]] QRectF placeOf(const PlacedFields::Field& field) const;
    [[nodiscard]] double railLeft() const { return reservoirLeft + plateau + slope; }
    [[nodiscard]] double adjustersLeft() const { return railLeft() + plateau + 24; }
    [[nodiscard]] double barsLeft() const { return adjustersLeft() + 170; }
    [[nodiscard]] double barPitch() const;
    [[nodiscard]] double barsWidth() const {
        return barPitch() * std::max(1.0, static_cast<double>(adjustersOf(document.build()).size()));
    }
    [[nodiscard]] double lowest() const; ///< [V] at the picture's foot
    [[nodiscard]] double y(double volts) const;
    [[nodiscard]] bool solvedHere() const;
    void paintScale(QPainter& p) const;
    void paintSource(QPainter& p) const;
    void paintSeries(QPainter& p) const;
    void paintPlateau(QPainter& p, double x, double volts, const char* name) const;
    void paintAdjusters(QPainter& p) const;

    Document& document;
    PlacedFields fields;
    TurnedPicture picture;
    Timer renewal;
    QPushButton* source; ///< says where it is fed from, and offers the others
    std::string shape;   ///< what the fields were made for
};

} // namespace ember::app
