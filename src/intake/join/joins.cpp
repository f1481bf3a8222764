#include "intake/join/joins.hpp"

#include <algorithm>
#include <string_view>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/pair_key.hpp"
#include "base/text.hpp"
#include "base/text_hash.hpp"

namespace pear::intake {
namespace {

using Codes = std::vector<std::uint32_t>;

OrError<const daybook::TextValues*> key_column(const RawTable& table, const std::string& name) {
  const RawColumn* column = table.find(name);
  if (column == nullptr) {
    std::vector<std::string> names;
    for (const RawColumn& each : table.columns) names.push_back(each.name);
    return data_error(fmt::format("[joins] names {}, but {} has no such column.{}", in_quotes(name),
                                  to_text(table.kind), did_you_mean(name, names)));
  }
  if (const auto* text = std::get_if<daybook::TextValues>(&column->values)) return text;
  return data_error(
      fmt::format("[joins] names {} of {}; tables can be joined by ids, not by numbers or dates.",
                  in_quotes(name), to_text(table.kind)));
}

/// The codes of `many` in terms of the dictionary of `one`; kEmptyCode for texts that `one` does not have.
Codes translated(const daybook::TextValues& many, const daybook::TextValues& one) {
  absl::flat_hash_map<std::string_view, std::uint32_t, TextHash, std::equal_to<>> known;
  known.reserve(one.dictionary.size());
  for (std::uint32_t code = 0; code < one.dictionary.size(); ++code)
    known.emplace(one.dictionary[code], code);
  Codes by_code(many.dictionary.size(), daybook::kEmptyCode);
  for (std::size_t code = 0; code < by_code.size(); ++code) {
    if (const auto found = known.find(many.dictionary[code]); found != known.end())
      by_code[code] = found->second;
  }
  Codes codes(many.codes.size(), daybook::kEmptyCode);
  for (std::size_t row = 0; row < codes.size(); ++row) {
    if (many.codes[row] != daybook::kEmptyCode) codes[row] = by_code[many.codes[row]];
  }
  return codes;
}

/// One number for the pair of the keys so far and a further column.
void combine(Codes& keys, const Codes& further, absl::flat_hash_map<std::uint64_t, std::uint32_t>& pairs) {
  for (std::size_t row = 0; row < keys.size(); ++row) {
    if (keys[row] == daybook::kEmptyCode || further[row] == daybook::kEmptyCode) {
      keys[row] = daybook::kEmptyCode;
      continue;
    }
    const std::uint64_t pair = pair_key(keys[row], further[row]);
    keys[row] = pairs.try_emplace(pair, static_cast<std::uint32_t>(pairs.size())).first->second;
  }
}

std::string key_text(const std::vector<const daybook::TextValues*>& columns, std::size_t row) {
  std::vector<std::string> parts;
  for (const daybook::TextValues* column : columns) {
    const std::uint32_t code = column->codes[row];
    parts.emplace_back(code == daybook::kEmptyCode ? std::string_view{} : column->dictionary[code]);
  }
  return join(parts, " | ");
}

class Joiner {
 public:
  Joiner(const RawTable& many, const RawTable& one) : many_(many), one_(one) {}

  OrError<Join> run(const JoinKeys& keys) {
    PEAR_TRY(find_columns(keys));
    number_keys();
    PEAR_TRY(index_one());
    match();
    list_both();
    join_.count.many = many_.kind;
    join_.count.one = one_.kind;
    return std::move(join_);
  }

 private:
  OrError<void> find_columns(const JoinKeys& keys) {
    std::vector<std::string> names;
    for (const auto& [ours, theirs] : keys) {
      PEAR_ASSIGN(const daybook::TextValues* many, key_column(many_, ours));
      PEAR_ASSIGN(const daybook::TextValues* one, key_column(one_, theirs));
      many_columns_.push_back(many);
      one_columns_.push_back(one);
      names.push_back(ours == theirs ? ours : fmt::format("{} = {}", ours, theirs));
    }
    join_.count.keys = join(names, ", ");
    return {};
  }

  void number_keys() {
    many_keys_ = translated(*many_columns_.front(), *one_columns_.front());
    one_keys_ = one_columns_.front()->codes;
    distinct_ = one_columns_.front()->dictionary.size();
    for (std::size_t i = 1; i < many_columns_.size(); ++i) {
      absl::flat_hash_map<std::uint64_t, std::uint32_t> pairs;
      combine(one_keys_, one_columns_[i]->codes, pairs);
      combine(many_keys_, translated(*many_columns_[i], *one_columns_[i]), pairs);
      distinct_ = pairs.size();
    }
  }

