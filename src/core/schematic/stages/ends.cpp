// The line output, and feedback from one place of the path to another.
#include "kinds.h"

#include <fmt/format.h>

#include <cmath>

namespace ember::schematic {

namespace {

void wireLineOut(StageBuilder& b) {
    NetId at = b.in();
    const NetId output = b.net(b.channel().name + " output");
    if (b.has("coupling")) {
        const NetId next = b.has("control") || b.has("transformer") ? b.own("behind the coupling") : output;
        b.join("coupling", at, next, "output coupling");
        at = next;
    }
    b.join("fail-safe", at, b.ground, "resistor from the output to ground");
    if (const StagePart* iron = b.slot("transformer")) {
        const NetId next = b.has("control") ? b.own("secondary") : output;
        addTransformer(b, *iron, at, b.ground, next, b.ground, "line output transformer");
        at = next;
    }
    if (b.has("control")) {
        const NetId next = output;
        b.track("control", at, next, b.ground, "output control");
        at = next;
    }
    b.join("cable", at, b.ground, "capacitance of the cable");
    b.join("load", at, b.ground, "input of what follows");
    double load = 0;
    if (const StagePart* p = b.slot("load"))
        if (const auto* r = std::get_if<ResistorPart>(&p->part)) load = r->resistance;
    b.point("output", at);
    b.output(at, load);
    b.out(at);
}

void wireFeedback(StageBuilder& b) {
    const auto from = b.pointOf(b.stage().from), to = b.pointOf(b.stage().to);
    const auto missing = [&](const char* key, const std::string& given) {
        b.problem(fmt::format("/{}", key),
                  fmt::format("no stage before this one has a point \"{}\"; a point is a stage's id and "
                              "one of its places, such as \"s1 cathode\" or \"s3 secondary\"",
                              given));
    };
    if (!from) missing("from", b.stage().from);
    if (!to) missing("to", b.stage().to);
    if (from && to) {
        NetId at = *from;
        if (b.has("blocking")) {
            at = b.own("behind the blocking capacitor");
            b.join("blocking", *from, at, "blocking capacitor of the feedback");
        }
        b.join("resistor", at, *to, "feedback resistor");
        b.join("capacitor", at, *to, "capacitor across the feedback resistor");
    }
    b.out(b.in(0), b.in(1));
}

} // namespace

extern const StageKind lineOutStage{
    "line out",
    "line output",
    "A coupling capacitor, a resistor that holds the output at ground, and what follows.",
    Duty::LineOut,
    Phases::One,
    Phases::One,
    {},
    {{"coupling", {Fill::Capacitor}, 2.2e-6, 400},
     {"fail-safe", {Fill::Resistor}, 470e3, 0.5},
     {"transformer", {Fill::Transformer}, 40, 0.5, false, false},
     {"control", {Fill::Potentiometer}, 50e3, 0.2, false, false},
     {"cable", {Fill::Capacitor}, 300e-12, 100},
     {"load", {Fill::Resistor}, 47e3, 0.5, true}},
    {},
    wireLineOut};
extern const StageKind feedbackStage{
    "feedback",
    "feedback",
    "A resistor, perhaps with a capacitor, from one point of the path back to another.",
    Duty::Feedback,
    Phases::None,
    Phases::None,
    {},
    {{"resistor", {Fill::Resistor}, 4.7e3, 0.5},
     {"capacitor", {Fill::Capacitor}, 100e-12, 400, false, false},
     {"blocking", {Fill::Capacitor}, 100e-9, 400, false, false}},
    {},
    wireFeedback};

} // namespace ember::schematic
