#include "storage/runs/merged_sales.hpp"

#include <span>
#include <utility>

#include "daybook/natural_ranks.hpp"
#include "storage/readable_tables.hpp"
#include "storage/runs/array_writer.hpp"
#include "storage/runs/merged_column.hpp"
#include "storage/runs/order_merge.hpp"
#include "storage/schema.hpp"
#include "storage/segment_table.hpp"

namespace pear::storage {
namespace {

template <class T>
OrError<void> write_whole(SegmentTable& segments, std::string_view name, const std::vector<T>& values) {
  ArrayWriter<T> writer(segments, std::string(name));
  PEAR_TRY(writer.add(values));
  return writer.finish();
}

OrError<void> write_whole(SegmentTable& segments, std::string_view name, const TextArray& texts) {
  std::size_t page = 0;
  return encode_texts_in_order(texts, [&](const Page& each) { return segments.add(name, page++, each); });
}

}  // namespace

class MergedSales::Rep {
 public:
  explicit Rep(SortedRuns runs) : runs_(std::move(runs)) {}

  OrError<void> prepare(const ShowProgress& progress);
  daybook::BuiltDaybook take_built() { return std::move(built_); }
  [[nodiscard]] const SalesTotals& totals() const { return totals_; }
  OrError<std::string> write(sqlite::Database& database, const daybook::Daybook& built,
                             const daybook::Provenance& provenance, const ShowProgress& progress) const;

 private:
  OrError<void> add_up(const MergedLines& lines);
  OrError<void> build(daybook::DaybookParts parts, const ShowProgress& progress);
  [[nodiscard]] MergedLines over(const daybook::DaybookParts& parts) const {
    return {runs_.runs, run_of_order_, product_ranks_, parts};
  }
  [[nodiscard]] const MergedColumn* column(std::string_view name) const;
  [[nodiscard]] static ColumnStream<std::uint8_t> returns(const MergedLines& lines) {
    return ColumnStream<std::uint8_t>(LineStream<std::uint8_t>(
        lines, [](const SortedRun& run) -> auto& { return run.is_return; }));
  }
  [[nodiscard]] DaybookInfo describe(const daybook::Daybook& built,
                                     const daybook::Provenance& provenance) const;
  OrError<void> write_structure(SegmentTable& segments, const daybook::DaybookParts& parts) const;
  OrError<void> write_order_ids(SegmentTable& segments) const;
  OrError<void> write_column(SegmentTable& segments, const MergedColumn& column,
                             const daybook::Daybook& built) const;
  /// Each value of the lines, or the last one of each order.
  template <class T>
  static OrError<void> write_stream(SegmentTable& segments, std::string name, const MergedLines& lines,
                                    ColumnStream<T> values, bool of_orders = false);

