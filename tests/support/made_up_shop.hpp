// The made-up shop in files, without the study that `demo` runs.
#pragma once

#include <fstream>

#include <gtest/gtest.h>

#include "demo/raw_files.hpp"
#include "demo/sales_file.hpp"
#include "demo/shop.hpp"
#include "support/run_program.hpp"

namespace pear::test {

/// Writes NAME/sales.csv if it is to be flat, or else the four files of exports and their intake file, and
/// imports them into NAME/thistledown.daybook.
inline void make_shop_files(const TemporaryFolder& folder, const std::string& name, std::uint64_t lines,
                            bool flat = false) {
  const demo::Shop shop = demo::make_shop({lines});
  const auto write = [&](const std::string& file, const auto& writer) {
    std::string text;
    ASSERT_TRUE(writer([&](std::string_view part) -> OrError<void> {
      text += part;
      return {};
    }));
    folder.write(name + "/" + file, text);
  };
  if (flat) {
    write("sales.csv", [&](const demo::Write& to) { return demo::write_sales(shop, to); });
  } else {
    write("order-lines.csv", [&](const demo::Write& to) { return demo::write_order_lines(shop, to); });
    write("orders.csv", [&](const demo::Write& to) { return demo::write_orders(shop, to); });
    write("products.csv", [&](const demo::Write& to) { return demo::write_products(shop, to); });
    write("customers.csv", [&](const demo::Write& to) { return demo::write_customers(shop, to); });
    folder.write(name + "/shop.toml", demo::intake_file());
  }
  const ProgramRun run = run_pear(folder, {"import", name + (flat ? "/sales.csv" : "/shop.toml"), "--daybook",
                                           name + "/thistledown.daybook"});
  ASSERT_EQ(run.exit_code, 0) << run.err;
}

}  // namespace pear::test
