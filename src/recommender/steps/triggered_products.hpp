// Products that a purchase triggers.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::recommender {

/// By product, the others that it triggers: those to which a step goes from it.
using TriggeredProducts = std::vector<std::vector<std::uint32_t>>;

/// Follows one customer after another: a purchase triggers other products until the customer buys them. One
/// for each thread. Borrows the products.
class TriggerWalk {
 public:
  explicit TriggerWalk(const TriggeredProducts& triggered)
      : triggers_(&triggered), states_(triggered.size()) {}

  /// The next customer, who has bought nothing yet.
  void begin() {
    for (const std::uint32_t product : touched_) states_[product] = State::open;
    touched_.clear();
    ever_triggered_.clear();
  }
  void buy(std::uint32_t product) {
    if (states_[product] == State::bought) return;
    states_[product] = State::bought;
    touched_.push_back(product);
    for (const std::uint32_t later : (*triggers_)[product]) {
      if (states_[later] != State::open) continue;
      states_[later] = State::triggered;
      touched_.push_back(later);
      ever_triggered_.push_back(later);
    }
  }
  [[nodiscard]] bool is_triggered(std::uint32_t product) const {
    return states_[product] == State::triggered;
  }
  /// Neither bought nor triggered.
  [[nodiscard]] bool is_open(std::uint32_t product) const { return states_[product] == State::open; }
  /// What was ever triggered for the customer, bought or not.
  [[nodiscard]] const std::vector<std::uint32_t>& ever_triggered() const { return ever_triggered_; }

 private:
  enum class State : std::uint8_t { open, triggered, bought };
  const TriggeredProducts* triggers_;
  std::vector<State> states_;  ///< by product
  std::vector<std::uint32_t> touched_, ever_triggered_;
};

}  // namespace pear::recommender
