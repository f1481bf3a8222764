#include "intake/parts/row_spool.hpp"

#include <algorithm>
#include <utility>

#include <tbb/parallel_for.h>

#include "base/varint.hpp"
#include "intake/read/batch_dictionary.hpp"
#include "intake/read/table_collector.hpp"

namespace pear::intake {
namespace {

constexpr std::size_t kBlockBytes = std::size_t{1} << 16U;

/// Numbers and days: 0 is "no value".
template <class T>
void put_number(std::string& to, T value, T empty) {
  put_varint(to, value == empty ? 0 : zigzag(value) + 1);
}

template <class T>
T get_number(const char*& at, T empty) {
  const std::uint64_t code = get_varint(at);
  return code == 0 ? empty : static_cast<T>(from_zigzag(code - 1));
}

}  // namespace

OrError<RowSpool> RowSpool::create(const std::string& path, const TableColumns& plan,
                                   const SourcePlan& format, Spellings& spellings) {
  PEAR_ASSIGN(files::ScratchFile file, files::ScratchFile::create(path));
  return RowSpool(std::move(file), plan, format, spellings);
}

RowSpool::RowSpool(files::ScratchFile file, const TableColumns& plan, const SourcePlan& format,
                   Spellings& spellings)
    : file_(std::move(file)),
      plan_(plan),
      format_(&format),
      spellings_(&spellings),
      match_(plan),
      key_(plan.find(daybook::role::kOrderId)),
      forms_(plan.columns.size()),
      any_time_(plan.columns.size()) {
  for (std::size_t i = 0; i < plan.columns.size(); ++i)
    if (plan.columns[i].kind == ColumnKind::text && has_text_form(format, plan.table, plan.columns[i].name))
      forms_[i].emplace(format);
}

OrError<void> RowSpool::begin_source(const TableColumns& plan, const std::string& source) {
  PEAR_ASSIGN(places_, match_.places(plan, source));
  return {};
}

OrError<void> RowSpool::add(const RowBatch& batch, std::uint64_t first_line, std::size_t /*expected_rows*/) {
  for (std::size_t i = 0; i < places_.size(); ++i) {
    const BatchColumn& column = batch.columns[places_[i]];
    any_time_[i] |= column.any_time ? 1 : 0;
    if (plan_.columns[i].kind == ColumnKind::text) see_texts(i, column.texts);
  }
  const BatchTexts& keys = batch.columns[places_[key_]].texts;
  for (std::size_t row = 0; row < batch.lines.size(); ++row) {
    const std::uint32_t key = keys.codes[row];
    Part& part = parts_[key == daybook::kEmptyCode ? 0 : keys.texts[key].hash % kParts];
    put_row(batch, row, first_line + batch.lines[row], part.bytes);
    ++part.rows;
    if (part.bytes.size() >= kBlockBytes) PEAR_TRY(flush(part));
  }
  rows_ += batch.lines.size();
  return {};
}

void RowSpool::see_texts(std::size_t column, const BatchTexts& texts) {
  if (forms_[column])
    for (const HashedText& text : texts.texts) forms_[column]->see(text.text);
  const std::string& name = plan_.columns[column].name;
  if (!spellings_->has(name)) return;
  std::vector<std::uint64_t> rows(texts.texts.size());
  for (const std::uint32_t code : texts.codes)
    if (code != daybook::kEmptyCode) ++rows[code];
  for (std::size_t code = 0; code < rows.size(); ++code)
    spellings_->count(name, texts.texts[code], rows[code]);
}

void RowSpool::put_row(const RowBatch& batch, std::size_t row, std::uint64_t line, std::string& to) const {
  put_varint(to, line);
  for (std::size_t i = 0; i < places_.size(); ++i) {
    const BatchColumn& column = batch.columns[places_[i]];
    switch (plan_.columns[i].kind) {
      case ColumnKind::text: {
        const std::uint32_t code = column.texts.codes[row];
        const std::string_view text =
            code == daybook::kEmptyCode ? std::string_view() : column.texts.texts[code].text;
        put_varint(to, text.size());
        to.append(text);
        break;
      }
      case ColumnKind::number:
        put_number(to, column.units[row], daybook::kEmptyUnits);
        break;
      case ColumnKind::moment:
        put_number(to, column.days[row], daybook::kEmptyDays);
        put_number(to, column.seconds[row], Moment::kNoTime);
        break;
    }
  }
  if (plan_.table == TableKind::lines) put_number(to, batch.amounts[row], daybook::kEmptyUnits);
}

OrError<void> RowSpool::flush(Part& part) {
  if (part.rows == 0) return {};
  PEAR_ASSIGN(const std::uint64_t begin, file_.append(part.bytes));
  part.blocks.push_back({accounts_.size(), begin, part.bytes.size(), part.rows});
  part.bytes.clear();
  part.rows = 0;
  return {};
}

OrError<void> RowSpool::end_source(SourceAccount account) {
  for (Part& part : parts_) PEAR_TRY(flush(part));
  accounts_.push_back(std::move(account));
  return {};
}

std::uint64_t RowSpool::rows_of(std::size_t part) const {
  std::uint64_t rows = 0;
  for (const Block& block : parts_[part].blocks) rows += block.rows;
  return rows;
}

std::uint64_t RowSpool::memory_of(std::size_t part) const {
  // The line, an amount, a flag, and what sorting needs: the order, the position, one column twice.
  std::uint64_t bytes_of_row = 40;
  for (const PlannedColumn& column : plan_.columns) bytes_of_row += column.kind == ColumnKind::number ? 8 : 4;
  std::uint64_t bytes = 0, rows = 0;
  for (const Block& block : parts_[part].blocks) {
    bytes += block.bytes;
    rows += block.rows;
  }
  return rows * bytes_of_row + bytes / 2;  // of the texts, most occur several times
}

OrError<RowBatch> RowSpool::read(const Block& block) const {
  RowBatch batch;
  PEAR_ASSIGN(batch.cleaned.emplace_back(), file_.read(block.begin, block.bytes));
  batch.columns.resize(plan_.columns.size());
  for (std::size_t i = 0; i < plan_.columns.size(); ++i) batch.columns[i].any_time = any_time_[i] != 0;
  get_rows(block, batch);
  return batch;
}

void RowSpool::get_rows(const Block& block, RowBatch& batch) const {
  std::deque<BatchDictionary> dictionaries;
  for (BatchColumn& column : batch.columns) dictionaries.emplace_back(column.texts);
  const char* at = batch.cleaned.front().data();
  for (std::size_t row = 0; row < block.rows; ++row) {
    batch.lines.push_back(get_varint(at));
    for (std::size_t i = 0; i < plan_.columns.size(); ++i) {
      BatchColumn& column = batch.columns[i];
      switch (plan_.columns[i].kind) {
        case ColumnKind::text: {
          const std::size_t size = get_varint(at);
          dictionaries[i].add({at, size});
          at += size;
          break;
        }
        case ColumnKind::number:
          column.units.push_back(get_number(at, daybook::kEmptyUnits));
          break;
        case ColumnKind::moment:
          column.days.push_back(get_number(at, daybook::kEmptyDays));
          column.seconds.push_back(get_number(at, Moment::kNoTime));
          break;
      }
    }
    if (plan_.table == TableKind::lines) batch.amounts.push_back(get_number(at, daybook::kEmptyUnits));
  }
}

OrError<RawTable> RowSpool::load(std::size_t begin, std::size_t end) const {
  TableCollector collector(plan_);
  std::vector<Block> blocks;  // of all parts, source by source
  for (std::size_t part = begin; part < end; ++part)
    blocks.insert(blocks.end(), parts_[part].blocks.begin(), parts_[part].blocks.end());
  std::stable_sort(blocks.begin(), blocks.end(),
                   [](const Block& a, const Block& b) { return a.source < b.source; });
  std::size_t all_rows = 0;
  for (const Block& block : blocks) all_rows += block.rows;
  std::size_t next = 0;
  for (std::size_t source = 0; source < accounts_.size(); ++source) {
    PEAR_TRY(collector.begin_source(plan_, accounts_[source].record.name));
    std::size_t last = next;
    while (last < blocks.size() && blocks[last].source == source) ++last;
    const std::size_t rows_before = collector.rows();
    constexpr std::size_t kAtOnce = 32;
    for (; next < last; next = std::min(last, next + kAtOnce)) {
      std::vector<OrError<RowBatch>> batches(std::min(kAtOnce, last - next));
      tbb::parallel_for(std::size_t{0}, batches.size(),
                        [&](std::size_t i) { batches[i] = read(blocks[next + i]); });
      for (const OrError<RowBatch>& batch : batches) {
        if (!batch) return tl::unexpected(batch.error());
        PEAR_TRY(collector.add(*batch, 0, all_rows));
      }
    }
    SourceAccount account;
    account.record.name = accounts_[source].record.name;
    account.record.table = accounts_[source].record.table;
    account.record.rows_kept = collector.rows() - rows_before;
    PEAR_TRY(collector.end_source(std::move(account)));
  }
  RawTable table = collector.take();
  for (std::size_t i = 0; i < forms_.size(); ++i)
    if (forms_[i])
      convert_texts(*format_, forms_[i]->form(),
                    std::get<daybook::TextValues>(table.find(plan_.columns[i].name)->values));
  return table;
}

}  // namespace pear::intake
