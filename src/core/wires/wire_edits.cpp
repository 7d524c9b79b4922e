#include "wire_edits.h"

#include <fmt/format.h>

#include <algorithm>

namespace ember::wires {

Edit changeWires(const Build& b, std::string name, const std::vector<std::string>& ids,
                 const std::function<void(Wire&)>& change) {
    std::vector<Edit> parts;
    const auto& all = b.wiring.wires;
    const auto asked = [&](const Wire& w) { return std::find(ids.begin(), ids.end(), w.id) != ids.end(); };
    for (std::size_t k = all.size();
         k-- > 0;) // from the end, so that what is taken away moves nothing that comes later
        if (asked(all[k])) parts.push_back(removeAt("", fmt::format("/wiring/wires/{}", k)));
    for (const std::string& id : ids) {
        const Wire* own = wireIn(b, id);
        Wire w = own ? *own : Wire{};
        w.id = id;
        change(w);
        parts.push_back(insertAt("", "/wiring/wires/-", w));
    }
    return together(std::move(name), parts);
}

const Wire* wireIn(const Build& b, const std::string& id) {
    const auto& all = b.wiring.wires;
    const auto at = std::find_if(all.begin(), all.end(), [&](const Wire& w) { return w.id == id; });
    return at == all.end() ? nullptr : &*at;
}

Joint next(Joint j) {
    return j == Joint::Checked ? j : static_cast<Joint>(static_cast<int>(j) + 1);
}
Joint previous(Joint j) {
    return j == Joint::Open ? j : static_cast<Joint>(static_cast<int>(j) - 1);
}

} // namespace ember::wires
