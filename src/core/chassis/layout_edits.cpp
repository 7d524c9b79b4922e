#include "layout_edits.h"

#include "core/quantity/letters.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace ember::chassis {

namespace {

std::string pointerTo(std::size_t part, const char* key) {
    return fmt::format("/chassis/parts/{}/{}", part, key);
}

constexpr double usualMetal = 2e-3, usualWood = 18e-3; // [m]

Edit storeyEdit(double metres) {
    const double high = std::ceil(metres * 1e3 / 5 - 1e-9) * 5e-3;
    return setValue(fmt::format("raise the upper chassis to {:.0f} mm", high * 1e3), "/chassis/storey", high);
}

/// Whether part `k` stands clear of everything it could be in the way of.
bool stands(const Chassis& c, std::size_t k, double volts) {
    return checkFit(c, assemble(c), volts, k).empty();
}

std::optional<Edit> shortestMove(const Chassis& c, std::size_t k, double volts) {
    if (c.parts[k].locked) return std::nullopt;
    static constexpr std::array<std::array<double, 2>, 8> ways{
        {{1, 0}, {-1, 0}, {0, 1}, {0, -1}, {0.7071, 0.7071}, {-0.7071, 0.7071}, {0.7071, -0.7071}, {-0.7071, -0.7071}}};
    for (int millimetres = 1; millimetres <= 60; ++millimetres)
        for (const auto& way : ways) {
            const double far = 1e-3 * millimetres;
            Chassis moved = c;
            moved.parts[k].x += far * way[0];
            moved.parts[k].y += far * way[1];
            if (!stands(moved, k, volts)) continue;
            Edit e = moveParts(c, {k}, far * way[0], far * way[1]);
            e.name = moveWords(c.parts[k], far * way[0], far * way[1]);
            return e;
        }
    return std::nullopt;
}

} // namespace

std::string tagOf(const PlacedPart& p) {
    if (!p.of.empty() && p.of.find('-') == std::string::npos) return upper(p.of);
    // "p-strip1": "Strip 1"; "input-left": "Input left".
    const std::string& id = p.of.empty() ? p.id : p.of;
    std::string out;
    for (const char c : id.rfind("p-", 0) == 0 ? id.substr(2) : id) {
        const bool digit = c >= '0' && c <= '9';
        if (digit && !out.empty() && out.back() != ' ' && !(out.back() >= '0' && out.back() <= '9')) out += ' ';
        out += c == '-' ? ' ' : c;
    }
    if (!out.empty()) out[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(out[0])));
    return out;
}

std::string moveWords(const PlacedPart& p, double dx, double dy) {
    std::string way;
    const bool wall = !isPlate(p.face);
    if (std::abs(dx) > 5e-5) way += fmt::format(" {:.1f} mm {}", std::abs(dx) * 1e3, dx > 0 ? "right" : "left");
    if (std::abs(dy) > 5e-5)
        way += fmt::format("{} {:.1f} mm {}", way.empty() ? "" : ",", std::abs(dy) * 1e3,
                           dy > 0 ? (wall ? "up" : "back") : (wall ? "down" : "forward"));
    return "move " + tagOf(p) + way;
}

Edit moveParts(const Chassis& c, const std::vector<std::size_t>& which, double dx, double dy) {
    std::vector<Edit> all;
    for (const std::size_t k : which) {
        if (c.parts[k].locked) continue;
        all.push_back(setValue("", pointerTo(k, "x"), c.parts[k].x + dx));
        all.push_back(setValue("", pointerTo(k, "y"), c.parts[k].y + dy));
    }
    return together(
        which.size() == 1 ? moveWords(c.parts[which[0]], dx, dy) : fmt::format("move {} parts", which.size()), all);
}

Edit turnParts(const Chassis& c, const std::vector<std::size_t>& which, double degrees) {
    std::vector<Edit> all;
    for (const std::size_t k : which) {
        if (c.parts[k].locked) continue;
        all.push_back(setValue("", pointerTo(k, "angle"), std::remainder(c.parts[k].angle + degrees, 360)));
    }
    return together(which.size() == 1 ? fmt::format("turn {} {:.0f}\u00b0", tagOf(c.parts[which[0]]), degrees)
                                      : fmt::format("turn {} parts", which.size()),
                    all);
}

