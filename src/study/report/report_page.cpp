#include "study/report/report_page.hpp"

#include <algorithm>
#include <filesystem>
#include <kainjow/mustache.hpp>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "output/tables/readable.hpp"
#include "study/report/glossary.hpp"
#include "study/report/html.hpp"
#include "study/report/inline_svg.hpp"
#include "study/report/report_table.hpp"
#include "study/report/report_template.hpp"

namespace pear::study {
namespace {

using kainjow::mustache::data;

data named(const std::vector<std::pair<std::string, std::string>>& texts) {
  data all(data::type::object);
  for (const auto& [name, text] : texts) all.set(name, text);
  return all;
}

data list_of(const std::vector<std::string>& texts) {
  data list(data::type::list);
  for (const std::string& text : texts) list.push_back(text);
  return list;
}

std::string population_of(const result::Result& result) {
  return output::readable_population(result.population, result.whole, result.currency);
}

data table_data(const StudyAnswer& answer, const result::Table& table, bool folded) {
  const output::FilePlan& plan = answer.asked->files;
  data files(data::type::list);
  for (const output::TableFormat format : plan.tables) {
    if (format != output::TableFormat::csv) continue;
    const std::string name = output::file_stem(plan.stem, table.part) + ".csv";
    files.push_back(named({{"name", name}, {"link", url_text(name)}}));
  }
  data all(data::type::object);
  all.set("folded", folded);
  all.set("title", table.title);
  all.set("description", table.description);
  all.set("files", files);
  all.set("rows", render_html_table(table, std::min(answer.asked->top, table.most_shown)));
  return all;
}

/// How the result was computed.
data trail_data(const app::Answer& answer) {
  data trail(data::type::list);
  const auto add = [&](std::string_view term, const std::string& meaning) {
    trail.push_back(named({{"term", std::string(term)}, {"meaning", meaning}}));
  };
  for (const result::Check& check : answer.result.checks)
    add(check.holds ? "Check passed" : "Check FAILED", check.statement);
  for (const auto& [name, meaning] : answer.result.definitions) add(name, meaning);
  add("Command", answer.trail.command_line);
  add("Daybook", fmt::format("{}, fingerprint {}", answer.trail.daybook, answer.trail.fingerprint));
  return trail;
}

OrError<data> figures_data(const StudyAnswer& answer) {
  std::vector<std::string> figures;
  for (const output::DrawnFigure& drawn : answer.answer->files.figures) {
    const std::string path = drawn.path + ".svg";
    if (!std::filesystem::exists(path)) continue;
    PEAR_ASSIGN(std::string svg, inline_svg(path, answer.answer->result.figures[drawn.place],
                                            fmt::format("{}-{}-", answer.name(), drawn.place)));
    figures.push_back(std::move(svg));
  }
  return list_of(figures);
}

/// Of an answered question.
OrError<void> add_answer(const StudyAnswer& answer, data& section) {
  const result::Result& result = answer.answer->result;
  PEAR_ASSIGN(const data figures, figures_data(answer));
  data tables(data::type::list);
  for (std::size_t i = 0; i < result.tables.size(); ++i)
    if (result.tables[i].rows() > 0 && result.tables[i].most_shown > 0)
      tables.push_back(table_data(answer, result.tables[i], i > 0));
  section.set("summary", result.headline.empty() ? std::string() : result.headline.front());
  section.set("headline", list_of(result.headline));
  section.set("figures", figures);
  section.set("population", population_of(result));
  section.set("selection", answer.answer->trail.selection);
  section.set("notes", list_of(result.notes));
  section.set("tables", tables);
  section.set("trail", trail_data(*answer.answer));
  return {};
}

OrError<data> section_data(const StudyAnswer& answer) {
  data section(data::type::object);
  section.set("id", url_text(answer.name()));
  section.set("title", answer.title());
  section.set("failed", !answer.answer);
  std::string comment = markdown_as_html(answer.asked->comment);
  if (comment.ends_with('\n')) comment.pop_back();
  section.set("comment", list_of(comment.empty() ? std::vector<std::string>() : std::vector{comment}));
  if (answer.answer) {
    PEAR_TRY(add_answer(answer, section));
  } else {
    section.set("summary", "failed: " + answer.failure.message);
    section.set("reason", answer.failure.message);
  }
  return section;
}

/// The sentences about the most money, each with its question.
data main_findings(const StudyAnswers& answers) {
  constexpr std::size_t kMost = 5;
  struct Found {
    const StudyAnswer* answer;
    result::Stake stake;
  };
  std::vector<Found> found;
  for (const StudyAnswer& answer : answers.answers)
    if (answer.answer)
      for (const result::Stake& stake : answer.answer->result.stakes) found.push_back({&answer, stake});
  std::stable_sort(found.begin(), found.end(),
                   [](const Found& a, const Found& b) { return a.stake.units > b.stake.units; });
  data list(data::type::list);
  for (std::size_t i = 0; i < std::min(kMost, found.size()); ++i) {
    const result::Result& result = found[i].answer->answer->result;
    list.push_back(named({{"link", url_text(found[i].answer->name())},
                          {"sentence", result.headline[found[i].stake.sentence]},
                          {"amount", analysis::rounded_money_text(found[i].stake.units, result.currency)}}));
  }
  return list;
}

/// What the report is about: the first result with the whole daybook knows.
std::string about(const StudyAnswers& answers) {
  for (const StudyAnswer& answer : answers.answers) {
    if (!answer.answer) continue;
    const result::Result& result = answer.answer->result;
    return fmt::format("{}: {}", answer.answer->trail.daybook,
                       output::readable_population(result.whole ? *result.whole : result.population,
                                                   std::nullopt, result.currency));
  }
  return answers.study->daybook;
}

}  // namespace

OrError<std::string> render_report_page(const StudyAnswers& answers) {
  const Study& study = *answers.study;
  data sections(data::type::list);
  for (const StudyAnswer& answer : answers.answers) {
    PEAR_ASSIGN(const data section, section_data(answer));
    sections.push_back(section);
  }
  data page(data::type::object);
  page.set("title", study.title);
  page.set("style", std::string(kReportStyle));
  page.set("script", std::string(kReportScript));
  page.set("about", about(answers));
  page.set("glossary", markdown_as_html(glossary_markdown()));
  page.set("introduction", markdown_as_html(study.comment));
  page.set("sections", sections);
  const data findings = main_findings(answers);
  page.set("findings", findings);
  page.set("has_findings", findings.is_non_empty_list());
  page.set("file", std::filesystem::path(study.file).filename().string());
  kainjow::mustache::mustache layout{std::string(kReportTemplate)};
  layout.set_custom_escape([](const std::string& text) { return html_text(text); });
  return layout.render(page);
}

}  // namespace pear::study
