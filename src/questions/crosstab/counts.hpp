// The counts of crosstab: the values of each row and column.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "analysis/question_input.hpp"
#include "questions/crosstab/cube.hpp"
#include "questions/crosstab/growth.hpp"
#include "questions/crosstab/options.hpp"
#include "questions/crosstab/rows.hpp"
#include "result/table.hpp"

namespace pear::crosstab {

/// One of the values that are shown in each cell.
struct ShownValue {
  enum class Kind : std::uint8_t { figure, share, against, growth, points, running, cumulative_share };
  std::size_t figure = 0;
  Kind kind = Kind::figure;
  ShareOf share_of = ShareOf::all;
  std::string name;
  std::optional<std::size_t> depth = {};  ///< of the row to compare with, instead of share_of

  [[nodiscard]] bool is_share() const { return kind != Kind::figure && kind != Kind::running; }
};

/// "row", "column", "parent", "all"
[[nodiscard]] std::string_view word_of(ShareOf of);

/// A value of a cell: a number of the figure's kind, a share, or a text.
struct ShownCell {
  bool filled = false;
  std::int64_t number = 0;
  double share = 0;
  std::string_view text;
};

/// Numerators and denominators of figures, for comparisons: quotients are rounded to four places.
struct Fractions {
  std::vector<std::optional<std::size_t>> place_of;  ///< by figure: of its numerator; the denominator is next
  std::optional<Cube> cube;                          ///< if any figure has one
};

/// A computed cross-tabulation: two axes, and the figures of their cells.
class Crosstab {
 public:
  Crosstab(Axis down, Axis across, std::vector<expression::GroupedExpression> figures, Cube cube,
           Fractions fractions, std::optional<Growth> growth, const Options& options);

  [[nodiscard]] const Axis& down() const { return down_; }
  [[nodiscard]] const Axis& across() const { return across_; }
  /// Whether the values down are compared, rather than those across, of which there are several.
  [[nodiscard]] bool compares_down() const {
    return down_.depth() > 0 && (down_.has_several() || !across_.has_several());
  }
  [[nodiscard]] const std::vector<expression::GroupedExpression>& figures() const { return figures_; }
  [[nodiscard]] const std::vector<ShownValue>& shown() const { return shown_; }
  [[nodiscard]] const Options& options() const { return options_; }
  /// With --against previous.
  [[nodiscard]] const std::optional<Growth>& growth() const { return growth_; }

  [[nodiscard]] CubeCell figure(std::size_t figure, std::uint32_t down, std::uint32_t across) const {
    return cube_.at(figure, down, across);
  }
  [[nodiscard]] ShownCell value(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const;
  /// Whether shares and running totals of the figure make sense: it adds up, or at least counts.
  [[nodiscard]] bool can_share(std::size_t figure) const;
  [[nodiscard]] bool adds_up(std::size_t figure) const;
  /// Decimals of the figure on a terminal.
  [[nodiscard]] int places(std::size_t figure) const { return places_[figure]; }
  [[nodiscard]] result::Unit unit(std::size_t figure) const;

 private:
  void list_shown();
  void add_running(std::size_t figure);
  void run_along(std::size_t figure, const Axis& along, bool is_down);
  [[nodiscard]] std::optional<std::pair<std::uint32_t, std::uint32_t>> whole_of(const ShownValue& shown,
                                                                                std::uint32_t down,
                                                                                std::uint32_t across) const;
  /// A figure before it is rounded, as far as it is known; nothing if it is empty.
  [[nodiscard]] std::optional<double> unrounded(std::size_t figure, std::uint32_t down,
                                                std::uint32_t across) const;
  [[nodiscard]] ShownCell share(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const;
  /// Growth against the period before, or the change of a share.
  [[nodiscard]] ShownCell change(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const;
  void fit_places();

  Axis down_, across_;
  std::vector<expression::GroupedExpression> figures_;
  Cube cube_;
  Fractions fractions_;
  std::optional<Growth> growth_;
  Options options_;
  expression::Grain parts_ = expression::grain::kConstant;  ///< what the keys of both axes depend on
  std::vector<ShownValue> shown_;
  std::vector<int> places_;
  std::vector<absl::flat_hash_map<std::uint64_t, std::int64_t>>
      running_;  ///< by figure, then by pair of places
};

/// The cross-tabulation, and what is not shown.
struct Counts {
  std::vector<std::uint64_t> lines;                      ///< by cell
  std::vector<std::vector<std::uint64_t>> empty_values;  ///< by figure, then by aggregate
  std::uint64_t not_having = 0, gathered = 0;            ///< see ChosenRows
  std::uint64_t combined_columns = 0;                    ///< in "other", because there are too many
  std::uint64_t faults = 0;  ///< cells in which a figure divides by zero or is too large
  Crosstab crosstab;
};

/// The keys of both axes, with their labels.
struct AxisKeys {
  std::vector<expression::GroupKey> down, across;
};

/// Errors: usage, for an expression that does not fit.
[[nodiscard]] OrError<AxisKeys> axis_keys_of(const Options& options, const expression::LineView& lines);

/// The cross-tabulation of cells of the keys down, then those across. Of the lines, only names and types are
/// read. Errors: usage and data.
[[nodiscard]] OrError<Counts> count_cells(const expression::LineCells& cells, AxisKeys keys,
                                          const analysis::QuestionInput& input, const Options& options,
                                          const expression::LineView& lines);

}  // namespace pear::crosstab
