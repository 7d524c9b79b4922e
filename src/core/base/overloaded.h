#pragma once
// Several lambdas as one visitor of a variant.

namespace ember {

template <typename... F>
struct Overloaded : F... {
    using F::operator()...;
};
template <typename... F>
Overloaded(F...) -> Overloaded<F...>;

} // namespace ember
