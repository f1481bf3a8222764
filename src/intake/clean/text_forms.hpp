// Numbers and dates in columns without a role.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "intake/plan/intake_plan.hpp"
#include "intake/read/moment_reader.hpp"
#include "intake/read/number_reader.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// What the texts of a column are, in the format of their source.
enum class TextForm : std::uint8_t { texts, numbers, dates };

/// Sees the texts of a column and decides their form. Numbers and dates in the form that the daybook reads
/// count as texts: they need no conversion.
class TextFormFinder {
 public:
  explicit TextFormFinder(const SourcePlan& plan);
  void see(std::string_view text);
  [[nodiscard]] TextForm form() const;

 private:
  NumberReader numbers_;
  MomentReader dates_;
  bool any_ = false, all_numbers_, all_dates_;
};

/// Whether a column's texts may be numbers or dates in the format of the source: it has no role.
[[nodiscard]] bool has_text_form(const SourcePlan& plan, TableKind kind, std::string_view column);

/// Texts that are all numbers or all dates in the source's format ("1.234,50", "31.12.2024") are converted to
/// the form that the daybook reads ("1234.5", "2024-12-31").
void convert_texts(const SourcePlan& plan, TextForm form, daybook::TextValues& values);

/// Finds the forms of all columns of a table that is in memory, and converts their texts.
void unify_formats(const SourcePlan& plan, RawTable& table);

}  // namespace pear::intake
