// Each period compared with the one before.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/crosstab/cube.hpp"
#include "questions/crosstab/options.hpp"

namespace pear::crosstab {

/// The time key of an axis: the last year, quarter, month or week of --across, or else of --down.
struct Growth {
  static constexpr std::uint32_t kNone = UINT32_MAX;

  bool is_down = false;
  std::size_t depth = 0;                    ///< of the key
  std::vector<std::uint32_t> previous;      ///< by place: the same place in the period before, or kNone
  std::vector<std::uint8_t> is_unfinished;  ///< by place: whether its period continues after the data
  /// Figures of lines up to the same day of each period as the data's last day is of its own; none if every
  /// period is over.
  std::optional<Cube> same_days;
  std::vector<std::string> notes;  ///< on periods that are not complete
};

/// Errors: usage, if no axis has such a key.
[[nodiscard]] OrError<Growth> growth_of(const analysis::QuestionInput& input, const Options& options,
                                        const expression::LineView& lines, const expression::LineCells& cells,
                                        const Axis& down, const Axis& across);

}  // namespace pear::crosstab
