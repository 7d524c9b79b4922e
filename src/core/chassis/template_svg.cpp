#include "template_svg.h"

#include <fmt/format.h>

#include <array>
#include <cmath>

namespace ember::chassis {

namespace {

std::string closedPath(const ListedHole& hole, double x0, double y0) {
    std::string d;
    for (const auto& [px, py] : outlineOf(hole))
        d += fmt::format("{}{:.4f} {:.4f} ", d.empty() ? "M" : "L", x0 + px * 1e3, y0 - py * 1e3);
    return d + "Z";
}

} // namespace

std::string overlaySvg(const Chassis& c, Face face, const DrillingOverlay& o) {
    const Frame f = frameOf(c, face);
    const double w = f.width * 1e3, h = f.height * 1e3, margin = 10, bar = 22;
    std::string both, one, two;
    for (const DrillingOverlay::Entry& e : o.holes) {
        const std::string path = fmt::format("<path d=\"{}\"/>\n", closedPath(e.hole, margin, margin + h));
        (e.through ? both : e.second ? two : one) += path;
        if (e.through)
            both += fmt::format("<path d=\"M{:.4f} {:.4f}h6m-3 -3v6\"/>\n", margin + e.hole.x * 1e3 - 3,
                                margin + h - e.hole.y * 1e3);
    }
    const auto group = [](const char* id, const char* dash, const std::string& inner) {
        return fmt::format("<g id=\"{}\" fill=\"none\" stroke=\"black\" stroke-width=\"0.2\"{}>\n{}</g>\n", id, dash,
                           inner);
    };
    const auto frame = [&](double left, double near, double width, double height) {
        return fmt::format("<rect x=\"{:.4f}\" y=\"{:.4f}\" width=\"{:.4f}\" height=\"{:.4f}\"/>\n",
                           margin + left * 1e3, margin + h - (near + height) * 1e3, width * 1e3, height * 1e3);
    };
    return fmt::format(
               "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.3f}mm\" height=\"{1:.3f}mm\" viewBox=\"0 0 "
               "{0:.3f} {1:.3f}\">\n",
               w + 2 * margin, h + 2 * margin + bar) +
           group("first", "", frame(0, 0, f.width, f.height)) +
           group("second", " stroke-dasharray=\"6 2\"", frame(o.left, o.near, o.width, o.height)) +
           group("through", "", both) + group("first-alone", " stroke-dasharray=\"2 1\"", one) +
           group("second-alone", " stroke-dasharray=\"0.4 0.8\"", two) +
           fmt::format(
               "<g id=\"engrave\" fill=\"none\" stroke=\"black\" stroke-width=\"0.1\" font-family=\"sans-serif\" "
               "font-size=\"3\">\n<path d=\"M{0:.4f} {1:.4f}h100m0 -2v4m-100 0v-4\"/>\n<text x=\"{0:.3f}\" "
               "y=\"{2:.3f}\">100 mm: measure it before drilling. Clamp both boards; crosses go through both, "
               "dashed holes through the {3} alone, dotted ones through the second board alone</text>\n</g>\n"
               "</svg>\n",
               margin, margin + h + 10, margin + h + 16, faceName(face));
}

std::string templateSvg(const Chassis& c, Face face, const TemplateOptions& o) {
    const Frame f = frameOf(c, face);
    const double w = f.width * 1e3, h = f.height * 1e3, margin = 10, bar = 22;
    // SVG's y runs down; the face's up.
    const auto x = [&](double metres) { return margin + (o.mirrored ? w - metres * 1e3 : metres * 1e3); };
    const auto y = [&](double metres) { return margin + h - metres * 1e3; };
    std::string cut, drill, engrave;
    cut += fmt::format("<rect x=\"{:.4f}\" y=\"{:.4f}\" width=\"{:.4f}\" height=\"{:.4f}\"/>\n", margin, margin, w, h);
    for (const ListedHole& hole : holesOf(c, face)) {
        if (hole.shape == HoleShape::Round) {
            drill += fmt::format("<circle cx=\"{:.4f}\" cy=\"{:.4f}\" r=\"{:.4f}\"{}/>\n", x(hole.x), y(hole.y),
                                 hole.width * 500, hole.given ? " stroke-dasharray=\"1 1\"" : "");
        } else {
            std::string d;
            for (const auto& [px, py] : outlineOf(hole))
                d += fmt::format("{}{:.4f} {:.4f} ", d.empty() ? "M" : "L", x(px), y(py));
            cut += fmt::format("<path d=\"{}Z\"/>\n", d);
        }
        engrave += fmt::format("<path d=\"M{0:.4f} {1:.4f}h4M{2:.4f} {3:.4f}v4\"/>\n", x(hole.x) - 2, y(hole.y),
                               x(hole.x), y(hole.y) - 2);
    }
    if (o.labels)
        for (const PlacedPart& p : c.parts)
            if (p.face == face)
                engrave += fmt::format("<text x=\"{:.3f}\" y=\"{:.3f}\">{}</text>\n", x(p.x) + 2.5, y(p.y) - 2.5,
                                       p.of.empty() ? p.id : p.of);
    engrave += fmt::format("<path d=\"M{0:.4f} {1:.4f}h100m0 -2v4m-100 0v-4\"/>\n<text x=\"{2:.3f}\" y=\"{3:.3f}\">100 "
                           "mm: measure it before drilling. {4} "
                           "seen from {5}</text>\n",
                           margin, margin + h + 10, margin, margin + h + 16, faceName(face),
                           o.mirrored ? "inside" : "outside");
    return fmt::format("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.3f}mm\" height=\"{1:.3f}mm\" viewBox=\"0 "
                       "0 {0:.3f} {1:.3f}\">\n"
                       "<g id=\"cut\" fill=\"none\" stroke=\"black\" stroke-width=\"0.2\">\n{2}</g>\n"
                       "<g id=\"drill\" fill=\"none\" stroke=\"black\" stroke-width=\"0.2\">\n{3}</g>\n"
                       "<g id=\"engrave\" fill=\"none\" stroke=\"black\" stroke-width=\"0.1\" "
                       "font-family=\"sans-serif\" font-size=\"3\">\n{4}</g>\n</svg>\n",
                       w + 2 * margin, h + 2 * margin + bar, cut, drill, engrave);
}

} // namespace ember::chassis
