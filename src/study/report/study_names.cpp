#include "study/report/study_names.hpp"

#include <algorithm>
#include <charconv>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/markdown_writer.hpp"
#include "output/tables/readable.hpp"
#include "output/tables/terminal_writer.hpp"
#include "study/report/inline_svg.hpp"
#include "study/report/report_table.hpp"

namespace pear::study {
namespace {

/// A position counted from 1, as an index; nothing for anything else.
std::optional<std::size_t> place_of(std::string_view text) {
  std::size_t number = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), number);
  if (fault != std::errc() || end != text.data() + text.size() || number == 0) return std::nullopt;
  return number - 1;
}

/// "headline.2" begins with "headline": the text after the point, empty if there is none.
std::optional<std::string_view> behind(std::string_view text, std::string_view front) {
  if (!text.starts_with(front)) return std::nullopt;
  if (text.size() == front.size()) return std::string_view();
  if (text[front.size()] != '.') return std::nullopt;
  return text.substr(front.size() + 1);
}

}  // namespace

const StudyAnswer* StudyNames::answer_named(std::string_view name) const {
  for (const StudyAnswer& answer : answers_.answers)
    if (answer.name() == name) return &answer;
  return nullptr;
}

StudyNames::FoundTable StudyNames::table_named(std::string_view name) const {
  for (const StudyAnswer& answer : answers_.answers) {
    if (!answer.answer) continue;
    for (const result::Table& table : answer.answer->result.tables)
      if (output::file_stem(answer.name(), table.part) == name) return {&answer, &table};
  }
  return {};
}

OrError<std::string> StudyNames::figure(const StudyAnswer& answer, std::size_t place) const {
  const output::DrawnFigure& drawn = answer.answer->files.figures[place];
  const result::Figure& figure = answer.answer->result.figures[drawn.place];
  if (kind_ == TemplateKind::html && std::filesystem::exists(drawn.path + ".svg"))
    return inline_svg(drawn.path + ".svg", figure, fmt::format("{}-{}-", answer.name(), place));
  const bool has_png = std::filesystem::exists(drawn.path + ".png");
  const std::string file =
      std::filesystem::path(drawn.path + (has_png ? ".png" : ".svg")).filename().string();
  return kind_ == TemplateKind::markdown ? fmt::format("![{}]({})", output::markdown_text(figure.title), file)
                                         : file;
}

OrError<std::optional<std::string>> StudyNames::of_answer(const StudyAnswer& answer,
                                                          std::string_view what) const {
  if (what == "title") return answer.title();
  if (what == "comment") return answer.asked->comment;
  if (!answer.answer)
    return data_error(fmt::format("the question {} could not be answered: {}", in_quotes(answer.name()),
                                  answer.failure.message));
  const result::Result& result = answer.answer->result;
  if (what == "population")
    return output::readable_population(result.population, result.whole, result.currency);
  if (what == "selection") return answer.answer->trail.selection;
  if (what == "command") return answer.answer->trail.command_line;
  if (const auto number = behind(what, "headline")) {
    if (number->empty()) return join(result.headline, " ");
    const auto place = place_of(*number);
    if (place && *place < result.headline.size()) return result.headline[*place];
  }
  if (const auto number = behind(what, "figure")) {
    const auto place = number->empty() ? std::size_t{0} : place_of(*number);
    if (place && *place < answer.answer->files.figures.size()) {
      PEAR_ASSIGN(std::string drawn, figure(answer, *place));
      return drawn;
    }
  }
  return std::nullopt;
}

std::optional<std::string> StudyNames::of_table(const FoundTable& found, std::string_view what) const {
  const result::Table& table = *found.table;
  const std::size_t rows = std::min(found.answer->asked->top, table.most_shown);
  if (what == "count") return with_thousands(static_cast<std::int64_t>(table.rows()));
  if (what == "table") {
    if (kind_ == TemplateKind::html) return render_html_table(table, rows);
    if (kind_ == TemplateKind::markdown) return output::markdown_table(table, std::min(rows, table.rows()));
    output::TerminalStyle style;
    style.top = rows;
    return output::render_table(table, style);
  }
  const auto cell = behind(what, "cell");
  if (!cell || cell->rfind('.') == std::string_view::npos) return std::nullopt;
  const auto row = place_of(cell->substr(cell->rfind('.') + 1));
  const std::string_view name = cell->substr(0, cell->rfind('.'));
  for (const result::TableColumn& column : table.columns)
    if (column.name == name && row && *row < table.rows()) return output::readable_cell(column, *row);
  return std::nullopt;
}

OrError<std::optional<std::string>> StudyNames::value(std::string_view name) const {
  if (name == "title") return answers_.study->title;
  if (name == "comment") return answers_.study->comment;
  // Names of questions and columns may contain points themselves, so all splits are tried.
  for (std::size_t point = name.find('.'); point != std::string_view::npos;
       point = name.find('.', point + 1)) {
    const std::string_view front = name.substr(0, point), what = name.substr(point + 1);
    if (const FoundTable found = table_named(front); found.table != nullptr)
      if (auto value = of_table(found, what)) return value;
    if (const StudyAnswer* answer = answer_named(front)) {
      PEAR_ASSIGN(auto value, of_answer(*answer, what));
      if (value) return value;
    }
  }
  return std::nullopt;
}

std::optional<std::vector<NamedCells>> StudyNames::rows(std::string_view name) const {
  constexpr std::string_view kRows = ".rows";
  if (!name.ends_with(kRows)) return std::nullopt;
  const FoundTable found = table_named(name.substr(0, name.size() - kRows.size()));
  if (found.table == nullptr) return std::nullopt;
  std::vector<NamedCells> rows(std::min(found.table->rows(), found.answer->asked->top));
  for (std::size_t row = 0; row < rows.size(); ++row)
    for (const result::TableColumn& column : found.table->columns)
      rows[row].emplace_back(column.name, output::readable_cell(column, row));
  return rows;
}

std::vector<std::string> StudyNames::all() const {
  std::vector<std::string> names = {"title", "comment"};
  for (const StudyAnswer& answer : answers_.answers) {
    for (const char* what :
         {"title", "comment", "headline", "headline.1", "population", "selection", "command"})
      names.push_back(answer.name() + "." + what);
    if (!answer.answer) continue;
    for (std::size_t i = 0; i < answer.answer->files.figures.size(); ++i)
      names.push_back(i == 0 ? answer.name() + ".figure" : fmt::format("{}.figure.{}", answer.name(), i + 1));
    for (const result::Table& table : answer.answer->result.tables) {
      const std::string stem = output::file_stem(answer.name(), table.part);
      for (const char* what : {"table", "count", "rows"}) names.push_back(stem + "." + what);
      for (const result::TableColumn& column : table.columns)
        names.push_back(fmt::format("{}.cell.{}.1", stem, column.name));
    }
  }
  return names;
}

}  // namespace pear::study
