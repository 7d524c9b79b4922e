#include "price_table.h"

#include "core/base/table.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::report {

Expected<PricesRead> pricesFromTable(const Build& b, const PartsList& list, std::string_view text) {
    const auto table = tableOf(text, {"part", "price each"});
    if (!table) return table.problem();
    PricesRead out;
    std::vector<Edit> edits;
    Build so = b; // with what was read so far, for the places of the prices
    int same = 0;
    for (const Table::Row& row : table->rows) {
        const std::string words = table->cell(row, "part"), cell = table->cell(row, "price each");
        if (cell.empty()) continue;
        const auto each = numberIn(cell);
        if (!each || *each < 0)
            return Problem{fmt::format("line {}", row.line),
                           fmt::format("\"{}\" is not a price of \"{}\"", cell, words)};
        const auto line =
            std::find_if(list.lines.begin(), list.lines.end(), [&](const ListedPart& l) { return l.words == words; });
        if (line == list.lines.end()) {
            ++out.missing;
            continue;
        }
        if (line->each == *each) {
            ++same;
            continue;
        }
        edits.push_back(setPrice(so, words, *each));
        auto next = apply(so, edits.back());
        if (!next) return next.problem();
        so = std::move(*next);
        ++out.taken;
    }
    if (edits.empty())
        return Problem{"", same > 0 ? "the prices of this table are those that the list has"
                                    : "no price of this table is of a part of this build; parts are told apart by "
                                      "their words"};
    out.edit = together(fmt::format("{} prices from a table", out.taken), edits);
    return out;
}

} // namespace ember::report
