#pragma once
// Natural frequencies of the linearised circuit: whether it rests where its operating point is.

#include "operating_point.h"

#include <complex>
#include <optional>
#include <vector>

namespace ember::circuit {

/// The finite s for which (G + P g Q^T + s L R^T) x = 0 has a solution [1/s]: with y = R^T x they are -1/mu of the
/// eigenvalues mu of R^T (G + P g Q^T)^-1 L. Those beyond `mostHertz` are left out: nothing so fast is in the models.
/// A real part above zero is a circuit that leaves its operating point by itself, at imag / (2 pi) hertz.
std::vector<std::complex<double>> poles(const System& system, const Eigen::VectorXd& portVolts, double mostHertz = 5e6);

/// Of the poles that grow, the fastest growing; nothing: the circuit is stable. What grows slower than once in ten
/// minutes, or by less than a millionth of its own speed, is rounding and not growth.
struct Growth {
    double hertz = 0; ///< 0: it drifts without swinging
    double perSecond = 0;
};
std::optional<Growth> growth(const std::vector<std::complex<double>>& poles);

} // namespace ember::circuit
