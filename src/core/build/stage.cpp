#include "stage.h"

#include "core/base/overloaded.h"

#include <cmath>

namespace ember {

double trackShare(const PotentiometerPart& p) {
    if (p.taper == Taper::Linear) return p.position;
    constexpr double middle = 0.1;
    return p.position < 0.5 ? 2 * middle * p.position : middle + (p.position - 0.5) * 2 * (1 - middle);
}

const std::string& idOf(const PartValue& part) {
    return std::visit([](const auto& p) -> const std::string& { return p.id; }, part);
}
std::string& idOf(PartValue& part) {
    return std::visit([](auto& p) -> std::string& { return p.id; }, part);
}

namespace {

struct Main {
    const char* key;
    double* value;
};
Main mainOf(PartValue& part) {
    return std::visit(Overloaded{[](ResistorPart& p) {
                                     return Main{"resistance", &p.resistance};
                                 },
                                 [](CapacitorPart& p) {
                                     return Main{"capacitance", &p.capacitance};
                                 },
                                 [](ChokePart& p) {
                                     return Main{"inductance", &p.inductance};
                                 },
                                 [](PotentiometerPart& p) {
                                     return Main{"resistance", &p.resistance};
                                 },
                                 [](OutputTransformer& p) {
                                     return Main{"primaryInductance", &p.primaryInductance};
                                 },
                                 [](CurrentSourcePart& p) {
                                     return Main{"amps", &p.amps};
                                 },
                                 [](DiodePart& p) {
                                     return Main{"drop", &p.drop};
                                 },
                                 [](ZenerPart& p) {
                                     return Main{"volts", &p.volts};
                                 },
                                 [](AdjusterPart& p) {
                                     return Main{"position", &p.position};
                                 }},
                      part);
}

} // namespace

const char* mainKey(const PartValue& part) {
    return mainOf(const_cast<PartValue&>(part)).key; // it only reads
}
double mainValue(const PartValue& part) {
    return *mainOf(const_cast<PartValue&>(part)).value; // it only reads
}
double& mainValue(PartValue& part) {
    return *mainOf(part).value;
}

const StagePart* Stage::part(std::string_view slot, std::string_view at) const {
    for (const StagePart& p : parts)
        if (p.slot == slot && p.at == at) return &p;
    return nullptr;
}
StagePart* Stage::part(std::string_view slot, std::string_view at) {
    for (StagePart& p : parts)
        if (p.slot == slot && p.at == at) return &p;
    return nullptr;
}
const StageValve* Stage::valve(std::string_view at) const {
    for (const StageValve& v : valves)
        if (v.at == at) return &v;
    return nullptr;
}
std::string Stage::option(std::string_view name, std::string_view otherwise) const {
    for (const StageOption& o : options)
        if (o.name == name) return o.choice;
    return std::string(otherwise);
}

} // namespace ember
