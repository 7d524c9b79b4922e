#pragma once
// A wire's path, moved piece by piece.

#include "harness.h"

#include "core/build/edit.h"

namespace ember::wires {

/// `path` with its piece `piece` (from corner `piece` to the next) moved by (dx, dy) [m]: a piece along x or y moves
/// across its direction alone, one that slants takes a new corner where it was gripped, `share` of its way along. The
/// ends stay; what lies within 1 mm of its neighbour is one corner.
std::vector<Vector> movePiece(const std::vector<Vector>& path, std::size_t piece, double share, double dx, double dy);

/// The wire on this path, the other wire of its pair beside it.
Edit movePath(const Build& build, const Run& run, const std::vector<Vector>& path);

/// As proposed again; nothing where the builder gave it no path.
std::optional<Edit> proposedPath(const Build& build, const Run& run);

inline constexpr double pathGrid = 0.005; ///< that pieces snap to while they are dragged [m]

} // namespace ember::wires
