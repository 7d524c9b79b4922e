#include "wire_menu.h"

#include "app/widgets/words.h"
#include "core/wires/boards.h"
#include "core/wires/run_figures.h"
#include "core/wires/wire_edits.h"
#include "core/wires/wire_path.h"

#include <array>
#include <cmath>

namespace ember::app {

using namespace wires;

void fillWireMenu(QMenu& menu, const Build& b, const Harness& h, const Run& run,
                  const std::function<void(const Edit&, bool)>& edit) {
    const auto offer = [&](QMenu& to, const QString& words, const Edit& e, bool now = false, bool unsolders = false) {
        QAction* action = to.addAction(words);
        action->setCheckable(now);
        action->setChecked(now);
        QObject::connect(action, &QAction::triggered, action, [edit, e, unsolders] { edit(e, unsolders); });
    };
    std::vector<std::string> ids{run.wire.id};
    if (run.pair()) ids.push_back(run.twistedWith);
    const std::string name = spoken(run.wire.from) + " to " + spoken(run.wire.to);
    menu.addSection(text(name));
    QMenu* gauge = menu.addMenu("Conductor");
    for (const double area : standardAreas)
        offer(*gauge, QString("%1 mm²").arg(area * 1e6, 0, 'g', 3),
              changeWires(b, fmt::format("{} of {:g} mm²", name, area * 1e6), ids, [area](Wire& w) { w.area = area; }),
              std::abs(area - run.wire.area) < 1e-9);
    QMenu* insulation = menu.addMenu("Insulation");
    for (const double volts : {300.0, 600.0, 1000.0})
        offer(*insulation, text(volts, Unit::Volt, 4),
              changeWires(b, fmt::format("{} insulated for {:g} V", name, volts), ids,
                          [volts](Wire& w) { w.insulationVolts = volts; }),
              volts == run.wire.insulationVolts);
    if (run.kind != RunKind::Earth && run.kind != RunKind::Mains) { // those are the code's
        QMenu* colour = menu.addMenu("Colour");
        for (const char* c : {"black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white"})
            offer(*colour, c, changeWires(b, name + " in " + c, {run.wire.id}, [c](Wire& w) { w.colour = c; }),
                  run.wire.colour == c);
    }
    const auto ways = waypointsOf(h, run);
    const auto lugs = run.kind == RunKind::Ground ? std::vector<FreeLug>{} : freeLugs(b, h, run);
    if (!run.pair() && !(ways.empty() && lugs.empty())) {
        QMenu* way = menu.addMenu("By way of");
        for (const FreeLug& lug : lugs) offer(*way, text(lug.name), byWayOf(b, run, lug), false, true);
        way->addSeparator();
        for (const std::string& terminal : ways)
            offer(*way, text(spoken(terminal)), byWayOf(b, run, terminal), false, true);
    }
    menu.addSeparator();
    if (const auto back = proposedPath(b, run)) offer(menu, "By the proposed way", *back);
    if (const auto back = asProposed(b, run)) offer(menu, "As proposed", *back);
    if (run.own) {
        for (std::size_t k = 0; k < b.wiring.wires.size(); ++k)
            if (b.wiring.wires[k].id == run.wire.id)
                offer(menu, "Take away", removeAt(name + " taken away", fmt::format("/wiring/wires/{}", k)), false,
                      true);
    } else {
        offer(menu, "Take away", changeWires(b, name + " taken away", {run.wire.id}, [](Wire& w) { w.removed = true; }),
              false, true);
    }
}

} // namespace ember::app
