#include "output/tables/xlsx_writer.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <set>
#include <xlsxwriter.h>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/atomic_file.hpp"
#include "files/scratch_folder.hpp"
#include "files/whole_file.hpp"
#include "output/tables/data_package.hpp"
#include "output/tables/readable.hpp"
#include "output/tables/xlsx_pattern.hpp"

namespace pear::output {
namespace {

constexpr std::size_t kMostRows = 1'048'575;  // next to the heading
constexpr std::size_t kLongestText = 32'767;
constexpr std::size_t kMeasuredRows = 200;  // for estimating column widths

/// The text, or as much of it as a cell can contain, without characters that XML does not allow.
std::string fitting_text(std::string_view given) {
  constexpr std::string_view kCut = "…";
  const std::string text = without_controls(given, "\t\n");  // XML allows these two
  if (text.size() <= kLongestText) return text;
  std::size_t end = kLongestText - kCut.size();
  while (end > 0 && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U) --end;
  return text.substr(0, end) + std::string(kCut);
}

/// The name of a sheet: at most 31 characters, none of []:*?/\ nor an apostrophe, and unlike all others.
class SheetNames {
 public:
  std::string next(const std::string& wanted) {
    constexpr std::size_t kLongest = 31;
    std::string name;
    for (const char c : wanted) {
      const bool fits =
          static_cast<unsigned char>(c) < 0x80 && std::string_view("[]:*?/\\'").find(c) == std::string::npos;
      name += fits && c >= ' ' ? c : '-';
    }
    name = name.substr(0, kLongest);
    for (int number = 2; !taken_.insert(folded(name)).second; ++number) {
      const std::string ending = fmt::format(" {}", number);
      name = name.substr(0, kLongest - ending.size()) + ending;
    }
    return name;
  }

 private:
  static std::string folded(std::string name) {
    for (char& c : name) c = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
    return name;
  }
  std::set<std::string> taken_ = {"contents"};
};

/// Adds a sheet. The library creates a temporary file for it, and does so outside its folder if a signal has
/// removed that; so a signal waits.
lxw_worksheet* add_sheet(lxw_workbook* book, const char* name) {
  const auto uninterrupted = files::no_interruption();
  return workbook_add_worksheet(book, name);
}

/// Writes the workbook and releases it. A signal waits, as in add_sheet().
lxw_error close_book(lxw_workbook* book) {
  const auto uninterrupted = files::no_interruption();
  return workbook_close(book);
}

/// Fills one workbook, which is written when it is closed.
class WorkbookWriter {
 public:
  /// `folder` is for temporary files.
  WorkbookWriter(const std::string& file, std::string folder) {
    lxw_workbook_options options{};
    options.constant_memory = LXW_TRUE;
    options.tmpdir = folder.data();
    book_ = workbook_new_opt(file.c_str(), &options);
    for (lxw_format** heading : {&heading_, &heading_of_numbers_}) {
      *heading = workbook_add_format(book_);
      format_set_bold(*heading);
      format_set_bottom(*heading, LXW_BORDER_THIN);
      format_set_align(*heading, LXW_ALIGN_VERTICAL_TOP);
    }
    format_set_align(heading_of_numbers_, LXW_ALIGN_RIGHT);
    bold_ = workbook_add_format(book_);
    format_set_bold(bold_);
    title_ = workbook_add_format(book_);
    format_set_bold(title_);
    format_set_font_size(title_, 16);
    wrapped_ = workbook_add_format(book_);
    format_set_text_wrap(wrapped_);
    format_set_align(wrapped_, LXW_ALIGN_VERTICAL_TOP);
    top_ = workbook_add_format(book_);
    format_set_align(top_, LXW_ALIGN_VERTICAL_TOP);
    link_ = workbook_get_default_url_format(book_);
  }

  [[nodiscard]] OrError<void> fill(const std::string& title, const std::vector<WorkbookPart>& parts) {
    lxw_doc_properties properties{};
    std::string name = fitting_text(title);
    properties.title = name.data();
    properties.created = kSameDay;
    workbook_set_properties(book_, &properties);
    contents_ = add_sheet(book_, "Contents");
    worksheet_set_column(contents_, 0, 0, 24, nullptr);
    worksheet_set_column(contents_, 1, 1, kContentsWidth, nullptr);
    set_page(contents_);
    say(title, "", title_);
    for (const WorkbookPart& part : parts) add(part);
    const lxw_error failure = close_book(book_);
    if (failure != LXW_NO_ERROR)
      return io_error(fmt::format("the workbook could not be written: {}.", lxw_strerror(failure)));
    return {};
  }

