#include "storage/daybook_reader.hpp"

#include <algorithm>
#include <mutex>
#include <optional>
#include <set>
#include <span>
#include <utility>

#include <fmt/format.h>
#include <tbb/task_group.h>

#include "files/inputs.hpp"
#include "storage/daybook_info.hpp"
#include "storage/order_checks.hpp"
#include "storage/schema.hpp"
#include "storage/sqlite.hpp"
#include "storage/value_checks.hpp"

namespace pear::storage {
namespace {

daybook::ColumnValues empty_values(daybook::ColumnType type) {
  switch (type) {
    case daybook::ColumnType::text:
      return daybook::TextValues{};
    case daybook::ColumnType::decimal:
      return daybook::DecimalValues{};
    case daybook::ColumnType::date:
      return daybook::DateValues{};
    case daybook::ColumnType::time:
      return daybook::TimeValues{};
    case daybook::ColumnType::flag:
      return daybook::FlagValues{};
  }
  return daybook::TextValues{};
}

std::size_t pages_of(std::size_t size) { return (size + kPageValues - 1) / kPageValues; }

auto allowed_values(const DaybookInfo::ColumnInfo& info, const daybook::TextValues&) {
  return allowed_codes(info.distinct_texts);
}
auto allowed_values(const DaybookInfo::ColumnInfo& info, const daybook::DecimalValues&) {
  return allowed_units(info.name);
}
auto allowed_values(const DaybookInfo::ColumnInfo& info, const daybook::DateValues&) {
  return allowed_days(info.name);
}
auto allowed_values(const DaybookInfo::ColumnInfo&, const daybook::TimeValues&) { return allowed_seconds(); }
auto allowed_values(const DaybookInfo::ColumnInfo&, const daybook::FlagValues&) { return allowed_flags(); }

}  // namespace

class DaybookFile::Rep {
 public:
  Rep(sqlite::Database database, DaybookInfo info) : database_(std::move(database)), info_(std::move(info)) {}

  OrError<daybook::Daybook> load(const std::set<std::string>& names);
  OrError<std::vector<daybook::MemberList>> waiting();
  OrError<void> verify();
  [[nodiscard]] const DaybookInfo& info() const { return info_; }

 private:
  struct Segment {
    std::string array;
    std::size_t page_number = 0;
    std::size_t sequence =
        0;  // in the order of reading, so that of two faults the same one is always reported
    Page page;
  };

  /// use(segment, begin) for each page of an array of `size` members, in order.
  template <class Use>
  OrError<void> each_segment(const std::string& array, std::size_t size, Use use);
  /// Runs work() -> OrError<void> on another thread; the first fault of a segment is returned by wait().
  template <class Work>
  void decode(std::shared_ptr<const Segment> segment, Work work);
  OrError<void> wait();

  /// Error: data, if the pages of an array are not as many as its size needs: before memory is taken for it.
  OrError<void> check_pages(const std::string& array, std::size_t size);
  template <class T>
  OrError<void> read_integers(const std::string& array, std::vector<T>& values, std::size_t size,
                              const Allowed<T>& allowed);
  OrError<void> read_texts(const std::string& array, TextArray& texts, std::size_t size);
  OrError<void> read_offsets(std::string_view array, std::vector<std::uint32_t>& offsets, std::size_t size,
                             std::uint32_t total);
  OrError<void> read_column(const DaybookInfo::ColumnInfo& info, daybook::Column& column);
  OrError<void> read_parts(const std::set<std::string>& names, daybook::DaybookParts& parts);

  [[nodiscard]] tl::unexpected<Error> damaged(std::string_view what) const {
    return damaged_daybook(info_.path, what);
  }

