#include "questions/distinct/counts.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_sort.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/parallel_fold.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/pair_key.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::distinct {
namespace {

bool is_of_customers(const expression::GroupKey& key) { return key.source == daybook::role::kCustomerId; }

/// Keeps one of equal neighbours, from `begin` on, in order.
template <class T>
void sort_out(std::vector<T>& values, std::size_t begin = 0) {
  const auto from = values.begin() + static_cast<std::ptrdiff_t>(begin);
  std::sort(from, values.end());
  values.erase(std::unique(from, values.end()), values.end());
}

/// Whether all values of a key are the same in all lines of a customer.
bool is_constant(const expression::GroupKey& key) { return key.level == daybook::Level::customer; }

/// Marks numbers for one customer after another.
class Ticks {
 public:
  explicit Ticks(std::size_t size) : last_(size, daybook::kNoMember) {}
  /// Whether it is the first time that this customer has the number.
  bool tick(std::uint32_t number, std::uint32_t customer) {
    return std::exchange(last_[number], customer) != customer;
  }

 private:
  std::vector<std::uint32_t> last_;  ///< by number: the last customer who had it
};

/// Counts in one customer's history after another. If either side of the pairs of a cell and a value is the
/// same in all of a customer's lines, the other side is marked; otherwise the customer's pairs are sorted.
class CellCounter {
 public:
  CellCounter(const daybook::Daybook& daybook, const Keys& keys)
      : daybook_(daybook),
        keys_(keys),
        purchases_(daybook),
        products_(daybook.parts().line_products),
        own_pairs_(keys.pairs_are_of_customers()),
        one_cell_(std::all_of(keys.per.begin(), keys.per.end(), is_constant)),
        ticked_(one_cell_ || is_constant(keys.counted)),
        ticks_(!ticked_    ? 0
               : one_cell_ ? keys.counted.distinct
                           : keys.cells) {}

  /// Adds to the facts of cells; pairs that other customers may have too are appended to `pairs`.
  void count(std::uint32_t customer, std::vector<CellFacts>& facts, std::vector<std::uint64_t>& pairs) {
    const std::size_t begin = pairs.size();
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      cells_.clear();
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
        if (purchases_.is_of_product(line))
          count({line, order, customer, products_.empty() ? 0 : products_[line]}, facts, pairs);
      }
      if (cells_.size() > 1) sort_out(cells_);
      for (const std::uint32_t cell : cells_) ++facts[cell].orders;
    }
    if (ticked_) return;
    sort_out(pairs, begin);
    if (!own_pairs_) return;
    for (std::size_t i = begin; i < pairs.size(); ++i) ++facts[pairs[i] >> 32].distinct;
    pairs.resize(begin);
  }

 private:
  void count(const daybook::LinePlace& place, std::vector<CellFacts>& facts,
             std::vector<std::uint64_t>& pairs) {
    const std::uint32_t cell = keys_.cell_of(place);
    const std::uint32_t code = keys_.counted.codes[place.member(keys_.counted.level)];
    ++facts[cell].lines;
    if (cells_.empty() || cells_.back() != cell) cells_.push_back(cell);
    if (code == keys_.counted.distinct) return;
    if (ticked_ && !ticks_.tick(one_cell_ ? code : cell, place.customer)) return;
    if (ticked_ && own_pairs_)
      ++facts[cell].distinct;
    else
      pairs.push_back(pair_key(cell, code));
  }

  const daybook::Daybook& daybook_;
  const Keys& keys_;
  daybook::Purchases purchases_;
  const std::vector<std::uint32_t>& products_;
  bool own_pairs_, one_cell_, ticked_;
  Ticks ticks_;
  std::vector<std::uint32_t> cells_;  ///< of the current order
};

/// Runs of customers on all threads; `facts_of` gives the facts that a thread adds to.
template <class FactsOf>
void count_runs(const daybook::Daybook& daybook, const Keys& keys, FactsOf facts_of) {
  tbb::enumerable_thread_specific<std::vector<std::uint64_t>> all_pairs;
  tbb::enumerable_thread_specific<CellCounter> counters([&] { return CellCounter(daybook, keys); });
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    CellCounter& counter = counters.local();
    std::vector<CellFacts>& facts = facts_of();
    std::vector<std::uint64_t> pairs;
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
      counter.count(customer, facts, pairs);
    sort_out(pairs);
    auto& own = all_pairs.local();
    own.insert(own.end(), pairs.begin(), pairs.end());
  });
  std::vector<std::uint64_t> pairs;
  for (auto& own : all_pairs) {
    pairs.insert(pairs.end(), own.begin(), own.end());
    own = {};
  }
  tbb::parallel_sort(pairs.begin(), pairs.end());
  pairs.erase(std::unique(pairs.begin(), pairs.end()), pairs.end());
  std::vector<CellFacts>& facts = facts_of();
  for (const std::uint64_t pair : pairs) ++facts[pair >> 32].distinct;
}

