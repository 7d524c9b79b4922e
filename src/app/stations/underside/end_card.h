#pragma once
// What one lead of the meter is clipped on, enlarged: a socket from below with its pin, or a part with its tags.

#include "core/catalogue/catalogue.h"
#include "core/procedure/leads.h"

#include <QPointF>
#include <QStringList>
#include <QWidget>

#include <optional>

namespace ember::app {

class EndCard : public QWidget {
    Q_OBJECT
  public:
    explicit EndCard(bool red, QWidget* parent = nullptr);
    /// How a socket lies before the builder.
    struct Lie {
        std::optional<QPointF> pinOne; ///< which way its first pin looks [pixels]; none: its gap or key is down
        bool fromBelow = true;         ///< a bench board is looked at from above
    };
    void show(const schematic::WholeAmplifier& whole, const Catalogue& catalogue, const procedure::LeadEnd& end,
              const Lie& lie);
    void clear();
    [[nodiscard]] QString title() const { return said; } ///< "Red: V3 pin 7, plate"
    [[nodiscard]] QSize minimumSizeHint() const override { return {126, 150}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void paintSocket(QPainter& p, const QRectF& room) const;
    void paintTags(QPainter& p, const QRectF& room) const;
    void paintMetal(QPainter& p, const QRectF& room) const;
    void mark(QPainter& p, const QPointF& at) const;
    [[nodiscard]] double wayOf(int number) const; ///< of a pin, clockwise from straight down [radians]
    bool red, any = false, metal = false, fromBelow = true;
    QString said, part;
    int pins = 0, places = 0; ///< of a socket; 0: tags
    int lit = -1;             ///< pin's number, or tag's index; -1: none
    double turned = 0;        ///< [radians] clockwise from straight down, of the gap or key
    QStringList tags;
};

} // namespace ember::app
