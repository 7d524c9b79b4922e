#include "path_view.h"

#include "app/theme/theme.h"

#include <QLabel>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>

namespace ember::app {

using theme::Role;

class PathButton : public QPushButton {
  public:
    explicit PathButton(const QString& name) : QPushButton(name) {
        setFixedHeight(34);
        setCheckable(true);
    }
    double share = 0;
    int open = 0;

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        if (isChecked()) {
            p.fillRect(rect(), theme::color(Role::AshRaised));
            p.fillRect(0, 0, 3, height(), theme::color(Role::Ember));
        }
        if (hasFocus()) {
            p.setPen(theme::color(Role::Brass));
            p.drawRect(rect().adjusted(1, 1, -2, -2));
        }
        const QPointF at(29, height() / 2.0);
        if (share > 0) theme::halo(p, at, 16, theme::color(Role::Ember), 0.45 * share);
        QPainterPath wire(at + QPointF(-8, 4));
        for (int k = 1; k <= 4; ++k) wire.lineTo(at + QPointF(-8 + 4 * k, k % 2 ? -5 : 4));
        p.setPen(QPen(theme::between(Role::BoneFaint, Role::Ember, share), 1.8));
        p.drawPath(wire);
        p.setFont(theme::text(static_cast<theme::Size>(14), isChecked()));
        p.setPen(theme::color(isChecked() ? Role::Bone : Role::BoneDim));
        p.drawText(QRect(50, 0, width() - 80, height()), Qt::AlignVCenter, text());
        if (open > 0) {
            p.setPen(theme::color(Role::Brass));
            p.setFont(theme::figures(theme::Size::Text, true));
            p.drawText(QRect(0, 0, width() - 18, height()), Qt::AlignRight | Qt::AlignVCenter, QString::number(open));
        }
    }
};

PathView::PathView(QWidget* parent) : QWidget(parent) {
    setObjectName("path");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(172);
    column = new QVBoxLayout(this);
    column->setContentsMargins(0, 14, 0, 8);
    column->setSpacing(0);
}

void PathView::setStations(const std::vector<StationName>& stations) {
    all = stations;
    QString phase;
    for (std::size_t k = 0; k < all.size(); ++k) {
        if (all[k].phase != phase) {
            phase = all[k].phase;
            auto* l = new QLabel(phase);
            l->setFont(theme::text(theme::Size::Small));
            l->setProperty("faint", true);
            l->setContentsMargins(20, k ? 14 : 4, 0, 4);
            column->addWidget(l);
        }
        auto* b = new PathButton(all[k].title);
        b->setToolTip(QString("Alt+%1").arg((k + 1) % 10));
        b->setObjectName(QString("path-") + all[k].id);
        connect(b, &QPushButton::clicked, this, [this, k] { Q_EMIT chosen(static_cast<int>(k)); });
        buttons.push_back(b);
        column->addWidget(b);
    }
    column->addStretch();
}

void PathView::setCurrent(int index) {
    for (std::size_t k = 0; k < buttons.size(); ++k) buttons[k]->setChecked(static_cast<int>(k) == index);
}

void PathView::refresh(const std::vector<double>& shares, const std::vector<rules::Finding>& findings) {
    for (std::size_t k = 0; k < buttons.size(); ++k) {
        PathButton* b = buttons[k];
        b->share = k < shares.size() ? std::clamp(shares[k], 0.0, 1.0) : 0;
        b->open = static_cast<int>(std::count_if(findings.begin(), findings.end(), [&](const auto& f) {
            return !f.waived && QString::fromStdString(f.station) == all[k].id;
        }));
        b->setAccessibleName(QString("%1, %2 % done%3")
                                 .arg(all[k].title)
                                 .arg(100 * b->share, 0, 'f', 0)
                                 .arg(b->open ? QString(", %1 findings").arg(b->open) : ""));
        b->update();
    }
}

} // namespace ember::app
