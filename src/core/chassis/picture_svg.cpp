#include "picture_svg.h"

#include "layout_edits.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember::chassis {

namespace {

/// Names that do not lie over each other: each at its part's centre, or as near to it as there is room.
class Names {
  public:
    std::pair<double, double> place(double x, double y, const std::string& words) {
        const double half = 0.5 * fontSize * 0.6 * static_cast<double>(words.size());
        for (int ring = 0; ring < 8; ++ring)
            for (const auto& [u, v] : {std::pair{0.0, 1.0}, {0.0, -1.0}, {1.0, 0.0}, {-1.0, 0.0}}) {
                const Box box{x + u * ring * fontSize - half, y + v * ring * fontSize - fontSize, 2 * half, fontSize};
                if (std::any_of(taken.begin(), taken.end(), [&](const Box& t) { return t.meets(box); })) continue;
                taken.push_back(box);
                return {box.x + half, box.y + fontSize};
            }
        return {x, y};
    }
    static constexpr double fontSize = 6.5; ///< [mm]

  private:
    struct Box {
        double x, y, w, h;
        [[nodiscard]] bool meets(const Box& o) const {
            return x < o.x + o.w && o.x < x + w && y < o.y + o.h && o.y < y + h;
        }
    };
    std::vector<Box> taken;
};

} // namespace

std::string pictureSvg(const Chassis& c, double width) {
    const Assembly assembly = assemble(c);
    const bool tower = isTower(c);
    const double margin = 0.03, step = c.depth + margin; // of a lower plate, drawn below the upper one
    const double w = (c.width + 2 * margin) * 1e3, h = (c.depth + 2 * margin + (tower ? step : 0)) * 1e3;
    std::string above, below, names, plates;
    for (const Face plate : plateFaces) {
        if (isLower(plate) && !tower) continue;
        const double down = isLower(plate) ? step : 0;
        const auto x = [&](double m) { return (m + margin) * 1e3; };
        const auto y = [&](double m) { return (c.depth + margin + down - m) * 1e3; };
        plates += fmt::format("<rect x=\"{:.2f}\" y=\"{:.2f}\" width=\"{:.2f}\" height=\"{:.2f}\" fill=\"#f4efe4\" "
                              "stroke=\"#1d1a17\"/>\n",
                              x(0), y(c.depth), c.width * 1e3, c.depth * 1e3);
        for (const PlacedBody& b : assembly.bodies) {
            const PlacedPart& p = c.parts[b.part];
            if (plateOf(p.face) != plate) continue;
            const Solid& s = b.solid;
            std::string& to = b.outside || !isPlate(p.face) ? above : below;
            if (s.cylinder && isPlate(p.face)) {
                to += fmt::format("<circle cx=\"{:.2f}\" cy=\"{:.2f}\" r=\"{:.2f}\"/>\n", x(s.centre.x()),
                                  y(s.centre.y()), s.half.x() * 1e3);
                continue;
            }
            std::string d;
            if (isPlate(p.face)) {
                for (const auto& [u, v] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
                    const Vector corner = s.centre + s.axes * Vector(u * s.half.x(), v * s.half.y(), 0);
                    d += fmt::format("{}{:.2f} {:.2f} ", d.empty() ? "M" : "L", x(corner.x()), y(corner.y()));
                }
            } else {
                const double left = s.support(-Vector::UnitX()).x(), right = s.support(Vector::UnitX()).x();
                const double near = s.support(-Vector::UnitY()).y(), far = s.support(Vector::UnitY()).y();
                d = fmt::format("M{0:.2f} {1:.2f}H{2:.2f}V{3:.2f}H{0:.2f}", x(left), y(near), x(right), y(far));
            }
            to += "<path d=\"" + d + "Z\"/>\n";
        }
        Names placed;
        for (std::size_t k = 0; k < c.parts.size(); ++k) {
            if (plateOf(c.parts[k].face) != plate) continue;
            const std::string tag = tagOf(c.parts[k]);
            const auto [left, base] = placed.place(x(assembly.centres[k].x()), y(assembly.centres[k].y()) + 2, tag);
            names += fmt::format("<text x=\"{:.2f}\" y=\"{:.2f}\">{}</text>\n", left, base, tag);
        }
    }
    return fmt::format(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.1f}mm\" viewBox=\"0 0 {1:.2f} {2:.2f}\" role=\"img\" "
        "aria-label=\"The layout from above{3}\">\n{4}<g fill=\"none\" stroke=\"#777\" stroke-width=\"0.6\" "
        "stroke-dasharray=\"2 2\">\n{5}</g>\n<g fill=\"#fff\" fill-opacity=\"0.6\" stroke=\"#1d1a17\" "
        "stroke-width=\"0.8\">\n{6}</g>\n<g font-size=\"6.5\" text-anchor=\"middle\" "
        "font-family=\"sans-serif\">\n{7}</g>\n</svg>\n",
        width, w, h, tower ? ", the lower chassis beneath" : "", plates, below, above, names);
}

} // namespace ember::chassis
