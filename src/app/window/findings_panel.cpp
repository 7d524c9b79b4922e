#include "findings_panel.h"

#include "app/theme/theme.h"

#include <QDateTime>
#include <QFrame>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>

namespace ember::app {

using theme::Role;
using theme::Size;

namespace {

/// "First power" of a station's id.
QString spoken(QString station) {
    station.replace('-', ' ');
    return station.left(1).toUpper() + station.mid(1);
}

} // namespace

FindingsPanel::FindingsPanel(Document& d, QWidget* parent) : QWidget(parent), document(d) {
    setObjectName("panel");
    setAttribute(Qt::WA_StyledBackground);
    setFixedWidth(292);
    setAccessibleName("Findings");
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(0, 0, 0, 0);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFrameShape(QFrame::NoFrame);
    outer->addWidget(scroll);
    auto* inner = new QWidget;
    scroll->setWidget(inner);
    column = new QVBoxLayout(inner);
    column->setContentsMargins(16, 14, 14, 8);
    top = new QVBoxLayout;
    column->addLayout(top);
    column->addStretch();
    connect(&document, &Document::figuresChanged, this, &FindingsPanel::refresh);
    refresh();
}

void FindingsPanel::showFor(const QString& which, QWidget* above) {
    if (side && side != above) {
        side->hide();
        top->removeWidget(side); // it stays this panel's child, and goes with the window
    }
    side = above;
    station = which;
    if (side) {
        top->insertWidget(0, side);
        side->show();
    }
    shown.clear();
    refresh();
}

void FindingsPanel::waive(const rules::Finding& f) {
    bool ok = false;
    const QString why = QInputDialog::getText(
        this, "Waive",
        QString::fromStdString(f.title + ".\n" + f.text) + "\n\nThe reason is kept with the build:", QLineEdit::Normal,
        {}, &ok);
    if (!ok || why.trimmed().isEmpty()) return;
    const Waiver waiver{
        {}, f.id, why.trimmed().toStdString(), QDateTime::currentDateTime().toString(Qt::ISODate).toStdString()};
    const auto done = document.edit(insertAt("waive: " + f.title, "/waivers/-", waiver));
    if (!done) Q_EMIT said(QString::fromStdString(done.problem().text()), false);
}

QWidget* FindingsPanel::card(const rules::Finding& f) {
    auto* box = new QWidget;
    auto* layout = new QHBoxLayout(box);
    layout->setContentsMargins(0, 6, 0, 8);
    layout->setSpacing(9);
    auto* bar = new QFrame;
    bar->setFixedWidth(3);
    bar->setStyleSheet(QString("background:%1")
                           .arg(theme::color(f.waived                        ? Role::Line
                                             : f.level == rules::Level::Stop ? Role::Stop
                                                                             : Role::Brass)
                                    .name()));
    layout->addWidget(bar);
    auto* words = new QVBoxLayout;
    words->setSpacing(3);
    auto* title =
        new QLabel((f.level == rules::Level::Stop && !f.waived ? "Stop: " : "") + QString::fromStdString(f.title));
    title->setFont(theme::text(Size::Text, true));
    title->setWordWrap(true);
    words->addWidget(title);
    auto* body = new QLabel(QString::fromStdString(f.waived ? "Waived: " + f.waiverReason : f.text));
    body->setWordWrap(true);
    body->setProperty("dim", true);
    body->setFont(theme::text(static_cast<Size>(12)));
    words->addWidget(body);
    if (!f.waived) {
        auto* row = new QHBoxLayout;
        if (f.fix) {
            // A long name takes two lines: the panel keeps its width.
            QString label = QString::fromStdString(f.fix->name);
            if (label.size() > 28) label.replace(label.lastIndexOf(' ', 28), 1, "\n");
            auto* fix = new QPushButton(label);
            fix->setAccessibleName(QString::fromStdString(f.fix->name));
            fix->setProperty("link", true);
            fix->setObjectName("fix-" + QString::fromStdString(f.id));
            connect(fix, &QPushButton::clicked, this, [this, edit = *f.fix] {
                const auto done = document.edit(edit);
                if (!done) Q_EMIT said(QString::fromStdString(done.problem().text()), false);
            });
            row->addWidget(fix);
        }
        row->addStretch();
        auto* w = new QPushButton("waive...");
        w->setProperty("link", true);
        w->setProperty("quiet", true);
        connect(w, &QPushButton::clicked, this, [this, f] { waive(f); });
        row->addWidget(w);
        words->addLayout(row);
    }
    layout->addLayout(words, 1);
    return box;
}

void FindingsPanel::refresh() {
    const auto& all = document.findings();
    QString now = station;
    for (const auto& f : all)
        now += QString::fromStdString(f.id + f.text + (f.waived ? "w" : "") + (f.fix ? f.fix->name : ""));
    if (now == shown) return; // do not take the keyboard's place away for nothing
    shown = now;
    if (list) {
        list->hide();
        top->removeWidget(list);
        list->deleteLater();
    }
    list = new QWidget;
    auto* layout = new QVBoxLayout(list);
    layout->setContentsMargins(0, side ? 12 : 0, 0, 0);
    layout->setSpacing(2);
    const auto heading = [&](const QString& s, bool strong) {
        auto* l = new QLabel(s);
        l->setFont(theme::text(static_cast<Size>(strong ? 15 : 13), true));
        if (!strong) l->setProperty("faint", true);
        layout->addWidget(l);
    };
    std::vector<const rules::Finding*> here, elsewhere;
    for (const auto& f : all) (QString::fromStdString(f.station) == station ? here : elsewhere).push_back(&f);
    const auto open = std::count_if(here.begin(), here.end(), [](const auto* f) { return !f->waived; });
    if (!side || open)
        heading(open == 0   ? "No findings here"
                : open == 1 ? "1 finding here"
                            : QString("%1 findings here").arg(open),
                true);
    for (const auto* f : here) layout->addWidget(card(*f));
    if (!elsewhere.empty()) {
        layout->addSpacing(10);
        heading("Elsewhere", false);
        for (const auto* f : elsewhere) {
            auto* l = new QLabel(spoken(QString::fromStdString(f->station)) + ": " + QString::fromStdString(f->title));
            l->setWordWrap(true);
            l->setProperty("dim", true);
            l->setContentsMargins(12, 2, 0, 2);
            layout->addWidget(l);
        }
    }
    top->addWidget(list);
}

} // namespace ember::app
