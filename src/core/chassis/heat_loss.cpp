#include "heat_loss.h"

#include "metal.h"

#include <cmath>

namespace ember::chassis {

namespace {

constexpr double ofPaint = 0.9;

double ofMetal(Metal m) {
    return m == Metal::Steel ? 0.25 : 0.1;
}

/// Nu k / L with Nu = factor Ra^1/4, air at 310 K [W/m2K].
double stillAir(double factor, double length, double kelvin) {
    constexpr double conductivity = 0.027, viscosity = 1.7e-5, diffusivity = 2.4e-5, temperature = 310;
    const double rayleigh = 9.81 / temperature * kelvin * std::pow(length, 3) / (viscosity * diffusivity);
    return factor * std::pow(rayleigh, 0.25) * conductivity / length;
}

double radiated(double emissivity, double kelvin) {
    constexpr double stefanBoltzmann = 5.67e-8;
    return 4 * stefanBoltzmann * std::pow(kelvin, 3) * emissivity;
}

} // namespace

double emissivity(const Chassis& c) {
    return c.form == ChassisForm::Board || c.plateFinish != PlateFinish::Bare ? ofPaint : ofMetal(c.metal);
}

HeatLoss heatLossOf(const Chassis& c) {
    constexpr double difference = 20, warm = 308; // [K]
    const double area = c.width * c.depth, around = 2 * (c.width + c.depth), length = area / around;
    HeatLoss out;
    out.above = stillAir(0.54, length, difference) + radiated(emissivity(c), warm);
    out.below = stillAir(0.27, length, difference);
    if (c.form == ChassisForm::Plate || c.form == ChassisForm::Board) {
        out.below += radiated(c.form == ChassisForm::Board ? ofPaint : ofMetal(c.metal), warm);
        return out;
    }
    constexpr double shared = 10, wood = 0.012 / 0.15; // [K] on either side of a wall; a board's [m2K/W]
    const bool frame = c.form == ChassisForm::Frame;
    const double side = stillAir(0.59, c.height, shared),
                 outside = side + radiated(frame ? ofPaint : emissivity(c), warm);
    // A bottom of sheet on feet: warm air above it and still air below.
    out.box = 0.5 * stillAir(0.27, length, shared) * area;
    if (frame) {
        out.box += around * c.height / (1 / side + 1 / outside + wood);
    } else {
        const double along = sheetOf(c).conductivity * c.thickness; // [W/K]: of a strip as wide as long
        out.rim = std::sqrt(outside * along) * std::tanh(c.height * std::sqrt(outside / along));
    }
    return out;
}

double HeatLoss::perArea(const Chassis& c) const {
    const double area = c.width * c.depth, around = 2 * (c.width + c.depth);
    return above + (box > 0 ? 1 / (1 / below + area / box) : below) + rim * around / area;
}

double ironFilm(IronFinish finish, const Chassis& c) {
    constexpr double difference = 30, warm = 320, side = 0.08;
    const double e = finish == IronFinish::Bare      ? ofMetal(Metal::Steel)
                     : finish == IronFinish::AsPlate ? emissivity(c)
                                                     : ofPaint;
    return stillAir(0.59, side, difference) + radiated(e, warm) / 2;
}

} // namespace ember::chassis
