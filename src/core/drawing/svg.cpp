// A drawing as SVG and as JSON.
#include "of_build.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace ember::drawing {

namespace {

std::string escaped(const std::string& text) {
    std::string out;
    for (const char c : text)
        if (c == '&')
            out += "&amp;";
        else if (c == '<')
            out += "&lt;";
        else
            out += c;
    return out;
}

const char* colour(Ink ink) {
    switch (ink) {
    case Ink::Part:
    case Ink::Wire:
    case Ink::Name: return "#111";
    case Ink::Supply: return "#a03010";
    case Ink::Value: return "#333";
    case Ink::Volts: return "#0a6a5a";
    }
    return "#111";
}

std::string path(const std::vector<Point>& points, bool closed) {
    std::string out;
    for (const Point& p : points) out += fmt::format("{}{:.3f} {:.3f}", out.empty() ? "M" : " L", p.x, p.y);
    return out + (closed ? " Z" : "");
}

} // namespace

std::string toSvg(const Drawing& d, const std::string& title) {
    std::string out =
        fmt::format("<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{0:.2f}mm\" height=\"{1:.2f}mm\" "
                    "viewBox=\"0 0 {0:.2f} {1:.2f}\" style=\"max-width:100%;height:auto\">\n<title>{2}</title>\n"
                    "<rect width=\"100%\" height=\"100%\" fill=\"white\"/>\n",
                    d.width, d.height, escaped(title));
    for (const Wire& w : d.wires)
        out +=
            fmt::format("<path d=\"{}\" fill=\"none\" stroke=\"#111\" stroke-width=\"0.3\"/>\n", path(w.points, false));
    for (const Line& l : d.lines)
        out += fmt::format("<path d=\"{}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"{:.2f}\"/>\n",
                           path(l.points, l.closed), l.filled ? "white" : "none", colour(l.ink), l.width);
    for (const Ring& r : d.rings)
        out += fmt::format("<circle cx=\"{:.3f}\" cy=\"{:.3f}\" r=\"{:.3f}\" fill=\"none\" stroke=\"{}\" "
                           "stroke-width=\"0.35\"/>\n",
                           r.centre.x, r.centre.y, r.radius, colour(r.ink));
    for (const Point& p : d.dots)
        out += fmt::format("<circle cx=\"{:.3f}\" cy=\"{:.3f}\" r=\"0.6\" fill=\"#111\"/>\n", p.x, p.y);
    for (const Word& w : d.words) {
        const double x = w.align == Align::Left     ? w.box.x
                         : w.align == Align::Centre ? w.box.x + w.box.width / 2
                                                    : w.box.x + w.box.width;
        const char* anchor = w.align == Align::Left ? "start" : w.align == Align::Centre ? "middle" : "end";
        out += fmt::format(
            "<text x=\"{:.3f}\" y=\"{:.3f}\" font-family=\"sans-serif\" style=\"font-size:{:.2f}px\" "
            "textLength=\"{:.3f}\" lengthAdjust=\"spacingAndGlyphs\" text-anchor=\"{}\" fill=\"{}\">{}</text>\n",
            x, w.box.y + 0.8 * w.box.height, w.box.height, w.box.width, anchor, colour(w.ink), escaped(w.text));
    }
    return out + "</svg>\n";
}

Json toJson(const Drawing& d, const schematic::Schematic& schematic) {
    Json boxes = Json::array(), wires = Json::array(), pins = Json::array();
    const auto box = [&](const std::string& id, const char* kind, const Box& b) {
        boxes.push_back({{"id", id}, {"kind", kind}, {"x", b.x}, {"y", b.y}, {"width", b.width}, {"height", b.height}});
    };
    for (const Body& b : d.bodies) box(b.id.empty() ? "terminal" : b.id, "body", b.box);
    for (const Word& w : d.words) box(w.text, "label", w.box);
    for (const Wire& w : d.wires) {
        Json points = Json::array();
        for (const Point& p : w.points) points.push_back({p.x, p.y});
        wires.push_back({{"net", schematic[w.net].name}, {"points", points}});
    }
    for (const PinPoint& p : d.pins) {
        const schematic::Part& part = schematic[p.part];
        pins.push_back({{"part", part.id},
                        {"pin", part.pins[static_cast<std::size_t>(p.pin)].name},
                        {"net", p.net.index < 0 ? Json() : Json(schematic[p.net].name)},
                        {"x", p.at.x},
                        {"y", p.at.y}});
    }
    return {{"width", d.width}, {"height", d.height}, {"crossings", d.crossings},
            {"boxes", boxes},   {"wires", wires},     {"pins", pins}};
}

} // namespace ember::drawing
