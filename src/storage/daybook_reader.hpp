// Reads the daybook file: one SQLite database.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/member_list.hpp"
#include "storage/daybook_info.hpp"

namespace pear::storage {

/// An open daybook file. One thread at a time.
class DaybookFile {
 public:
  /// Errors: io if there is no such file; data if it is not a daybook, of a newer format, or cut short.
  [[nodiscard]] static OrError<DaybookFile> open(const std::string& path);
  DaybookFile(DaybookFile&&) noexcept;
  ~DaybookFile();

  [[nodiscard]] const DaybookInfo& info() const;

  /// The nesting, and these columns; ids are columns too (customer_id, order_id, product_id), and a column of
  /// products also loads the product of each line, and is_return also is_fee. Ignores a name that the daybook
  /// does not have. Errors: data, naming the segment whose bytes are damaged.
  [[nodiscard]] OrError<daybook::Daybook> load(const std::vector<std::string>& columns);
  [[nodiscard]] OrError<daybook::Daybook> load_all();

  /// Customers and products of lists that have no line.
  [[nodiscard]] OrError<std::vector<daybook::MemberList>> waiting();

  /// Reads everything and compares it with every checksum, the fingerprint, the readable tables and SQLite's
  /// own integrity check. Error: data, with what was found.
  [[nodiscard]] OrError<void> verify();

 private:
  class Rep;
  explicit DaybookFile(std::unique_ptr<Rep> rep);
  std::unique_ptr<Rep> rep_;
};

}  // namespace pear::storage