  OrError<void> index_one() {
    row_of_key_.assign(distinct_, daybook::kNoMember);
    std::vector<std::string> twice;
    std::uint64_t rows_twice = 0;
    for (std::uint32_t row = 0; row < one_keys_.size(); ++row) {
      if (one_keys_[row] == daybook::kEmptyCode) continue;
      std::uint32_t& known = row_of_key_[one_keys_[row]];
      if (known == daybook::kNoMember) {
        known = row;
        continue;
      }
      ++rows_twice;
      constexpr std::size_t kExamples = 3;
      if (twice.size() < kExamples)
        twice.push_back(fmt::format("{} (lines {} and {} of {})", in_quotes(key_text(one_columns_, row)),
                                    one_.lines[known], one_.lines[row],
                                    one_.sources[one_.source_of(row)].record.name));
    }
    if (twice.empty()) return {};
    return data_error(fmt::format(
        "{} cannot be joined to {} by {}: {} would multiply {}, because their key occurs more than once: "
        "{}{}. Drop the surplus with [[duplicates]] in = \"{}\", or join by further columns in [joins].",
        to_text(many_.kind), to_text(one_.kind), join_.count.keys,
        counted(rows_twice, std::string("row of ").append(to_text(one_.kind)),
                std::string("rows of ").append(to_text(one_.kind))),
        to_text(many_.kind), join(twice, ", "), rows_twice > twice.size() ? ", ..." : "",
        to_text(one_.kind)));
  }

  void match() {
    join_.row_of.assign(many_.rows(), daybook::kNoMember);
    std::vector<std::uint8_t>& used = join_.count.used;
    used.assign(one_.rows(), 0);
    for (std::size_t row = 0; row < many_keys_.size(); ++row) {
      const std::uint32_t found =
          many_keys_[row] == daybook::kEmptyCode ? daybook::kNoMember : row_of_key_[many_keys_[row]];
      join_.row_of[row] = found;
      if (found == daybook::kNoMember) {
        ++join_.count.unmatched;
      } else {
        ++join_.count.matched;
        used[found] = 1;
      }
    }
    for (const std::uint8_t each : used) join_.count.unused += each != 0 ? 0 : 1;
  }

  void list_both() {
    std::vector<std::uint32_t> rows;
    for (std::uint32_t row = 0; row < join_.row_of.size(); ++row) {
      if (join_.row_of[row] == daybook::kNoMember) rows.push_back(row);
    }
    list_unmatched(
        many_, one_.kind, rows, [&](std::uint32_t row) { return key_text(many_columns_, row); },
        join_.unmatched);
    rows.clear();
    for (std::uint32_t row = 0; row < join_.count.used.size(); ++row) {
      if (join_.count.used[row] == 0) rows.push_back(row);
    }
    list_unmatched(
        one_, many_.kind, rows, [&](std::uint32_t row) { return key_text(one_columns_, row); },
        join_.unmatched);
  }

  const RawTable& many_;
  const RawTable& one_;
  std::vector<const daybook::TextValues*> many_columns_, one_columns_;
  Codes many_keys_, one_keys_;
  std::size_t distinct_ = 0;
  std::vector<std::uint32_t> row_of_key_;
  Join join_;
};

}  // namespace

void list_unmatched(const RawTable& table, TableKind missing_in, const std::vector<std::uint32_t>& rows,
                    const std::function<std::string(std::uint32_t)>& key_of,
                    std::vector<UnmatchedKey>& unmatched) {
  absl::flat_hash_map<std::string, std::size_t> places;
  for (const std::uint32_t row : rows) {
    const std::string key = key_of(row);
    const std::string& source = table.sources[table.source_of(row)].record.name;
    const auto [found, is_new] = places.try_emplace(key, unmatched.size());
    if (is_new) unmatched.push_back({table.kind, missing_in, key, 0, source, table.lines[row]});
    UnmatchedKey& known = unmatched[found->second];
    ++known.rows;
    if (known.first_source == source)
      known.first_line = std::min<std::uint64_t>(known.first_line, table.lines[row]);
  }
}

OrError<Join> join_tables(const RawTable& many, const RawTable& one, const JoinKeys& keys) {
  return Joiner(many, one).run(keys);
}

}  // namespace pear::intake
