// The options of crosstab.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::crosstab {

/// What a cell's figure is divided by for its share.
enum class ShareOf : std::uint8_t { row, column, parent, all };
enum class Direction : std::uint8_t { down, across };
enum class EmptyCells : std::uint8_t { zero, blank };

/// What figures of any kind are compared with: the same figure of a larger cell, or of the period before.
struct Comparison {
  std::string with;  ///< as written
  ShareOf of = ShareOf::parent;
  std::optional<std::size_t> depth;  ///< of the row above to compare with, instead of `of`
  bool is_previous = false;          ///< the period before, instead of both
};

struct Options {
  std::vector<expression::Tree> down, across;  ///< from the outside in
  std::vector<expression::Tree> figures;
  std::vector<ShareOf> shares;
  bool shares_only = false;
  std::vector<Comparison> against;
  std::optional<Direction> running;
  std::optional<expression::Tree> having;
  std::vector<expression::SortKey> sort;
  std::optional<std::int64_t> keep;  ///< places of each level that are kept; the rest is combined in "other"
  EmptyCells empty = EmptyCells::zero;
  std::optional<std::int64_t> limit;
  std::int64_t offset = 0;
  std::vector<std::pair<std::string, std::string>>
      details;  ///< keys and values of the cell whose lines are written
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::crosstab
