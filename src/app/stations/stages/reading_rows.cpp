#include "reading_rows.h"

#include <array>
#include <cmath>
#include <limits>

namespace ember::app {

namespace {

/// The values of a reading in the order of their columns; the section's number stands behind them.
constexpr std::array readValues{&ReadPoint::plate, &ReadPoint::screen, &ReadPoint::grid, &ReadPoint::plateAmps,
                                &ReadPoint::screenAmps};
constexpr std::array<NumberColumn, 6> readColumns{{{"plate V", Unit::Volt, 1},
                                                   {"screen V", Unit::Volt, 1},
                                                   {"grid V", Unit::Volt, 1},
                                                   {"plate mA", Unit::Ampere, 1e-3},
                                                   {"screen mA", Unit::Ampere, 1e-3},
                                                   {"section", Unit::None, 1}}};
constexpr int screenColumn = 1, plateAmpsColumn = 3, screenAmpsColumn = 4, sectionColumn = 5;

} // namespace

ReadingRows::ReadingRows(QWidget* parent) : NumberRows(readColumns, "model off", parent) {
    setObjectName("readingsTable");
    setAccessibleName("Readings of the valve");
}

void ReadingRows::suit(const ValveType& type) {
    const bool pentode = type.section(type.sections()).pentode;
    for (const int c : {screenColumn, screenAmpsColumn}) setColumnHidden(c, !pentode);
    setColumnHidden(sectionColumn, type.sections() < 2);
}

void ReadingRows::fill(const std::vector<ReadPoint>& points) {
    std::vector<std::vector<double>> rows;
    for (const ReadPoint& p : points) {
        auto& row = rows.emplace_back();
        for (const auto value : readValues)
            row.push_back(p.*value != 0 || value == &ReadPoint::grid ? p.*value
                                                                     : std::numeric_limits<double>::quiet_NaN());
        row.push_back(p.section);
    }
    fillRows(rows);
}

Expected<std::vector<ReadPoint>> ReadingRows::typed() const {
    const auto rows = typedRows();
    if (!rows) return rows.problem();
    std::vector<ReadPoint> out;
    for (const auto& [row, names] : *rows) {
        ReadPoint p;
        p.plate = 0;
        for (std::size_t c = 0; c < readValues.size(); ++c)
            if (std::isfinite(row[c])) p.*readValues[c] = row[c];
        if (const double section = row[sectionColumn]; std::isfinite(section)) {
            p.section = static_cast<int>(section);
            if (p.section != section || p.section < 1 || p.section > 4)
                return Problem{"", "section: its number is expected, 1 or 2"};
        }
        if (p.plateAmps > 0) out.push_back(p); // a row without its current is not finished
    }
    return out;
}

void ReadingRows::showErrors(const std::vector<double>& errors) {
    QStringList words;
    for (const double e : errors) words << percent(e);
    showRemarks(words, plateAmpsColumn);
}

} // namespace ember::app
