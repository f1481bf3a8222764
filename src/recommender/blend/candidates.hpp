// The products that a customer may buy, each with what the parts of the model say about it.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "recommender/blend/shortlists.hpp"
#include "recommender/purchase_model.hpp"
#include "recommender/taste/taste.hpp"

namespace pear::recommender {

/// New to the customer, or bought before. The two are different tasks, and each has a model and baselines of
/// its own (Li, Jullien, Ariannezhad and de Rijke, A next basket recommendation reality check, ACM TOIS 41,
/// 2023).
enum class PurchaseKind : std::uint8_t { new_product, repurchase };
inline constexpr std::array kPurchaseKinds = {PurchaseKind::new_product, PurchaseKind::repurchase};

/// What speaks for a purchase, on the scale of log odds. Those of a kind are at the beginning.
constexpr std::size_t kMostFeatures = 15;
using Features = std::array<float, kMostFeatures>;
[[nodiscard]] std::size_t feature_count(PurchaseKind kind);
/// The places of some: the logarithm of the probability that the others correct, followed by that of its
/// complement.
constexpr std::size_t kLogProbability = 1;
constexpr std::size_t kClasses = 3, kItems = 4;  ///< of new products
constexpr std::size_t kSteps = 3;                ///< of repurchases
constexpr std::size_t kRecentTrend = 5, kSeasonTrend = 6;

struct Candidate {
  /// The step with the largest uplift, with the earlier product that triggers it.
  struct Trigger {
    std::uint32_t cell = 0;  ///< of the step model
    std::uint32_t product = 0;
    std::int32_t days_ago = 0;  ///< since the last purchase of it
  };
  std::uint32_t product = 0;
  PurchaseKind kind = PurchaseKind::new_product;
  double baseline = 0;  ///< the probability without any step
  double none = 1;      ///< the probability that no step triggers it
  std::optional<Trigger> trigger;
  OwnPurchases own;  ///< of a repurchase
  Features features{};

  [[nodiscard]] double probability() const { return 1 - (1 - baseline) * none; }
};

/// Reads one customer after another. One for each thread. Borrows its inputs. All probabilities are those of
/// a usual time of the year.
class CandidateReader {
 public:
  CandidateReader(const PurchaseModel& model, const Taste& taste, const mining::Histories& known,
                  const std::vector<std::uint8_t>& allowed);

  /// In order of product: allowed products that the customer bought, that a purchase triggers, and of the
  /// others the 40 likeliest; or, if they are given, only these products. None if the customer is not active
  /// on model.landmarks.as_of.
  const std::vector<Candidate>& read(std::uint32_t customer, std::span<const std::uint32_t> products = {});
  /// The candidate of a product that was read last.
  [[nodiscard]] const Candidate& candidate(std::uint32_t product) const;
  /// The logarithm of how many times the usual number of products the customer read last is expected to
  /// order.
  [[nodiscard]] double log_season() const { return log_season_; }
  /// The state of the customer read last, if there were candidates.
  [[nodiscard]] const CustomerState& state() const { return state_; }

 private:
  /// The uplift of steps to a product.
  struct StepSum {
    double none = 1;
    double largest = 0;  ///< the largest uplift of a step
    std::optional<Candidate::Trigger> trigger;
  };
  enum Mark : std::uint8_t { kUnseen, kConsidered, kChosen };
  void choose_likely(std::uint32_t group);
  void consider(const std::vector<std::uint32_t>& products, Mark mark);
  void forget();
  void gather(std::uint32_t group, std::span<const mining::HistoryEntry> history);
  void follow_steps(std::uint32_t group);
  [[nodiscard]] double baseline_of_new(std::uint32_t group, std::uint32_t product) const;
  [[nodiscard]] double class_lift(std::uint32_t group, std::uint32_t product) const;
  [[nodiscard]] double likelihood_of_new(std::uint32_t group, std::uint32_t product) const;
  [[nodiscard]] double item_lift(std::uint32_t product) const;
  [[nodiscard]] double own_share(std::uint32_t product, double own, double all) const;
  void add(std::uint32_t group, std::uint32_t product);
  void set_features_of_new(std::uint32_t group, Candidate& candidate) const;
  void set_features_of_repurchase(Candidate& candidate) const;

  const PurchaseModel& model_;
  const Taste& taste_;
  const mining::Histories& known_;
  CustomerState state_;
  double expected_items_ = 0, log_season_ = 0, purchases_ = 0, weight_ = 0;
  std::vector<OwnPurchases> own_;      ///< by product
  std::vector<std::uint32_t> bought_;  ///< products of the history
  const std::vector<std::uint8_t>& allowed_;
  Shortlists shortlists_;
  std::vector<StepSum> steps_;                      ///< by product
  std::vector<double> item_sums_;                   ///< by product
  std::vector<std::uint32_t> triggered_, related_;  ///< products with such a sum
  std::vector<Mark> marks_;                         ///< by product
  std::vector<std::uint32_t> category_counts_;
  std::vector<double> category_shares_, classes_;
  std::vector<std::size_t> likely_classes_;
  std::vector<std::pair<double, std::uint32_t>> likely_;  ///< with how likely they are
  std::vector<std::uint32_t> considered_, chosen_;
  std::vector<Candidate> candidates_;
};

}  // namespace pear::recommender
