#include "mining/purchase_histories.hpp"

#include <algorithm>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "daybook/purchases.hpp"

namespace pear::mining {
namespace {

constexpr std::uint32_t kCustomersPerBlock = 16'384;
constexpr std::uint32_t kMostOrders = 0x1FFF'FFFF;  ///< orders are only distinguished from their neighbours

/// Reads the histories of customers one after another, on one thread.
class HistoryReader {
 public:
  HistoryReader(const daybook::Daybook& daybook, const expression::GroupKey& key, const SequenceRule& rule)
      : daybook_(daybook),
        key_(key),
        purchases_(daybook),
        days_(daybook.order_days()),
        products_(daybook.line_products()),
        rule_(rule),
        bought_by_(key.distinct, daybook::kNoMember),
        after_any_by_(key.distinct, daybook::kNoMember),
        later_by_(key.distinct, daybook::kNoMember),
        counts_(key.distinct),
        after_any_(key.distinct),
        later_(key.distinct) {}

  /// Appends the entries of a customer to others.
  void read(std::uint32_t customer, std::vector<HistoryEntry>& entries) {
    const daybook::Run orders = daybook_.orders_of(customer);
    const std::size_t begin = entries.size();
    order_days_.clear();
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      gather(order);
      if (items_.empty()) continue;
      const bool follows = follows_another(days_[order]);
      order_days_.push_back(days_[order]);
      for (const std::uint32_t code : items_) {
        const bool is_first = std::exchange(bought_by_[code], customer) != customer;
        if (is_first) ++counts_[code];
        if (is_first || rule_.repeats != Repeats::first)
          entries.push_back({code, order & kMostOrders, follows, is_first, 0, days_[order]});
      }
    }
    finish(customer, std::span(entries).subspan(begin));
  }

  void add_to(Histories& histories) const {
    for (std::size_t code = 0; code < counts_.size(); ++code) {
      histories.counts[code] += counts_[code];
      histories.after_any[code] += after_any_[code];
      histories.later[code] += later_[code];
    }
    histories.buyers += buyers_;
    histories.first_days += first_days_;
  }

 private:
  /// What is known about a customer's entries only when all have been read.
  void finish(std::uint32_t customer, std::span<HistoryEntry> own) {
    if (own.empty()) return;
    own.front().begins = 1;
    ++buyers_;
    first_days_ += own.front().day;
    for (const HistoryEntry& entry : own) {
      if (entry.follows != 0 && std::exchange(after_any_by_[entry.code], customer) != customer)
        ++after_any_[entry.code];
      if (entry.day > own.front().day && std::exchange(later_by_[entry.code], customer) != customer)
        ++later_[entry.code];
    }
  }

  void gather(std::uint32_t order) {
    items_.clear();
    const daybook::Run lines = daybook_.lines_of(order);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      if (!purchases_.is_of_product(line)) continue;
      const std::uint32_t code = key_.codes[key_.level == daybook::Level::product ? products_[line] : line];
      if (code != key_.distinct) items_.push_back(code);
    }
    if (!std::is_sorted(items_.begin(), items_.end())) std::sort(items_.begin(), items_.end());
    items_.erase(std::unique(items_.begin(), items_.end()), items_.end());
  }

  [[nodiscard]] bool follows_another(std::int32_t day) const {
    for (std::size_t i = order_days_.size(); i-- > 0;) {
      const std::int32_t days = day - order_days_[i];
      if (days > rule_.longest_gap()) return false;
      if (days >= rule_.min_gap) return true;
    }
    return false;
  }

  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  daybook::Purchases purchases_;
  std::span<const std::int32_t> days_;
  std::span<const std::uint32_t> products_;
  const SequenceRule& rule_;
  std::vector<std::uint32_t> bought_by_;  ///< by code the last customer who bought it
  std::vector<std::uint32_t> after_any_by_, later_by_;
  std::vector<std::uint32_t> counts_, after_any_, later_;  ///< the counts of the histories
  std::uint32_t buyers_ = 0;
  std::int64_t first_days_ = 0;
  std::vector<std::uint32_t> items_;
  std::vector<std::int32_t> order_days_;  ///< of the customer's orders so far
};

