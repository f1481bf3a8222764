#include "sources/spreadsheet/ods.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <utility>

#include <fmt/format.h>

#include "sources/spreadsheet/cell_values.hpp"
#include "sources/spreadsheet/element_chunks.hpp"

namespace pear::sources {
namespace {

const std::string kContent = "content.xml";

/// How often something is repeated, from 1 to `most`.
std::uint64_t times(std::string_view text, std::uint64_t most) {
  std::uint64_t number = 1;
  std::from_chars(text.data(), text.data() + text.size(), number);
  return std::clamp<std::uint64_t>(number, 1, most);
}

/// "PT09H30M00S" as "09:30:00", rounded to seconds; any other text as it is.
std::string time_of(std::string_view duration) {
  if (!duration.starts_with("PT")) return std::string(duration);
  const char* at = duration.data() + 2;
  const char* const end = duration.data() + duration.size();
  double seconds = 0;
  for (const auto& [sign, worth] : {std::pair('H', 3600), std::pair('M', 60), std::pair('S', 1)}) {
    double number = 0;
    const auto [after, fault] = std::from_chars(at, end, number, std::chars_format::fixed);
    if (fault != std::errc() || after == end || *after != sign) continue;
    seconds += number * worth;
    at = after + 1;
  }
  if (at != end) return std::string(duration);
  const std::int64_t all = std::llround(seconds);
  return fmt::format("{:02}:{:02}:{:02}", all / 3600, all / 60 % 60, all % 60);
}

constexpr int kDeepest = 50;  // styles within styles of one text

/// The text of a paragraph, without the notes in it.
void add_text(pugi::xml_node node, std::string& text, int depth) {
  text += node.value();  // up to the first child
  for (const pugi::xml_node child : node.children()) {
    const std::string_view name = child.name();
    if (child.type() == pugi::node_pcdata || child.type() == pugi::node_cdata) text += child.value();
    if (name == "text:s") text.append(times(child.attribute("text:c").value(), kMostSheetColumns), ' ');
    if (name == "text:tab") text += '\t';
    if (name == "text:line-break") text += '\n';
    if (depth < kDeepest && (name == "text:span" || name == "text:a")) add_text(child, text, depth + 1);
  }
}

std::string text_of(pugi::xml_node cell) {
  std::string text;
  bool is_first = true;
  for (const pugi::xml_node paragraph : cell.children("text:p")) {
    if (!std::exchange(is_first, false)) text += '\n';
    add_text(paragraph, text, 0);
  }
  return text;
}

struct CellValue {
  std::string text;
  bool is_typed = false;
};

CellValue value_of(pugi::xml_node cell) {
  const std::string_view type = cell.attribute("office:value-type").value();
  if (type == "float" || type == "percentage" || type == "currency")
    return {number_text(cell.attribute("office:value").value()), true};
  if (type == "date") {
    std::string date = cell.attribute("office:date-value").value();
    std::replace(date.begin(), date.end(), 'T', ' ');
    return {std::move(date), true};
  }
  if (type == "time") return {time_of(cell.attribute("office:time-value").value()), true};
  if (type == "boolean")
    return {std::string_view(cell.attribute("office:boolean-value").value()) == "true" ? "TRUE" : "FALSE",
            false};
  const std::string_view given = cell.attribute("office:string-value").value();
  return {given.empty() ? text_of(cell) : std::string(given), false};
}

/// Rows may be in groups, which a piece of the sheet cuts: the tags of groups become spaces.
void blank_groups(std::string& xml) {
  for (const std::string_view name :
       {"table:table-header-rows", "table:table-row-group", "table:table-rows"}) {
    for (const std::string& tag : {fmt::format("<{}", name), fmt::format("</{}", name)}) {
      for (std::size_t at = 0; (at = xml.find(tag, at)) != std::string::npos;) {
        const std::size_t end = xml.find('>', at);
        if (end == std::string::npos) break;
        std::fill(xml.begin() + static_cast<std::ptrdiff_t>(at),
                  xml.begin() + static_cast<std::ptrdiff_t>(end + 1), ' ');
        at = end;
      }
    }
  }
}

class OdsSheet final : public Sheet {
 public:
  OdsSheet(ElementChunks chunks, bool has_rows) : chunks_(std::move(chunks)), has_rows_(has_rows) {}

