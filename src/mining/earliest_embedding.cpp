#include "mining/earliest_embedding.hpp"

namespace pear::mining {
namespace {

class WaySearch {
 public:
  WaySearch(std::span<const HistoryEntry> history, StepItems items, const SequenceRule& rule)
      : history_(history), items_(items), rule_(rule) {}

  /// Whether the items from `item` on, which begin a step, can follow after the entries before `entry`.
  bool find(std::size_t item, std::size_t entry) {
    if (item == items_.size()) return true;
    const bool is_first = item == 0;
    const std::int32_t before = day_;
    std::size_t next_step = item + 1;
    while (next_step < items_.size() && !items_[next_step].begins_step()) ++next_step;
    for (; entry < history_.size(); ++entry) {
      const std::int32_t day = history_[entry].day;
      if (!is_first && (day - before > rule_.max_gap || day - start_ > rule_.span)) return false;
      if ((!is_first && day - before < rule_.min_gap) || !holds(item, next_step, entry)) continue;
      if (is_first) start_ = day;
      day_ = day;
      if (find(next_step, entry + 1)) {
        if (next_step == items_.size()) days_ = {day - before, day - start_};
        return true;
      }
    }
    return false;
  }

  [[nodiscard]] EmbeddingDays days() const { return days_; }

 private:
  /// Whether the order of an entry contains the items of a step, of which the entry is the first.
  [[nodiscard]] bool holds(std::size_t item, std::size_t next_step, std::size_t entry) const {
    const std::uint32_t order = history_[entry].order;
    if (history_[entry].code != items_[item].code()) return false;
    for (++item; item < next_step; ++item) {
      do {
        ++entry;
      } while (entry < history_.size() && history_[entry].order == order &&
               history_[entry].code != items_[item].code());
      if (entry == history_.size() || history_[entry].order != order) return false;
    }
    return true;
  }

  std::span<const HistoryEntry> history_;
  StepItems items_;
  const SequenceRule& rule_;
  std::int32_t start_ = 0, day_ = 0;  ///< of the first step, and of the last one that is set
  EmbeddingDays days_;
};

}  // namespace

EmbeddingDays earliest_embedding(std::span<const HistoryEntry> history, StepItems items,
                                 const SequenceRule& rule) {
  WaySearch search(history, items, rule);
  search.find(0, 0);
  return search.days();
}

}  // namespace pear::mining
