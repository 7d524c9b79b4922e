#include "notice_strip.h"

#include "app/theme/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>

namespace ember::app {

using theme::Role;

NoticeStrip::NoticeStrip(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    const auto row = [&](QWidget*& holder, const char* name, const char* property) {
        holder = new QWidget;
        holder->setProperty(property, true);
        holder->setAttribute(Qt::WA_StyledBackground);
        auto* layout = new QHBoxLayout(holder);
        layout->setContentsMargins(20, 4, 20, 4);
        auto* words = new QLabel;
        words->setObjectName(name);
        words->setFont(theme::text(theme::Size::Text, true));
        words->setWordWrap(true);
        layout->addWidget(words, 1);
        column->addWidget(holder);
        return words;
    };
    clock = row(clockRow, "dischargeNotice", "noticeClock");
    clock->setAccessibleName("Discharge clock");
    practice = row(practiceRow, "practiceNotice", "noticePractice");
    practice->setText("Practice is on. Readings are of the practice amplifier and prove nothing of yours.");
    auto* off = new QPushButton("Turn practice off");
    off->setObjectName("practiceOff");
    practiceRow->layout()->addWidget(off);
    connect(off, &QPushButton::clicked, this, [this] { document.stopPractice(); });
    connect(&document.dischargeWatch(), &DischargeWatch::moved, this, &NoticeStrip::refresh);
    connect(&document, &Document::practiceChanged, this, &NoticeStrip::refresh);
    refresh();
}

void NoticeStrip::refresh() {
    const DischargeWatch& watch = document.dischargeWatch();
    if (watch.running()) clock->setText(watch.sentence());
    clock->setStyleSheet(QString("color:%1").arg(theme::color(Role::Ember).name()));
    practice->setStyleSheet(QString("color:%1").arg(theme::color(Role::Brass).name()));
    clockRow->setVisible(watch.running());
    practiceRow->setVisible(document.practising());
    setVisible(watch.running() || document.practising());
}

} // namespace ember::app