  OrError<std::optional<SheetPart>> next() override {
    if (!has_rows_) return std::nullopt;
    PEAR_ASSIGN(auto chunk, chunks_.next());
    if (!chunk) return std::nullopt;
    SheetPart part{std::move(*chunk), rows_};
    blank_groups(part.xml);
    for (std::size_t at = 0; (at = find_element(part.xml, chunks_.name(), at)) != std::string::npos; ++at)
      rows_ += times_of_row(std::string_view(part.xml).substr(at, part.xml.find('>', at) - at));
    return part;
  }

  OrError<void> read(SheetPart part, CellSink& into) const override {
    pugi::xml_document document;
    PEAR_TRY(parse_elements(part.xml, document));
    std::uint64_t number = part.rows_before;
    for (const pugi::xml_node row : document.children()) {
      if (chunks_.name() != row.name()) continue;
      const std::uint64_t rows = times(row.attribute("table:number-rows-repeated").value(), kMostSheetRows);
      for (std::uint64_t i = 0; i < rows; ++i) {
        PEAR_ASSIGN(const bool any, read_row(row, into));
        if (!any) break;
        if (rows > kMostCopies) return data_error(fmt::format("row {} is repeated too often", number + 1));
        into.end_row(number + i + 1);
      }
      number += rows;
    }
    return {};
  }

 private:
  static constexpr std::uint64_t kMostCopies =
      10'000;  // of a row with values; nobody sells the same more often

  static std::uint64_t times_of_row(std::string_view tag) {
    constexpr std::string_view kRepeated = "table:number-rows-repeated=\"";
    const std::size_t at = tag.find(kRepeated);
    return at == std::string_view::npos ? 1 : times(tag.substr(at + kRepeated.size()), kMostSheetRows);
  }

  /// Whether the row has any value.
  static OrError<bool> read_row(pugi::xml_node row, CellSink& into) {
    std::size_t column = 0;
    bool any = false;
    for (const pugi::xml_node cell : row.children()) {
      const std::uint64_t cells =
          times(cell.attribute("table:number-columns-repeated").value(), kMostSheetColumns);
      const CellValue value = value_of(cell);
      if (!value.text.empty()) {
        if (column + cells > kMostSheetColumns)
          return data_error(fmt::format("a row has more than {} cells", kMostSheetColumns));
        any = true;
        for (std::uint64_t i = 0; i < cells; ++i) into.cell(column + i, value.text, value.is_typed);
      }
      column += cells;
    }
    return any;
  }

  ElementChunks chunks_;
  bool has_rows_;
  std::uint64_t rows_ = 0;
};

class Ods final : public Workbook {
 public:
  Ods(const ZipArchive& archive, std::vector<std::string> names)
      : archive_(archive), names_(std::move(names)) {}
  [[nodiscard]] const std::vector<std::string>& sheets() const override { return names_; }
  OrError<std::unique_ptr<Sheet>> open(std::size_t position) override {
    PEAR_ASSIGN(ZipMember member, archive_.member(kContent));
    ElementChunks chunks(std::move(member));
    PEAR_ASSIGN(const bool any, chunks.enter("table", "table-row", position + 1));
    return std::make_unique<OdsSheet>(std::move(chunks), any);
  }

 private:
  const ZipArchive& archive_;
  std::vector<std::string> names_;
};

}  // namespace

bool is_ods(const ZipArchive& archive) {
  constexpr std::string_view kType = "application/vnd.oasis.opendocument.spreadsheet";
  if (!archive.has("mimetype") || !archive.has(kContent)) return false;
  auto member = archive.member("mimetype");
  std::string type(kType.size(), '\0');
  return member && member->read(type) && type == kType;
}

OrError<std::unique_ptr<Workbook>> open_ods(const ZipArchive& archive) {
  std::vector<std::string> names;
  PEAR_ASSIGN(ZipMember member, archive.member(kContent));
  ElementChunks tables(std::move(member));
  for (;;) {
    PEAR_ASSIGN(const auto tag, tables.next_tag("table"));
    if (!tag) return std::make_unique<Ods>(archive, std::move(names));
    std::string xml = *tag + (tag->ends_with("/>") ? "" : "</table:table>");
    pugi::xml_document document;
    if (const auto parsed = parse_elements(xml, document); !parsed)
      return data_error(
          fmt::format("{} is damaged: {}. Save the workbook again.", archive.path(), parsed.error().message));
    names.emplace_back(document.first_child().attribute("table:name").value());
  }
}

}  // namespace pear::sources
