#include "finishes.h"

#include "cage.h"
#include "metal.h"
#include "tower.h"

#include <fmt/format.h>

#include <algorithm>
#include <numbers>

namespace ember::chassis {

namespace {

constexpr double paint = 0.12, wood = 700, brass = 8500; // [kg/m2, kg/m3, kg/m3]

/// Outer surface of the iron's bodies above the top [m2].
double ironSurface(const Chassis& c, const Assembly& assembly) {
    double area = 0;
    for (const PlacedBody& b : assembly.bodies) {
        if (!b.outside || !isIron(c.parts[b.part])) continue;
        const Vector s = 2 * b.solid.half;
        area += s.x() * s.y() + 2 * (s.x() + s.y()) * s.z();
    }
    return area;
}

} // namespace

std::vector<Face> stripsOf(const Chassis& c) {
    std::vector<Face> out;
    for (const Face face : upperWalls)
        if (std::any_of(c.parts.begin(), c.parts.end(), [&](const PlacedPart& p) { return p.face == face; }))
            out.push_back(face);
    return out;
}

std::vector<FinishPart> finishesOf(const Chassis& c, const Assembly& assembly) {
    std::vector<FinishPart> out;
    const auto mm = [](double metres) { return metres * 1e3; };
    const bool box = c.form == ChassisForm::Box;
    const double around = 2 * (c.width + c.depth), sheetArea = c.width * c.depth + (box ? around * c.height : 0);
    const int storeys = isTower(c) ? 2 : 1;
    const double middle = storeys == 2 ? -lowerBy(c) / 2 : 0; // of two alike
    const MetalFigures sheet = sheetOf(c), metal = figuresOf(c.metal);
    out.push_back({fmt::format("{}{} {:g} mm, {:g} x {:g} mm{}", sheet.name,
                               c.form == ChassisForm::Board ? "" : " sheet", mm(c.thickness), mm(c.width), mm(c.depth),
                               box ? fmt::format(", folded {:g} mm", mm(c.height)) : ""),
                   storeys, storeys * sheet.density * c.thickness * sheetArea, middle});
    if (c.form == ChassisForm::Board)
        for (const Face face : stripsOf(c)) {
            const double along = frameOf(c, face).width;
            out.push_back({fmt::format("strip of {} {:g} mm, {:g} x {:g} mm", metal.name, mm(stripSheet), mm(along),
                                       mm(c.height)),
                           1, metal.density * stripSheet * along * c.height, c.height / 2});
        }
    if (c.form == ChassisForm::Frame)
        out.push_back(
            {fmt::format("frame of {}, {:g} mm, {:g} x {:g} x {:g} mm",
                         c.wallFinish == WallFinish::AsPlate ? "wood"
                                                             : wallFinishNames[static_cast<std::size_t>(c.wallFinish)],
                         mm(frameBoard), mm(c.width), mm(c.depth), mm(c.height)),
             storeys, storeys * wood * frameBoard * around * c.height, middle - c.height / 2});
    if (c.plateFinish != PlateFinish::Bare && c.form != ChassisForm::Board) {
        const auto colour = plateFinishNames[static_cast<std::size_t>(c.plateFinish)];
        const double painted = storeys * sheetArea;
        out.push_back({fmt::format("paint, {}, for {:.2f} m\u00b2", colour, painted), 1, paint * painted, middle});
        if (c.ironFinish == IronFinish::AsPlate) {
            const double area = ironSurface(c, assembly);
            out.push_back({fmt::format("paint, {}, for {:.2f} m\u00b2 of iron", colour, area), 1, paint * area, 0.05});
        }
    }
    if (c.socketTrim == SocketTrim::Rings) {
        FinishPart rings{"bright ring for a socket", 0, 0, 0};
        for (const PlacedPart& p : c.parts) {
            if (p.kind != "socket" || !isPlate(p.face)) continue;
            double wide = 0;
            for (const Hole& h : p.holes) wide = std::max(wide, h.width);
            ++rings.count;
            rings.mass += std::numbers::pi * (wide + 0.004) * 0.004 * 0.001 * brass;
        }
        if (rings.count > 0) out.push_back(rings);
    }
    if (const auto pillars = pillarsOf(c); !pillars.empty()) {
        constexpr double ends = 20e-3;    // [m] of studding beyond the tube: two plates, washers, nuts
        constexpr double perMetre = 0.35; // [kg/m] of a steel tube 10 x 1 mm and M5 studding
        const double length = pillarLength(c), count = static_cast<double>(pillars.size());
        out.push_back({fmt::format("pillar: tube {:g} x {:.0f} mm on M5 studding of {:.0f} mm, two nuts",
                                   mm(pillarDiameter), mm(length), mm(length + ends)),
                       static_cast<int>(pillars.size()), count * perMetre * length, -lowerBy(c) / 2});
    }
    if (const double cage = cageHeight(c, assembly); cage > 0)
        out.push_back({fmt::format("cage of perforated steel, {:g} x {:g} x {:.0f} mm", mm(c.width - 2 * cageMargin),
                                   mm(c.depth - 2 * cageMargin), mm(cage)),
                       1, cageMass(c, cage), cage / 2});
    return out;
}

} // namespace ember::chassis
