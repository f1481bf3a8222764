// Results of a study written by hand.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "study/study.hpp"

namespace pear::test {

/// A study with the answers that a test adds, in their order.
class MadeUpAnswers {
 public:
  explicit MadeUpAnswers(std::size_t most) {
    study_.title = "The <month>";
    study_.file = "m.toml";
    study_.questions.reserve(most);  // answers point at them
    answers_.study = &study_;
  }

  study::StudyAnswer& add(const std::string& name, result::Result result) {
    study::StudyAnswer& entry = add_failed(name, {});
    entry.answer.emplace();
    entry.answer->result = std::move(result);
    entry.answer->trail = {"pear-thread " + name, "shop.daybook", "", "all lines"};
    return entry;
  }
  study::StudyAnswer& add_failed(const std::string& name, const std::string& reason) {
    study::StudyQuestion question;
    question.files.stem = name;
    study_.questions.push_back(question);
    answers_.answers.push_back({&study_.questions.back(), std::nullopt, {ErrorKind::data, reason}});
    return answers_.answers.back();
  }
  [[nodiscard]] study::StudyQuestion& question(std::size_t i) { return study_.questions[i]; }
  [[nodiscard]] study::Study& study() { return study_; }
  [[nodiscard]] const study::StudyAnswers& get() const { return answers_; }
  [[nodiscard]] study::StudyAnswers& get() { return answers_; }

 private:
  study::Study study_;
  study::StudyAnswers answers_;
};

inline TextArray text_array(const std::vector<std::string>& all) {
  TextArray array;
  for (const std::string& text : all) array.push_back(text);
  return array;
}

}  // namespace pear::test
