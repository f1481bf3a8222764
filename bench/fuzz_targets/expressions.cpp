// Any bytes as an expression, a list or a sort order: no crash, no hang, and everything that parses is
// evaluated.
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "expression/expression.hpp"
#include "expression/syntax/parse.hpp"

namespace {

using namespace pear;

/// Two rows of each type, the second of them empty.
struct Rows {
  daybook::ColumnValues number = daybook::DecimalValues{{25'000, daybook::kEmptyUnits}};
  daybook::ColumnValues text = daybook::TextValues{{0, daybook::kEmptyCode}, {}};
  daybook::ColumnValues date = daybook::DateValues{{19'900, daybook::kEmptyDays}};
  daybook::ColumnValues flag = daybook::FlagValues{{1, 0}};
  expression::RowView view;
  Rows() {
    std::get<daybook::TextValues>(text).dictionary.push_back("Äpfel");
    view.rows = 2;
    view.columns = {{"amount", &number}, {"region", &text}, {"order_date", &date}, {"is_return", &flag}};
  }
};

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const Rows kRows;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const auto compiled = expression::Expression::compile(text, kRows.view);
  if (compiled && compiled->evaluate(kRows.view, 0, kRows.view.rows).size() != kRows.view.rows) std::abort();
  const auto tree = expression::parse_tree(text);
  if (tree && expression::columns_of(*tree).size() > size) std::abort();
  (void)expression::parse_list(text);
  (void)expression::parse_sort(text);
  return 0;
}
