#include "storage/runs/merged_column.hpp"

#include <limits>
#include <utility>

#include "daybook/columns/extra_columns.hpp"
#include "daybook/columns/level_choice.hpp"
#include "daybook/natural_ranks.hpp"

namespace pear::storage {
namespace {

/// Counts members with several values; until there are more than `most`.
template <class T>
class DifferingMembers {
 public:
  explicit DifferingMembers(std::uint64_t most) : most_(most) {}

  /// Values of one member that follow those of the last call, of the same member or of another.
  bool see(bool is_new, std::span<const T> values) {
    if (is_new) {
      differs_ = false;
      last_ = values.front();
    }
    for (const T value : values) {
      if (value == last_ || differs_) continue;
      differs_ = true;
      ++count_;
    }
    return count_ <= most_;
  }
  [[nodiscard]] std::uint64_t count() const { return count_; }

 private:
  std::uint64_t most_, count_ = 0;
  T last_{};
  bool differs_ = false;
};

template <class T>
OrError<std::uint64_t> differing_in_runs(ColumnStream<T> values, const MergedLines& lines, bool of_customers,
                                         std::uint64_t most) {
  DifferingMembers<T> members(most);
  std::uint32_t customer = 0;
  for (std::uint32_t order = 0; order < lines.orders(); ++order) {
    PEAR_ASSIGN(const std::span<const T> of_order, values.next_order());
    const bool is_first = order == lines.parts.order_offsets[customer];
    if (is_first) ++customer;
    if (!members.see(!of_customers || is_first, of_order)) break;
  }
  return members.count();
}

template <class T>
OrError<std::uint64_t> differing_products(ColumnStream<T> values, const MergedLines& lines,
                                          std::uint64_t most) {
  enum class Seen : std::uint8_t { no, same, differs };
  std::vector<Seen> seen(lines.products(), Seen::no);
  std::vector<T> first(lines.products());
  ColumnStream<std::uint32_t> products = line_products(lines);
  std::uint64_t count = 0;
  for (std::uint32_t order = 0; order < lines.orders() && count <= most; ++order) {
    PEAR_ASSIGN(const std::span<const T> of_order, values.next_order());
    PEAR_ASSIGN(const std::span<const std::uint32_t> bought, products.next_order());
    for (std::size_t i = 0; i < of_order.size(); ++i) {
      const std::uint32_t product = bought[i];
      if (seen[product] == Seen::no) {
        seen[product] = Seen::same;
        first[product] = of_order[i];
      } else if (seen[product] == Seen::same && first[product] != of_order[i]) {
        seen[product] = Seen::differs;
        ++count;
      }
    }
  }
  return count;
}

/// The last value of each customer.
template <class T>
OrError<std::vector<T>> latest_of_customers(ColumnStream<T> values, const MergedLines& lines) {
  std::vector<T> latest;
  const auto& offsets = lines.parts.order_offsets;
  for (std::uint32_t order = 0; order < lines.orders(); ++order) {
    PEAR_ASSIGN(const std::span<const T> of_order, values.next_order());
    if (order + 1 == offsets[latest.size() + 1]) latest.push_back(of_order.back());
  }
  return latest;
}

/// The value of each product on its latest day; of the last line on that day.
template <class T>
OrError<std::vector<T>> latest_of_products(ColumnStream<T> values, const MergedLines& lines) {
  struct Latest {
    std::int32_t day = std::numeric_limits<std::int32_t>::min();
    T value{};
  };
  std::vector<Latest> latest(lines.products());
  const auto& days = std::get<daybook::DateValues>(lines.parts.columns.front().values).days;
  ColumnStream<std::uint32_t> products = line_products(lines);
  for (std::uint32_t order = 0; order < lines.orders(); ++order) {
    PEAR_ASSIGN(const std::span<const T> of_order, values.next_order());
    PEAR_ASSIGN(const std::span<const std::uint32_t> bought, products.next_order());
    for (std::size_t i = 0; i < of_order.size(); ++i)
      if (Latest& known = latest[bought[i]]; days[order] >= known.day) known = {days[order], of_order[i]};
  }
  std::vector<T> result;
  for (const Latest& each : latest) result.push_back(each.value);
  return result;
}

std::uint64_t members_of(daybook::Level level, const MergedLines& lines) {
  switch (level) {
    case daybook::Level::customer:
      return lines.customers();
    case daybook::Level::product:
      return lines.products();
    case daybook::Level::order:
      return lines.orders();
    case daybook::Level::line:
      break;
  }
  return lines.parts.line_offsets.back();
}

}  // namespace

MergedColumn::MergedColumn(RunColumn& column, std::size_t position)
    : name_(column.name),
      position_(position),
      levels_(column.levels),
      forced_(column.forced),
      is_coded_(column.type == daybook::ColumnType::text),
      type_(column.type) {
  if (!is_coded_) return;
  dictionary_ = column.texts->take();
  type_ = daybook::inferred_type(dictionary_);
  if (type_ == daybook::ColumnType::decimal) {
    std::get<std::vector<std::int64_t>>(value_of_code_) = daybook::numbers_of(dictionary_);
  } else if (type_ == daybook::ColumnType::date) {
    std::get<std::vector<std::int32_t>>(value_of_code_) = daybook::days_of(dictionary_);
  } else {
    const auto positions = daybook::natural_positions(dictionary_);
    std::get<std::vector<std::uint32_t>>(value_of_code_) = daybook::inverse(positions);
    dictionary_ = dictionary_.picked(positions);
    return;
  }
  dictionary_ = {};
}

OrError<void> MergedColumn::choose_level(const MergedLines& lines, daybook::BuiltDaybook& built) {
  daybook::LevelChoice choice(name_, forced_);
  for (const daybook::Level level : levels_) {
    const std::uint64_t members = members_of(level, lines), most = choice.most_differing(members);
    const auto differing = with_type([&](auto type) -> OrError<std::uint64_t> {
      using T = decltype(type);
      if (level == daybook::Level::line) return 0;
      if (level == daybook::Level::product) return differing_products(values<T>(lines), lines, most);
      return differing_in_runs(values<T>(lines), lines, level == daybook::Level::customer, most);
    });
    PEAR_TRY(differing);
    if (!choice.accepts(level, members, *differing)) continue;
    level_ = level;
    break;
  }
  choice.record(level_, built);
  return {};
}

OrError<daybook::ColumnValues> MergedColumn::by_member(const MergedLines& lines) const {
  return with_type([&](auto type) -> OrError<daybook::ColumnValues> {
    using T = decltype(type);
    PEAR_ASSIGN(std::vector<T> latest, level_ == daybook::Level::customer
                                           ? latest_of_customers(values<T>(lines), lines)
                                           : latest_of_products(values<T>(lines), lines));
    if constexpr (std::is_same_v<T, std::uint32_t>)
      return daybook::TextValues{std::move(latest), dictionary_};
    else if constexpr (std::is_same_v<T, std::int64_t>)
      return daybook::DecimalValues{std::move(latest)};
    else if constexpr (std::is_same_v<T, std::uint8_t>)
      return daybook::FlagValues{std::move(latest)};
    else if (type_ == daybook::ColumnType::date)
      return daybook::DateValues{std::move(latest)};
    else
      return daybook::TimeValues{std::move(latest)};
  });
}

}  // namespace pear::storage