struct Block {
  std::vector<HistoryEntry> entries;
  std::vector<std::uint32_t> ends;
};

/// Joins blocks of customers in their order, and frees them.
void join(std::vector<Block>& blocks, Histories& histories) {
  std::size_t entries = 0, ends = 1;
  for (const Block& block : blocks) entries += block.entries.size(), ends += block.ends.size();
  histories.entries.reserve(entries);
  histories.begins.reserve(ends);
  for (Block& block : blocks) {
    const auto before = static_cast<std::uint32_t>(histories.entries.size());
    for (const std::uint32_t end : block.ends) histories.begins.push_back(before + end);
    histories.entries.insert(histories.entries.end(), block.entries.begin(), block.entries.end());
    block = {};
  }
}

/// read(customer, entries) for each customer, in blocks on all threads.
template <class Read>
std::vector<Block> read_in_blocks(std::uint32_t customers, const Read& read) {
  std::vector<Block> blocks((customers + kCustomersPerBlock - 1) / kCustomersPerBlock);
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t b) {
    const auto begin = static_cast<std::uint32_t>(b) * kCustomersPerBlock;
    for (std::uint32_t customer = begin; customer < std::min(customers, begin + kCustomersPerBlock);
         ++customer) {
      read(customer, blocks[b].entries);
      blocks[b].ends.push_back(static_cast<std::uint32_t>(blocks[b].entries.size()));
    }
  });
  return blocks;
}

}  // namespace

Histories gather_histories(const daybook::Daybook& daybook, const expression::GroupKey& key,
                           const SequenceRule& rule) {
  tbb::enumerable_thread_specific<HistoryReader> readers([&] { return HistoryReader(daybook, key, rule); });
  std::vector<Block> blocks =
      read_in_blocks(daybook.customers(), [&](std::uint32_t customer, std::vector<HistoryEntry>& entries) {
        readers.local().read(customer, entries);
      });
  Histories histories;
  join(blocks, histories);
  for (auto* counts : {&histories.counts, &histories.after_any, &histories.later})
    counts->resize(key.distinct);
  for (const HistoryReader& reader : readers) reader.add_to(histories);
  return histories;
}

void drop_rare(Histories& histories, std::uint32_t least) {
  const auto is_rare = [&](std::uint32_t count) { return count > 0 && count < least; };
  if (std::none_of(histories.counts.begin(), histories.counts.end(), is_rare)) return;
  std::vector<Block> blocks =
      read_in_blocks(histories.customers(), [&](std::uint32_t customer, std::vector<HistoryEntry>& entries) {
        bool begins = true;
        for (HistoryEntry entry : histories.of(customer)) {
          if (histories.counts[entry.code] < least) continue;
          entry.begins = std::exchange(begins, false) ? 1 : 0;
          entries.push_back(entry);
        }
      });
  histories.entries = {};
  histories.begins = {0};
  join(blocks, histories);
}

HistoryIndex::HistoryIndex(const Histories& histories)
    : places_(histories.entries.size()), begins_(histories.counts.size() + 1) {
  for (const HistoryEntry& entry : histories.entries) ++begins_[entry.code + 1];
  for (std::size_t code = 1; code < begins_.size(); ++code) begins_[code] += begins_[code - 1];
  std::vector<std::uint32_t> next(begins_.begin(), begins_.end() - 1);
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (std::uint32_t entry = histories.begins[customer]; entry < histories.begins[customer + 1]; ++entry)
      places_[next[histories.entries[entry].code]++] = {histories.begins[customer + 1], entry};
}

}  // namespace pear::mining
