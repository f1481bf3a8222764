#include <algorithm>
#include <filesystem>
#include <functional>
#include <set>
#include <vector>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/ask.hpp"
#include "cli/command.hpp"
#include "cli/importing.hpp"
#include "cli/stopwatch.hpp"
#include "cli/terminal.hpp"
#include "demo/raw_files.hpp"
#include "demo/shop.hpp"
#include "intake/intake_file.hpp"
#include "output/atomic_file.hpp"
#include "output/readable.hpp"

namespace pear::cli {
namespace {

constexpr const char* kSales = "sales.csv";
constexpr const char* kIntake = "shop.toml";
constexpr const char* kDaybook = "thistledown.daybook";
constexpr const char* kAnswers = "answers";

/// A file of raw data and what writes it.
struct RawFile {
  const char* name;
  std::function<OrError<void>(const demo::Shop&, const demo::Write&)> write;
};

std::vector<RawFile> raw_files(bool flat) {
  if (flat) return {{kSales, demo::write_sales}};
  return {{"order-lines.csv", demo::write_order_lines},
          {"orders.csv", demo::write_orders},
          {"products.csv",
           [](const demo::Shop&, const demo::Write& write) { return demo::write_products(write); }},
          {"customers.csv", demo::write_customers},
          {kIntake, [](const demo::Shop&, const demo::Write& write) { return write(demo::intake_file()); }}};
}

/// The folder may be new, empty, or hold an earlier demo.
OrError<void> check_folder(const std::string& folder) {
  std::error_code failure;
  if (!std::filesystem::exists(folder, failure)) return {};
  if (!std::filesystem::is_directory(folder, failure))
    return usage_error(fmt::format("{} is a file. Name a folder for the demo.", folder));
  std::set<std::string> ours = {kDaybook, kAnswers, "thistledown-import"};
  for (const bool flat : {true, false}) {
    for (const RawFile& file : raw_files(flat)) ours.insert(file.name);
  }
  for (const auto& entry : std::filesystem::directory_iterator(folder, failure)) {
    const std::string name = entry.path().filename().string();
    if (!ours.contains(name))
      return usage_error(fmt::format(
          "{} holds something else ({}); the demo leaves it alone. Name another folder.", folder, name));
  }
  return {};
}

OrError<void> write_raw_files(const demo::ShopOptions& options, const std::string& folder, bool flat) {
  const demo::Shop shop = demo::make_shop(options);
  for (const RawFile& raw : raw_files(flat)) {
    PEAR_ASSIGN(AtomicFile file, AtomicFile::create(folder + "/" + raw.name));
    PEAR_TRY(raw.write(shop, [&](std::string_view text) { return file.write(text); }));
    PEAR_TRY(file.commit());
  }
  return {};
}

/// The headline of an answer, wrapped and indented, under the command that gives it.
std::string told(const std::string& command, const Result& result, std::size_t width) {
  std::string text = fmt::format("\n  {}\n", command);
  for (const std::string& sentence : result.headline) {
    for (const std::string& line : wrapped(sentence, width - 4)) text += "    " + line + "\n";
  }
  return text;
}

/// What the demo asks where a question wants to be told more.
OptionValues options_of(const Question& question) {
  if (question.name == "crosstab") return {{"down", "region"}, {"across", "year"}};
  if (question.name == "distinct") return {{"count", "product_id"}, {"per", "customer_id"}};
  if (question.name == "customer") return {{"id", "C101"}};
  if (question.name == "product") return {{"id", "P43"}};
  return {};
}

OrError<void> run(const Arguments& arguments) {
  const std::string folder = arguments.words.empty() ? "demo-shop" : arguments.words.front();
  demo::ShopOptions options;
  PEAR_ASSIGN(
      const std::int64_t lines,
      parse_whole("lines", arguments.value_or("lines", std::to_string(options.lines)), 1, 1'000'000'000));
  PEAR_ASSIGN(
      const std::int64_t seed,
      parse_whole("seed", arguments.value_or("seed", std::to_string(options.seed)), 0, 1'000'000'000));
  options = {static_cast<std::uint64_t>(lines), static_cast<std::uint64_t>(seed)};
  PEAR_TRY(check_folder(folder));
  PEAR_TRY(make_folder(folder));

  const std::size_t width = terminal_style().width;
  const bool flat = arguments.has("flat");
  const std::string source = folder + "/" + (flat ? kSales : kIntake);
  const std::string daybook = folder + "/" + kDaybook;
  Stopwatch stopwatch;
  PEAR_TRY(write_raw_files(options, folder, flat));
  stopwatch.lap("shop made");
  ImportTask task;
  if (flat) {
    task.plan = flat_plan(source, {});
  } else {
    PEAR_ASSIGN(task.plan, read_intake_file(source));
  }
  task.daybook = daybook;
  task.show_progress = !arguments.has("quiet");
  PEAR_ASSIGN(const ImportOutcome imported, import_to_file(task));
  std::string text = "Thistledown & Reel, a made-up mail-order house for yarn and haberdashery\n";
  text += told(fmt::format("pear-thread import {} --daybook {}", source, daybook), imported.report, width);
  for (const Question& question : questions()) {
    const OptionValues given = options_of(question);
    const Asking asking{
        daybook, given, {folder + "/" + kAnswers, question.name, {FigureFormat::svg, FigureFormat::png}}};
    PEAR_ASSIGN(const Answer answer, ask(question, asking));
    for (const std::string& warning : answer.files.warnings) spdlog::warn("{}", warning);
    std::string line = fmt::format("pear-thread {} {}", question.name, daybook);
    if (!question.word.empty())
      line = fmt::format("pear-thread {} {} {}", question.name, given.front().second, daybook);
    for (const auto& [name, value] : given)
      if (name != question.word) line += fmt::format(" --{} {}", name, value);
    text += told(fmt::format("{} --out {}", line, asking.files.folder), answer.result, width);
  }
  text += fmt::format(
      "\nRaw data   {}\nImport     {}/thistledown-import/import.md\nDaybook    {}\n"
      "Answers    {}/{}/ (tables as CSV, figures as SVG and PNG)\n",
      flat ? source
           : fmt::format("{0}/order-lines.csv, orders.csv, products.csv, customers.csv, shop.toml", folder),
      folder, daybook, folder, kAnswers);
  text += fmt::format("Next       pear-thread frequency {} --within 90\n", daybook);
  if (!arguments.has("quiet")) print(text);
  return {};
}

}  // namespace

Command demo_command() {
  return {
      "demo",
      "[FOLDER]",
      1,
      "makes a made-up shop, imports it, asks every question",
      "Writes the exports of Thistledown & Reel, a made-up mail-order house, into FOLDER (demo-shop where\n"
      "left out): four files with the mess of real ones, and an intake file. Imports them into a daybook,\n"
      "asks every question, and says where everything is.\n"
      "A folder that holds something else is left alone.",
      {"pear-thread demo", "pear-thread demo big-shop --lines 1000000"},
      {{"lines", "N", "16000", "how many sales lines; customers and orders grow in step"},
       {"seed", "N", "1", "another number makes another shop of the same kind"},
       {"flat", "", "", "one clean file of sales lines instead of the four"}},
      run};
}

}  // namespace pear::cli
