#include "study/study_file.hpp"

#include <algorithm>
#include <filesystem>
#include <set>

#include <fmt/format.h>

#include "analysis/options/shared_options.hpp"
#include "app/run_and_write.hpp"
#include "base/text.hpp"
#include "database/address.hpp"
#include "files/atomic_file.hpp"
#include "files/toml_section.hpp"
#include "files/whole_file.hpp"
#include "questions/all_questions.hpp"

namespace pear::study {
namespace {

/// A path in a file, relative to the working folder.
std::string beside(const std::string& file, const std::string& path) {
  return (std::filesystem::path(file).parent_path() / path).lexically_normal().string();
}

/// Texts as TOML basic strings.
std::string toml_text(std::string_view text) {
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') quoted += '\\';
    if (static_cast<unsigned char>(c) < 0x20)
      quoted += fmt::format("\\u{:04X}", static_cast<unsigned char>(c));
    else
      quoted += c;
  }
  return quoted + "\"";
}

class StudyReader {
 public:
  explicit StudyReader(std::string path) { study_.file = std::move(path); }

  OrError<Study> read(const toml::table& root) {
    files::TomlSection file(root, "", study_.file, "a study file");
    file.within("study", [&](files::TomlSection& section) { read_study_section(section); });
    if (!file.has("study")) file.fault("study", "expected a table [study], which names the daybook.");
    file.within("question", [&](files::TomlSection& section) { read_question(section); });
    PEAR_TRY(file.finish());
    if (study_.questions.empty())
      return data_error(
          fmt::format("{} contains no questions. Add a [[question]] with ask = \"frequency\", for example.",
                      study_.file));
    return std::move(study_);
  }

 private:
  void read_study_section(files::TomlSection& section) {
    const std::filesystem::path file(study_.file);
    study_.title = section.optional_text("title").value_or(file.stem().string());
    study_.comment = section.text("comment");
    study_.intake = section.text("intake");
    study_.daybook = section.text("daybook");
    for (const char* key : {"intake", "daybook", "workbook"})
      if (const auto outcome = database::check_no_password(section.optional_text(key).value_or("")); !outcome)
        return section.fault(key, outcome.error().message);
    study_.folder = beside(study_.file, section.optional_text("out").value_or(file.stem().string() + "-out"));
    if (const auto workbook = section.optional_text("workbook"))
      study_.workbook = beside(study_.file, *workbook);
    for (const std::string& path : section.texts("template"))
      study_.templates.push_back(beside(study_.file, path));
    for (const analysis::OptionInfo& option : analysis::infos(analysis::selection_options()))
      for (const std::string& value : section.scalars(option.name)) shared_.emplace_back(option.name, value);
    if (study_.intake.empty() && study_.daybook.empty())
      return section.fault("daybook", "a study needs daybook = \"NAME.daybook\", or intake = \"NAME.toml\".");
    if (!study_.intake.empty()) study_.intake = beside(study_.file, study_.intake);
    study_.daybook = !study_.daybook.empty()
                         ? beside(study_.file, study_.daybook)
                         : std::filesystem::path(study_.intake).replace_extension(".daybook").string();
  }

  void read_question(files::TomlSection& section) {
    const std::string ask = section.text("ask");
    std::vector<std::string> names;
    StudyQuestion asked;
    for (const analysis::Question& question : questions::all_questions()) {
      names.push_back(question.name);
      if (question.name == ask) asked.question = &question;
    }
    if (asked.question == nullptr)
      return section.fault("ask", fmt::format("there is no question {}.{} Questions are {}.", in_quotes(ask),
                                              did_you_mean(ask, names), join(names, ", ")));
    asked.title = section.optional_text("title").value_or("");
    asked.comment = section.text("comment");
    read_options(section, asked);
    add_shared(asked);
    settle_files(section, asked);
    study_.questions.push_back(std::move(asked));
  }

  /// All options of the question under their own names; `out` is that of the study.
  static void read_options(files::TomlSection& section, StudyQuestion& asked) {
    std::vector<analysis::OptionInfo> options = app::shaping_options(*asked.question);
    for (const analysis::OptionInfo& option : app::writing_options(*asked.question))
      if (option.name != "out") options.push_back(option);
    for (const analysis::OptionInfo& option : options) {
      const std::vector<std::string> values = section.scalars(option.name);
      if (values.empty()) continue;
      if (option.placeholder.empty()) {
        if (values.size() != 1 || (values[0] != "true" && values[0] != "false"))
          section.fault(option.name, "expected true or false.");
        else if (values[0] == "true")
          asked.values.emplace_back(option.name, "true");
      } else if (option.repeatable) {
        for (const std::string& value : values) asked.values.emplace_back(option.name, value);
      } else {
        asked.values.emplace_back(option.name, join(values, ","));
      }
    }
    for (auto& [name, value] : asked.values)
      for (const analysis::OptionInfo& option : options)
        if (option.names_path() && option.name == name) value = beside(section.file(), value);
  }

