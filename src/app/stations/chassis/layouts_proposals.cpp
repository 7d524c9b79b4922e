// Arrangements that the program proposes: asked for, stopped, arrived.
#include "layouts_dialog.h"

#include "app/widgets/words.h"
#include "core/build/own_types.h"

#include <QProgressBar>
#include <QPushButton>
#include <QTableWidget>
#include <QtConcurrentRun>

#include <algorithm>

namespace ember::app {

using namespace chassis;

void LayoutsDialog::propose() {
    if (search.isRunning()) return;
    const Build& b = document.build();
    if (std::all_of(b.chassis.parts.begin(), b.chassis.parts.end(), [](const PlacedPart& p) { return p.locked; })) {
        answer->setText("Every part is locked, or none stands on the plate: there is nothing to move.");
        return;
    }
    stopping = std::stop_source();
    asked = document.revisionNow();
    share = 0;
    bar->setValue(0);
    bar->show();
    stopButton->show();
    proposeButton->setEnabled(false);
    ticking.start();
    answer->setText("Laying the parts out in every arrangement ...");
    search.setFuture(QtConcurrent::run([this, b, figures = document.figures(), token = stopping.get_token()] {
        return arrange::arrangements(
            b, catalogueOf(b), figures,
            {.progress = [this](double s) { share = s; }, .stop = token, .plates = true, .yardstick = true});
    }));
}

void LayoutsDialog::stop() {
    stopping.request_stop();
}

void LayoutsDialog::arrived() {
    ticking.stop();
    bar->hide();
    stopButton->hide();
    proposeButton->setEnabled(true);
    auto found = search.result();
    if (asked != document.revisionNow()) return answer->setText("The build changed meanwhile: ask again.");
    if (found.empty()) {
        answer->setText("Stopped; nothing was changed.");
        return;
    }
    arranged = std::move(found);
    sortColumn = 0;
    refresh();
    const auto fit = std::count_if(arranged.begin(), arranged.end(), [](const auto& a) { return a.misfits == 0; });
    answer->setText(QString("%1 of %2 arrangements fit this plate. Use one, or lock what you like of it and ask again.")
                        .arg(fit)
                        .arg(arranged.size()));
    for (std::size_t k = 0; k < order.size(); ++k)
        if (rows[order[k]].kind == Row::Kind::Arrangement) return choose(static_cast<int>(k));
}

} // namespace ember::app
