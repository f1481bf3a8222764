// Any bytes as a study file, and as a template of a study: no crash, no hang.
#include <cstdint>
#include <string_view>

#include "study/report/template.hpp"
#include "study/study_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace pear;
  const std::string_view text(reinterpret_cast<const char*>(data), size);
  (void)study::parse_study(text, "monthly.toml");
  static const study::Study kStudy;
  study::StudyAnswers answers;
  answers.study = &kStudy;
  for (const study::TemplateKind kind :
       {study::TemplateKind::html, study::TemplateKind::markdown, study::TemplateKind::text})
    (void)study::fill_template(answers, text, "page.html", kind);
  return 0;
}
