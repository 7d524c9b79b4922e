// Copying and destroying structures with many members, compiled once here and not in every file that copies one.
#include "figures.h"

namespace ember::plan {

PowerFigures::PowerFigures() = default;
PowerFigures::PowerFigures(const PowerFigures&) = default;
PowerFigures::PowerFigures(PowerFigures&&) noexcept = default;
PowerFigures& PowerFigures::operator=(const PowerFigures&) = default;
PowerFigures& PowerFigures::operator=(PowerFigures&&) noexcept = default;
PowerFigures::~PowerFigures() = default;

Steady::Steady() = default;
Steady::Steady(const Steady&) = default;
Steady::Steady(Steady&&) noexcept = default;
Steady& Steady::operator=(const Steady&) = default;
Steady& Steady::operator=(Steady&&) noexcept = default;
Steady::~Steady() = default;

Figures::Figures() = default;
Figures::Figures(const Figures&) = default;
Figures::Figures(Figures&&) noexcept = default;
Figures& Figures::operator=(const Figures&) = default;
Figures& Figures::operator=(Figures&&) noexcept = default;
Figures::~Figures() = default;

} // namespace ember::plan
