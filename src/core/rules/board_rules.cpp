// Boards that do not agree with the schematic.
#include "findings.h"

#include "core/chassis/layout_edits.h"
#include "core/wires/hum.h"

#include <fmt/format.h>

namespace ember::rules {

using namespace wires;

void boardRules(const Build& b, const Catalogue&, const plan::Figures& f, std::vector<Finding>& out) {
    if (!f.wires) return;
    for (const BoardFigures& board : f.wires->boards) {
        if (!board.laidOut) continue;
        const PlacedPart& on = b.chassis.parts[board.spot];
        for (const BoardProblem& p : board.problems) {
            const bool extra = p.kind == BoardProblem::Kind::Extra;
            const char* kind = extra ? "extra" : p.kind == BoardProblem::Kind::Missing ? "missing" : "unknown";
            out.push_back(
                finding("wiring", fmt::format("board/{}/{}/{}", on.id, kind, p.lug), extra ? Level::Stop : Level::Warn,
                        fmt::format("{} does not agree with the schematic", chassis::tagOf(on)), p.sentence + "."));
        }
        if (!board.waiting.empty())
            out.push_back(finding("wiring", "board-waiting/" + on.id, Level::Note,
                                  fmt::format("{} parts have no lugs on {}", board.waiting.size(), chassis::tagOf(on)),
                                  "They are taken to stand there somewhere; the board's plan gives them their lugs."));
    }
}

} // namespace ember::rules
