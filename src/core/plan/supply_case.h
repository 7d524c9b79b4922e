#pragma once
// A rectifier supply by itself, with sources given as EMF and resistance: the shape of the reference cases.

#include "supply_circuit.h"

#include "core/base/result.h"
#include "core/build/build.h"
#include "core/catalogue/catalogue.h"
#include "core/circuit/periodic.h"

namespace ember::plan {

struct SupplyCase {
    struct Load {
        int node = 1;
        double ohms = 0, amps = 0; ///< one of the two
    };
    std::string name;
    double frequency = 50;
    double emf = 250, sourceOhms = 50; ///< per leg: RMS [V], [ohm]
    RectifierType rectifier;
    RectifierType silicon; ///< the two diodes of a hybrid bridge
    Supply supply;         ///< connection, sections
    std::vector<Load> loads;
};

struct SupplyCaseFigures {
    struct Node {
        double mean, ripplePp, rippleRms;
    };
    std::vector<Node> nodes;
    double rectifierPeak = 0, rectifierMean = 0, windingRms = 0;
    std::vector<double> chokeAmps;
    double sourceWatts = 0, lossWatts = 0; ///< their difference is the energy balance's error
    double residual = 0;
    int passes = 0, steps = 0; ///< periods until the solution repeats, and steps of the last one
};

/// Reads one case or an object with `cases`; a Problem names the place.
Expected<std::vector<SupplyCase>> supplyCasesFromText(std::string_view text);
Json toJson(const SupplyCase& given, const SupplyCaseFigures& figures);

/// Its netlist, for any solver.
struct SupplyCaseCircuit {
    circuit::Netlist netlist;
    std::vector<circuit::Node> rails;
    std::vector<circuit::DeviceId> rectifiers, sources;
    std::size_t toRail = 0; ///< rectifiers that lead to the rail: the first ones
    Chain sections;
    double period; ///< after which the states repeat [s]
};
SupplyCaseCircuit circuitOf(const SupplyCase& given);
Expected<SupplyCaseFigures> solveCase(const SupplyCase& given);

} // namespace ember::plan
