#pragma once
// A page of HTML as it grows: headings, tables, figures, curves.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <string_view>
#include <vector>

namespace ember::report {

inline std::string escaped(std::string_view s) {
    std::string out;
    for (const char c : s) {
        switch (c) {
        case '&': out += "&amp;"; break;
        case '<': out += "&lt;"; break;
        case '>': out += "&gt;"; break;
        case '"': out += "&quot;"; break;
        default: out += c;
        }
    }
    return out;
}

class Page {
  public:
    void heading(std::string_view s) { text += fmt::format("<h2>{}</h2>\n", escaped(s)); }
    void paragraph(std::string_view s) { text += fmt::format("<p>{}</p>\n", escaped(s)); }
    void table(const std::vector<std::string>& head) {
        text += "<table><tr>";
        for (const auto& h : head) text += fmt::format("<th>{}</th>", escaped(h));
        text += "</tr>\n";
    }
    void row(const std::vector<std::string>& cells, bool struck = false) {
        text += struck ? "<tr class=\"struck\">" : "<tr>";
        for (const auto& c : cells) text += fmt::format("<td>{}</td>", escaped(c));
        text += "</tr>\n";
    }
    void end() { text += "</table>\n"; }
    /// A drawing that was made to stand alone; in a page it needs no name of its language.
    void figure(const std::string& words, std::string svg) {
        static constexpr std::string_view language = " xmlns=\"http://www.w3.org/2000/svg\"";
        if (const auto at = svg.find(language); at != std::string::npos) svg.erase(at, language.size());
        heading(words);
        text += "<figure>" + svg + "</figure>\n";
    }

    /// Volts against time; `logarithmic` from a tenth of a second on, for what falls at once and then slowly.
    struct Line {
        std::string name;
        const std::vector<double>* volts;
    };
    void curve(const std::vector<double>& seconds, const std::vector<Line>& lines, bool logarithmic,
               std::string_view title) {
        if (seconds.size() < 2 || lines.empty()) return;
        constexpr double w = 640, h = 200, first = 0.1;
        double most = 1;
        for (const Line& l : lines) most = std::max(most, *std::max_element(l.volts->begin(), l.volts->end()));
        const double last = seconds.back();
        const auto x = [&](double t) {
            return logarithmic ? w * std::log(std::max(t, first) / first) / std::log(last / first) : w * t / last;
        };
        text += fmt::format("<figure><svg viewBox=\"-44 -10 {} {}\" width=\"{}\" role=\"img\" aria-label=\"{}\">",
                            w + 110, h + 40, w, escaped(title));
        text += fmt::format("<text x=\"-40\" y=\"8\">{:.0f} V</text>", most);
        const auto tick = [&](double t, const std::string& words) {
            text += fmt::format("<line x1=\"{0:.1f}\" y1=\"0\" x2=\"{0:.1f}\" y2=\"{1}\" stroke=\"#ddd\"/><text "
                                "x=\"{0:.1f}\" y=\"{2}\" text-anchor=\"middle\">{3}</text>",
                                x(t), h, h + 18, words);
        };
        if (logarithmic)
            for (double t = first; t <= last * 1.001; t *= 10) tick(t, format(t, Unit::Second, 1));
        else
            for (const double share : {0.0, 0.5, 1.0}) tick(share * last, format(share * last, Unit::Second, 2));
        std::vector<std::pair<double, std::string>> names;
        for (const Line& l : lines) {
            text += "<polyline fill=\"none\" stroke=\"#7a5a18\" points=\"";
            double drawn = -1;
            for (std::size_t k = 0; k < seconds.size(); ++k) {
                const double at = x(seconds[k]);
                if (k + 1 < seconds.size() && at < drawn + 1) continue; // a point a pixel is enough
                text += fmt::format("{:.1f},{:.1f} ", at, h * (1 - (*l.volts)[k] / most));
                drawn = at;
            }
            text += "\"/>";
            names.emplace_back(h * (1 - l.volts->back() / most) + 4, l.name);
        }
        std::sort(names.begin(), names.end());
        double lowest = INFINITY; // names from the foot up, a line apart
        for (auto n = names.rbegin(); n != names.rend(); ++n) {
            lowest = std::min(n->first, lowest - 13);
            text += fmt::format("<text x=\"{}\" y=\"{:.1f}\">{}</text>", w + 4, lowest, escaped(n->second));
        }
        text += fmt::format("<line x1=\"0\" y1=\"{0}\" x2=\"{1}\" y2=\"{0}\" "
                            "stroke=\"#999\"/></svg><figcaption>{2}</figcaption></figure>\n",
                            h, w, escaped(title));
    }
    std::string text;
};

} // namespace ember::report