 private:
  static constexpr std::size_t kContentsWidth = 108;
  static constexpr time_t kSameDay = 1'577'836'800;  // so that the same results give the same bytes

  /// Writes into the second column of the contents; sets the row's height, which not all readers compute.
  void write_wrapped(const std::string& text) {
    constexpr double kLine = 15;  // points
    constexpr std::size_t kCharactersOfLine = 115;
    const std::string shown = fitting_text(text);
    worksheet_set_row(contents_, line_, kLine * static_cast<double>(wrapped(shown, kCharactersOfLine).size()),
                      nullptr);
    worksheet_write_string(contents_, line_, 1, shown.c_str(), wrapped_);
  }

  void say(const std::string& left, const std::string& right, lxw_format* format = nullptr) {
    worksheet_write_string(contents_, line_, 0, fitting_text(left).c_str(),
                           format == nullptr ? top_ : format);
    if (!right.empty()) write_wrapped(right);
    ++line_;
  }

  void add(const WorkbookPart& part) {
    const result::Result& result = *part.result;
    currency_ = result.currency;
    ++line_;
    say(part.title, "", bold_);
    for (const std::string& sentence : result.headline) say("", sentence);
    say("Population", readable_population(result.population, result.whole, result.currency));
    say("Selection", part.selection);
    for (const auto& [name, meaning] : result.definitions) say(name, meaning);
    for (const result::Check& check : result.checks)
      say(check.holds ? "Check passed" : "Check FAILED", check.statement);
    for (const std::string& note : result.notes) say("Note", note);
    for (const result::Table& table : result.tables)
      add(table, names_.next(file_stem(part.stem, table.part)));
    if (!part.pictures.empty()) add_pictures(part, names_.next(part.stem + " figures"));
  }

  void link_to(const std::string& sheet, const std::string& what) {
    worksheet_write_url(contents_, line_, 0, fmt::format("internal:'{}'!A1", sheet).c_str(), link_);
    worksheet_write_string(contents_, line_, 0, sheet.c_str(), link_);
    write_wrapped(what);
    ++line_;
  }

  void add(const result::Table& table, const std::string& name) {
    const std::size_t rows = std::min(table.rows(), kMostRows);
    std::string what = fmt::format("{}: {} {}", table.title, table.description, counted(table.rows(), "row"));
    if (rows < table.rows())
      what += fmt::format(", of which a sheet contains the first {}",
                          with_thousands(static_cast<std::int64_t>(rows)));
    link_to(name, what + ".");
    lxw_worksheet* sheet = add_sheet(book_, name.c_str());
    std::vector<lxw_format*> formats;
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const result::TableColumn& column = table.columns[i];
      const auto place = static_cast<lxw_col_t>(i);
      const bool is_number = column.unit != result::Unit::text && column.unit != result::Unit::date;
      worksheet_write_string(sheet, 0, place, fitting_text(column.name).c_str(),
                             is_number ? heading_of_numbers_ : heading_);
      comment(sheet, place, column.description);
      formats.push_back(format_of(column));
      worksheet_set_column(sheet, place, place, width_of(column, rows), nullptr);
    }
    for (std::size_t row = 0; row < rows; ++row)  // row by row: those written do not stay in memory
      for (std::size_t i = 0; i < formats.size(); ++i)
        write_cell(sheet, row, static_cast<lxw_col_t>(i), table.columns[i], formats[i]);
    worksheet_freeze_panes(sheet, 1, 0);
    set_page(sheet);
    worksheet_repeat_rows(sheet, 0, 0);
    if (!table.columns.empty())
      worksheet_autofilter(sheet, 0, 0, static_cast<lxw_row_t>(rows),
                           static_cast<lxw_col_t>(table.columns.size() - 1));
  }

  /// For printing: A4, as wide as the page.
  static void set_page(lxw_worksheet* sheet) {
    constexpr std::uint8_t kA4 = 9;
    worksheet_set_paper(sheet, kA4);
    worksheet_set_landscape(sheet);
    worksheet_fit_to_pages(sheet, 1, 0);
  }

  /// The column's description, shown when the pointer is over the heading.
  static void comment(lxw_worksheet* sheet, lxw_col_t place, const std::string& description) {
    constexpr std::size_t kLongestInput = 255;
    if (description.empty()) return;
    lxw_data_validation hint{};
    std::string text =
        description.size() <= kLongestInput ? description : cut_to_width(description, kLongestInput);
    hint.validate = LXW_VALIDATION_TYPE_ANY;
    hint.input_message = text.data();
    worksheet_data_validation_cell(sheet, 0, place, &hint);
  }

