#include "intake/parts/parts_total.hpp"

#include <algorithm>

#include "intake/join/value_groups.hpp"

namespace pear::intake {
namespace {

/// Tables whose rows are in parts; all others are in every part.
bool is_in_parts(TableKind kind) { return kind == TableKind::lines || kind == TableKind::orders; }

bool is_in_parts(const SourceAccount& source) {
  return source.record.table == to_text(TableKind::lines) ||
         source.record.table == to_text(TableKind::orders);
}

void add_account(SourceAccount& to, const SourceAccount& part) {
  to.record.rows_kept += part.record.rows_kept;
  to.record.rows_rejected += part.record.rows_rejected;
  to.record.rows_duplicate += part.record.rows_duplicate;
  to.record.rows_excluded += part.record.rows_excluded;
  to.sums.read.add(part.sums.read);
  to.sums.kept.add(part.sums.kept);
  to.sums.rejected.add(part.sums.rejected);
  to.sums.unreadable += part.sums.unreadable;
  to.duplicate_amount.add(part.duplicate_amount);
  to.excluded_amount.add(part.excluded_amount);
  to.required_away += part.required_away;
  for (const UncomputedValues& values : part.uncomputed) {
    const auto same = [&](const UncomputedValues& known) {
      return known.column == values.column && known.expression == values.expression;
    };
    const auto known = std::find_if(to.uncomputed.begin(), to.uncomputed.end(), same);
    if (known == to.uncomputed.end())
      to.uncomputed.push_back(values);
    else
      known->rows += values.rows;
  }
}

}  // namespace

PartsTotal::PartsTotal(const std::vector<SourceAccount>& read) {
  total_.sources = read;
  for (SourceAccount& source : total_.sources) {
    source.record.rows_kept = 0;
    source.sums.kept = {};
  }
}

void PartsTotal::add(Imported part) {
  ++parts_;
  add_sources(part.sources);
  add_joins(part.joins);
  add_unmatched(part.unmatched);
  add_ungrouped(part.ungrouped);
  add_waiting(std::move(part.waiting));
  for (const auto& [currency, lines] : part.currencies) total_.currencies[currency] += lines;
  add_duplicates(std::move(part.duplicates));
  total_.master = std::move(part.master);
  total_.turned += part.turned;
  total_.turned_amount.add(part.turned_amount);
  total_.fees += part.fees;
  total_.fee_amount.add(part.fee_amount);
}

void PartsTotal::add_duplicates(std::vector<DuplicateRow> rows) {
  std::move(rows.begin(), rows.end(), std::back_inserter(total_.duplicates));
}

void PartsTotal::add_sources(const std::vector<SourceAccount>& sources) {
  std::size_t next = 0;
  for (const SourceAccount& source : sources) {
    if (is_in_parts(source))
      add_account(total_.sources[next++], source);
    else if (parts_ == 1)
      total_.sources.push_back(source);
  }
}

void PartsTotal::add_joins(const std::vector<JoinCount>& joins) {
  if (total_.joins.empty()) {
    total_.joins = joins;
    return;
  }
  for (std::size_t i = 0; i < joins.size(); ++i) {
    JoinCount& to = total_.joins[i];
    to.matched += joins[i].matched;
    to.unmatched += joins[i].unmatched;
    if (is_in_parts(to.one)) {
      to.unused += joins[i].unused;
      continue;
    }
    to.unused = 0;
    for (std::size_t row = 0; row < to.used.size(); ++row) {
      to.used[row] |= joins[i].used[row];
      to.unused += to.used[row] == 0 ? 1U : 0U;
    }
  }
}

void PartsTotal::add_unmatched(const std::vector<UnmatchedKey>& keys) {
  for (const UnmatchedKey& key : keys) {
    const auto [known, is_new] =
        unmatched_.try_emplace({key.table, key.missing_in, key.key}, Unmatched{key, 1});
    if (is_new) continue;
    Unmatched& unmatched = known->second;
    ++unmatched.parts;
    if (!is_in_parts(key.table)) continue;
    unmatched.key.rows += key.rows;
    if (position(key.table, key.first_source, key.first_line) <
        position(key.table, unmatched.key.first_source, unmatched.key.first_line)) {
      unmatched.key.first_source = key.first_source;
      unmatched.key.first_line = key.first_line;
    }
  }
}

void PartsTotal::add_ungrouped(const std::vector<UngroupedValue>& values) {
  for (const UngroupedValue& value : values) {
    const auto known = std::find_if(
        total_.ungrouped.begin(), total_.ungrouped.end(),
        [&](const UngroupedValue& each) { return each.group == value.group && each.value == value.value; });
    if (known == total_.ungrouped.end())
      total_.ungrouped.push_back(value);
    else if (is_in_parts(value.table))
      known->rows += value.rows;
  }
}

void PartsTotal::add_waiting(std::vector<daybook::MemberList> waiting) {
  for (const daybook::MemberList& list : waiting)
    for (std::size_t i = 0; i < list.ids.size(); ++i) ++waiting_[{list.level, std::string(list.ids[i])}];
  if (parts_ == 1) total_.waiting = std::move(waiting);
}

std::pair<std::size_t, std::uint64_t> PartsTotal::position(TableKind table, const std::string& source,
                                                           std::uint64_t line) const {
  std::size_t at = 0;
  for (; at < total_.sources.size(); ++at) {
    const daybook::SourceRecord& record = total_.sources[at].record;
    if (record.name == source && record.table == to_text(table)) break;
  }
  return {at, line};
}

/// In the order of the joins, first the keys of the many; each in the order of the rows.
std::vector<UnmatchedKey> PartsTotal::unmatched_keys() const {
  std::vector<UnmatchedKey> all;
  for (const JoinCount& join : total_.joins) {
    for (const auto& [table, missing_in] : {std::pair(join.many, join.one), std::pair(join.one, join.many)}) {
      const auto begin = all.size();
      for (auto each = unmatched_.lower_bound({table, missing_in, ""});
           each != unmatched_.end() && std::get<0>(each->first) == table &&
           std::get<1>(each->first) == missing_in;
           ++each)
        if (is_in_parts(table) || each->second.parts == parts_) all.push_back(each->second.key);
      std::sort(all.begin() + static_cast<std::ptrdiff_t>(begin), all.end(),
                [&](const UnmatchedKey& a, const UnmatchedKey& b) {
                  return position(a.table, a.first_source, a.first_line) <
                         position(b.table, b.first_source, b.first_line);
                });
    }
  }
  return all;
}

/// Those without a line in every part.
std::vector<daybook::MemberList> PartsTotal::waiting_members() const {
  std::vector<daybook::MemberList> lists;
  for (const daybook::MemberList& list : total_.waiting) {
    daybook::MemberList left{list.level, {}, list.columns, std::vector<TextArray>(list.columns.size())};
    for (std::size_t i = 0; i < list.ids.size(); ++i) {
      if (waiting_.at({list.level, std::string(list.ids[i])}) < parts_) continue;
      left.ids.push_back(list.ids[i]);
      for (std::size_t column = 0; column < list.columns.size(); ++column)
        left.values[column].push_back(list.values[column][i]);
    }
    if (!left.ids.empty()) lists.push_back(std::move(left));
  }
  return lists;
}

/// Groups are numbered rule by rule, in the order of their first rows.
void PartsTotal::number_duplicates() {
  struct Duplicates {
    std::size_t rule = 0;
    std::pair<std::size_t, std::uint64_t> first;
    std::vector<DuplicateRow> rows;
  };
  std::vector<Duplicates> groups;
  for (DuplicateRow& row : total_.duplicates) {
    const auto at = position(row.table, row.source, row.line);
    if (row.rank == 1) groups.push_back({row.rule, at, {}});
    groups.back().first = std::min(groups.back().first, at);
    groups.back().rows.push_back(std::move(row));
  }
  std::sort(groups.begin(), groups.end(), [](const Duplicates& a, const Duplicates& b) {
    return std::tie(a.rule, a.first) < std::tie(b.rule, b.first);
  });
  total_.duplicates.clear();
  for (std::size_t i = 0; i < groups.size(); ++i) {
    for (DuplicateRow& row : groups[i].rows) {
      row.group = i + 1;
      total_.duplicates.push_back(std::move(row));
    }
  }
}

Imported PartsTotal::take() {
  number_duplicates();
  total_.unmatched = unmatched_keys();
  total_.waiting = waiting_members();
  sort_ungrouped(total_.ungrouped);
  return std::move(total_);
}

}  // namespace pear::intake
