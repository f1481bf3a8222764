// What steps lead a customer to.
#pragma once

#include <cstdint>
#include <vector>

namespace pear::recommender {

/// By product, the others that a step leads to from it.
using TriggeredProducts = std::vector<std::vector<std::uint32_t>>;

/// Follows one customer after another: who bought a product is led to what follows it, until they buy that.
/// One for each thread. Borrows the products.
class TriggerWalk {
 public:
  explicit TriggerWalk(const TriggeredProducts& led_to) : led_to_(&led_to), states_(led_to.size()) {}

  /// The next customer, who has bought nothing yet.
  void begin() {
    for (const std::uint32_t product : touched_) states_[product] = State::open;
    touched_.clear(), reached_.clear();
  }
  void buy(std::uint32_t product) {
    if (states_[product] == State::bought) return;
    states_[product] = State::bought;
    touched_.push_back(product);
    for (const std::uint32_t later : (*led_to_)[product]) {
      if (states_[later] != State::open) continue;
      states_[later] = State::led;
      touched_.push_back(later), reached_.push_back(later);
    }
  }
  [[nodiscard]] bool is_led(std::uint32_t product) const { return states_[product] == State::led; }
  /// Neither bought nor led to.
  [[nodiscard]] bool is_open(std::uint32_t product) const { return states_[product] == State::open; }
  /// What the customer was ever led to, bought or not.
  [[nodiscard]] const std::vector<std::uint32_t>& reached() const { return reached_; }

 private:
  enum class State : std::uint8_t { open, led, bought };
  const TriggeredProducts* led_to_;
  std::vector<State> states_;  ///< by product
  std::vector<std::uint32_t> touched_, reached_;
};

}  // namespace pear::recommender
