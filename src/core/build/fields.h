#pragma once
// What each object of the file holds: one description serves reading, writing, the schema, and the question which unit
// and range a place has. Kept apart from JSON and free of templates, so that a new kind of object costs a few lines.

#include "build.h"

#include "core/quantity/quantity.h"

#include <span>
#include <string_view>

namespace ember::fields {

class Visitor;

/// An object of the file, its kind forgotten.
struct Object {
    Extras* extras;
    void* value;
    void (*visitValue)(Visitor&, void*);
    void accept(Visitor& v) const { visitValue(v, value); }
};

/// A list of objects of one kind.
struct List {
    void* values;
    std::size_t (*sizeOf)(const void*);
    void (*resizeTo)(void*, std::size_t); ///< to that many fresh ones
    Object (*entry)(void*, std::size_t);
    [[nodiscard]] std::size_t size() const { return sizeOf(values); }
    void assign(std::size_t count) const { resizeTo(values, count); }
    [[nodiscard]] Object at(std::size_t k) const { return entry(values, k); }
};

/// What is allowed of the numbers that most parts have.
inline constexpr Range farads{1e-12, 1}, volts{0.1, 5000}, watts{1e-3, 1e4}, share{0, 1};

inline constexpr std::size_t longestText = 20000; ///< bytes

class Visitor {
  public:
    virtual ~Visitor() = default;
    virtual void number(const char* key, double& value, Unit unit, Range range) = 0;
    /// A number that may be unknown: NaN or infinite, and then absent from the file.
    virtual void optional(const char* key, double& value, Unit unit, Range range) { number(key, value, unit, range); }
    virtual void integer(const char* key, int& value, int least, int most) = 0;
    virtual void text(const char* key, std::string& value) = 0;
    virtual void flag(const char* key, bool& value) = 0;
    virtual void choiceOf(const char* key, int& index, std::span<const std::string_view> names) = 0;
    virtual void objectOf(const char* key, const Object& value) = 0;
    virtual void listOf(const char* key, const List& values, std::size_t most) = 0;
    /// True for one that wants the keys of every form an object can take.
    [[nodiscard]] virtual bool describing() const { return false; }

    template <typename E>
    void choice(const char* key, E& value, std::span<const std::string_view> names) {
        int index = static_cast<int>(value);
        choiceOf(key, index, names);
        value = static_cast<E>(index);
    }
    template <typename T>
    void object(const char* key, T& value);
    template <typename T>
    void list(const char* key, std::vector<T>& values, std::size_t most);
};

void visit(Visitor& visitor, ResistorPart& value);
void visit(Visitor& visitor, CapacitorPart& value);
void visit(Visitor& visitor, Mains& value);
void visit(Visitor& visitor, Meter& value);
void visit(Visitor& visitor, Fuse& value);
void visit(Visitor& visitor, Limiter& value);
void visit(Visitor& visitor, HeaterLift& value);
void visit(Visitor& visitor, HeaterDc& value);
void visit(Visitor& visitor, HeaterWinding& value);
void visit(Visitor& visitor, PowerTransformer& value);
void visit(Visitor& visitor, Section& value);
void visit(Visitor& visitor, Bleeder& value);
void visit(Visitor& visitor, Rectifier& value);
void visit(Visitor& visitor, SupplyLoad& value);
void visit(Visitor& visitor, Supply& value);
void visit(Visitor& visitor, Thermistor& value);
void visit(Visitor& visitor, MainsSwitch& value);
void visit(Visitor& visitor, BiasSupply& value);
void visit(Visitor& visitor, SheetPoint& value);
void visit(Visitor& visitor, OwnType& value);
void visit(Visitor& visitor, ReadPoint& value);
void visit(Visitor& visitor, Valve& value);
void visit(Visitor& visitor, OutputTransformer& value);
void visit(Visitor& visitor, SecondaryTap& value);
void visit(Visitor& visitor, ChokePart& value);
void visit(Visitor& visitor, PotentiometerPart& value);
void visit(Visitor& visitor, CurrentSourcePart& value);
void visit(Visitor& visitor, DiodePart& value);
void visit(Visitor& visitor, ZenerPart& value);
void visit(Visitor& visitor, AdjusterPart& value);
void visit(Visitor& visitor, StagePart& value);
void visit(Visitor& visitor, StageValve& value);
void visit(Visitor& visitor, StageOption& value);
void visit(Visitor& visitor, Stage& value);
void visit(Visitor& visitor, Channel& value);
void visit(Visitor& visitor, LoosePart& value);
void visit(Visitor& visitor, Price& value);
void visit(Visitor& visitor, Waiver& value);
void visit(Visitor& visitor, LogEntry& value);
void visit(Visitor& visitor, Body& value);
void visit(Visitor& visitor, Hole& value);
void visit(Visitor& visitor, PlacedPart& value);
void visit(Visitor& visitor, Standing& value);
void visit(Visitor& visitor, KeptLayout& value);
void visit(Visitor& visitor, Chassis& value);
void visit(Visitor& visitor, Corner& value);
void visit(Visitor& visitor, Wire& value);
void visit(Visitor& visitor, BoardPart& value);
void visit(Visitor& visitor, BeneathLug& value);
void visit(Visitor& visitor, Junction& value);
void visit(Visitor& visitor, Board& value);
void visit(Visitor& visitor, Wiring& value);
void visit(Visitor& visitor, Build& value);
inline constexpr std::size_t mostLogEntries = 100000, mostOwnTypes = 40;

template <typename T>
Object objectOf(T& value) {
    return {&value, &value, [](Visitor& v, void* at) { visit(v, *static_cast<T*>(at)); }};
}

template <typename T>
void Visitor::object(const char* key, T& value) {
    objectOf(key, fields::objectOf(value));
}

template <typename T>
void Visitor::list(const char* key, std::vector<T>& values, std::size_t most) {
    using Values = std::vector<T>;
    listOf(key,
           {&values, [](const void* v) { return static_cast<const Values*>(v)->size(); },
            [](void* v, std::size_t count) { static_cast<Values*>(v)->assign(count, T{}); },
            [](void* v, std::size_t k) { return fields::objectOf((*static_cast<Values*>(v))[k]); }},
           most);
}

} // namespace ember::fields
