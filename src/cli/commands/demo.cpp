#include "cli/commands/demo.hpp"

#include <algorithm>
#include <filesystem>
#include <functional>
#include <set>
#include <vector>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/commands/import_run.hpp"
#include "cli/commands/study_run.hpp"
#include "cli/stopwatch.hpp"
#include "cli/terminal.hpp"
#include "demo/demo_study.hpp"
#include "demo/raw_files.hpp"
#include "demo/sales_file.hpp"
#include "demo/shop.hpp"
#include "files/atomic_file.hpp"
#include "intake/plan/intake_file.hpp"
#include "output/tables/readable.hpp"
#include "study/delivery.hpp"

namespace pear::cli {
namespace {

constexpr const char* kSales = "sales.csv";
constexpr const char* kIntake = "shop.toml";
constexpr const char* kDaybook = "thistledown.daybook";
constexpr const char* kStudy = "monthly.toml";
constexpr const char* kAnswers = "answers";

constexpr std::int64_t kMostAsked = 1'000'000;  ///< the study of a larger shop is not run at once

/// A file of raw data and what writes it.
struct RawFile {
  const char* name;
  std::function<OrError<void>(const demo::Shop&, const demo::Write&)> write;
};

std::vector<RawFile> raw_files(bool flat) {
  if (flat) return {{kSales, demo::write_sales}};
  return {{"order-lines.csv", demo::write_order_lines},
          {"orders.csv", demo::write_orders},
          {"products.csv", demo::write_products},
          {"customers.csv", demo::write_customers},
          {kIntake, [](const demo::Shop&, const demo::Write& write) { return write(demo::intake_file()); }}};
}

/// The folder may be new, empty, or hold an earlier demo.
OrError<void> check_folder(const std::string& folder) {
  std::error_code failure;
  if (!std::filesystem::exists(folder, failure)) return {};
  if (!std::filesystem::is_directory(folder, failure))
    return usage_error(fmt::format("{} is a file. Name a folder for the demo.", folder));
  files::remove_leftovers(folder);  // of a demo that was killed
  std::set<std::string> ours = {kDaybook, kAnswers, kStudy, "thistledown-import"};
  for (const bool flat : {true, false}) {
    for (const RawFile& file : raw_files(flat)) ours.insert(file.name);
  }
  for (const auto& entry : std::filesystem::directory_iterator(folder, failure)) {
    const std::string name = entry.path().filename().string();
    if (!ours.contains(name))
      return usage_error(
          fmt::format("{} contains something else ({}), which the demo does not touch. Name another folder.",
                      folder, name));
  }
  return {};
}

OrError<void> write_raw_files(const demo::ShopOptions& options, const std::string& folder, bool flat) {
  const demo::Shop shop = demo::make_shop(options);
  for (const RawFile& raw : raw_files(flat)) {
    PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(folder + "/" + raw.name));
    PEAR_TRY(raw.write(shop, [&](std::string_view text) { return file.write(text); }));
    PEAR_TRY(file.commit());
  }
  return files::write_file(folder + "/" + kStudy, demo::study_file(!flat));
}

/// Sentences, wrapped and indented.
std::string wrapped_text(const std::vector<std::string>& sentences, std::size_t width) {
  std::string text;
  for (const std::string& sentence : sentences)
    for (const std::string& line : output::wrapped(sentence, width - 5)) text += "     " + line + "\n";
  return text;
}

std::string large_shop_text(const std::string& folder) {
  return fmt::format(
      "The shop is ready and imported. With so many lines its study takes a while. To run it:\npear-thread "
      "study {0}/{1}\nDaybook    {0}/{2}\n",
      folder, kStudy, kDaybook);
}

/// What is planted, and below it what was found.
std::string findings_text(const result::Result& import_report, const study::StudyAnswers& answers,
                          const output::TerminalStyle& style) {
  std::string text;
  int number = 0;
  for (const demo::PlantedFinding& finding : demo::kPlantedFindings) {
    const result::Result* result = finding.question.empty() ? &import_report : nullptr;
    for (const study::StudyAnswer& answer : answers.answers)
      if (answer.answer && answer.name() == finding.question) result = &answer.answer->result;
    if (result == nullptr || result->headline.size() <= finding.sentence) continue;
    const std::string planted = fmt::format("{:>3}  {}", ++number, finding.planted);
    text += fmt::format("\n{}\n", style.emphasis ? "\x1b[1m" + planted + "\x1b[0m" : planted);
    text += wrapped_text({result->headline[finding.sentence]}, style.width);
  }
  return text;
}

OrError<void> run_demo(const Arguments& arguments) {
  const std::string folder = arguments.words.empty() ? "demo-shop" : arguments.words.front();
  demo::ShopOptions options;
  PEAR_ASSIGN(const std::int64_t lines,
              analysis::parse_whole("lines", arguments.value_or("lines", std::to_string(options.lines)), 1,
                                    1'000'000'000));
  PEAR_ASSIGN(const std::int64_t seed,
              analysis::parse_whole("seed", arguments.value_or("seed", std::to_string(options.seed)), 0,
                                    1'000'000'000));
  PEAR_ASSIGN(
      const std::int64_t products,
      analysis::parse_whole("products", arguments.value_or("products", std::to_string(options.products)),
                            demo::kListedProducts, 1'000'000));
  options = {static_cast<std::uint64_t>(lines), static_cast<std::uint64_t>(seed),
             static_cast<std::uint32_t>(products)};
  PEAR_TRY(check_folder(folder));
  PEAR_TRY(files::make_folder(folder));

  const bool flat = arguments.has("flat");
  const std::string source = folder + "/" + (flat ? kSales : kIntake);
  const std::string daybook = folder + "/" + kDaybook;
  Stopwatch stopwatch;
  PEAR_TRY(write_raw_files(options, folder, flat));
  stopwatch.lap("shop generated");
  ImportTask task;
  if (flat) {
    task.plan = intake::flat_plan(source, {});
  } else {
    PEAR_ASSIGN(task.plan, intake::read_intake_file(source));
  }
  task.daybook = daybook;
  task.command = fmt::format("pear-thread import {}", flat ? kSales : kIntake);
  task.show_progress = !arguments.has("quiet");
  PEAR_ASSIGN(const ImportOutcome imported, import_to_file(task));
  if (lines > kMostAsked) {
    if (!arguments.has("quiet")) print(large_shop_text(folder));
    return {};
  }
  PEAR_ASSIGN(const study::Study study, study::read_study(folder + "/" + kStudy));
  const study::StudyAnswers answers = run_with_progress(study, !arguments.has("quiet"));
  warn_of_figures(answers);
  stopwatch.lap("study run");
  PEAR_ASSIGN(const std::vector<std::string> delivered, study::deliver(answers));
  stopwatch.lap("report written");
  const output::TerminalStyle style = terminal_style();
  std::string text;
  for (const std::string& line :
       output::wrapped("Thistledown & Reel, a made-up mail-order business for yarn and haberdashery. What is "
                       "planted in its sales, and what was found:",
                       style.width))
    text += line + "\n";
  text += findings_text(imported.report, answers, style);
  text += fmt::format("\nReport     {}\nWorkbook   {}\nAnswers    {} (tables and figures of {})\n",
                      delivered.at(0), delivered.at(2), study.folder,
                      counted(answers.answers.size(), "question"));
  text += fmt::format(
      "Raw data   {}\nImport     {}\nDaybook    {}\n",
      flat ? source
           : fmt::format("{0}/order-lines.csv, orders.csv, products.csv, customers.csv, shop.toml", folder),
      imported.paths.at(1), daybook);
  text += fmt::format("Next       pear-thread study {}/{}\n           pear-thread frequency {} --within 90\n",
                      folder, kStudy, daybook);
  if (!arguments.has("quiet")) print(text);
  // A shop with few lines lacks customers and products that the study names: its report shows that.
  if (const auto complete = require_all(answers); !complete) spdlog::warn("{}", complete.error().message);
  return {};
}

}  // namespace

Command demo_command() {
  return {
      "demo",
      "[FOLDER]",
      1,
      "generates a made-up shop, imports it, runs every question and writes a report",
      "Writes the exports of Thistledown & Reel, a made-up mail-order business, into FOLDER (default: "
      "demo-shop):\nfour files with the faults of real ones, an intake file and a study. Imports them "
      "into a daybook, runs\nevery question, writes report and workbook, and shows what is planted next "
      "to what was found.\nWith more than a million lines you start the study yourself.\nA folder that "
      "contains something else is not touched.",
      {"pear-thread demo", "pear-thread demo big-shop --lines 1000000"},
      {{"lines", "N", "16000", "number of sales lines; customers and orders grow in proportion"},
       {"products", "N", "90", "number of products on the shop's list: more than 90 are variants of these"},
       {"seed", "N", "1", "another number generates another shop of the same kind"},
       {"flat", "", "", "one clean file of sales lines instead of the four"}},
      run_demo};
}

}  // namespace pear::cli
