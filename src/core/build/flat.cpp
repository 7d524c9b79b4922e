#include "flat.h"

#include "fields.h"

#include <nlohmann/json.hpp>

namespace ember {

namespace {

class Flattener : public fields::Visitor {
  public:
    std::string bytes;

    void number(const char*, double& value, Unit, Range) override { append(&value, sizeof value); }
    void integer(const char*, int& value, int, int) override { append(&value, sizeof value); }
    void text(const char*, std::string& value) override { words(value); }
    void flag(const char*, bool& value) override { append(&value, sizeof value); }
    void choiceOf(const char*, int& index, std::span<const std::string_view>) override { append(&index, sizeof index); }
    void objectOf(const char*, const fields::Object& value) override {
        unknown(*value.extras);
        value.accept(*this);
    }
    void listOf(const char*, const fields::List& values, std::size_t) override {
        const std::size_t size = values.size();
        append(&size, sizeof size);
        for (std::size_t k = 0; k < size; ++k) objectOf("", values.at(k));
    }

    void unknown(const Extras& e) { words(e.unknown ? e.unknown->dump() : std::string()); }

  private:
    void append(const void* from, std::size_t size) { bytes.append(static_cast<const char*>(from), size); }
    void words(const std::string& s) {
        const std::size_t size = s.size(); // first, so that two texts never run into one
        append(&size, sizeof size);
        bytes += s;
    }
};

} // namespace

std::string flat(const Build& build) {
    Flattener f;
    f.bytes.reserve(16384);
    auto& read = const_cast<Build&>(build); // it only reads
    f.unknown(build);
    fields::visit(f, read);
    return std::move(f.bytes);
}

std::string flat(const std::vector<OwnType>& types) {
    Flattener f;
    for (const OwnType& t : types) f.objectOf("", fields::objectOf(const_cast<OwnType&>(t)));
    return std::move(f.bytes);
}

std::string flatCircuit(const Build& b) {
    Build bare;
    bare.unknown = b.unknown;
    bare.name = b.name, bare.notes = b.notes;
    bare.mains = b.mains, bare.meter = b.meter, bare.fuse = b.fuse, bare.mainsSwitch = b.mainsSwitch;
    bare.thermistor = b.thermistor, bare.limiter = b.limiter, bare.transformer = b.transformer;
    bare.supply = b.supply, bare.bias = b.bias, bare.types = b.types, bare.bottles = b.bottles;
    bare.channels = b.channels, bare.loose = b.loose;
    return flat(bare);
}

} // namespace ember
