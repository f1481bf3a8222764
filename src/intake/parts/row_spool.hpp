// The rows of a table on disk, in parts.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "files/scratch_file.hpp"
#include "intake/clean/spelling.hpp"
#include "intake/clean/text_forms.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/column_match.hpp"
#include "intake/read/raw_table.hpp"
#include "intake/read/row_receiver.hpp"

namespace pear::intake {

/// Distributes the rows of one [[TABLE.from]] over parts by a hash of their order id, so that all rows of an
/// order are in one part, in every table. Within a part, rows keep their order.
class RowSpool : public RowReceiver {
 public:
  static constexpr std::size_t kParts = 256;

  /// The plan of the first source must have an order_id. Borrows `format`, and counts in `spellings`. Errors:
  /// io.
  [[nodiscard]] static OrError<RowSpool> create(const std::string& path, const TableColumns& plan,
                                                const SourcePlan& format, Spellings& spellings);
  [[nodiscard]] OrError<void> begin_source(const TableColumns& plan, const std::string& source) override;
  [[nodiscard]] OrError<void> add(const RowBatch& batch, std::uint64_t first_line,
                                  std::size_t expected_rows) override;
  [[nodiscard]] OrError<void> end_source(SourceAccount account) override;
  [[nodiscard]] std::size_t rows() const override { return rows_; }

  [[nodiscard]] const std::vector<SourceAccount>& accounts() const { return accounts_; }
  [[nodiscard]] std::uint64_t rows_of(std::size_t part) const;
  /// About how many bytes it takes to clean, join and sort a part in memory.
  [[nodiscard]] std::uint64_t memory_of(std::size_t part) const;

  /// The rows of the parts from `begin` to before `end`, source by source and there part by part, with
  /// formats unified as over all rows. Its accounts count only these rows, all as kept. Errors: io.
  [[nodiscard]] OrError<RawTable> load(std::size_t begin, std::size_t end) const;

 private:
  /// Some rows of a part and a source.
  struct Block {
    std::size_t source = 0;  ///< among those with an account
    std::uint64_t begin = 0;
    std::size_t bytes = 0;
    std::size_t rows = 0;
  };
  struct Part {
    std::vector<Block> blocks;
    std::string bytes;  ///< of rows that are not in the file yet
    std::size_t rows = 0;
  };

  RowSpool(files::ScratchFile file, const TableColumns& plan, const SourcePlan& format, Spellings& spellings);
  void see_texts(std::size_t column, const BatchTexts& texts);
  void put_row(const RowBatch& batch, std::size_t row, std::uint64_t line, std::string& to) const;
  [[nodiscard]] OrError<void> flush(Part& part);
  [[nodiscard]] OrError<RowBatch> read(const Block& block) const;
  void get_rows(const Block& block, RowBatch& batch) const;

  files::ScratchFile file_;
  TableColumns plan_;  ///< of the first source
  const SourcePlan* format_;
  Spellings* spellings_;
  ColumnMatch match_;
  std::vector<std::size_t> places_;                   ///< of the columns in the current source
  std::size_t key_ = 0;                               ///< the column order_id
  std::vector<std::optional<TextFormFinder>> forms_;  ///< by column; none where the form is that of texts
  std::vector<std::uint8_t> any_time_;                ///< by column
  std::vector<Part> parts_{kParts};
  std::vector<SourceAccount> accounts_;
  std::size_t rows_ = 0;
};

}  // namespace pear::intake
