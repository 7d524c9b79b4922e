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

std::vector<std::string> waypointsOf(const Harness& h, const Run& run, std::size_t most) {
    const Terminal *from = h.terminals.find(run.wire.from), *to = h.terminals.find(run.wire.to);
    std::vector<std::pair<double, std::string>> found;
    if (!from || !to) return {};
    for (const Terminal& t : h.terminals.list)
        if (t.net == from->net && t.name != from->name && t.name != to->name && !t.together(*from) && !t.together(*to))
            found.emplace_back((t.at - from->at).lpNorm<1>() + (to->at - t.at).lpNorm<1>(), t.name);
    std::sort(found.begin(), found.end());
    std::vector<std::string> out;
    for (const auto& [detour, name] : found)
        if (out.size() < most) out.push_back(name);
    return out;
}

Edit byWayOf(const Build& b, const Run& run, const std::string& terminal) {
    std::vector<Edit> parts;
    const auto& all = b.wiring.wires;
    for (std::size_t k = all.size(); k-- > 0;)
        if (all[k].id == run.wire.id) parts.push_back(removeAt("", fmt::format("/wiring/wires/{}", k)));
    if (!run.own) {
        Wire gone;
        gone.id = run.wire.id, gone.removed = true;
        parts.push_back(insertAt("", "/wiring/wires/-", gone));
    }
    for (const auto& [from, to] : {std::pair{run.wire.from, terminal}, {terminal, run.wire.to}}) {
        Wire half = run.wire;
        half.by.clear();
        half.fromJoint = half.toJoint = Joint::Open;
        half.from = from, half.to = to;
        half.id = "own-" + from + "_" + to;
        parts.push_back(insertAt("", "/wiring/wires/-", half));
    }
    return together(fmt::format("{} by way of {}", run.wire.id, terminal), parts);
}

std::optional<Edit> asProposed(const Build& b, const Run& run) {
    const Wire* own = wireIn(b, run.wire.id);
    if (!own || run.own) return std::nullopt;
    Wire joints; // what is soldered stays soldered
    joints.id = own->id, joints.fromJoint = own->fromJoint, joints.toJoint = own->toJoint, joints.note = own->note;
    return changeWires(b, run.wire.id + " as proposed", {run.wire.id}, [&](Wire& w) { w = joints; });
}

Joint next(Joint j) {
    return j == Joint::Checked ? j : static_cast<Joint>(static_cast<int>(j) + 1);
}
Joint previous(Joint j) {
    return j == Joint::Open ? j : static_cast<Joint>(static_cast<int>(j) - 1);
}

} // namespace ember::wires
