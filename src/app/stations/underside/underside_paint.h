#pragma once
// The bodies under the chassis to scale: sockets with their pins and numbers as seen from below, tags, lugs, and what
// stands on the boards.

#include "app/document/document.h"
#include "app/stations/plate_picture.h"

class QPainter;

namespace ember::app {

class UndersidePaint {
  public:
    /// `lower`: the lower chassis of a tower.
    UndersidePaint(QPainter& painter, const Document::Solved& of, const PlateScale& to, bool lower);
    void parts() const;
    /// Tags, pins and lugs; over the wires, so that each end is seen.
    void ends() const;
    void names() const;

  private:
    [[nodiscard]] QRectF outline(std::size_t part, bool paint) const; ///< pixels; null: nothing of it is on this side
    [[nodiscard]] bool here(std::size_t part) const;
    void socket(const PlacedPart& part) const;
    void boards() const;
    QPainter& p;
    const Document::Solved& solved;
    PlateScale scale;
    bool lower;
};

} // namespace ember::app
