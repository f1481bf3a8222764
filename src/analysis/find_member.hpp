// One customer, or one product, by id or by name.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "result/result.hpp"

namespace pear::analysis {

struct MemberOptions {
  std::optional<std::string> id;
  std::optional<std::string> name;  ///< all members with this name
};

/// Declares --id, which may also be given as the first word, and --name.
[[nodiscard]] OptionDeclarations<MemberOptions> member_options(daybook::Level level);
/// Error: usage, where not one of the two is given.
[[nodiscard]] OrError<MemberOptions> read_member(daybook::Level level, const OptionValues& values);

/// The members that are meant, in order of their ids: exact matches, or else matches that ignore case. Error:
/// usage, if there is none, with a suggestion.
[[nodiscard]] OrError<std::vector<std::uint32_t>> find_members(const daybook::Daybook& daybook,
                                                               daybook::Level level,
                                                               const MemberOptions& options);

/// The one with this id, or else the only one with this name. Errors: usage, if there is none, with a
/// suggestion, or if several have the name.
[[nodiscard]] OrError<std::uint32_t> find_one(const daybook::Daybook& daybook, daybook::Level level,
                                              const std::string& text);

/// "C101 Ada Fen". O(1).
[[nodiscard]] std::string member_title(const daybook::Daybook& daybook, daybook::Level level,
                                       std::uint32_t member);

/// A table of attributes and their values: the columns of the level first.
class AboutTable {
 public:
  AboutTable(const daybook::Daybook& daybook, daybook::Level level, std::uint32_t member);
  void add(std::string_view attribute, std::string_view value);
  [[nodiscard]] result::Table take() &&;

 private:
  TextArray attributes_, values_;
};

/// The columns of the level, for a list of several members.
[[nodiscard]] std::vector<result::TableColumn> attribute_columns(const daybook::Daybook& daybook,
                                                                 daybook::Level level,
                                                                 const std::vector<std::uint32_t>& members);

/// The question `customer` or `product`, which reads all columns of its level.
[[nodiscard]] PreparedQuestion prepared_for_member(
    daybook::Level level, const MemberOptions& options,
    OrError<result::Result> (*ask)(const QuestionInput& input, const MemberOptions& options));

}  // namespace pear::analysis
