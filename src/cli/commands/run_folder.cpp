#include "cli/commands/run_folder.hpp"

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <optional>
#include <system_error>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/atomic_file.hpp"
#include "files/unfinished.hpp"
#include "files/whole_file.hpp"
#include "output/tables/json.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"

namespace pear::cli {
namespace {

namespace fs = std::filesystem;

constexpr const char* kBefore = "before.daybook";

/// 3 of 2024-10-31-3.
std::optional<std::uint32_t> number_of(const std::string& name) {
  const std::size_t dash = name.rfind('-');
  if (dash == std::string::npos || !parse_iso_moment(name.substr(0, dash))) return std::nullopt;
  std::uint32_t number = 0;
  const char* const end = name.data() + name.size();
  const auto [stop, fault] = std::from_chars(name.data() + dash + 1, end, number);
  return fault == std::errc() && stop == end ? std::optional(number) : std::nullopt;
}

/// Number and path of each run, in order.
std::vector<std::pair<std::uint32_t, std::string>> runs_in(const std::string& folder) {
  std::vector<std::pair<std::uint32_t, std::string>> runs;
  std::error_code failure;
  for (const auto& entry : fs::directory_iterator(folder, failure)) {
    const auto number = number_of(entry.path().filename().string());
    if (number && entry.is_directory(failure)) runs.emplace_back(*number, entry.path().string());
  }
  std::sort(runs.begin(), runs.end());
  return runs;
}

/// Of the daybook that the run wrote, as its report says; empty if it does not.
std::string fingerprint_after(const std::string& run) {
  const auto text = files::read_whole_file(run + "/datapackage.json");
  if (!text) return "";
  const output::Json package = output::parse_json(*text);
  const output::Json::json_pointer place("/trails/import/daybook/fingerprint");
  return package.is_object() && package.contains(place) && package[place].is_string()
             ? package[place].get<std::string>()
             : "";
}

tl::unexpected<Error> failed(const std::string& what, const std::error_code& failure) {
  return io_error(fmt::format("cannot {}: {}.", what, failure.message()));
}

}  // namespace

std::string folder_of_runs(const std::string& daybook) {
  const fs::path path(daybook);
  return (path.parent_path() / (path.stem().string() + "-import")).string();
}

std::string last_run(const std::string& folder_of_runs) {
  auto runs = runs_in(folder_of_runs);
  std::error_code ignored;
  while (!runs.empty() && !fs::exists(runs.back().second + "/import.md", ignored)) runs.pop_back();
  return runs.empty() ? "" : runs.back().second;
}

void remove_interrupted_runs(const std::string& folder_of_runs) {
  std::error_code ignored;
  for (const auto& [number, path] : runs_in(folder_of_runs)) {
    files::remove_leftovers(path);
    bool is_whole = false, is_written = false;
    for (const auto& entry : fs::directory_iterator(path, ignored)) {
      is_whole |= entry.path().filename() == "import.md";
      is_written |= entry.path().filename().string().starts_with(".");
    }
    if (!is_whole && !is_written) fs::remove_all(path, ignored);
  }
}

RunFolder::RunFolder(const std::string& folder_of_runs, Date today) : parent_(folder_of_runs) {
  const auto runs = runs_in(folder_of_runs);
  const std::uint32_t number = runs.empty() ? 1 : runs.back().first + 1;
  path_ = fmt::format("{}/{}-{}", folder_of_runs, to_text(today), number);
  std::error_code ignored;
  parent_existed_ = fs::exists(parent_, ignored);
}

RunFolder::~RunFolder() {
  std::error_code ignored;
  const auto remove_empty = [&](const std::string& folder) {
    if (fs::is_directory(folder, ignored) && fs::is_empty(folder, ignored)) fs::remove(folder, ignored);
  };
  remove_empty(path_);
  if (!parent_existed_) remove_empty(parent_);
}

OrError<void> RunFolder::keep_daybook(const std::string& daybook) const {
  std::error_code failure;
  if (!fs::exists(daybook, failure)) return {};
  const fs::path file = fs::canonical(daybook, failure);  // a link would be linked itself
  if (failure) return failed("read " + daybook, failure);
  const std::string kept = path_ + "/" + kBefore;
  fs::create_hard_link(file, kept, failure);
  if (failure) fs::copy_file(file, kept, failure);  // a file system without links
  if (failure) return failed(fmt::format("keep {} as {}", daybook, kept), failure);
  return {};
}

void RunFolder::forget_older() const {
  std::error_code ignored;
  for (const auto& [number, path] : runs_in(parent_))
    if (path != path_) fs::remove(path + "/" + kBefore, ignored);
}

OrError<std::string> undo_last_run(const std::string& daybook, const std::string& folder_of_runs) {
  PEAR_ASSIGN(const storage::DaybookTarget lock, storage::DaybookTarget::lock(daybook));
  PEAR_ASSIGN(const storage::DaybookFile now, storage::DaybookFile::open(daybook));
  const std::string run = last_run(folder_of_runs);
  const std::string before = run + "/" + kBefore;
  std::error_code failure;
  if (run.empty() || !fs::exists(before, failure))
    return data_error(
        fmt::format("the last import into {} cannot be undone: there is no {}. Only the last import can be "
                    "undone, and not "
                    "the one that created the daybook.",
                    daybook, run.empty() ? folder_of_runs + "/DATE-N/" + kBefore : before));
  if (fingerprint_after(run) != now.info().fingerprint)
    return data_error(
        fmt::format("{} is not as its last import ({}) left it, so that is not undone.", daybook, run));
  PEAR_ASSIGN(const storage::DaybookFile old, storage::DaybookFile::open(before));
  const std::uint32_t lines_now = now.info().lines, lines_old = old.info().lines;
  const auto uninterrupted = files::no_interruption();
  const fs::path file = fs::canonical(daybook, failure);
  if (!failure) fs::rename(before, file, failure);
  if (failure) return failed(fmt::format("put {} in the place of {}", before, daybook), failure);
  fs::remove_all(run, failure);
  if (failure) return failed("remove " + run, failure);
  fs::remove(folder_of_runs, failure);  // if it is empty
  return fmt::format("The last import into {} was undone: it has {} again, instead of {}.", daybook,
                     counted(lines_old, "line"), with_thousands(lines_now));
}

}  // namespace pear::cli
