#pragma once
// What the stray field of mains iron induces in iron that carries the signal.

#include "hum.h"

namespace ember::wires {

/// A core in a uniform field draws flux together: inside a body about as long as it is thick, of a permeability far
/// above one, the flux density is three times that outside (demagnetising factor 1/3, a sphere; Maxwell 1873).
inline constexpr double coreGathers = 3;
/// Crest at which an output transformer is rated at its lowest frequency [T]: usual for grain-oriented sheet. A choice.
inline constexpr double ratedTesla = 1.2;

/// By iron of a channel (ChannelReach::iron): the flux through its core for 1 T along its axis [Wb/T], 0 where it is
/// not placed or has no axis: the linkage N A B, of which N A is what the rating says, over the turns of the coil that
/// it is of. Its change is an EMF in every turn.
struct IronReceiver {
    chassis::Dipole place;
    double webersPerTesla = 0;
};
std::vector<IronReceiver> ironReceivers(const Build& build, const ChannelReach& reach);
/// Volts a turn for 1 T at a harmonic of the mains (0 is the first).
std::complex<double> voltsATurn(const IronReceiver& receiver, std::size_t harmonic, double mainsHertz);

/// Field along the receiver's axis of a source of amplitude 1 [T]: of its iron alone, and none of its own.
double axialField(const FieldSource& source, const IronReceiver& receiver);

} // namespace ember::wires
