// One shop, exported as different systems do it: inspect must find the same sales in every form.
#include <algorithm>
#include <map>
#include <random>
#include <set>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/inspect/inspection.hpp"
#include "intake/plan/role.hpp"
#include "intake/plan/starter.hpp"
#include "intake/plan/usual_names.hpp"
#include "sources/table_address.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// A value of each role and of other columns, in plain form.
using ExportedRow = std::map<std::string, std::string>;

std::vector<ExportedRow> shop_rows(bool has_zeros) {
  std::mt19937 random(static_cast<unsigned>(pick(0, 1'000'000)));
  const auto below = [&](int most) { return static_cast<int>(random() % static_cast<unsigned>(most)); };
  std::vector<ExportedRow> rows;
  for (int order = 0; order < 120; ++order) {
    const int customer = below(30);
    const Date day{date_of(2023, 1, 1).days + below(700)};
    std::set<int> basket;
    for (int line = 1 + below(4); line > 0; --line) basket.insert(below(25));
    for (const int product : basket) {
      ExportedRow row;
      row["order_id"] = std::to_string(50'001 + order);
      row["order_date"] = to_text(day);
      row["customer_id"] = fmt::format("K{}", 100 + customer);
      row["customer_name"] = fmt::format("Somebody {}{}", static_cast<char>('A' + customer / 6),
                                         static_cast<char>('a' + customer % 6));
      row["region"] = customer % 3 == 0 ? "North" : "South";
      row["product_id"] = fmt::format("{}{}", has_zeros ? "00" : "", 4'000 + product);
      row["product_name"] = fmt::format("Ball of {}", static_cast<char>('a' + product));
      row["category"] = product % 4 == 0 ? "yarn" : "thread";
      row["quantity"] = std::to_string(1 + below(6));
      row["unit_price"] = fmt::format("{}.{:02}", 1 + product * 57, product * 7 % 100);
      rows.push_back(row);
    }
  }
  return rows;
}

/// What a system calls the columns, in this order.
const std::vector<std::string> kMeanings = {"order_id", "order_date", "customer_id",  "product_id",
                                            "quantity", "unit_price", "product_name", "customer_name",
                                            "category", "region"};
const std::vector<std::vector<std::string>> kHeaders = {
    {"Order No", "Order Date", "Customer No", "Product No", "Quantity", "Unit Price", "Product Name",
     "Customer Name", "Range", "Area"},
    {"Invoice", "Placed", "Account Code", "SKU", "Qty", "Price", "Description", "Company", "Group", "Region"},
    {"Bestellnummer", "Bestelldatum", "Kundennummer", "Artikelnummer",
     "St\xC3\xBC"
     "ck",
     "St\xC3\xBC"
     "ckpreis",
     "Bezeichnung", "Firma", "Warengruppe", "Gebiet"},
    {"Num\xC3\xA9ro de commande", "Date commande", "Code client", "Code article", "Quantit\xC3\xA9",
     "Prix unitaire", "D\xC3\xA9signation", "Nom du client", "Famille", "R\xC3\xA9gion"},
    {"N\xC2\xBA de pedido", "Fecha pedido",
     "C\xC3\xB3"
     "digo cliente",
     "C\xC3\xB3"
     "digo art\xC3\xAD"
     "culo",
     "Cantidad", "Precio unitario", "Descripci\xC3\xB3n", "Raz\xC3\xB3n social", "Familia", "Zona"},
    {"Numero ordine", "Data ordine", "Codice cliente", "Codice articolo", "Quantit\xC3\xA0",
     "Prezzo unitario", "Descrizione", "Ragione sociale", "Famiglia", "Zona"},
    {"Ordernummer", "Orderdatum", "Klantnummer", "Artikelnummer", "Aantal", "Prijs", "Omschrijving",
     "Klantnaam", "Groep", "Regio"},
    {"Numer zam\xC3\xB3wienia", "Data", "Numer klienta", "Kod towaru", "Ilo\xC5\x9B\xC4\x87", "Cena",
     "Nazwa produktu", "Nazwa klienta", "Grupa", "Rejon"}};

/// How a system writes its files.
struct ExportForm {
  std::vector<std::string> headers;  ///< by meaning
  char delimiter = ',';
  bool comma = false;
  int dates = 0;

  [[nodiscard]] std::string value(const std::string& meaning, const std::string& plain) const {
    if (meaning == "unit_price" && comma) return absl::StrReplaceAll(plain, {{".", ","}});
    if (meaning != "order_date" || dates == 0) return plain;
    const std::string year = plain.substr(0, 4), month = plain.substr(5, 2), day = plain.substr(8);
    switch (dates) {
      case 1:
        return fmt::format("{}.{}.{}", day, month, year);
      case 2:
        return fmt::format("{}/{}/{}", month, day, year);
      case 3:
        return fmt::format("{}/{}/{}", day, month, year);
      default:
        return year + month + day;
    }
  }
  [[nodiscard]] std::string header(const std::string& meaning) const {
    return headers[static_cast<std::size_t>(std::find(kMeanings.begin(), kMeanings.end(), meaning) -
                                            kMeanings.begin())];
  }
};

ExportForm random_form() {
  ExportForm form;
  form.headers = kHeaders[static_cast<std::size_t>(pick(0, static_cast<int>(kHeaders.size()) - 1))];
  const int letters = pick(0, 2);
  for (std::string& header : form.headers)
    header = letters == 0   ? expression::to_upper(header)
             : letters == 1 ? expression::to_lower(header)
                            : header;
  form.comma = pick(0, 1) == 1;
  form.delimiter = form.comma ? ';' : *rc::gen::element(',', ';', '\t');
  form.dates = pick(0, 4);
  return form;
}

/// One file: these columns in any order, each different row once.
void write_table(const TemporaryFolder& folder, const std::string& file, const ExportForm& form,
                 const std::vector<ExportedRow>& rows, std::vector<std::string> meanings) {
  std::shuffle(meanings.begin(), meanings.end(), std::mt19937(static_cast<unsigned>(pick(0, 1'000'000))));
  std::string text;
  const auto add = [&](const auto& cell) {
    for (const std::string& meaning : meanings)
      text += (&meaning == &meanings.front() ? "" : std::string(1, form.delimiter)) + cell(meaning);
    text += "\n";
  };
  add([&](const std::string& meaning) { return form.header(meaning); });
  std::set<std::string> written;
  for (const ExportedRow& row : rows) {
    const std::size_t before = text.size();
    add([&](const std::string& meaning) { return form.value(meaning, row.at(meaning)); });
    if (!written.insert(text.substr(before)).second) text.resize(before);
  }
  folder.write(file, text);
}

/// The sales, and what is known of customers and products.
std::string sales_in(const daybook::Daybook& daybook, const ExportForm& form) {
  const auto name = [&](const std::string& meaning) { return snake_case(form.header(meaning)); };
  std::string text =
      columns_by_name(daybook, {"order_date", "quantity", "amount", "product_name", "customer_name"});
  for (const char* meaning : {"category", "region"}) text += column_text(daybook, name(meaning)) + "\n";
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer)
    text += std::string(daybook.customer_ids()[customer]) + " ";
  for (std::uint32_t line = 0; line < daybook.lines(); ++line)
    text += std::string(daybook.product_ids()[daybook.line_products()[line]]) + " ";
  return text;
}

RC_GTEST_PROP(Exports, OfOneShopGiveTheSameSalesInEveryForm, ()) {
  const TemporaryFolder folder;
  const ExportForm form = random_form();
  const std::vector<ExportedRow> rows = shop_rows(pick(0, 1) == 1);
  std::vector<std::string> files = {"a.csv"};
  switch (pick(0, 2)) {
    case 0:
      write_table(folder, "a.csv", form, rows, kMeanings);
      break;
    case 1:
      files = {"a.csv", "b.csv"};
      write_table(folder, "a.csv", form, rows,
                  {"order_id", "product_id", "quantity", "unit_price", "product_name", "category"});
      write_table(folder, "b.csv", form, rows,
                  {"order_id", "order_date", "customer_id", "customer_name", "region"});
      break;
    default:
      files = {"a.csv", "b.csv", "c.csv", "d.csv"};
      write_table(folder, "a.csv", form, rows, {"order_id", "product_id", "quantity", "unit_price"});
      write_table(folder, "b.csv", form, rows, {"order_id", "order_date", "customer_id"});
      write_table(folder, "c.csv", form, rows, {"product_id", "product_name", "category"});
      write_table(folder, "d.csv", form, rows, {"customer_id", "customer_name", "region"});
  }
  std::vector<sources::TableAddress> sources;
  for (const std::string& file : files) sources.push_back(sources::file_address(folder / file));
  std::reverse(sources.begin(), sources.end());
  const intake::Inspection seen = *intake::inspect_sources(sources, [](const intake::ImportProgress&) {});
  const std::string starter = intake::starter_intake(seen.guess, seen.profiles, folder.path());
  const ImportRun run = import_intake(folder, starter);
  if (!run.imported) RC_FAIL(run.fault + "\n" + starter);
  if (!run.rejected.empty()) RC_FAIL(run.rejected.front().reason + "\n" + starter);

  ExportForm plain;
  plain.headers = kMeanings;
  write_table(folder, "plain.csv", plain, rows, kMeanings);
  const ImportRun expected = import_text(read_file(folder / "plain.csv"));
  if (sales_in(run.imported->built.daybook, form) != sales_in(expected.imported->built.daybook, plain))
    RC_FAIL(starter);
}

/// The same columns with another decimal sign are another block of the intake file, not the same one.
TEST(Exports, OfOneSystemMayChangeTheirForm) {
  const TemporaryFolder folder;
  folder.write(
      "may.csv",
      "Order No;Date;Customer No;SKU;Qty;Price\nA1;2024-05-01;C1;P1;1;1.50\nA2;2024-05-02;C2;P2;2;2.25\n");
  folder.write(
      "june.csv",
      "Order No;Date;Customer No;SKU;Qty;Price\nA3;2024-06-01;C1;P1;1;1,50\nA4;2024-06-02;C2;P2;2;2,25\n");
  folder.write(
      "july.csv",
      "Order No;Date;Customer No;SKU;Qty;Price\nA5;2024-07-01;C1;P1;1;1,50\nA6;2024-07-02;C2;P2;2;2,25\n");
  std::vector<sources::TableAddress> sources;
  for (const char* file : {"may.csv", "june.csv", "july.csv"})
    sources.push_back(sources::file_address(folder / file));
  const intake::Inspection seen = *intake::inspect_sources(sources, [](const intake::ImportProgress&) {});
  ASSERT_EQ(seen.guess.tables.size(), 2U);
  EXPECT_EQ(seen.guess.tables[0].sources.size() + seen.guess.tables[1].sources.size(), 3U);
  const ImportRun run =
      import_intake(folder, intake::starter_intake(seen.guess, seen.profiles, folder.path()));
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(column_text(run.imported->built.daybook, "amount"), "line 1.5 1.5 1.5 4.5 4.5 4.5");
}

/// Sources whose headers mean nothing: the lines are those with quantities and prices, however long another
/// file is.
RC_GTEST_PROP(Exports, LinesAreRecognisedAmongFilesWithoutNames, ()) {
  const TemporaryFolder folder;
  ExportForm form;
  form.headers = {"a", "b", "c", "d", "e", "f", "g", "h", "i", "j"};
  const std::vector<ExportedRow> rows = shop_rows(false);
  std::string visits = "u,v\n";
  for (std::size_t i = 0; i < 2 * rows.size(); ++i)
    visits += fmt::format("K{},page {}\n", 100 + i % 30, i % 7);
  folder.write("visits.csv", visits);
  write_table(folder, "sales.csv", form, rows,
              {"order_id", "order_date", "customer_id", "product_id", "quantity", "unit_price"});
  const intake::Inspection seen = *intake::inspect_sources(
      {sources::file_address(folder / "visits.csv"), sources::file_address(folder / "sales.csv")},
      [](const intake::ImportProgress&) {});
  RC_ASSERT(!seen.guess.tables.empty());
  RC_ASSERT(seen.guess.tables.front().kind == intake::TableKind::lines);
  RC_ASSERT(seen.guess.tables.front().sources == std::vector<std::size_t>{1});
}

/// By position of roles(): which of a language's headers fits which role.
TEST(Exports, HeadersOfEveryLanguageFitOneRole) {
  const auto& roles = intake::roles();
  for (const auto& headers : kHeaders)
    for (std::size_t i = 0; i < 6; ++i)
      for (std::size_t role = 0; role < roles.size(); ++role)
        EXPECT_EQ(intake::name_rank(role, headers[i]).has_value(), roles.at(role).name == kMeanings[i])
            << headers[i] << " " << roles.at(role).name;
  for (const char* header : {"No", "Code", "Numero", "Order status", "Customer since", "Nummer", "Name", ""})
    for (std::size_t role = 0; role < roles.size(); ++role)
      EXPECT_FALSE(intake::name_rank(role, header)) << header;
}

}  // namespace
}  // namespace pear::test
