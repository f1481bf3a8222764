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
  std::string find;  ///< an id, a name, or a part of one
};

/// Declares --find, which may also be given as the first word.
[[nodiscard]] OptionDeclarations<MemberOptions> member_options(daybook::Level level);
/// Error: usage, without it.
[[nodiscard]] OrError<MemberOptions> read_member(daybook::Level level, const OptionValues& values);

/// The members that are meant, in order of their ids: the one with this id, or else all with this name, or
/// else all with the text in their id or name. Case matters only to distinguish exact matches. Error: usage,
/// if there is none, with a suggestion.
[[nodiscard]] OrError<std::vector<std::uint32_t>> find_members(const daybook::Daybook& daybook,
                                                               daybook::Level level, const std::string& text);

/// The only one of them. Errors: usage, if there is none, with a suggestion, or if there are several, with
/// their ids and names.
[[nodiscard]] OrError<std::uint32_t> find_one(const daybook::Daybook& daybook, daybook::Level level,
                                              const std::string& text);

/// "C101 Ada Fen". O(1).
[[nodiscard]] std::string member_title(const daybook::Daybook& daybook, daybook::Level level,
                                       std::uint32_t member);

/// "C101 Ada Fen, C102 Bo Fen, and 3 more".
[[nodiscard]] std::string titles_of(const daybook::Daybook& daybook, daybook::Level level,
                                    const std::vector<std::uint32_t>& members);

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
