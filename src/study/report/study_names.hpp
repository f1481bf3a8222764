// The names of a study's results in a template.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "study/report/template.hpp"
#include "study/study.hpp"

namespace pear::study {

/// A row of a table by the names of its columns.
using NamedCells = std::vector<std::pair<std::string, std::string>>;

/// Finds values by name: "prices.headline", "prices-customers.cell.unexplained.1".
class StudyNames {
 public:
  StudyNames(const StudyAnswers& answers, TemplateKind kind) : answers_(answers), kind_(kind) {}

  /// Nothing if the name is unknown. Errors: data, for a failed question; io.
  [[nodiscard]] OrError<std::optional<std::string>> value(std::string_view name) const;
  /// The rows shown of a table, for "TABLE.rows"; nothing for any other name.
  [[nodiscard]] std::optional<std::vector<NamedCells>> rows(std::string_view name) const;
  /// All names, those of cells with their first row, for suggestions.
  [[nodiscard]] std::vector<std::string> all() const;

 private:
  struct FoundTable {
    const StudyAnswer* answer = nullptr;
    const result::Table* table = nullptr;
  };
  [[nodiscard]] const StudyAnswer* answer_named(std::string_view name) const;
  [[nodiscard]] FoundTable table_named(std::string_view name) const;
  [[nodiscard]] OrError<std::optional<std::string>> of_answer(const StudyAnswer& answer,
                                                              std::string_view what) const;
  [[nodiscard]] std::optional<std::string> of_table(const FoundTable& found, std::string_view what) const;
  [[nodiscard]] OrError<std::string> figure(const StudyAnswer& answer, std::size_t place) const;

  const StudyAnswers& answers_;
  TemplateKind kind_;
};

}  // namespace pear::study