Edit toOneChassis(const Chassis& c) {
    std::vector<Edit> edits{setValue("", "/chassis/storey", 0)};
    for (std::size_t k = 0; k < c.parts.size(); ++k)
        if (isLower(c.parts[k].face))
            edits.push_back(setText("", pointerTo(k, "face"), std::string(faceName(upperOf(c.parts[k].face)))));
    return together("one chassis", edits);
}

Edit inForm(const Chassis& c, ChassisForm form) {
    const bool board = form == ChassisForm::Board;
    const std::string name(chassisFormNames[static_cast<std::size_t>(form)]);
    std::vector<Edit> edits{setText("", "/chassis/form", name)};
    if (isTower(c) && (board || form == ChassisForm::Plate)) edits.push_back(toOneChassis(c));
    if (board != (c.form == ChassisForm::Board))
        edits.push_back(setValue("", "/chassis/thickness", board ? usualWood : usualMetal));
    return together("chassis form: " + name, edits);
}

std::optional<Edit> mend(const Chassis& c, const FitProblem& p, double volts) {
    const PlacedPart& part = c.parts[p.a];
    switch (p.kind) {
    case FitKind::Touching:
    case FitKind::TooNear:
    case FitKind::HolesMeet:
    case FitKind::NoScrewdriver: {
        // The lighter of the two is the one to move.
        const std::size_t light = c.parts[p.a].mass <= c.parts[p.b].mass ? p.a : p.b;
        if (auto e = shortestMove(c, light, volts)) return e;
        return shortestMove(c, light == p.a ? p.b : p.a, volts);
    }
    case FitKind::AtPillar:
    case FitKind::OffTheFace:
    case FitKind::NearEdge: return shortestMove(c, p.a, volts);
    case FitKind::CannotDraw: {
        if (isLower(part.face)) return storeyEdit(c.storey + p.wanted - p.gap);
        const double recess = part.recess + p.wanted - p.gap;
        Chassis sunk = c;
        sunk.parts[p.a].recess = recess;
        if (recess > 0.04 || !stands(sunk, p.a, volts)) return std::nullopt;
        return setValue(fmt::format("sink the socket of {} by {:.0f} mm", tagOf(part), (p.wanted - p.gap) * 1e3),
                        pointerTo(p.a, "recess"), recess);
    }
    case FitKind::AboveLid:
        if (isLower(part.face)) return storeyEdit(c.storey - p.gap);
        return setValue(fmt::format("raise the lid to {:.0f} mm", (c.lid - p.gap) * 1e3), "/chassis/lid",
                        c.lid - p.gap);
    case FitKind::BelowDepth:
        return setValue(fmt::format("walls of {:.0f} mm", std::ceil((c.height - p.gap) * 1e3 / 5) * 5),
                        "/chassis/height", std::ceil((c.height - p.gap) * 1e3 / 5) * 5e-3);
    }
    return std::nullopt;
}

std::optional<Edit> quieterStorey(const Chassis& c, const Hum& hum, std::size_t victim) {
    constexpr double step = 5e-3, most = 0.15; // [m] of more height
    for (double more = step; more < most + step / 2; more += step) {
        Chassis high = c;
        high.storey += more;
        for (const auto& [part, tesla] : exposures(high, dipolesOf(high, assemble(high)), hum).victims)
            if (part == victim && tesla < allowedTesla) return storeyEdit(high.storey);
    }
    return std::nullopt;
}

bool standFree(const Chassis& chassis, PlacedPart& part, double volts) {
    Chassis trial = chassis;
    trial.parts.push_back(part);
    PlacedPart& mine = trial.parts.back();
    const std::size_t index = trial.parts.size() - 1;
    const Frame f = frameOf(chassis, part.face);
    part.x = f.width / 2;
    part.y = f.height / 2;
    double nearest = std::numeric_limits<double>::infinity();
    for (double x = 0.01; x < f.width; x += 0.01)
        for (double y = 0.01; y < f.height; y += 0.01) {
            const double far = std::hypot(x - f.width / 2, y - f.height / 2);
            if (far >= nearest) continue;
            mine.x = x;
            mine.y = y;
            if (!checkFit(trial, assemble(trial), volts, index).empty()) continue;
            nearest = far;
            part.x = x;
            part.y = y;
        }
    return std::isfinite(nearest);
}

} // namespace ember::chassis
