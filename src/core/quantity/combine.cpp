#include "combine.h"

#include "quantity.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

/// A network of parts: its value, and how much of the whole's load its worst part takes against its rating.
struct Network {
    double value;
    double worst;                    ///< per watt or volt of the whole: share of the load over the rating
    std::vector<unsigned char> used; ///< per kind in hand
    std::string words;
    char joined = ' '; ///< the outermost way: '+' series, '|' parallel
};

Unit unitOf(HandKind k) {
    return k == HandKind::Resistor ? Unit::Ohm : k == HandKind::Capacitor ? Unit::Farad : Unit::Volt;
}

std::string within(const Network& n, char joined) {
    return n.joined == ' ' || n.joined == joined ? n.words : "(" + n.words + ")";
}

/// Series adds resistances and zener volts and inverts for capacitors; the load divides as the values say.
Network join(const Network& a, const Network& b, bool series, HandKind kind) {
    const bool adds = kind == HandKind::Capacitor ? !series : series;
    Network n{adds ? a.value + b.value : a.value * b.value / (a.value + b.value), 0, a.used, {}, series ? '+' : '|'};
    // Watts in series go as R, in parallel as 1/R; volts of capacitors in series as 1/C, in parallel each has them all.
    double shareA = adds ? a.value / (a.value + b.value) : b.value / (a.value + b.value), shareB = 1 - shareA;
    if (kind == HandKind::Capacitor) {
        shareA = series ? b.value / (a.value + b.value) : 1;
        shareB = series ? a.value / (a.value + b.value) : 1;
    }
    n.worst = std::max(a.worst * shareA, b.worst * shareB);
    for (std::size_t k = 0; k < n.used.size(); ++k) n.used[k] = static_cast<unsigned char>(n.used[k] + b.used[k]);
    n.words = within(a, n.joined) + (series ? " + " : " || ") + within(b, n.joined);
    return n;
}

} // namespace

Expected<std::vector<InHand>> readHand(std::string_view text, HandKind kind) {
    std::vector<InHand> out;
    std::string all(text);
    std::replace(all.begin(), all.end(), '\n', ',');
    std::replace(all.begin(), all.end(), ';', ',');
    std::size_t from = 0;
    while (from <= all.size()) {
        const std::size_t to = std::min(all.find(',', from), all.size());
        std::string entry = all.substr(from, to - from);
        from = to + 1;
        std::vector<std::string> words;
        for (std::size_t at = 0; at < entry.size();) {
            const std::size_t begin = entry.find_first_not_of(" \t", at);
            if (begin == std::string::npos) break;
            at = std::min(entry.find_first_of(" \t", begin), entry.size());
            words.push_back(entry.substr(begin, at - begin));
        }
        if (words.empty()) continue;
        InHand part;
        std::size_t next = 0;
        if (words[0].size() > 1 && words[0].back() == 'x' &&
            words[0].find_first_not_of("0123456789") == words[0].size() - 1) {
            part.count = std::clamp(std::stoi(words[0].substr(0, 4)), 1, 99);
            ++next;
        }
        const auto value = next < words.size() ? parseQuantity(words[next], unitOf(kind))
                                               : Expected<double>(Problem{entry, "a value is missing"});
        if (!value) return Problem{entry, value.problem().sentence};
        if (!(*value > 0)) return Problem{entry, "a value above nothing is expected"};
        part.value = *value;
        if (++next < words.size()) {
            const auto rating = parseQuantity(words[next], kind == HandKind::Capacitor ? Unit::Volt : Unit::Watt);
            if (!rating) return Problem{entry, rating.problem().sentence};
            part.rating = *rating;
        }
        out.push_back(part);
    }
    if (out.empty())
        return Problem{"", "nothing is in hand: write values with commas between them, such as 2x 1k5 2W, 4k7"};
    if (out.size() > 24) return Problem{"", "more than 24 different parts: leave out what is far from what is wanted"};
    return out;
}

std::vector<Combination> combine(const std::vector<InHand>& hand, HandKind kind, double wanted, double load, int most,
                                 std::size_t best) {
    std::vector<std::vector<Network>> of(static_cast<std::size_t>(most) + 1);
    for (std::size_t k = 0; k < hand.size(); ++k) {
        Network n{hand[k].value, hand[k].rating > 0 ? 1 / hand[k].rating : 0,
                  std::vector<unsigned char>(hand.size(), 0), format(hand[k].value, unitOf(kind)), ' '};
        n.used[k] = 1;
        of[1].push_back(std::move(n));
    }
    const auto available = [&](const Network& a, const Network& b) {
        for (std::size_t k = 0; k < hand.size(); ++k)
            if (a.used[k] + b.used[k] > hand[k].count) return false;
        return true;
    };
    constexpr std::size_t mostNetworks = 60'000; // of one size: beyond it the rest adds nothing that is nearer
    for (int size = 2; size <= most; ++size)
        for (int one = 1; one <= size / 2; ++one) {
            auto& to = of[static_cast<std::size_t>(size)];
            for (const Network& a : of[static_cast<std::size_t>(one)])
                for (const Network& b : of[static_cast<std::size_t>(size - one)]) {
                    if (to.size() >= mostNetworks) break;
                    if (!available(a, b)) continue;
                    to.push_back(join(a, b, true, kind));
                    if (kind != HandKind::Zener) to.push_back(join(a, b, false, kind));
                }
        }
    std::vector<Combination> out;
    for (int size = 1; size <= most; ++size)
        for (const Network& n : of[static_cast<std::size_t>(size)])
            out.push_back({n.words, n.value, n.value / wanted - 1, size, n.worst * load});
    const auto rank = [](const Combination& c) {
        return std::floor(std::abs(c.error) / 0.01) + 10 * std::max(0.0, c.stress - 0.5) + 0.4 * c.count +
               1e-3 * std::abs(c.error);
    };
    std::stable_sort(out.begin(), out.end(),
                     [&](const Combination& a, const Combination& b) { return rank(a) < rank(b); });
    // The same value in another order of words says nothing new.
    std::vector<Combination> kept;
    for (Combination& c : out) {
        if (kept.size() == best) break;
        if (std::none_of(kept.begin(), kept.end(), [&](const Combination& k) {
                return k.count == c.count && std::abs(k.value / c.value - 1) < 1e-9;
            }))
            kept.push_back(std::move(c));
    }
    return kept;
}

} // namespace ember
