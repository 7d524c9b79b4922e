#pragma once
#include "core/build/chassis.h"

namespace ember::chassis {

/// Typical figures of a sheet (Young's modulus E [Pa], Poisson's ratio, density [kg/m3], heat conductivity [W/m K]).
struct MetalFigures {
    double youngs, poisson, density, conductivity;
    const char* name;
};
inline MetalFigures figuresOf(Metal m) {
    switch (m) {
    case Metal::Steel: return {200e9, 0.30, 7850, 50, "steel"};
    case Metal::Copper: return {117e9, 0.34, 8960, 390, "copper"};
    case Metal::Aluminium: break;
    }
    return {70e9, 0.33, 2700, 180, "aluminium"}; // sheet alloys conduct 140 .. 220
}

/// Of the chassis' top: its metal's, or a bench board's plywood.
inline MetalFigures sheetOf(const Chassis& c) {
    if (c.form == ChassisForm::Board) return {9e9, 0.30, 680, 0.13, "plywood"};
    return figuresOf(c.metal);
}

} // namespace ember::chassis