  /// The selection of [study] applies to all questions: conditions are combined, everything else only applies
  /// if a question does not set it.
  void add_shared(StudyQuestion& asked) const {
    for (const auto& [name, value] : shared_) {
      const auto own = std::find_if(asked.values.begin(), asked.values.end(),
                                    [&, &key = name](const auto& each) { return each.first == key; });
      if (own == asked.values.end()) {
        asked.values.emplace_back(name, value);
      } else if (name == "where") {
        own->second = fmt::format("({}) AND ({})", value, own->second);
      }
    }
  }

  /// Stems are unique: the second one of a name is called NAME-2. Errors in options are reported with a line.
  void settle_files(files::TomlSection& section, StudyQuestion& asked) {
    auto files = app::file_plan(*asked.question, asked.values, study_.folder);
    const auto top = app::rows_to_show(*asked.question, asked.values);
    const auto prepared = asked.question->prepare(asked.values);
    const auto shared = analysis::read_shared_options(*asked.question, asked.values);
    const auto complain = [&](const auto& outcome) {
      if (!outcome) section.fault("ask", outcome.error().message);
      return !outcome;
    };
    if (complain(files) || complain(top) || complain(prepared) || complain(shared)) return;
    asked.files = std::move(*files);
    asked.top = *top;
    const std::string stem = asked.files.stem;
    if (stem == "report" || stem == "changes")
      return section.fault(
          "name",
          fmt::format("{} is the name of one of the study's own files. Choose another.", in_quotes(stem)));
    for (int number = 2; !stems_.insert(asked.files.stem).second; ++number)
      asked.files.stem = fmt::format("{}-{}", stem, number);
  }

  Study study_;
  analysis::OptionValues shared_;
  std::set<std::string> stems_;
};

}  // namespace

OrError<Study> parse_study(std::string_view text, const std::string& path) {
  PEAR_ASSIGN(const toml::table root, files::parse_toml(text, path));
  return StudyReader(path).read(root);
}

OrError<Study> read_study(const std::string& path) {
  PEAR_ASSIGN(const std::string text, files::read_input_file(path));
  return parse_study(text, path);
}

std::string study_entry(const analysis::Question& question, const analysis::OptionValues& values) {
  std::string entry = fmt::format("\n[[question]]\nask = {}\n", toml_text(question.name));
  std::vector<analysis::OptionInfo> options = app::shaping_options(question);
  for (const analysis::OptionInfo& option : app::writing_options(question))
    if (option.name != "out") options.push_back(option);
  for (const analysis::OptionInfo& option : options) {
    std::vector<std::string> given;
    for (const auto& [name, value] : values)
      if (name == option.name) given.push_back(option.placeholder.empty() ? value : toml_text(value));
    if (given.size() == 1) entry += fmt::format("{} = {}\n", option.name, given.front());
    if (given.size() > 1) entry += fmt::format("{} = [{}]\n", option.name, join(given, ", "));
  }
  return entry;
}

OrError<void> save_in_study(const std::string& path, const std::string& daybook,
                            const analysis::Question& question, const analysis::OptionValues& values) {
  const auto folder = std::filesystem::absolute(path).parent_path();
  const std::string wanted = std::filesystem::absolute(daybook).lexically_relative(folder).string();
  std::error_code failure;
  std::string text = fmt::format("[study]\ntitle = {}\ndaybook = {}\n",
                                 toml_text(std::filesystem::path(path).stem().string()), toml_text(wanted));
  if (std::filesystem::exists(path, failure)) {
    PEAR_ASSIGN(text, files::read_whole_file(path));
    PEAR_ASSIGN(const Study study, parse_study(text, path));
    if (std::filesystem::weakly_canonical(study.daybook) != std::filesystem::weakly_canonical(daybook))
      return data_error(fmt::format("{} uses the daybook {}, not {}. Save into another study file.", path,
                                    study.daybook, daybook));
    if (!text.empty() && text.back() != '\n') text += '\n';
  }
  analysis::OptionValues from_there = values;
  for (auto& [name, value] : from_there)
    for (const analysis::OptionInfo& option : question.options)
      if (option.names_path() && option.name == name)
        value = std::filesystem::absolute(value).lexically_relative(folder).string();
  text += study_entry(question, from_there);
  PEAR_TRY(parse_study(text, path));
  return files::write_file(path, text);
}

}  // namespace pear::study
