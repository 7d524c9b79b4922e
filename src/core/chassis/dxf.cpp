#include "dxf.h"

#include "template_svg.h"

#include <dxflib/dl_creationadapter.h>
#include <dxflib/dl_dxf.h>
#include <fmt/format.h>

#include <algorithm>
#include <cstdio>
#include <fstream>
#include <memory>

namespace ember::chassis {

namespace {

constexpr double toMm = 1e3;

void polyline(DL_Dxf& dxf, DL_WriterA& w, const std::string& layer,
              const std::vector<std::pair<double, double>>& points) {
    const DL_Attributes attributes(layer, 256, -1, "BYLAYER", 1.0);
    dxf.writePolyline(w, DL_PolylineData(static_cast<int>(points.size()), 0, 0, 1), attributes); // 1: closed
    for (const auto& [x, y] : points) dxf.writeVertex(w, DL_VertexData(x * toMm, y * toMm, 0, 0));
    dxf.writePolylineEnd(w);
}

/// Circles and closed outlines, in the drawing's units.
class Collector : public DL_CreationAdapter {
  public:
    struct Outline {
        double left = 1e300, right = -1e300, low = 1e300, high = -1e300;
        bool closed = false;
        [[nodiscard]] double area() const { return (right - left) * (high - low); }
    };
    std::vector<DL_CircleData> circles;
    std::vector<Outline> outlines;
    bool inches = false;

    void addCircle(const DL_CircleData& c) override { circles.push_back(c); }
    void addPolyline(const DL_PolylineData& p) override {
        outlines.emplace_back();
        outlines.back().closed = p.flags & 1;
    }
    void addVertex(const DL_VertexData& v) override {
        if (outlines.empty()) return;
        Outline& o = outlines.back();
        o.left = std::min(o.left, v.x);
        o.right = std::max(o.right, v.x);
        o.low = std::min(o.low, v.y);
        o.high = std::max(o.high, v.y);
    }
    void setVariableInt(const std::string& name, int value, int) override {
        if (name == "$INSUNITS") inches = value == 1;
    }
};

/// A DXF is pairs of lines, a whole number and a value; the first that is not says where the file breaks.
Expected<Done> checkPairs(const std::filesystem::path& file) {
    std::ifstream in(file);
    if (!in) return Problem{file.string(), "there is no such file, or it may not be read"};
    std::string code, value;
    int line = 0;
    bool ended = false;
    while (!ended && std::getline(in, code)) {
        ++line;
        const auto from = code.find_first_not_of(" \t\r"), to = code.find_last_not_of(" \t\r");
        const std::string digits = from == std::string::npos ? "" : code.substr(from, to - from + 1);
        if (digits.empty() || digits.size() > 5 || digits.find_first_not_of("-0123456789") != std::string::npos)
            return Problem{fmt::format("{} line {}", file.filename().string(), line),
                           "a group code, a whole number, is expected here: this is not a DXF, or it was damaged"};
        if (!std::getline(in, value))
            return Problem{fmt::format("{} line {}", file.filename().string(), line),
                           "the file ends after a group code; it was cut off"};
        ++line;
        if (line > 4000000) return Problem{file.filename().string(), "the drawing is too large to be a chassis"};
        value.erase(value.find_last_not_of(" \t\r") + 1);
        ended = digits == "0" && value == "EOF";
    }
    if (!ended)
        return Problem{fmt::format("{} line {}", file.filename().string(), line),
                       "the file ends without its EOF mark; it was cut off"};
    return Done{};
}

} // namespace

Expected<Done> writeTemplateDxf(const Chassis& c, Face face, const std::filesystem::path& file) {
    DL_Dxf dxf;
    const std::unique_ptr<DL_WriterA> w(dxf.out(file.string().c_str(), DL_VERSION_R12));
    if (!w) return Problem{file.string(), "not written: the place cannot be opened"};
    dxf.writeHeader(*w);
    w->sectionEnd();
    w->sectionTables();
    w->tableLayers(4);
    for (const char* layer : {"0", "cut", "drill", "engrave"})
        dxf.writeLayer(*w, DL_LayerData(layer, 0), DL_Attributes("", 7, -1, "CONTINUOUS", 1.0));
    w->tableEnd();
    w->sectionEnd();
    w->sectionEntities();
    const Frame f = frameOf(c, face);
    polyline(dxf, *w, "cut", {{0, 0}, {f.width, 0}, {f.width, f.height}, {0, f.height}});
    for (const ListedHole& h : holesOf(c, face)) {
        if (h.shape == HoleShape::Round)
            dxf.writeCircle(*w, DL_CircleData(h.x * toMm, h.y * toMm, 0, h.width / 2 * toMm),
                            DL_Attributes("drill", 256, -1, "BYLAYER", 1.0));
        else
            polyline(dxf, *w, "cut", outlineOf(h));
    }
    for (const PlacedPart& p : c.parts)
        if (p.face == face)
            dxf.writeText(*w,
                          DL_TextData(p.x * toMm, p.y * toMm, 0, p.x * toMm, p.y * toMm, 0, 3, 1, 0, 0, 0,
                                      p.of.empty() ? p.id : p.of, "STANDARD", 0),
                          DL_Attributes("engrave", 256, -1, "BYLAYER", 1.0));
    w->sectionEnd();
    w->dxfEOF();
    w->close();
    return Done{};
}

Expected<Drawing> readDxf(const std::filesystem::path& file) {
    if (auto ok = checkPairs(file); !ok) return ok.problem();
    Collector all;
    DL_Dxf dxf;
    if (!dxf.in(file.string(), &all)) return Problem{file.string(), "the drawing could not be read"};
    const double unit = all.inches ? 0.0254 : 1e-3;
    Drawing d;
    double left = 0, low = 0;
    const Collector::Outline* rim = nullptr;
    for (const auto& o : all.outlines)
        if (o.closed && o.area() > 0 && (!rim || o.area() > rim->area())) rim = &o;
    const auto inside = [&](const DL_CircleData& k) {
        return rim && k.cx > rim->left && k.cx < rim->right && k.cy > rim->low && k.cy < rim->high;
    };
    // An outline that holds the circles is the face; else everything is measured from the lower left.
    if (rim && (all.circles.empty() || std::all_of(all.circles.begin(), all.circles.end(), inside))) {
        left = rim->left;
        low = rim->low;
        d.width = (rim->right - rim->left) * unit;
        d.height = (rim->high - rim->low) * unit;
    } else {
        rim = nullptr;
    }
    for (const auto& k : all.circles) {
        if (!(k.radius > 0)) continue;
        Hole h;
        h.x = (k.cx - left) * unit;
        h.y = (k.cy - low) * unit;
        h.width = h.height = 2 * k.radius * unit;
        d.holes.push_back(h);
    }
    for (const auto& o : all.outlines) {
        if (!o.closed || &o == rim || !(o.area() > 0)) continue;
        Hole h;
        h.shape = HoleShape::Rectangle;
        h.x = ((o.left + o.right) / 2 - left) * unit;
        h.y = ((o.low + o.high) / 2 - low) * unit;
        h.width = (o.right - o.left) * unit;
        h.height = (o.high - o.low) * unit;
        d.holes.push_back(h);
    }
    if (d.holes.empty() && d.width == 0)
        return Problem{file.string(), "the drawing holds no circle and no closed outline"};
    for (std::size_t k = 0; k < d.holes.size(); ++k) d.holes[k].id = fmt::format("g{}", k + 1);
    return d;
}

} // namespace ember::chassis
