#pragma once
// Where the meter's two leads go for one reading: on the chassis as it lies before the builder, and each end enlarged.

#include "app/document/document.h"

#include <QBoxLayout>
#include <QWidget>

namespace ember::app {

class EndCard;
class UndersidePicture;

class ClipsView : public QWidget {
    Q_OBJECT
  public:
    /// The picture, then the two ends, from left to right or from top to bottom.
    ClipsView(Document& document, QBoxLayout::Direction across, QWidget* parent = nullptr);
    /// Of a test point by its id; one that the build does not have clears it.
    void show(const std::string& point);
    [[nodiscard]] QString inWords() const; ///< "Black: C1 −. Red: V3 pin 7, plate."
    UndersidePicture* picture;

  private:
    Document& document;
    bool beside; ///< the ends are to the right of the picture
    QBoxLayout* cards;
    EndCard *black, *red;
    std::string shown;
};

} // namespace ember::app
