#pragma once
// A coarse model of a layout, so that thousands of moves can be tried in a second: bodies as boxes square to the
// chassis, each term kept as sums over pairs, so that a move costs only the pairs of what moved.

#include "layout_figures.h"
#include "tower.h"

#include <array>

namespace ember::chassis {

/// What a layout is scored by: 0 is as good as it gets, 1 is barely good enough.
enum class Term { Fit, Exposure, Coupling, Heat, Balance, Symmetry, Rows, Iron, Signal };
inline constexpr std::size_t termCount = 9;
inline constexpr std::array<const char*, termCount> termNames{
    "fit", "exposure", "coupling", "heat", "balance", "symmetry", "rows", "iron to plate", "length of signal path"};
using Scores = std::array<double, termCount>;

/// Scores, in this order:
/// fit: how deep bodies reach into each other's clearance, into a tower's pillars or over an edge, and into the room
/// that a screwdriver needs over a bolt, each 10 mm counting 1; exposure: dB of each victim above -20 dB of what is
/// allowed, over 20, the worst and the mean; coupling: dB from humming iron into each output transformer above -60 dB,
/// over 20, the mean; heat: each can's rise by the infinite sheet's W K0(r / l) / 2 pi k t, l = sqrt(k t / 2 h), over
/// 20 K, the worst; balance: the weight's distance from the middle, 15 % of the width or 25 % of the depth counting 1;
/// symmetry: how far the second channel's parts stand from the first's mirror image, 20 mm counting 1;
/// rows: how far parts of a kind stand from a common line with their nearest fellow, 5 mm counting 1;
/// iron to plate: the block that the iron stands in against 25 to 45 % of the plate;
/// signal path: its length, by the volume control, beyond the straight line, 150 mm counting 1, and the whole over
/// width and depth.
class Sketch {
  public:
    Sketch(const Build& build, const Catalogue& catalogue, const plan::Figures& figures);

    [[nodiscard]] std::size_t size() const { return parts.size(); }
    [[nodiscard]] bool movable(std::size_t part) const { return !parts[part].locked; }
    [[nodiscard]] bool onPlate(std::size_t part) const { return isPlate(parts[part].face); }
    /// The other channel's part of the same duty, or the part itself.
    [[nodiscard]] std::size_t mate(std::size_t part) const { return parts[part].mate; }
    [[nodiscard]] double x(std::size_t part) const { return parts[part].x; }
    [[nodiscard]] double y(std::size_t part) const { return parts[part].y; }
    [[nodiscard]] double angle(std::size_t part) const { return parts[part].angle; }
    [[nodiscard]] double width() const { return plateWidth; }
    [[nodiscard]] double depth() const { return plateDepth; }
    [[nodiscard]] double widthOf(std::size_t part) const { return parts[part].faceWidth; }
    [[nodiscard]] double reachOf(std::size_t part) const { return parts[part].reach; }

    /// Moves a part, keeping what is needed to take the moves since the last keep() back.
    void move(std::size_t part, double x, double y, double angle);
    /// The same for good: it is not taken back.
    void put(std::size_t part, double x, double y, double angle);
    void keep() { undo.clear(); }
    void takeBack();
    [[nodiscard]] Scores scores() const;
    [[nodiscard]] std::vector<Standing> places() const;

  private:
    /// Room for a screwdriver is taken by bodies alone, a hole's metal by other holes.
    enum class Of { Body, Tool, Hole };
    struct Box {
        Vector low, high;
        Of of = Of::Body;
    };
    struct Piece { ///< in the part's own directions
        bool round = false;
        Of of = Of::Body;
        double x, y, halfX, halfY, bottom, top;
    };
    struct Part {
        std::string id;
        Face face = Face::Top;
        bool locked = false, victim = false, can = false, iron = false, liveParts = false;
        std::size_t mate = 0;
        int row = -1; ///< parts of one kind of row
        double x = 0, y = 0, angle = 0, recess = 0, sunk = 0, faceWidth = 0, faceHeight = 0, reach = 0;
        double mass = 0, watts = 0;
        double moment = 0, momentReach = 0.005, quieter = 0; ///< of what hums; quieter: than at its rated flux [dB]
        bool hums = false, outputIron = false;
        Vector localAxis = Vector::UnitX();
        double pairTesla = 0; ///< of its wiring, times distance squared [T m2]
        std::vector<Piece> pieces;
        // where it stands
        std::vector<Box> boxes;
        Vector low, high; ///< around all of them
        Vector centre, point, axis;
        double localZ = 0; ///< of its centre [m]
        double localX = 0, localY = 0;
        double over = 0; ///< beyond its face [m]
    };
    struct Saved {
        std::size_t part;
        Part before;
    };

    void place(Part& part) const;
    void pairsOf(std::size_t part, double sign);
    [[nodiscard]] double intrusion(const Part& a, const Part& b) const;
    [[nodiscard]] double fieldOf(const Part& source, const Part& victim) const; ///< squared [T2]
    [[nodiscard]] double couplingOf(const Part& a, const Part& b) const;        ///< [dB]
    [[nodiscard]] double riseOf(const Part& source, const Part& can) const;     ///< [K]
    [[nodiscard]] double symmetry() const;
    [[nodiscard]] double rows() const;
    [[nodiscard]] double ironBlock() const;
    [[nodiscard]] double signalWay() const;
    [[nodiscard]] double& at(std::vector<double>& matrix, std::size_t a, std::size_t b) const {
        return matrix[a * parts.size() + b];
    }

    double plateWidth, plateDepth, wallHeight, clearance;
    std::array<double, faceCount> edges{}; ///< what a hole keeps from each face's edge [m]
    Chassis frames;                        ///< without parts: for the faces
    std::array<Frame, faceCount> faces;
    std::vector<Pillar> pillars; ///< of a tower
    std::vector<Part> parts;
    std::vector<std::size_t> victims, cans, outputs;
    std::vector<std::vector<std::size_t>> rowsOfParts, paths;
    std::vector<double> touch, tesla, decibel, kelvin; ///< of pairs
    double touching = 0, spread = 0.1, sheet = 1;
    std::vector<Saved> undo;
    std::vector<double> bessel; ///< K0 at steps of 0.05
};

} // namespace ember::chassis
