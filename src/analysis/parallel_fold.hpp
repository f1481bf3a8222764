// The driver that runs a question over all customers.
#pragma once

#include <utility>

#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

#include "daybook/daybook.hpp"

namespace pear::analysis {

/// Folds the customers of a daybook: absorb(state, customer) for each, in order; merge(earlier, later) joins
/// the states of neighbouring runs of customers. For any number of threads, customers are split into the same
/// runs and the states are joined in the same order, so the answer is the same, byte for byte. `make` creates
/// an empty state. Runs on as many threads as the caller's TBB arena has.
template <class Make, class Absorb, class Merge>
auto fold_customers(const daybook::Daybook& daybook, Make make, Absorb absorb, Merge merge) {
  using State = decltype(make());
  struct Body {
    const Absorb* absorb;
    const Merge* merge;
    const Make* make;
    State state;
    Body(const Absorb& absorb_, const Merge& merge_, const Make& make_)
        : absorb(&absorb_), merge(&merge_), make(&make_), state(make_()) {}
    Body(Body& other, tbb::split) : Body(*other.absorb, *other.merge, *other.make) {}
    void operator()(const tbb::blocked_range<std::uint32_t>& run) {
      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
        (*absorb)(state, customer);
    }
    void join(Body& later) { (*merge)(state, std::move(later.state)); }
  };
  constexpr std::size_t kCustomersPerRun = 32'768;
  Body body(absorb, merge, make);
  tbb::parallel_deterministic_reduce(
      tbb::blocked_range<std::uint32_t>(0, daybook.customers(), kCustomersPerRun), body);
  return std::move(body.state);
}

}  // namespace pear::analysis
