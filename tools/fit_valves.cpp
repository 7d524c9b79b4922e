// Fits the laws of the catalogue's valves to what is published of them, and writes the table of errors.
//   fit-valves data/catalogue/valves.json docs/valve_fits.md [TYPE | --all]
// Without a third word what has no law yet is fitted. The table is of all, whatever was fitted.

#include "core/catalogue/catalogue.h"
#include "core/catalogue/fit.h"
#include "core/catalogue/grid_current.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <fstream>

using namespace ember;
using nlohmann::ordered_json;

namespace {

double rounded(double v, int digits) {
    return std::stod(fmt::format("{:.{}g}", v, digits));
}

/// gm at the first point that has one, of it or of a section that it is like [A/V]; 0: none is published.
double publishedSlope(const TypeSection& s) {
    for (const PublishedPoint& p : s.published.points)
        if (p.gm > 0) return p.gm;
    return 0;
}

/// Writes a section's law, grid and errors.
void fit(const ValveType& valve, std::size_t n, ordered_json& section) {
    const TypeSection& s = valve.halves[n];
    const auto law = fitLaw(s.law, s.published);
    const FitError error = errorOf(law, s.published, true);
    double perveance = section.contains("grid") ? section["grid"].value("perveance", 0.0) : 0;
    if (!(perveance > 0)) perveance = rounded(typicalGridPerveance(publishedSlope(s)), 3);
    const auto grid = typicalGrid(valve, static_cast<int>(n) + 1, perveance);
    section["grid"] = {{"perveance", perveance}, {"onset", rounded(grid.onset, 3)}, {"width", rounded(grid.width, 3)}};
    section["model"] = ordered_json::object();
    const ordered_json model = lawToJson(law);
    for (const auto& [key, value] : model.items()) section["model"][key] = rounded(value.get<double>(), 6);
    section["fit"] = {{"fitted", rounded(error.fitted, 2)}};
    if (error.predicted > 0) section["fit"]["predicted"] = rounded(error.predicted, 2);
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        fmt::print(stderr, "usage: fit-valves VALVES.json TABLE.md [TYPE | --all]\n");
        return 2;
    }
    std::ifstream in(argv[1]);
    ordered_json file = ordered_json::parse(in, nullptr, false);
    if (file.is_discarded()) {
        fmt::print(stderr, "{} is not JSON\n", argv[1]);
        return 2;
    }
    const auto catalogue = Catalogue::read(file.dump(), R"({"rectifiers":[],"silicon":[]})",
                                           R"({"lamps":[{"volts":1,"watts":1,"kelvin":1,"timeConstant":1}]})");
    if (!catalogue) {
        fmt::print(stderr, "{}\n", catalogue.problem().text());
        return 2;
    }
    std::string table;
    int met = 0, all = 0;
    std::vector<std::pair<std::string, Compared>> outside;
    std::vector<double> predictions;
    const std::string wanted = argc > 3 ? argv[3] : "";
    int fitted = 0;
    for (std::size_t k = 0; k < catalogue->valves.size(); ++k) {
        const ValveType& valve = catalogue->valves[k];
        for (std::size_t n = 0; n < valve.halves.size(); ++n) {
            auto& section = file["valves"][k]["sections"][n];
            if (section.contains("like")) continue; // it shares that one's law
            if (wanted == "--all" || valve.type == wanted || (wanted.empty() && !section.contains("model"))) {
                fmt::print(stderr, "{}\n", valve.type);
                fit(valve, n, section);
                ++fitted;
            }
            const double predicted = section.contains("fit") ? section["fit"].value("predicted", 0.0) : 0;
            if (predicted > 0) predictions.push_back(predicted);
            const std::string name = valve.type + (valve.halves[n].name.empty() ? "" : " " + valve.halves[n].name);
            // From the rounded parameters, as the program will have them.
            const auto law = lawFromJson(section["model"], valve.halves[n].pentode);
            table +=
                fmt::format("\n### {}\n\n{}", name,
                            predicted > 0 ? fmt::format("Plate current at points left out in turn: {:.0f} % off.\n\n",
                                                        100 * predicted)
                                          : std::string());
            table += "| at | figure | published | computed | error |\n|---|---|---|---|---|\n";
            for (const Compared& c : compare(law, valve.halves[n].published)) {
                all += kindOf(c.figure).judged;
                met += kindOf(c.figure).judged && c.met();
                if (!c.met()) outside.emplace_back(name, c);
                table += fmt::format("| {} | {} | {} | {} | {:+.0f} %{} |\n", c.at, kindOf(c.figure).name,
                                     inWords(c.figure, c.published), inWords(c.figure, c.computed), 100 * c.error(),
                                     c.met() ? "" : " (!)");
            }
        }
    }
    if (!wanted.empty() && wanted != "--all" && fitted == 0) {
        fmt::print(stderr, "{} lists no {}\n", argv[1], wanted);
        return 1;
    }
    std::string text = fmt::format(
        "# Valves: published and computed\n\nWritten by `tools/fit_valves`. Currents are to be within 10 %, gm, mu and "
        "rp "
        "within 15 %, cut-off volts within 20 %, gains of stages within 8 %, powers and currents of operations within "
        "12 %: {} of {} figures are ({:.1f} %). Figures outside are marked (!) and listed first; single-ended and "
        "push-pull operations are computed without grid current's load on the driver, copper and leakage.\n\n## "
        "Outside\n\n"
        "| valve | at | figure | published | computed | error |\n|---|---|---|---|---|---|\n",
        met, all, 100.0 * met / std::max(1, all));
    for (const auto& [name, c] : outside)
        text += fmt::format("| {} | {} | {} | {} | {} | {:+.0f} % |\n", name, c.at, kindOf(c.figure).name,
                            inWords(c.figure, c.published), inWords(c.figure, c.computed), 100 * c.error());
    std::sort(predictions.begin(), predictions.end());
    if (!predictions.empty())
        text += fmt::format("\nOf the {} sections with two points and more, the median error of the plate current at a "
                            "point that was left out is {:.0f} %, nine in ten are below {:.0f} %.\n",
                            predictions.size(), 100 * predictions[predictions.size() / 2],
                            100 * predictions[predictions.size() * 9 / 10]);
    text += "\n## All\n" + table;
    std::ofstream(argv[2]) << text;
    if (fitted > 0) std::ofstream(argv[1]) << file.dump(1) << '\n';
    fmt::print("{} of {} figures are met ({:.1f} %)\n", met, all, 100.0 * met / std::max(1, all));
    for (const auto& [name, c] : outside)
        fmt::print("  {:16} {:60} {:28} {} {} {:+.0f} %\n", name, c.at, kindOf(c.figure).name,
                   inWords(c.figure, c.published), inWords(c.figure, c.computed), 100 * c.error());
    return 0;
}
