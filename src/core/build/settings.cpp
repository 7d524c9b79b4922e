#include "build_json.h"

#include <fmt/format.h>

#include <cctype>

namespace ember {

namespace {

/// "plateResistance" as people write it: "plate resistance".
std::string spoken(std::string_view key) {
    std::string out;
    for (const char c : key) {
        if (std::isupper(static_cast<unsigned char>(c))) out += ' ';
        out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    }
    return out;
}

/// The id or name that an object carries, to call it by.
class NameOf : public fields::Visitor {
  public:
    explicit NameOf(bool alsoWithin) : within(alsoWithin) {}
    std::string name;
    void text(const char* key, std::string& value) override {
        if ((std::string_view(key) == "id" || std::string_view(key) == "name") && name.empty()) name = value;
    }
    void number(const char*, double&, Unit, Range) override {}
    void integer(const char*, int&, int, int) override {}
    void flag(const char*, bool&) override {}
    void choiceOf(const char*, int&, std::span<const std::string_view>) override {}
    void objectOf(const char*, const fields::Object& inner) override {
        if (within && name.empty()) inner.accept(*this); // a bleeder is called by its resistor
    }
    void listOf(const char*, const fields::List&, std::size_t) override {}

  private:
    bool within;
};

class Lister : public fields::Visitor {
  public:
    Lister(std::vector<Setting>& to, std::string pointer, std::string label, std::string listEntry)
        : out(to),
          at(std::move(pointer)),
          name(std::move(label)),
          entry(std::move(listEntry)) {}

    void number(const char* key, double& value, Unit unit, Range range) override {
        Setting s = start(key, Setting::Kind::Number);
        s.number = {unit, range, value};
        out.push_back(std::move(s));
    }
    void integer(const char* key, int& value, int least, int most) override {
        Setting s = start(key, Setting::Kind::Number);
        s.number = {Unit::None, {double(least), double(most)}, double(value)};
        s.number.whole = true;
        out.push_back(std::move(s));
    }
    void text(const char* key, std::string& value) override {
        Setting s = start(key, Setting::Kind::Text);
        s.text = value;
        out.push_back(std::move(s));
    }
    void flag(const char* key, bool& value) override {
        Setting s = start(key, Setting::Kind::Choice);
        s.choices = {"false", "true"};
        s.text = value ? "true" : "false";
        out.push_back(std::move(s));
    }
    void choiceOf(const char* key, int& index, std::span<const std::string_view> names) override {
        Setting s = start(key, Setting::Kind::Choice);
        for (const auto n : names) s.choices.emplace_back(n);
        s.text = s.choices[static_cast<std::size_t>(index)];
        out.push_back(std::move(s));
    }
    void objectOf(const char* key, const fields::Object& value) override {
        NameOf title(false);
        value.accept(title);
        Lister inner(out, at + "/" + key, called(key) + (title.name.empty() ? "" : " " + title.name), entry);
        value.accept(inner);
    }
    void listOf(const char* key, const fields::List& values, std::size_t) override {
        const std::string place = at + "/" + key; // records, which are not for changing
        if (place == "/log" || place == "/waivers" || place == "/chassis/kept") return;
        for (std::size_t k = 0; k < values.size(); ++k) {
            const std::string pointer = fmt::format("{}/{}/{}", at, key, k);
            NameOf title(true);
            values.at(k).accept(title);
            Lister inner(out, pointer, called(title.name.empty() ? fmt::format("{} {}", key, k + 1) : title.name),
                         pointer);
            values.at(k).accept(inner);
        }
    }

  private:
    [[nodiscard]] std::string called(const std::string& key) const {
        return name.empty() ? spoken(key) : name + ", " + spoken(key);
    }
    [[nodiscard]] Setting start(const char* key, Setting::Kind kind) const {
        Setting s;
        s.pointer = at + "/" + key;
        s.label = called(key);
        s.kind = kind;
        s.entry = entry;
        return s;
    }
    std::vector<Setting>& out;
    std::string at, name, entry;
};

} // namespace

std::vector<Setting> settingsOf(const Build& build) {
    std::vector<Setting> out;
    Lister lister(out, "", "", "");
    fields::visit(lister, const_cast<Build&>(build)); // it only reads
    return out;
}

} // namespace ember
