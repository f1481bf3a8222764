// The examples in docs/expressions.md, and the corpus of the fuzzer.
#include <filesystem>
#include <sstream>

#include <gtest/gtest.h>

#include "daybook/columns/derived_columns.hpp"
#include "expression/aggregate/windows.hpp"
#include "expression/expression.hpp"
#include "expression/syntax/parse.hpp"
#include "result/cell_text.hpp"
#include "support/asking.hpp"
#include "support/importing.hpp"

namespace pear::test {
namespace {

struct Example {
  std::string section, expression, value;
};

struct Page {
  std::string lines;  ///< the CSV block
  std::vector<Example> examples;
};

/// The code spans of a table's row, in which a vertical bar is written \|.
std::vector<std::string> code_spans(const std::string& row) {
  std::vector<std::string> spans;
  for (std::size_t at = row.find('`'); at != std::string::npos; at = row.find('`', at + 1)) {
    const std::size_t end = row.find('`', at + 1);
    std::string span = row.substr(at + 1, end - at - 1);
    for (std::size_t bar = span.find("\\|"); bar != std::string::npos; bar = span.find("\\|"))
      span.erase(bar, 1);
    spans.push_back(span);
    at = end;
  }
  return spans;
}

Page read_page() {
  std::istringstream text(read_file(PEAR_DOCS "/expressions.md"));
  Page page;
  std::string section, line;
  bool in_csv = false;
  while (std::getline(text, line)) {
    if (line.starts_with("## ")) section = line.substr(3);
    if (line.starts_with("```")) {
      in_csv = line == "```csv";
    } else if (in_csv) {
      page.lines += line + "\n";
    } else if (line.starts_with("| ") && !section.empty()) {
      const std::vector<std::string> spans = code_spans(line);
      if (spans.size() >= 2) page.examples.push_back({section, spans[spans.size() - 2], spans.back()});
    }
  }
  return page;
}

std::string value_of_line(const std::string& expression, const daybook::Daybook& daybook) {
  const expression::Tree tree = *expression::parse_tree(expression);
  const auto prepared = expression::add_windows(daybook, tree.windows);
  if (!prepared) return prepared.error().message;
  const expression::LineView lines(prepared->daybook, prepared->grains);
  const auto compiled = expression::Expression::compile(tree.root, tree.text, lines.rows());
  if (!compiled) return compiled.error().message;
  const std::size_t order_a2 = 2;
  const expression::Values values = compiled->evaluate(lines.rows(), order_a2, order_a2 + 1);
  return values.states[0] == expression::ValueState::empty ? "(empty)" : expression::value_text(values, 0);
}

std::string figure_of_all(const std::string& expression, const daybook::Daybook& daybook) {
  const auto result =
      try_to_ask("crosstab", {{"down", "'all' as everything"}, {"count", expression}}, daybook);
  return result ? result::cell_text(result->tables[0].columns[1], 1) : result.error().message;
}

TEST(Documentation, ExamplesGiveTheirResults) {
  const Page page = read_page();
  const daybook::Daybook daybook = import_text(page.lines).imported->built.daybook;
  std::vector<std::string> stored = {"product_id"};
  for (const daybook::Column& column : daybook.parts().columns) stored.push_back(column.name);
  const daybook::Daybook whole = daybook::completed(daybook, daybook::known_columns(stored));
  EXPECT_GT(page.examples.size(), 40U);
  for (const Example& example : page.examples)
    EXPECT_EQ(example.section == "Figures" ? figure_of_all(example.expression, daybook)
                                           : value_of_line(example.expression, whole),
              example.value)
        << example.expression;
}

/// The fuzzer's initial inputs, and its findings: each parses or is rejected, and nothing worse.
TEST(Fuzzing, TheCorpusIsReadWithoutCrash) {
  std::size_t understood = 0;
  std::size_t files = 0;
  for (const auto& file : std::filesystem::directory_iterator(PEAR_DOCS "/../tests/expression/corpus")) {
    const std::string text = read_file(file.path());
    ++files;
    understood += expression::parse_tree(text).has_value() || expression::parse_list(text).has_value() ||
                          expression::parse_sort(text).has_value()
                      ? 1U
                      : 0U;
  }
  EXPECT_GT(understood, 10U);
  EXPECT_GE(files, understood);
}

TEST(Fuzzing, DepthIsBounded) {
  const auto fault = [](const std::string& text) {
    const auto tree = expression::parse_tree(text);
    return tree ? std::string() : tree.error().message;
  };
  const std::string many(250, '(');
  EXPECT_EQ(
      fault(many + "1" + std::string(250, ')')),
      "an expression may have up to 10,000 characters, and up to 200 opening parentheses, CASE and NOT each");
  std::string nots, sum = "1", calls;
  for (int i = 0; i < 250; ++i) nots += "not ";
  for (int i = 0; i < 250; ++i) sum += " + 1";
  for (int i = 0; i < 150; ++i) calls += "substring(";  // not closed: nothing may be parsed again and again
  EXPECT_NE(fault(nots + "true"), "");
  EXPECT_EQ(fault(sum), "more than 200 values are combined with operators here (column 1)");
  EXPECT_NE(fault(calls + "'a'"), "");
}

}  // namespace
}  // namespace pear::test
