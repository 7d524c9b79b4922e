#include "wire_station.h"

#include "app/stations/underside/underside_picture.h"
#include "wire_table.h"

#include "app/widgets/words.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace ember::app {

WireStation::WireStation(Document& d, const StationName& names, QWidget* parent) : Station(d, names, parent) {
    column = new QVBoxLayout(this);
    column->setContentsMargins(18, 12, 6, 6);
    column->setSpacing(8);
    head = new QHBoxLayout;
    head->addWidget(label(names.title, theme::Size::Title));
    head->addSpacing(8);
    column->addLayout(head);
    picture = new UndersidePicture(document);
    connect(picture, &UndersidePicture::said, this, &Station::said);
    connect(&document, &Document::figuresChanged, this, [this] { whenSeen([this] { refresh(); }); });
}

void WireStation::finishHead(const char* wordsName) {
    words = label("", theme::Size::Text, false, "dim");
    words->setObjectName(wordsName);
    words->setWordWrap(true);
    column->addWidget(words);
    column->addWidget(picture, 5);
}

void WireStation::edit(const Edit& e) {
    if (auto done = document.edit(e); !done) Q_EMIT said(text(done.problem().text()), false);
}

void WireStation::offerWireMenu(WireTable* table) {
    table->setContextMenuPolicy(Qt::CustomContextMenu);
    connect(table, &QWidget::customContextMenuRequested, this, [this, table](QPoint at) {
        picture->showMenu(table->currentId().toStdString(), table->viewport()->mapToGlobal(at));
    });
}

double WireStation::shareDone() const {
    const auto& findings = document.findings();
    const bool open = std::any_of(findings.begin(), findings.end(),
                                  [&](const auto& f) { return text(f.station) == id && !f.waived; });
    return open || !document.figures().wires || document.build().chassis.parts.empty() ? 0.3 : 0.9;
}

} // namespace ember::app