  sqlite::Database database_;
  DaybookInfo info_;
  tbb::task_group decoding_;
  std::mutex failure_mutex_;
  std::size_t failed_sequence_ = 0;
  std::optional<std::string> failure_;
  std::size_t segments_read_ = 0;
};

template <class Use>
OrError<void> DaybookFile::Rep::each_segment(const std::string& array, std::size_t size, Use use) {
  PEAR_ASSIGN(sqlite::Statement rows,
              database_.prepare("SELECT page, members, codec, checksum, rowid FROM segments"
                                " WHERE array = ? ORDER BY page"));
  rows.bind(1, array);
  std::size_t begin = 0;
  for (std::size_t page = 0; begin < size; ++page) {
    PEAR_ASSIGN(const bool more, rows.step());
    const std::size_t expected = std::min(kPageValues, size - begin);
    if (!more || rows.integer(0) != static_cast<std::int64_t>(page) ||
        rows.integer(1) != static_cast<std::int64_t>(expected))
      return damaged(fmt::format("segment {} of {} is missing or has another size", page, array));
    auto segment = std::make_shared<Segment>(Segment{array, page, segments_read_++, {}});
    segment->page = {static_cast<std::uint32_t>(expected),
                     static_cast<Codec>(rows.integer(2)),
                     static_cast<std::uint64_t>(rows.integer(3)),
                     {}};
    PEAR_ASSIGN(segment->page.bytes, database_.blob("segments", "bytes", rows.integer(4)));
    PEAR_TRY(use(std::move(segment), begin));
    begin += expected;
  }
  return {};
}

template <class Work>
void DaybookFile::Rep::decode(std::shared_ptr<const Segment> segment, Work work) {
  decoding_.run([this, segment = std::move(segment), work] {
    const OrError<void> outcome = work(segment->page);
    if (outcome) return;
    const std::lock_guard lock(failure_mutex_);
    if (failure_ && failed_sequence_ < segment->sequence) return;
    failed_sequence_ = segment->sequence;
    failure_ =
        fmt::format("segment {} of {}: {}", segment->page_number, segment->array, outcome.error().message);
  });
}

OrError<void> DaybookFile::Rep::wait() {
  decoding_.wait();
  if (failure_) return damaged(*std::exchange(failure_, std::nullopt));
  return {};
}

OrError<void> DaybookFile::Rep::check_pages(const std::string& array, std::size_t size) {
  PEAR_ASSIGN(sqlite::Statement count, database_.prepare("SELECT count(*) FROM segments WHERE array = ?"));
  count.bind(1, array);
  PEAR_TRY(count.step());
  if (count.integer(0) == static_cast<std::int64_t>(pages_of(size))) return {};
  return damaged(fmt::format("{} has {} segments for {} members", array, count.integer(0), size));
}

template <class T>
OrError<void> DaybookFile::Rep::read_integers(const std::string& array, std::vector<T>& values,
                                              std::size_t size, const Allowed<T>& allowed) {
  PEAR_TRY(check_pages(array, size));
  values.resize(size);
  return each_segment(array, size,
                      [&](std::shared_ptr<const Segment> segment, std::size_t begin) -> OrError<void> {
                        const std::span<T> place = std::span(values).subspan(begin, segment->page.members);
                        decode(std::move(segment), [place, allowed](const Page& page) -> OrError<void> {
                          PEAR_TRY(decode_page<T>(page, place, kEmptyOf<T>));
                          return allowed.check(place);
                        });
                        return {};
                      });
}

OrError<void> DaybookFile::Rep::read_texts(const std::string& array, TextArray& texts, std::size_t size) {
  PEAR_TRY(check_pages(array, size));
  std::vector<TextArray> pages(pages_of(size));
  const auto read =
      each_segment(array, size, [&](std::shared_ptr<const Segment> segment, std::size_t) -> OrError<void> {
        TextArray& place = pages[segment->page_number];
        decode(std::move(segment), [&place](const Page& page) -> OrError<void> {
          PEAR_ASSIGN(place, decode_text_page(page));
          return {};
        });
        return {};
      });
  PEAR_TRY(wait());
  PEAR_TRY(read);
  texts = TextArray::joined(pages);
  return {};
}

OrError<void> DaybookFile::Rep::read_offsets(std::string_view array, std::vector<std::uint32_t>& offsets,
                                             std::size_t size, std::uint32_t total) {
  std::vector<std::uint32_t> counts;
  const auto read = read_integers<std::uint32_t>(std::string(array), counts, size, {1, total});
  PEAR_TRY(wait());
  PEAR_TRY(read);
  offsets.assign(1, 0);
  offsets.reserve(size + 1);
  std::uint64_t sum = 0;
  for (const std::uint32_t count : counts) offsets.push_back(static_cast<std::uint32_t>(sum += count));
  if (sum != total) return damaged(fmt::format("{} does not add up to {}", array, total));
  return {};
}

OrError<void> DaybookFile::Rep::read_column(const DaybookInfo::ColumnInfo& info, daybook::Column& column) {
  column = {info.name, info.level, empty_values(info.type)};
  PEAR_TRY(std::visit(
      [&](auto& values) {
        return read_integers(array_name::of_column(info.name), daybook::array_of(values),
                             info_.members(info.level), allowed_values(info, values));
      },
      column.values));
  if (auto* text = std::get_if<daybook::TextValues>(&column.values))
    return read_texts(array_name::of_dictionary(info.name), text->dictionary, info.distinct_texts);
  return {};
}

OrError<void> DaybookFile::Rep::read_parts(const std::set<std::string>& names, daybook::DaybookParts& parts) {
  const auto wanted = [&](std::string_view name) { return names.contains(std::string(name)); };
  const auto array = [](std::string_view name) { return std::string(name); };
  parts.products = info_.products;
  PEAR_TRY(read_offsets(array_name::kOrdersPerCustomer, parts.order_offsets, info_.customers, info_.orders));
  PEAR_TRY(read_offsets(array_name::kLinesPerOrder, parts.line_offsets, info_.orders, info_.lines));
  parts.columns.reserve(info_.columns.size());  // columns are decoded in place: none may move
  bool products_of_lines = wanted(daybook::role::kProductId);
  for (const DaybookInfo::ColumnInfo& info : info_.columns) {
    if (!wanted(info.name)) continue;
    PEAR_TRY(read_column(info, parts.columns.emplace_back()));
    products_of_lines |= info.level == daybook::Level::product;
  }
  if (products_of_lines)
    PEAR_TRY(read_integers<std::uint32_t>(array(array_name::kLineProducts), parts.line_products, info_.lines,
                                          {0, info_.products - 1}));
  if (wanted(daybook::role::kProductId))
    PEAR_TRY(read_texts(array(array_name::kProductIds), parts.product_ids, info_.products));
  if (wanted(daybook::role::kCustomerId))
    PEAR_TRY(read_texts(array(array_name::kCustomerIds), parts.customer_ids, info_.customers));
  if (wanted(daybook::role::kOrderId))
    PEAR_TRY(read_texts(array(array_name::kOrderIds), parts.order_ids, info_.orders));
  return {};
}

OrError<daybook::Daybook> DaybookFile::Rep::load(const std::set<std::string>& names) {
  daybook::DaybookParts parts;
  const auto read = read_parts(names, parts);
  PEAR_TRY(wait());  // also if reading failed: decoders still write into the parts
  PEAR_TRY(read);
  return daybook::Daybook(std::move(parts));
}

OrError<void> DaybookFile::Rep::verify() {
  PEAR_ASSIGN(sqlite::Statement check, database_.prepare("PRAGMA integrity_check(1)"));
  PEAR_TRY(check.step());
  if (check.text(0) != "ok") return damaged(check.text(0));
  PEAR_ASSIGN(sqlite::Statement rows,
              database_.prepare("SELECT array, members, checksum FROM segments ORDER BY rowid"));
  Fingerprint fingerprint;
  for (;;) {
    PEAR_ASSIGN(const bool more, rows.step());
    if (!more) break;
    const Page page{static_cast<std::uint32_t>(rows.integer(1)),
                    Codec::plain,
                    static_cast<std::uint64_t>(rows.integer(2)),
                    {}};
    fingerprint.add(rows.text(0), page);
  }
  if (fingerprint.hex() != info_.fingerprint) return damaged("its segments do not match its fingerprint");
  const std::vector<std::pair<std::string, std::uint32_t>> tables = {{"customers", info_.customers},
                                                                     {"products", info_.products}};
  for (const auto& [table, expected] : tables) {
    PEAR_ASSIGN(sqlite::Statement count, database_.prepare("SELECT count(*) FROM " + table));
    PEAR_TRY(count.step());
    if (count.integer(0) != expected)
      return damaged(
          fmt::format("its table {} has {} rows instead of {}", table, count.integer(0), expected));
  }
  return {};
}

OrError<std::vector<daybook::MemberList>> DaybookFile::Rep::waiting() {
  std::vector<daybook::MemberList> lists;
  for (const daybook::Level level : {daybook::Level::customer, daybook::Level::product}) {
    daybook::MemberList list{level, {}, {}, {}};
    PEAR_ASSIGN(sqlite::Statement names, database_.prepare(fmt::format(
                                             "SELECT name FROM pragma_table_info('{}') ORDER BY cid LIMIT -1 "
                                             "OFFSET 1",
                                             waiting_table(level))));
    for (;;) {
      PEAR_ASSIGN(const bool more, names.step());
      if (!more) break;
      list.columns.emplace_back(names.text(0));
    }
    if (list.columns.empty()) continue;
    list.values.resize(list.columns.size());
    PEAR_ASSIGN(sqlite::Statement rows,
                database_.prepare(fmt::format("SELECT * FROM {} ORDER BY rowid", waiting_table(level))));
    for (;;) {
      PEAR_ASSIGN(const bool more, rows.step());
      if (!more) break;
      list.ids.push_back(rows.text(0));
      for (std::size_t column = 0; column < list.columns.size(); ++column)
        list.values[column].push_back(rows.text(static_cast<int>(column) + 1));
    }
    lists.push_back(std::move(list));
  }
  return lists;
}

DaybookFile::DaybookFile(std::unique_ptr<Rep> rep) : rep_(std::move(rep)) {}
DaybookFile::DaybookFile(DaybookFile&&) noexcept = default;
DaybookFile::~DaybookFile() = default;

const DaybookInfo& DaybookFile::info() const { return rep_->info(); }

namespace {

/// Faults that SQLite finds name the file, as ours do.
template <class T>
OrError<T> placed(OrError<T> outcome, const std::string& path) {
  if (outcome || outcome.error().message.find(path) != std::string::npos) return outcome;
  if (outcome.error().kind == ErrorKind::io)
    return io_error(fmt::format("cannot read {}: {}.", path, outcome.error().message));
  return damaged_daybook(path, outcome.error().message);
}

}  // namespace

OrError<DaybookFile> DaybookFile::open(const std::string& path) {
  PEAR_TRY(check_daybook_header(path));
  files::protect_input(path);
  PEAR_ASSIGN(sqlite::Database database, sqlite::Database::open(path, path, sqlite::Database::Mode::read));
  PEAR_ASSIGN(DaybookInfo info, placed(read_daybook_info(database, path), path));
  return DaybookFile(std::make_unique<Rep>(std::move(database), std::move(info)));
}

OrError<daybook::Daybook> DaybookFile::load(const std::vector<std::string>& columns) {
  std::set<std::string> names(columns.begin(), columns.end());
  if (names.contains(std::string(daybook::role::kIsReturn))) names.emplace(daybook::role::kIsFee);
  return placed(rep_->load(names), info().path);
}

OrError<daybook::Daybook> DaybookFile::load_all() {
  std::set<std::string> names = {std::string(daybook::role::kCustomerId),
                                 std::string(daybook::role::kOrderId),
                                 std::string(daybook::role::kProductId)};
  for (const DaybookInfo::ColumnInfo& column : info().columns) names.insert(column.name);
  return placed(rep_->load(names), info().path);
}

OrError<std::vector<daybook::MemberList>> DaybookFile::waiting() {
  return placed(rep_->waiting(), info().path);
}

OrError<void> DaybookFile::verify() {
  PEAR_TRY(placed(rep_->verify(), info().path));
  PEAR_ASSIGN(const daybook::Daybook daybook, load_all());
  const OrError<void> in_order = check_order(daybook);
  if (!in_order) return damaged_daybook(info().path, in_order.error().message);
  return {};
}

}  // namespace pear::storage
