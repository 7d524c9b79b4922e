#pragma once
// What an ohmmeter shows at the wires of a finished amplifier, cold, valves out, plug out: the harness and the parts'
// resistances as one network, and the same with one mistake in it.

#include "harness.h"

namespace ember::wires {

/// Beyond this a meter shows an open circuit [ohm].
inline constexpr double openOhms = 50e6;

struct WrongReading {
    std::string cause; ///< "this wire is not joined", "a bridge to pin 8 of V2"
    double ohms = 0;   ///< infinite: open
};

struct Continuity {
    std::string at;                  ///< terminal at which the probe stands, the other at the star
    double ohms = 0;                 ///< to the star; infinite: open
    std::string charging;            ///< id of the capacitor behind which the reading rises; empty: none
    std::vector<WrongReading> wrong; ///< those that differ from it by a tenth or more
};

/// The network of a harness: a node for each place of each net, joined by the wires as they are.
class ContinuityNetwork {
  public:
    ContinuityNetwork(const Build& build, const Harness& harness);
    /// Of a wire that has an end at a part; of one between the star and the chassis 0 ohm.
    [[nodiscard]] Continuity of(const Run& run) const;

  private:
    struct Resistor {
        int a, b;
        double ohms;
    };
    /// Something done to the network before it is solved.
    struct Change {
        const Run* missing = nullptr;
        int bridgedA = -1, bridgedB = -1;
        schematic::PinId shorted; ///< pin of a winding of which half the turns are shorted
    };
    [[nodiscard]] int nodeOf(schematic::PinId pin) const;
    [[nodiscard]] int nodeOf(const std::string& end, int point) const;
    [[nodiscard]] double toStar(int node, const Change& change) const;
    int made(int net, std::size_t place);
    void addPart(schematic::PartId id);

    const Harness& harness;
    std::map<std::pair<int, std::size_t>, int> nodes; ///< by net and place
    std::vector<std::vector<int>> pinNodes;           ///< by part, by pin; -1: not connected
    struct Coil {
        schematic::PinId a, b;
        int from, to;
        double ohms;
    };
    std::vector<Resistor> parts;
    std::vector<Coil> coils;
    struct Joined {
        const Run* run;
        int a, b;
        double ohms; ///< with its joints
    };
    std::vector<Joined> wires;
    int star = 0, chassis = 0, count = 0;
};

} // namespace ember::wires
