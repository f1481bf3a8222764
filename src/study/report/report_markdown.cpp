#include "study/report/report_markdown.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/markdown_writer.hpp"
#include "study/report/glossary.hpp"

namespace pear::study {

std::string render_report_markdown(const StudyAnswers& answers) {
  std::string text = fmt::format("# {}\n\n", output::markdown_text(answers.study->title));
  if (!answers.study->comment.empty()) text += answers.study->comment + "\n\n";
  for (const StudyAnswer& answer : answers.answers) {
    if (!answer.answer) {
      text +=
          fmt::format("## {}\n\nThis question could not be answered: {}\n\n",
                      output::markdown_text(answer.title()), output::markdown_text(answer.failure.message));
      continue;
    }
    std::string between = answer.asked->comment.empty() ? "" : answer.asked->comment + "\n\n";
    for (const output::DrawnFigure& drawn : answer.answer->files.figures) {
      const std::string file = std::filesystem::path(drawn.path).filename().string();
      const bool has_png = std::filesystem::exists(drawn.path + ".png");
      between += fmt::format("![{}]({}.{})\n\n",
                             output::markdown_text(answer.answer->result.figures[drawn.place].title), file,
                             has_png ? "png" : "svg");
    }
    text += output::render_markdown(answer.answer->result, answer.title(), answer.answer->trail.selection,
                                    answer.name(), answer.asked->top, {2, between}) +
            "\n";
  }
  return text + "## Glossary\n\n" + glossary_markdown();
}

}  // namespace pear::study