/// A customer's lines in a cell with one value: the start of a Member.
struct Occurrence {
  std::uint64_t pair = 0;
  std::uint32_t order = 0, line = 0;
  auto operator<=>(const Occurrence&) const = default;
};

class MemberLister {
 public:
  MemberLister(const daybook::Daybook& daybook, const Keys& keys)
      : daybook_(daybook), keys_(keys), purchases_(daybook), amounts_(daybook.amounts()) {}

  void absorb(std::vector<Member>& members, std::uint32_t customer) const {
    std::vector<Occurrence> found;
    daybook::walk_lines(daybook_, {customer, customer + 1}, [&](const daybook::LinePlace& place) {
      const std::uint32_t code = keys_.counted.codes[place.member(keys_.counted.level)];
      if (code != keys_.counted.distinct)
        found.push_back({pair_key(keys_.cell_of(place), code), place.order, place.line});
    });
    std::sort(found.begin(), found.end());
    for (auto begin = found.begin(); begin != found.end();) {
      const auto end =
          std::find_if(begin, found.end(), [&](const Occurrence& each) { return each.pair != begin->pair; });
      add({begin, end}, members);
      begin = end;
    }
  }

 private:
  void add(std::span<const Occurrence> lines, std::vector<Member>& members) const {
    Member member;
    member.cell = static_cast<std::uint32_t>(lines.front().pair >> 32);
    member.code = static_cast<std::uint32_t>(lines.front().pair);
    std::uint32_t before = daybook::kNoMember;
    for (const Occurrence& each : lines) {
      member.amount.add(Decimal::from_units(amounts_[each.line]));
      if (!purchases_.is_of_product(each.line)) continue;
      const std::int32_t day = daybook_.date_of_order(each.order).days;
      member.first_day = std::min(member.first_day, day);
      member.last_day = std::max(member.last_day, day);
      member.orders += each.order == before ? 0U : 1U;
      before = each.order;
    }
    members.push_back(member);
  }

  const daybook::Daybook& daybook_;
  const Keys& keys_;
  daybook::Purchases purchases_;
  std::span<const std::int64_t> amounts_;
};

/// One for the values that several customers have in a cell.
void join_equal(std::vector<Member>& members) {
  std::size_t kept = 0;
  for (const Member& member : members) {
    if (kept > 0 && members[kept - 1].cell == member.cell && members[kept - 1].code == member.code) {
      Member& before = members[kept - 1];
      before.first_day = std::min(before.first_day, member.first_day);
      before.last_day = std::max(before.last_day, member.last_day);
      before.orders += member.orders;
      before.amount.add(member.amount);
    } else {
      members[kept++] = member;
    }
  }
  members.resize(kept);
  std::erase_if(members, [](const Member& member) { return member.orders == 0; });  // only returns
}

/// Errors: usage.
OrError<Keys> distinct_keys(const Options& options, const expression::LineView& lines) {
  Keys keys;
  const daybook::Daybook& daybook = lines.daybook();
  if (!options.count || options.count->text == daybook::role::kProductId) {
    keys.counted = analysis::id_key(daybook, daybook::Level::product);
  } else if (options.count->text == daybook::role::kOrderId) {
    keys.counted = analysis::id_key(daybook, daybook::Level::order);
  } else {
    PEAR_ASSIGN(std::vector<expression::GroupKey> counted,
                analysis::keys_of("count", {*options.count}, lines));
    keys.counted = std::move(counted.front());
  }
  PEAR_ASSIGN(keys.per, analysis::keys_of("per", options.per, lines));
  if (keys.per.empty()) return keys;
  if (keys.per.size() == 1) {
    keys.cells = keys.per.front().distinct + 1;
    keys.codes.emplace_back(keys.cells);
    std::iota(keys.codes.front().begin(), keys.codes.front().end(), 0U);
    return keys;
  }
  expression::Grouping grouping = expression::group_lines(daybook, keys.per);
  keys.cells = grouping.cells;
  keys.cell_of_line = std::move(grouping.cell_of_line);
  keys.codes = std::move(grouping.codes);
  return keys;
}

