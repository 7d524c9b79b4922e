#pragma once
// What the input and each grid get from each source of hum, as flux density, so that unlike sources can be added.

#include "stray_field.h"

#include <map>
#include <string>

namespace ember::chassis {

/// Flux density at which a small-signal grid or an input lead is still quiet: 3 uT in a loop of 10 cm2 at 50 Hz gives
/// 1 uV, 100 dB below an input of 100 mV.
inline constexpr double allowedTesla = 3e-6;

struct Exposure {
    std::size_t source = 0, victim = 0; ///< parts
    double tesla = 0;
    [[nodiscard]] double db() const; ///< of allowedTesla
};

struct ExposureFigures {
    std::vector<Exposure> pairs; ///< strongest first
    std::vector<std::pair<std::size_t, double>>
        victims; ///< part and the root of the sum of its squares [T], worst first
};

/// Sources of hum and parts that are sensitive to it, by the ids of the electrical parts.
struct Hum {
    std::vector<std::string> iron;        ///< power transformer and chokes: output iron carries signal
    std::map<std::string, double> shares; ///< of its rated field, what each sends out: a choke as its flux alternates
    [[nodiscard]] double shareOf(const std::string& part) const {
        const auto at = shares.find(part);
        return at == shares.end() ? 1 : at->second;
    }
    std::string rectifier;
    std::vector<std::string> smallValves;
};

/// Sources: iron by its dipole; wiring (kinds inlet, fuse, switch: 1 A in a pair 5 mm apart, B = mu0 I s / 2 pi d^2)
/// and rectifier sockets (0.5 A pulses, 10 mm loops, counted five times for their harmonics). Victims: kinds jack and
/// potentiometer, and sockets of the small valves.
ExposureFigures exposures(const Chassis& chassis, const std::vector<Dipole>& dipoles, const Hum& hum);

} // namespace ember::chassis
