#include "place_all_button.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"
#include "core/chassis/place_all.h"

#include <QtConcurrentRun>

namespace ember::app {

PlaceAllButton::PlaceAllButton(Document& d, QWidget* parent) : QPushButton(parent), document(d) {
    setObjectName("placeAll");
    connect(this, &QPushButton::clicked, this, &PlaceAllButton::beginOrStop);
    connect(&document, &Document::buildChanged, this, &PlaceAllButton::refresh);
    connect(&search, &QFutureWatcherBase::finished, this, &PlaceAllButton::arrived);
    refresh();
}

PlaceAllButton::~PlaceAllButton() {
    stopping.request_stop();
    search.waitForFinished();
}

void PlaceAllButton::refresh() {
    if (search.isRunning()) return;
    const auto missing = chassis::missingParts(document.build(), catalogueOf(document.build()));
    setVisible(!missing.parts.empty());
    const auto count = missing.parts.size();
    setText(count == 1 ? QString("Place the missing part") : QString("Place %1 missing parts").arg(count));
    QStringList names;
    for (const PlacedPart& p : missing.parts) names << app::text(p.of.empty() ? p.kind : p.of);
    setToolTip("Parts of the circuit without a place: " + names.join(", ") +
               ". Sizes are typical: measure your own parts before drilling.");
}

void PlaceAllButton::beginOrStop() {
    if (search.isRunning()) {
        stopping.request_stop();
        return;
    }
    stopping = std::stop_source();
    asked = document.revisionNow();
    setText("Placing ... press to stop");
    search.setFuture(
        QtConcurrent::run([b = document.build(), figures = document.figures(), stop = stopping.get_token()]() mutable {
            return std::make_shared<const Expected<Edit>>(chassis::placeAll(b, catalogueOf(b), figures, stop));
        }));
}

void PlaceAllButton::arrived() {
    const auto found = search.result();
    const auto unknown = chassis::missingParts(document.build(), catalogueOf(document.build())).unknown;
    refresh();
    if (asked != document.revisionNow()) return Q_EMIT said("the build changed meanwhile: press again", false);
    if (!*found) return Q_EMIT said(app::text(found->problem().text()), false);
    const auto done = document.edit(**found);
    if (!done) return Q_EMIT said(app::text(done.problem().text()), false);
    QString words =
        "placed; Layouts shows other arrangements, Ctrl+Z takes it back. Measure your own parts before drilling";
    QStringList left;
    for (const std::string& u : unknown) left << app::text(u);
    if (!left.isEmpty()) words += "; the tray has no body for " + left.join(", ");
    Q_EMIT said(words, left.isEmpty());
}

} // namespace ember::app
