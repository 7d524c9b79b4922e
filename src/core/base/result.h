#pragma once
// A wrong input is not an exception: it is a value or a sentence that says what, where and what to do.

#include <string>
#include <utility>
#include <variant>

namespace ember {

/// Why something could not be done, for the person who asked.
struct Problem {
    std::string where;    ///< the place: a file, a JSON pointer such as `/supply/sections/2`, a part's id; may be empty
    std::string sentence; ///< what was understood and what to do

    [[nodiscard]] std::string text() const { return where.empty() ? sentence : where + ": " + sentence; }
};

/// A value, or the Problem that stood in its way.
template <typename T>
class [[nodiscard]] Expected {
  public:
    Expected(T value) : content(std::move(value)) {}
    Expected(Problem problem) : content(std::move(problem)) {}

    [[nodiscard]] bool ok() const { return std::holds_alternative<T>(content); }
    explicit operator bool() const { return ok(); }
    [[nodiscard]] const T& value() const { return std::get<T>(content); }
    [[nodiscard]] T& value() { return std::get<T>(content); }
    [[nodiscard]] const Problem& problem() const { return std::get<Problem>(content); }
    const T& operator*() const { return value(); }
    T& operator*() { return value(); }
    const T* operator->() const { return &value(); }
    T* operator->() { return &value(); }

  private:
    std::variant<T, Problem> content;
};

/// For things that yield nothing but may fail.
struct Done {};

} // namespace ember
