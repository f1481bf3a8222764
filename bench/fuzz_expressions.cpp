// Any bytes as an expression, a list or a sort order: no crash, no hang, and everything that parses is
// evaluated. Built by bench/fuzz with clang's libFuzzer.
#include <cstdint>
#include <cstdlib>
#include <string_view>

#include "expression/expression.hpp"
#include "expression/syntax/tree.hpp"

namespace {

/// Two rows of each type, the second of them empty.
struct Rows {
  pear::ColumnValues number = pear::DecimalValues{{25'000, pear::kEmptyUnits}};
  pear::ColumnValues text = pear::TextValues{{0, pear::kEmptyCode}, {}};
  pear::ColumnValues date = pear::DateValues{{19'900, pear::kEmptyDays}};
  pear::ColumnValues flag = pear::FlagValues{{1, 0}};
  pear::RowView view;
  Rows() {
    std::get<pear::TextValues>(text).dictionary.push_back("Äpfel");
    view.rows = 2;
    view.columns = {{"amount", &number}, {"region", &text}, {"order_date", &date}, {"is_return", &flag}};
  }
};

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const Rows kRows;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  const auto expression = pear::Expression::compile(text, kRows.view);
  if (expression) {
    const pear::Values values = expression->evaluate(kRows.view, 0, kRows.view.rows);
    if (values.size() != kRows.view.rows) std::abort();
  }
  const auto tree = pear::parse_tree(text);
  if (tree && pear::columns_of(*tree).size() > size) std::abort();
  (void)pear::parse_list(text);
  (void)pear::parse_sort(text);
  return 0;
}
