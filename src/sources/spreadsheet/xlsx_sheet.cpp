#include "sources/spreadsheet/xlsx_sheet.hpp"

#include <charconv>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/ascii.hpp"
#include "sources/spreadsheet/element_chunks.hpp"

namespace pear::sources {
namespace {

std::optional<std::uint64_t> whole_number(std::string_view text) {
  std::uint64_t number = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), number);
  if (fault != std::errc() || end != text.data() + text.size()) return std::nullopt;
  return number;
}

/// The column of "AB12", from 0; nothing if it is not a place.
std::optional<std::size_t> column_of(std::string_view place) {
  std::size_t column = 0;
  for (const char c : place) {
    if (is_digit(c)) break;
    if (c < 'A' || c > 'Z' || column > kMostSheetColumns) return std::nullopt;
    column = column * 26 + static_cast<std::size_t>(c - 'A' + 1);
  }
  if (column == 0 || column > kMostSheetColumns) return std::nullopt;
  return column - 1;
}

/// Most names have one letter; millions of them are compared.
bool is_letter(const char* name, char letter) { return name[0] == letter && name[1] == '\0'; }

/// One row's cells.
class CellReader {
 public:
  CellReader(const CellContext& context, CellSink& into) : context_(context), into_(into) {}

  void begin_row() { next_column_ = 0; }

  OrError<void> read(pugi::xml_node cell) {
    const char* place = "";
    const char* style = "";
    const char* type = "";
    for (auto attribute = cell.first_attribute(); attribute; attribute = attribute.next_attribute()) {
      const char* const name = attribute.name();
      if (is_letter(name, 'r')) place = attribute.value();
      if (is_letter(name, 's')) style = attribute.value();
      if (is_letter(name, 't')) type = attribute.value();
    }
    const auto column = *place == '\0' ? std::optional(next_column_) : column_of(place);
    if (!column || *column < next_column_)
      return data_error(fmt::format("cell {} is not to the right of the cell before it", place));
    next_column_ = *column + 1;
    return pass_on(*column, style, type, cell);
  }

 private:
  OrError<void> pass_on(std::size_t column, const char* style, const char* type, pugi::xml_node cell) {
    std::string_view value;
    for (auto child = cell.first_child(); child; child = child.next_sibling()) {
      const char* const name = child.name();
      if (is_letter(name, 'v') || local_name(name) == "v") {
        value = child.child_value();
      } else if (local_name(name) == "is") {
        pass_on_text(column, child);
      }
    }
    if (value.empty()) return {};
    if (is_letter(type, 's')) {
      const auto position = whole_number(value);
      if (!position || *position >= context_.strings->size())
        return data_error(fmt::format("a cell refers to text {}, which does not exist", value));
      into_.cell(column, (*context_.strings)[*position], false);
    } else if (*type == '\0' || is_letter(type, 'n')) {
      pass_on_number(column, style, value);
    } else if (is_letter(type, 'b')) {
      into_.cell(column, value == "0" ? "FALSE" : "TRUE", false);
    } else if (is_letter(type, 'd')) {
      into_.cell(column, value, true);
    } else {  // the text of a formula, or an error
      into_.cell(column, value.find("_x") == std::string_view::npos ? value : without_escapes(value), false);
    }
    return {};
  }

  void pass_on_text(std::size_t column, pugi::xml_node text) {
    const pugi::xml_node only = text.first_child();  // mostly there are no styles within
    const std::string_view plain = only.child_value();
    if (is_letter(only.name(), 't') && !only.next_sibling() && plain.find("_x") == std::string_view::npos)
      return into_.cell(column, plain, false);
    into_.cell(column, rich_text(text), false);
  }

  void pass_on_number(std::size_t column, const char* style, std::string_view value) {
    const std::uint64_t position = *style == '\0' ? 0 : whole_number(style).value_or(0);
    const CellFormat format =
        position < context_.formats->size() ? (*context_.formats)[position] : CellFormat::number;
    if (format == CellFormat::number) {
      if (is_plain_number(value)) return into_.cell(column, value, true);
      return into_.cell(column, number_text(value), true);
    }
    if (value != last_serial_ || format != last_format_) {  // dates repeat
      last_date_ = serial_text(value, format, context_.from_1904);
      last_serial_ = value;
      last_format_ = format;
    }
    into_.cell(column, last_date_, true);
  }

  const CellContext& context_;
  CellSink& into_;
  std::size_t next_column_ = 0;
  std::string last_serial_, last_date_;
  CellFormat last_format_ = CellFormat::number;
};

class XlsxSheet final : public Sheet {
 public:
  XlsxSheet(ElementChunks chunks, bool has_rows, CellContext context)
      : chunks_(std::move(chunks)), has_rows_(has_rows), context_(context) {}

  OrError<std::optional<SheetPart>> next() override {
    if (!has_rows_) return std::nullopt;
    PEAR_ASSIGN(auto chunk, chunks_.next());
    if (!chunk) return std::nullopt;
    SheetPart part{std::move(*chunk), rows_};
    // Rows have numbers; where they have none, they are counted.
    const std::string_view first_tag = std::string_view(part.xml).substr(0, part.xml.find('>'));
    if (first_tag.find(" r=\"") == std::string_view::npos)
      for (std::size_t at = 0; (at = find_element(part.xml, chunks_.name(), at)) != std::string::npos; ++at)
        ++rows_;
    return part;
  }

  OrError<void> read(SheetPart part, CellSink& into) const override {
    pugi::xml_document document;
    PEAR_TRY(parse_elements(part.xml, document));
    CellReader reader(context_, into);
    std::uint64_t number = part.rows_before;
    for (auto row = document.first_child(); row; row = row.next_sibling()) {
      const std::string_view given = row.attribute("r").value();
      number = given.empty() ? number + 1 : whole_number(given).value_or(0);
      if (number == 0 || number > kMostSheetRows)
        return data_error(fmt::format("a row has the number {}", given));
      reader.begin_row();
      for (auto cell = row.first_child(); cell; cell = cell.next_sibling()) PEAR_TRY(reader.read(cell));
      into.end_row(number);
    }
    return {};
  }

 private:
  ElementChunks chunks_;
  bool has_rows_;
  CellContext context_;
  std::uint64_t rows_ = 0;
};

}  // namespace

OrError<std::unique_ptr<Sheet>> open_xlsx_sheet(ZipMember member, CellContext context) {
  ElementChunks chunks(std::move(member));
  PEAR_ASSIGN(const bool any, chunks.enter("sheetData", "row"));
  return std::make_unique<XlsxSheet>(std::move(chunks), any, context);
}

}  // namespace pear::sources
