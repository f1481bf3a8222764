// The shop's exports as its systems write them: four files, with the faults of real ones.
#pragma once

#include <cstddef>
#include <string_view>

#include "demo/shop.hpp"

namespace pear::demo {

/// The faults in the files, for any size of the shop (one of fewer than 200 orders has none): what an import
/// should find, and nothing else.
struct PlantedFaults {
  std::size_t reexported_lines = 0;    ///< occur twice in order-lines.csv
  std::size_t impossible_dates = 0;    ///< orders on a day that does not exist, with one line each
  std::size_t missing_customers = 0;   ///< orders without customer number, with one line each
  std::size_t spaced_ids = 0;          ///< orders whose customer number has spaces around it
  std::size_t lower_case_ids = 0;      ///< orders whose customer number is in lower case
  std::size_t spaced_regions = 0;      ///< customers whose region has a space after it
  std::size_t upper_case_regions = 0;  ///< customers whose region is in capitals
  std::size_t moved_customers = 0;     ///< occur twice in customers.csv, with another town
  std::size_t namesakes = 0;           ///< names that two customers have
  std::size_t shared_emails = 0;       ///< e-mail addresses that two customer numbers have
  std::size_t lines_of_unlisted = 0;   ///< lines of the product that products.csv does not have
};
[[nodiscard]] PlantedFaults planted_faults(const Shop& shop);

constexpr std::uint32_t kNamesake = 57;  ///< a customer with the name of another; so is the one 30 after

/// order-lines.csv: semicolons, decimal commas; at its end some rows a second time.
[[nodiscard]] OrError<void> write_order_lines(const Shop& shop, const Write& write);
/// orders.csv: semicolons, dates as DD.MM.YYYY.
[[nodiscard]] OrError<void> write_orders(const Shop& shop, const Write& write);
/// products.csv: semicolons, decimal commas.
[[nodiscard]] OrError<void> write_products(const Shop& shop, const Write& write);
/// customers.csv: semicolons, Windows-1252, a last column without name.
[[nodiscard]] OrError<void> write_customers(const Shop& shop, const Write& write);
/// The intake file that reads all four.
[[nodiscard]] std::string_view intake_file();

}  // namespace pear::demo