  SortedRuns runs_;
  std::vector<std::int32_t> order_seconds_;
  std::vector<std::uint16_t> run_of_order_;
  std::vector<std::uint32_t> product_ranks_;
  std::vector<MergedColumn> columns_;
  daybook::BuiltDaybook built_;
  SalesTotals totals_;
};

OrError<void> MergedSales::Rep::prepare(const ShowProgress& progress) {
  if (runs_.lines == 0) return data_error("there are no lines.");
  PEAR_ASSIGN(OrderMerge merge, merge_orders(runs_.runs));
  order_seconds_ = std::move(merge.order_seconds);
  run_of_order_ = std::move(merge.run_of_order);
  for (std::size_t i = 0; i < runs_.columns.size(); ++i) columns_.emplace_back(runs_.columns[i], i);
  return build(std::move(merge.parts), progress);
}

const MergedColumn* MergedSales::Rep::column(std::string_view name) const {
  for (const MergedColumn& each : columns_)
    if (each.name() == name) return &each;
  return nullptr;
}

OrError<void> MergedSales::Rep::build(daybook::DaybookParts parts, const ShowProgress& progress) {
  built_.orders_with_two_dates = runs_.orders_with_two_dates;
  built_.shared_order_ids = runs_.shared_order_ids;
  const TextArray products = runs_.product_ids->take();
  const auto positions = daybook::natural_positions(products);
  product_ranks_ = daybook::inverse(positions);
  parts.products = static_cast<std::uint32_t>(products.size());
  parts.product_ids = products.picked(positions);
  const MergedLines lines = over(parts);
  progress(1, columns_.size() + 2);  // the orders are merged
  PEAR_TRY(add_up(lines));
  std::vector<daybook::Column> of_members;
  for (MergedColumn& each : columns_) {
    progress(2 + static_cast<std::uint64_t>(&each - columns_.data()), columns_.size() + 2);
    PEAR_TRY(each.choose_level(lines, built_));
    if (each.level() != daybook::Level::customer && each.level() != daybook::Level::product) continue;
    PEAR_ASSIGN(daybook::ColumnValues values, each.by_member(lines));
    of_members.push_back({each.name(), each.level(), std::move(values)});
  }
  for (daybook::Column& each : of_members) parts.columns.push_back(std::move(each));
  built_.daybook = daybook::Daybook(std::move(parts));
  return {};
}

OrError<void> MergedSales::Rep::add_up(const MergedLines& lines) {
  const auto& days = std::get<daybook::DateValues>(lines.parts.columns.front().values).days;
  const MergedColumn* const fees = column(daybook::role::kIsFee);
  const MergedColumn* const amounts = column(daybook::role::kAmount);
  ColumnStream<std::uint8_t> is_return = returns(lines);
  std::optional<ColumnStream<std::uint8_t>> is_fee;
  std::optional<ColumnStream<std::int64_t>> units;
  if (fees != nullptr) {
    is_fee = fees->values<std::uint8_t>(lines);
    totals_.fees.emplace();
  }
  if (amounts != nullptr) units = amounts->values<std::int64_t>(lines);
  totals_.first_date = totals_.last_date = Date{days.front()};
  for (std::uint32_t order = 0; order < lines.orders(); ++order) {
    PEAR_ASSIGN(const std::span<const std::uint8_t> returned, is_return.next_order());
    std::span<const std::uint8_t> fee;
    std::span<const std::int64_t> amount;
    if (is_fee) {
      PEAR_ASSIGN(fee, is_fee->next_order());
    }
    if (units) {
      PEAR_ASSIGN(amount, units->next_order());
    }
    bool is_order = false;
    for (std::size_t i = 0; i < returned.size(); ++i) {
      is_order |= returned[i] == 0;
      totals_.returns += returned[i];
      if (units) totals_.amount.add(Decimal::from_units(amount[i]));
      if (!is_fee || fee[i] == 0) continue;
      totals_.fee_lines += returned[i] == 0 ? 1U : 0U;
      if (units) totals_.fees->add(Decimal::from_units(amount[i]));
    }
    totals_.lines += returned.size();
    totals_.orders += is_order ? 1U : 0U;
    totals_.first_date = std::min(totals_.first_date, Date{days[order]});
    totals_.last_date = std::max(totals_.last_date, Date{days[order]});
  }
  return {};
}

DaybookInfo MergedSales::Rep::describe(const daybook::Daybook& built,
                                       const daybook::Provenance& provenance) const {
  DaybookInfo info;
  info.format = kFormatVersion;
  info.customers = built.customers();
  info.orders = built.orders();
  info.lines = built.lines();
  info.products = built.products();
  info.provenance = provenance;
  using daybook::ColumnType;
  using daybook::Level;
  info.columns.push_back({std::string(daybook::role::kOrderDate), Level::order, ColumnType::date, 0});
  if (!order_seconds_.empty())
    info.columns.push_back({std::string(daybook::role::kOrderTime), Level::order, ColumnType::time, 0});
  info.columns.push_back({std::string(daybook::role::kIsReturn), Level::line, ColumnType::flag, 0});
  for (const MergedColumn& each : columns_)
    info.columns.push_back({each.name(), each.level(), each.type(), each.dictionary().size()});
  return info;
}

OrError<void> MergedSales::Rep::write_order_ids(SegmentTable& segments) const {
  std::vector<TextCursor> cursors;
  for (const SortedRun& run : runs_.runs) cursors.emplace_back(run.file, run.order_ids);
  TextWriter writer(segments, std::string(array_name::kOrderIds));
  for (const std::uint16_t run : run_of_order_) {
    PEAR_ASSIGN(const std::string_view id, cursors[run].next());
    PEAR_TRY(writer.add(id));
  }
  return writer.finish();
}

template <class T>
OrError<void> MergedSales::Rep::write_stream(SegmentTable& segments, std::string name,
                                             const MergedLines& lines, ColumnStream<T> values,
                                             bool of_orders) {
  ArrayWriter<T> writer(segments, std::move(name));
  for (std::uint32_t order = 0; order < lines.orders(); ++order) {
    PEAR_ASSIGN(const std::span<const T> of_order, values.next_order());
    PEAR_TRY(writer.add(of_orders ? of_order.last(1) : of_order));
  }
  return writer.finish();
}

OrError<void> MergedSales::Rep::write_structure(SegmentTable& segments,
                                                const daybook::DaybookParts& parts) const {
  const MergedLines lines = over(parts);
  const auto& days = std::get<daybook::DateValues>(parts.columns.front().values).days;
  PEAR_TRY(write_whole(segments, array_name::kOrdersPerCustomer, counts_of(parts.order_offsets)));
  PEAR_TRY(write_whole(segments, array_name::kLinesPerOrder, counts_of(parts.line_offsets)));
  PEAR_TRY(write_whole(segments, array_name::kCustomerIds, parts.customer_ids));
  PEAR_TRY(write_whole(segments, array_name::kProductIds, parts.product_ids));
  PEAR_TRY(write_order_ids(segments));
  PEAR_TRY(write_stream(segments, std::string(array_name::kLineProducts), lines, line_products(lines)));
  PEAR_TRY(write_whole(segments, array_name::of_column(daybook::role::kOrderDate), days));
  if (!order_seconds_.empty())
    PEAR_TRY(write_whole(segments, array_name::of_column(daybook::role::kOrderTime), order_seconds_));
  return write_stream(segments, array_name::of_column(daybook::role::kIsReturn), lines, returns(lines));
}

OrError<void> MergedSales::Rep::write_column(SegmentTable& segments, const MergedColumn& column,
                                             const daybook::Daybook& built) const {
  const std::string name = array_name::of_column(column.name());
  const bool of_orders = column.level() == daybook::Level::order;
  if (of_orders || column.level() == daybook::Level::line) {
    const MergedLines lines = over(built.parts());
    PEAR_TRY(column.with_type([&](auto type) {
      using T = decltype(type);
      return write_stream(segments, name, lines, column.values<T>(lines), of_orders);
    }));
  } else {
    PEAR_TRY(
        std::visit([&](const auto& values) { return write_whole(segments, name, daybook::array_of(values)); },
                   built.find(column.name())->values));
  }
  if (column.type() != daybook::ColumnType::text) return {};
  return write_whole(segments, array_name::of_dictionary(column.name()), column.dictionary());
}

OrError<std::string> MergedSales::Rep::write(sqlite::Database& database, const daybook::Daybook& built,
                                             const daybook::Provenance& provenance,
                                             const ShowProgress& progress) const {
  PEAR_TRY(database.execute(kSchema));
  DaybookInfo info = describe(built, provenance);
  for (const daybook::Level level : {daybook::Level::customer, daybook::Level::product}) {
    ListedMembers members{
        level, level == daybook::Level::customer ? &built.customer_ids() : &built.product_ids(), {}};
    for (const daybook::Column& each : built.parts().columns)
      if (each.level == level) members.columns.push_back(&each);
    PEAR_TRY(write_members(database, members));
  }
  PEAR_TRY(write_description(database, info));
  PEAR_ASSIGN(SegmentTable segments, SegmentTable::make(database));
  constexpr std::uint64_t kStructure = 3;  // it takes about as long as so many columns
  progress(0, columns_.size() + kStructure);
  PEAR_TRY(write_structure(segments, built.parts()));
  for (std::size_t i = 0; i < columns_.size(); ++i) {
    progress(kStructure + i, columns_.size() + kStructure);
    PEAR_TRY(write_column(segments, columns_[i], built));
  }
  PEAR_ASSIGN(info.fingerprint, segments.finish());
  PEAR_TRY(write_about(database, info));
  return info.fingerprint;
}

MergedSales::MergedSales(std::unique_ptr<Rep> rep) : rep_(std::move(rep)) {}
MergedSales::MergedSales(MergedSales&&) noexcept = default;
MergedSales& MergedSales::operator=(MergedSales&&) noexcept = default;
MergedSales::~MergedSales() = default;

OrError<MergedSales> MergedSales::make(SortedRuns runs, const ShowProgress& progress) {
  auto rep = std::make_unique<Rep>(std::move(runs));
  PEAR_TRY(rep->prepare(progress));
  return MergedSales(std::move(rep));
}

daybook::BuiltDaybook MergedSales::take_built() { return rep_->take_built(); }
const SalesTotals& MergedSales::totals() const { return rep_->totals(); }

OrError<std::string> MergedSales::write(sqlite::Database& database, const daybook::Daybook& built,
                                        const daybook::Provenance& provenance,
                                        const ShowProgress& progress) const {
  return rep_->write(database, built, provenance, progress);
}

}  // namespace pear::storage
