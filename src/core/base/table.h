#pragma once
// A table as spreadsheets write it: a line of heads, then a line for each row.

#include "result.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

struct Table {
    struct Row {
        int line = 0; ///< of the text, from 1
        std::vector<std::string> cells;
    };
    std::map<std::string, std::size_t> columns; ///< by their heads
    std::vector<Row> rows;                      ///< empty lines are left out

    /// Empty where the row is shorter or there is no such column.
    [[nodiscard]] std::string cell(const Row& row, const std::string& head) const;
};

/// Columns apart by `;` where the first line has one, else by tabs where it has one, else by `,`; cells in double
/// quotes may hold any of them and quotes, doubled (RFC 4180), but no end of a line. A Problem where there is no line,
/// or where one of the heads `wanted` is missing.
Expected<Table> tableOf(std::string_view text, const std::vector<std::string>& wanted);

/// A number with a decimal point or comma; nothing where the cell is another text.
std::optional<double> numberIn(std::string cell);

} // namespace ember
