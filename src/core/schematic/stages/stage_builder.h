#pragma once
// What a kind of stage wires itself with: nets by names that a builder would say, its parts by their slots, its valves
// by their places. Everything that is not there is simply not wired; what is needed and missing becomes a Problem.

#include "stage_kind.h"

#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/schematic/schematic.h"

#include <functional>
#include <map>
#include <optional>

namespace ember::schematic {

/// One valve system at work in a path.
struct ValveUse {
    std::size_t bottle = 0; ///< in Build::bottles
    int section = 1;
    std::size_t stage = 0; ///< in Channel::stages
    std::string at;        ///< as StageValve::at
    Duty duty = Duty::Gain;
    PartId part;
    int system = 0;                     ///< in Bottle::sections of the part
    NetId grid, screen, plate, cathode; ///< screen: none of a triode
    PartId sense;                       ///< resistor between cathode and foot through which its current alone flows
    NetId foot;                         ///< the sense resistor's other end
    PartId selfBias;                    ///< cathode resistor that biases it; none with fixed bias
    int sharing = 1;                    ///< valves whose current flows in that resistor
    int adjuster = -1;                  ///< index of adjustersOf(): the trimmer that sets it; -1: none
};

/// What surrounds a path.
struct Surroundings {
    /// Net of a supply node; `screens`: as the screens' feed, which a solver may want to hold apart.
    std::function<NetId(int node, bool screens)> supply;
    /// Net of a bias adjuster's wiper, by its index of adjustersOf().
    std::function<NetId(std::size_t adjuster, const std::string& name)> bias;
    /// Of full emission, by bottle: what heaters and sockets give; empty: all full.
    std::vector<double> emission;
};

/// A path as it grows.
struct Path {
    const Build* build = nullptr;
    const Catalogue* catalogue = nullptr;
    std::size_t channel = 0;
    Schematic* schematic = nullptr;
    const Surroundings* around = nullptr;
    std::map<std::size_t, PartId>* bottles = nullptr; ///< by index: those that are in the schematic already
    NetId a, b;                                       ///< where the signal is; b: none but after a splitter
    NetId input, output;
    double load = 0; ///< [ohm] at the output; 0: none
    std::vector<ValveUse> valves;
    std::map<std::string, NetId> points;                 ///< "s3 secondary"
    std::vector<std::pair<PartId, std::size_t>> stageOf; ///< which stage brought a part
    std::vector<NetId> before, after; ///< by stage: where the signal comes in and leaves (of two phases the first)
    std::vector<Problem> problems;
};

/// Name of the net at an electrode: "V3 plate", of a type with several sections "V2 plate 1".
std::string electrodeNet(const std::string& bottle, std::string_view electrode, int section, int sections);

class StageBuilder {
  public:
    StageBuilder(Path& path, std::size_t stage, const StageKind& kind);

    [[nodiscard]] const Stage& stage() const;
    [[nodiscard]] const Channel& channel() const;
    /// Where the signal comes in: phase 0, or 1 behind a splitter.
    [[nodiscard]] NetId in(int phase = 0) const { return phase == 0 ? path.a : path.b; }
    void out(NetId a, NetId b = {}) { path.a = a, path.b = b; }
    /// The channel's end: net and load.
    void output(NetId net, double load) { path.output = net, path.load = load; }

    static constexpr NetId ground = Schematic::ground;
    NetId supply() const;
    NetId screens() const;
    NetId net(const std::string& name) const;
    /// A net of this stage by what it is: "Left input, behind the pad".
    NetId own(std::string_view what) const;

    [[nodiscard]] const StagePart* slot(std::string_view name, std::string_view at = {}) const {
        return stage().part(name, at);
    }
    [[nodiscard]] bool has(std::string_view name, std::string_view at = {}) const { return slot(name, at) != nullptr; }
    /// Wires a slot's part of two ends between two nets, when it is there. Returns it, or none.
    PartId join(std::string_view name, NetId a, NetId b, std::string role, std::string_view at = {});
    /// A potentiometer: clockwise end, wiper, other end.
    PartId track(std::string_view name, NetId clockwise, NetId wiper, NetId other, std::string role);
    /// Of a path of several parts alike, such as a ladder: the part itself.
    PartId place(const StagePart& part, NetId a, NetId b, std::string role);
    /// A transformer's windings: each coil's ends are pins 2k and 2k + 1. `inductance` as seen at the first,
    /// `loadTurns` as those between the ends where its load stands.
    struct Winding {
        std::string name;
        NetId a, b;
        double turns = 1, ohms = 0, leakage = 0, farads = 0;
        bool spare = false; ///< its start is a tap that need not lead anywhere
    };
    PartId windings(const StagePart& part, double inductance, const std::vector<Winding>& coils, double loadTurns,
                    std::string role);

    /// "V2" of the valve at a place; empty when there is none.
    [[nodiscard]] std::string name(std::string_view at = {}) const;
    /// "V2 plate 1", "V3 grid": the net of an electrode of the valve at a place.
    NetId electrode(std::string_view what, std::string_view at = {}) const;
    [[nodiscard]] bool pentode(std::string_view at = {}) const;
    /// Puts the valve system in. A pentode whose screen is not given is strapped: its screen at the plate. Returns
    /// nullptr (and a Problem) where it cannot be.
    ValveUse* valve(std::string_view at, NetId grid, NetId plate, NetId cathode, NetId screen = {});

    /// Coupling capacitor, grid leak to `leakTo`, stopper: each where there is one. Returns the grid's net.
    NetId gridCircuit(NetId from, NetId leakTo, std::string_view at = {});
    /// Cathode resistor (or diodes, or a source), bypass, and an unbypassed foot, from the valve's cathode down.
    /// Returns the cathode's net: ground where nothing of it is there. `self`: the part that biases.
    struct CathodeCircuit {
        NetId cathode;
        PartId self;
    };
    CathodeCircuit cathodeCircuit(NetId cathode, std::string_view at = {}, std::string_view prefix = {});
    /// Where the grid leak of a valve goes: its adjuster's wiper, its side's, the stage's, or ground. Sets `adjuster`.
    NetId biasFor(std::string_view at, int& adjuster);

    void point(std::string_view name, NetId net);
    [[nodiscard]] std::optional<NetId> pointOf(const std::string& stageAndPoint) const;
    void problem(std::string place, std::string sentence);
    [[nodiscard]] std::string pointer() const; ///< JSON pointer of the stage
    const StageKind& kind;

  private:
    PartId add(Part part, std::string role, const StagePart* from);
    Path& path;
    std::size_t index;
};

} // namespace ember::schematic
