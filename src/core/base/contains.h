#pragma once
#include <algorithm>

namespace ember {

/// Whether a list holds a value.
template <typename List, typename Value>
bool contains(const List& list, const Value& value) {
    return std::find(list.begin(), list.end(), value) != list.end();
}

} // namespace ember
