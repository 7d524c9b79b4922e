#pragma once
// Questions to the signal path of a Build that its values answer by themselves.

#include "build.h"

#include <optional>

namespace ember {

/// A trimmer of the bias supply: in the build's order, as the bias supply's wipers are counted.
struct AdjusterAt {
    std::size_t channel = 0, stage = 0, part = 0;
    std::string at; ///< as StagePart::at
    double position = 1;
    [[nodiscard]] std::string pointer() const; ///< JSON pointer of its position
};
std::vector<AdjusterAt> adjustersOf(const Build& build);

/// Index of a bottle by its id.
std::optional<std::size_t> bottleIndex(const Build& build, const std::string& id);
/// The bottle, or nullptr.
const Valve* bottleOf(const Build& build, const std::string& id);
/// Ids of the bottles that a channel's stages use, each once, in the path's order.
std::vector<std::string> bottlesOf(const Channel& channel);

/// JSON pointer of the object that carries this id, such as "/channels/0/stages/1/parts/0"; nothing: none does.
std::optional<std::string> pointerOfId(const Build& build, const std::string& id);
/// Key of the number that such an object is called by: the resistance of a resistor, the inductance of a choke; empty
/// where there is no object, or no number in it.
std::string mainKeyAt(const Build& build, const std::string& pointer);

} // namespace ember
