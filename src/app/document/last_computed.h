#pragma once
// What was computed last, by what it was computed from: going back to it (undo, redo, a value tried and taken back)
// shows it at once.

#include <algorithm>
#include <cstddef>
#include <deque>
#include <utility>

namespace ember::app {

/// At most `Most` results, the ones used last. For one thread.
template <typename Key, typename Value, std::size_t Most>
class LastComputed {
  public:
    /// nullptr where it is not kept; valid until the next keep().
    [[nodiscard]] const Value* find(const Key& key) {
        const auto at = std::find_if(kept.begin(), kept.end(), [&](const auto& k) { return k.first == key; });
        if (at == kept.end()) return nullptr;
        std::rotate(kept.begin(), at, at + 1);
        return &kept.front().second;
    }
    void keep(Key key, Value value) {
        std::erase_if(kept, [&](const auto& k) { return k.first == key; });
        kept.emplace_front(std::move(key), std::move(value));
        if (kept.size() > Most) kept.pop_back();
    }

  private:
    std::deque<std::pair<Key, Value>> kept; ///< the one used last stands first
};

} // namespace ember::app
