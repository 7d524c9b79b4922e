#pragma once
// The strip beneath the path: what each stage does, under the stage.

#include "path_picture.h"

#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>

namespace ember::app {

class StageStrip : public QWidget {
  public:
    StageStrip(PathPicture& picture, QScrollArea& area) : path(picture), scroll(area) {
        setFixedHeight(PathPicture::foot);
        setAccessibleName("Gain, volts at clipping and impedances of each stage");
        connect(&path, &PathPicture::renewed, this, qOverload<>(&QWidget::update));
        for (const QScrollBar* bar : {scroll.horizontalScrollBar()})
            connect(bar, &QScrollBar::valueChanged, this, qOverload<>(&QWidget::update));
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.translate(-scroll.horizontalScrollBar()->value(), 0);
        path.paintStrip(p);
    }

  private:
    PathPicture& path;
    QScrollArea& scroll;
};

} // namespace ember::app