/// By cell.
std::vector<CellFacts> count_distinct(const daybook::Daybook& daybook, const Keys& keys) {
  std::vector<CellFacts> facts(keys.cells);
  if (keys.cells_are_of_customers()) {  // no two threads write to one cell
    count_runs(daybook, keys, [&]() -> std::vector<CellFacts>& { return facts; });
    return facts;
  }
  tbb::enumerable_thread_specific<std::vector<CellFacts>> all(
      [&] { return std::vector<CellFacts>(keys.cells); });
  count_runs(daybook, keys, [&]() -> std::vector<CellFacts>& { return all.local(); });
  for (const auto& own : all) {
    for (std::size_t cell = 0; cell < facts.size(); ++cell) {
      facts[cell].distinct += own[cell].distinct;
      facts[cell].orders += own[cell].orders;
      facts[cell].lines += own[cell].lines;
    }
  }
  return facts;
}

/// In order of cell, then of the value's code. Needs amount.
std::vector<Member> list_members(const daybook::Daybook& daybook, const Keys& keys) {
  const MemberLister lister(daybook, keys);
  std::vector<Member> members = analysis::fold_customers(
      daybook, [] { return std::vector<Member>(); },
      [&](std::vector<Member>& own, std::uint32_t customer) { lister.absorb(own, customer); },
      [](std::vector<Member>& earlier, std::vector<Member>&& later) {
        earlier.insert(earlier.end(), later.begin(), later.end());
        later = {};
      });
  std::stable_sort(members.begin(), members.end(), [](const Member& a, const Member& b) {
    return pair_key(a.cell, a.code) < pair_key(b.cell, b.code);
  });
  join_equal(members);
  return members;
}

}  // namespace

bool Keys::cells_are_of_customers() const { return std::any_of(per.begin(), per.end(), is_of_customers); }

bool Keys::pairs_are_of_customers() const {
  return cells_are_of_customers() || is_of_customers(counted) || counted.source == daybook::role::kOrderId;
}

std::vector<std::uint32_t> ordered_rows(const Keys& keys, const std::vector<CellFacts>& facts) {
  const std::vector<std::uint64_t> tallies = cells_by_number(facts);
  const bool times = keys.per.size() == 1 && analysis::is_time(keys.per.front());
  std::vector<std::uint64_t> next(tallies.size());  // by number, where its next cell goes
  std::uint64_t rows = 0;
  for (std::size_t number = tallies.size(); number-- > 0;)
    next[number] = std::exchange(rows, rows + tallies[number]);
  std::vector<std::uint32_t> ordered(rows);
  std::uint64_t row = 0;
  for (std::uint32_t cell = 0; cell < facts.size(); ++cell)
    if (facts[cell].lines > 0) ordered[times ? row++ : next[facts[cell].distinct]++] = cell;
  return ordered;
}

/// How many cells have each number, from 0 on.
std::vector<std::uint64_t> cells_by_number(const std::vector<CellFacts>& facts) {
  std::vector<std::uint64_t> tallies(1);
  for (const CellFacts& cell : facts) {
    if (cell.lines == 0) continue;
    if (tallies.size() <= cell.distinct) tallies.resize(cell.distinct + 1);
    ++tallies[cell.distinct];
  }
  return tallies;
}

std::string Counts::counted_name() const {
  return options.count ? options.count->name : std::string(daybook::role::kProductId);
}

std::string Counts::counted_noun(std::uint64_t count) const {
  const std::string noun = analysis::noun_of(counted_name());
  if (options.count && options.count->root.op != expression::Op::column &&
      options.count->name == options.count->text)
    return count == 1 ? fmt::format("value of {}", noun) : fmt::format("values of {}", noun);
  return count == 1 ? noun : analysis::plural_of(noun);
}

std::string Counts::per_noun() const {
  std::string noun;
  for (const expression::Tree& tree : options.per)
    noun += (noun.empty() ? "" : " and ") + analysis::noun_of(tree.name);
  return noun;
}

std::string Counts::per_plural() const {
  return options.per.size() == 1 ? analysis::plural_of(per_noun()) : "combinations of " + per_noun();
}

std::string Counts::label(std::uint32_t cell) const {
  std::string label;
  for (std::size_t i = 0; i < keys.per.size(); ++i)
    label += (i == 0 ? "" : " / ") + analysis::label_with_name(daybook, keys.per[i], keys.codes[i][cell]);
  return label;
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(Keys keys, distinct_keys(options, lines));
  Counts counts{options, input.daybook, std::move(keys), 0, {}, {}, {}};
  const expression::GroupKey& counted = counts.keys.counted;
  const std::vector<std::uint8_t> has_lines = daybook::members_with_lines(input.daybook, counted.level);
  for (std::size_t member = 0; member < counted.codes.size(); ++member)
    counts.without_value += counted.codes[member] == counted.distinct ? has_lines[member] : 0U;
  counts.facts = count_distinct(input.daybook, counts.keys);
  counts.rows = ordered_rows(counts.keys, counts.facts);
  if (options.list) counts.members = list_members(input.daybook, counts.keys);
  return counts;
}

}  // namespace pear::distinct