  void write_cell(lxw_worksheet* sheet, std::size_t row, lxw_col_t place, const result::TableColumn& column,
                  lxw_format* format) {
    if (column.is_empty(row)) return;
    const auto at = static_cast<lxw_row_t>(row + 1);
    switch (column.unit) {
      case result::Unit::text:
        worksheet_write_string(sheet, at, place, fitting_text(column.text(row)).c_str(), format);
        break;
      case result::Unit::share:
      case result::Unit::probability:
        worksheet_write_number(sheet, at, place, column.fraction(row), format);
        break;
      case result::Unit::money:
      case result::Unit::number:
        worksheet_write_number(sheet, at, place, static_cast<double>(column.integer(row)) / Decimal::kScale,
                               format);
        break;
      case result::Unit::date: {
        constexpr double kDaysBefore1970 = 25'569;  // of a workbook's day 0
        worksheet_write_number(sheet, at, place, static_cast<double>(column.integer(row)) + kDaysBefore1970,
                               format);
        break;
      }
      case result::Unit::count:
      case result::Unit::days:
        worksheet_write_number(sheet, at, place, static_cast<double>(column.integer(row)), format);
        break;
    }
  }

  lxw_format* format_of(const result::TableColumn& column) {
    const std::string pattern = cell_pattern(column, currency_);
    if (pattern.empty()) return nullptr;
    lxw_format*& format = formats_[pattern];
    if (format == nullptr) {
      format = workbook_add_format(book_);
      format_set_num_format(format, pattern.c_str());
      if (column.unit == result::Unit::date) format_set_align(format, LXW_ALIGN_LEFT);
    }
    return format;
  }

  [[nodiscard]] double width_of(const result::TableColumn& column, std::size_t rows) const {
    constexpr std::size_t kNarrowest = 8, kWidest = 60, kRoomForFilter = 4;
    std::size_t width = display_width(column.name) + kRoomForFilter;
    const std::size_t beside = column.unit == result::Unit::money ? currency_.size() + 1 : 0;
    for (std::size_t row = 0; row < std::min(rows, kMeasuredRows); ++row)
      width = std::max(width, display_width(readable_cell(column, row)) + beside + 2);
    return static_cast<double>(std::clamp(width, kNarrowest, kWidest));
  }

  void add_pictures(const WorkbookPart& part, const std::string& name) {
    constexpr lxw_row_t kRowsOfPicture = 43;
    link_to(name, "The figures.");
    lxw_worksheet* sheet = add_sheet(book_, name.c_str());
    set_page(sheet);
    lxw_row_t at = 0;
    std::vector<lxw_row_t> breaks;  // each on a page of its own
    for (const std::string& picture : part.pictures) {
      lxw_image_options options{};
      options.x_scale = options.y_scale = 0.9;
      std::string description =
          part.result->headline.empty() ? name : without_controls(part.result->headline.front());
      options.description =
          description.data();  // otherwise the name of the file, which is not always the same
      worksheet_insert_image_opt(sheet, at, 0, picture.c_str(), &options);
      at += kRowsOfPicture;
      breaks.push_back(at);
    }
    breaks.back() = 0;  // which ends the list
    worksheet_set_h_pagebreaks(sheet, breaks.data());
  }

  lxw_workbook* book_ = nullptr;
  lxw_format *heading_ = nullptr, *heading_of_numbers_ = nullptr, *bold_ = nullptr, *title_ = nullptr,
             *wrapped_ = nullptr, *top_ = nullptr, *link_ = nullptr;
  lxw_worksheet* contents_ = nullptr;
  lxw_row_t line_ = 0;
  std::string currency_;
  std::map<std::string, lxw_format*> formats_;
  SheetNames names_;
};

}  // namespace

OrError<files::AtomicFile> make_workbook(const std::string& title, const std::vector<WorkbookPart>& parts,
                                         const std::string& path) {
  const files::ScratchFolder scratch;
  if (!scratch.made())
    return io_error("no workbook was written: no temporary folder could be created. Check TMPDIR.");
  const std::string file = scratch.file("workbook.xlsx");
  PEAR_TRY(WorkbookWriter(file, scratch.path()).fill(title, parts));
  PEAR_ASSIGN(const std::string bytes, files::read_whole_file(file));
  PEAR_ASSIGN(files::AtomicFile workbook, files::AtomicFile::create(path));
  PEAR_TRY(workbook.write(bytes));
  PEAR_TRY(workbook.finish());
  return workbook;
}

}  // namespace pear::output
