// The report as one HTML page.
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/whole_file.hpp"
#include "output/tables/readable.hpp"
#include "study/report/html.hpp"
#include "study/report/report.hpp"
#include "study/report/report_style.hpp"

namespace pear::study {
namespace {

/// Puts the prefix before the names that elements have and refer to. Only tags are looked at: data is text
/// between them, in which gnuplot has escaped brackets.
std::string with_own_names(std::string_view svg, const std::string& prefix) {
  std::string renamed;
  while (!svg.empty()) {
    const std::size_t open = std::min(svg.find('<'), svg.size()),
                      close = std::min(svg.find('>', open), svg.size());
    renamed += svg.substr(0, open);
    std::string tag(svg.substr(open, close - open));
    for (const std::string_view name : {" id='", " id=\"", "href='#", "href=\"#", "url(#"})
      for (std::size_t at = tag.find(name); at != std::string::npos; at = tag.find(name, at + name.size()))
        tag.insert(at + name.size(), prefix);
    renamed += tag;
    svg.remove_prefix(close);
  }
  return renamed;
}

/// Nothing but what is in the page: browsers ask nobody for anything.
constexpr std::string_view kHead = R"(<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:">
<link rel="icon" href="data:,">
)";

std::string definition(std::string_view term, const std::string& meaning) {
  return fmt::format("<dt>{}</dt><dd>{}</dd>\n", html_text(term), html_text(meaning));
}

std::string population_of(const result::Result& result) {
  return output::readable_population(result.population, result.whole, result.currency);
}

std::string contents(const StudyAnswers& answers) {
  std::string html = "<nav aria-label=\"Contents\"><ol>\n";
  for (const StudyAnswer& answer : answers.answers) {
    const std::string said = !answer.answer ? "failed: " + answer.failure.message
                             : answer.answer->result.headline.empty()
                                 ? ""
                                 : answer.answer->result.headline.front();
    html += fmt::format("<li><a href=\"#{}\"><b>{}</b> <span>{}</span></a></li>\n", url_text(answer.name()),
                        html_text(answer.asked->title), html_text(said));
  }
  return html + "</ol></nav>\n";
}

std::string table_with_link(const StudyAnswer& answer, const result::Table& table) {
  const output::FilePlan& files = answer.asked->files;
  std::string html =
      fmt::format("<h3>{}</h3><p class=\"soft\">{}", html_text(table.title), html_text(table.description));
  for (const output::TableFormat format : files.tables)
    if (format == output::TableFormat::csv)
      html +=
          fmt::format(" <a href=\"{}.csv\">{}.csv</a>", url_text(output::file_stem(files.stem, table.part)),
                      html_text(output::file_stem(files.stem, table.part)));
  html += "</p>\n";
  return html + render_html_table(table, std::min(answer.asked->top, table.most_shown));
}

/// How the answer was come by.
std::string trail_of(const app::Answer& answer) {
  const result::Result& result = answer.result;
  std::string html = "<details><summary>How this was come by</summary><dl>\n";
  for (const result::Check& check : result.checks)
    html += definition(check.holds ? "Check passed" : "Check FAILED", check.statement);
  for (const auto& [name, meaning] : result.definitions) html += definition(name, meaning);
  html += definition("Command", answer.trail.command_line);
  html += definition("Daybook",
                     fmt::format("{}, fingerprint {}", answer.trail.daybook, answer.trail.fingerprint));
  return html + "</dl></details>\n";
}

OrError<std::string> section(const StudyAnswer& answer) {
  const std::string id = url_text(answer.name());
  std::string html = fmt::format("<section id=\"{}\"{}>\n<h2>{}</h2>\n", id,
                                 answer.answer ? "" : " class=\"failed\"", html_text(answer.asked->title));
  if (!answer.answer)
    return html +
           fmt::format("<p class=\"finding\">This question could not be answered: {}</p>\n</section>\n",
                       html_text(answer.failure.message));
  const result::Result& result = answer.answer->result;
  for (const std::string& sentence : result.headline)
    html += fmt::format("<p class=\"finding\">{}</p>\n", html_text(sentence));
  if (!answer.asked->comment.empty()) html += markdown_as_html(answer.asked->comment);
  for (const output::DrawnFigure& drawn : answer.answer->files.figures) {
    const result::Figure& figure = result.figures[drawn.place];
    if (!std::filesystem::exists(drawn.path + ".svg")) continue;
    PEAR_ASSIGN(const std::string svg,
                inline_svg(drawn.path + ".svg", figure, fmt::format("{}-{}-", answer.name(), drawn.place)));
    html += "<figure>" + svg + "</figure>\n";
  }
  html += fmt::format("<p class=\"soft\">Population: {}. Selection: {}.</p>\n",
                      html_text(population_of(result)), html_text(answer.answer->trail.selection));
  for (const std::string& note : result.notes)
    html += fmt::format("<p class=\"soft\">{}</p>\n", html_text(note));
  for (std::size_t i = 0; i < result.tables.size(); ++i) {
    if (result.tables[i].rows() == 0) continue;
    const std::string table = table_with_link(answer, result.tables[i]);
    html += i == 0 ? table
                   : fmt::format("<details><summary>{}</summary>{}</details>\n",
                                 html_text(result.tables[i].title), table);
  }
  return html + trail_of(*answer.answer) + "</section>\n";
}

/// Of what all this is: the first answer with the whole daybook knows.
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

OrError<std::string> inline_svg(const std::string& path, const result::Figure& figure,
                                const std::string& prefix) {
  PEAR_ASSIGN(std::string svg, files::read_whole_file(path));
  svg.erase(0, std::min(svg.find("<svg"), svg.size()));
  svg = with_own_names(svg, html_text(prefix));
  const std::string size = " width=\"1280\" height=\"800\"";
  if (const std::size_t at = svg.find(size); at != std::string::npos) svg.erase(at, size.size());
  const std::string said = figure.subtitle.empty() ? figure.title : figure.title + " " + figure.subtitle;
  return svg.insert(std::string_view("<svg").size(),
                    fmt::format(" role=\"img\" aria-label=\"{}\"", html_text(said)));
}

OrError<std::string> render_report_page(const StudyAnswers& answers) {
  const Study& study = *answers.study;
  std::string html(kHead);
  html += fmt::format("<title>{}</title>\n<style>{}</style>\n</head>\n<body>\n", html_text(study.title),
                      kReportStyle);
  html += fmt::format("<header><h1>{}</h1>\n<p class=\"soft\">{}</p>\n{}</header>\n", html_text(study.title),
                      html_text(about(answers)), markdown_as_html(study.comment));
  html += contents(answers) + "<main>\n";
  for (const StudyAnswer& answer : answers.answers) {
    PEAR_ASSIGN(const std::string part, section(answer));
    html += part;
  }
  html += fmt::format(
      "</main>\n<footer class=\"soft\">Made by Pear Thread from {}. The tables are whole in the files beside "
      "this "
      "page; datapackage.json says what their columns are and how each was come by.</footer>\n"
      "<script>{}</script>\n</body>\n</html>\n",
      html_text(std::filesystem::path(study.file).filename().string()), kReportScript);
  return html;
}

}  // namespace pear::study
