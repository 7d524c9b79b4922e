#include "drawing_commands.h"

#include "output.h"

#include "core/build/own_types.h"
#include "core/build/storage.h"
#include "core/drawing/of_build.h"
#include "core/plan/solve.h"
#include "core/report/circuit_part.h"

#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <fstream>
#include <optional>

namespace ember::cli {

namespace {

int drawing(const std::string& file, const std::string& channel, const std::string& out, bool volts) {
    const auto build = loadBuild(file);
    if (!build) return refuse(build.problem());
    std::string known;
    std::size_t index = build->channels.size();
    for (std::size_t k = 0; k < build->channels.size(); ++k) {
        known += (known.empty() ? "" : ", ") + build->channels[k].id;
        if (build->channels[k].id == channel || (channel.empty() && k == 0)) index = k;
    }
    if (index == build->channels.size())
        return refuse({"--channel", known.empty() ? "this build has no channel: there is no path to draw"
                                                  : fmt::format("name a channel of this build: {}", known)});
    const auto ends = [&](const char* with) { return out.size() > 4 && out.ends_with(with); };
    std::string text;
    if (ends(".svg")) {
        std::optional<plan::Steady> steady;
        if (volts) {
            auto solved = plan::solveSteady(*build, catalogueOf(*build), {build->mains.volts});
            if (!solved) return refuse(solved.problem());
            steady = std::move(*solved);
        }
        text = report::circuitSvg(*build, catalogueOf(*build), index, steady ? &*steady : nullptr);
    } else if (ends(".json")) {
        const auto subject = drawing::channelSubject(*build, catalogueOf(*build), index);
        drawing::Words words;
        words.value = [&](const schematic::Part& p) { return drawing::valueOf(*build, p); };
        text = drawing::toJson(drawing::draw(subject->subject, words), subject->schematic).dump(1) + "\n";
    } else {
        return refuse({"--output", fmt::format("a file that ends in .svg or .json is expected, not \"{}\"", out)});
    }
    std::ofstream(out, std::ios::binary) << text;
    if (!std::ifstream(out)) return refuse({"--output", fmt::format("\"{}\" could not be written", out)});
    return fine;
}

} // namespace

void addDrawingCommand(CLI::App& app, int& code) {
    static std::string file, channel, out;
    static bool volts = false;
    auto* command =
        app.add_subcommand("drawing", "The circuit of a channel as a drawing, or its boxes, wires and pins");
    command->add_option("BUILD", file)->required();
    command->add_option("--channel", channel, "by its id; the first where none is named");
    command->add_option("-o,--output", out, "FILE.svg or FILE.json")->required();
    command->add_flag("--volts", volts, "of an SVG: with the volts at electrodes and supply nodes");
    command->callback([&code] { code = drawing(file, channel, out, volts); });
}

} // namespace ember::cli
