#include "intake/import_tables.hpp"

#include <functional>
#include <string>
#include <utility>

#include "base/text.hpp"

namespace pear::intake {
namespace {

/// A table whose columns are all given by functions of the row's record.
template <class Record>
class TableMaker {
 public:
  TableMaker(result::Table table, const std::vector<Record>& records)
      : table_(std::move(table)), records_(records) {}

  TableMaker& text(std::string name, std::string description,
                   const std::function<std::string(const Record&)>& of) {
    TextArray values;
    for (const Record& record : records_) values.push_back(of(record));
    table_.columns.push_back(result::text_column(std::move(name), std::move(description), std::move(values)));
    return *this;
  }
  TableMaker& count(std::string name, std::string description,
                    const std::function<std::uint64_t(const Record&)>& of) {
    return integers(std::move(name), result::Unit::count, std::move(description),
                    [&](const Record& record) { return static_cast<std::int64_t>(of(record)); });
  }
  TableMaker& money(std::string name, std::string description,
                    const std::function<std::optional<Decimal>(const Record&)>& of) {
    return integers(std::move(name), result::Unit::money, std::move(description), [&](const Record& record) {
      const auto value = of(record);
      return value ? value->units() : result::kEmptyCell;
    });
  }
  result::Table take() { return std::move(table_); }

 private:
  TableMaker& integers(std::string name, result::Unit unit, std::string description,
                       const std::function<std::int64_t(const Record&)>& of) {
    std::vector<std::int64_t> values;
    for (const Record& record : records_) values.push_back(of(record));
    table_.columns.push_back(
        result::integer_column(std::move(name), unit, std::move(description), std::move(values)));
    return *this;
  }
  result::Table table_;
  const std::vector<Record>& records_;
};

constexpr std::size_t kFew = 4;

}  // namespace

result::Table rows_table(const std::vector<SourceAccount>& sources) {
  using Source = SourceAccount;
  return TableMaker<Source>(
             {"",
              "Rows",
              "How the rows of each source were used: read = kept + duplicate + excluded + rejected.",
              {}},
             sources)
      .text("table", "What the source contains.", [](const Source& s) { return s.record.table; })
      .text("source", "The file or database.", [](const Source& s) { return s.record.name; })
      .count("read", "Rows read.", [](const Source& s) { return s.record.rows_read; })
      .count("kept", "Rows kept; for lines, those in the daybook.",
             [](const Source& s) { return s.record.rows_kept; })
      .count("duplicate", "Rows dropped, because another row is identical or newer.",
             [](const Source& s) { return s.record.rows_duplicate; })
      .count("excluded", "Rows left out on purpose, by [[exclude]] or because a newer export replaces them.",
             [](const Source& s) { return s.record.rows_excluded; })
      .count("rejected", "Rows that cannot be used.", [](const Source& s) { return s.record.rows_rejected; })
      .take();
}

result::Table amounts_table(const std::vector<SourceAccount>& sources) {
  using Source = SourceAccount;
  std::vector<Source> lines;
  for (const Source& source : sources) {
    if (source.record.table == to_text(TableKind::lines)) lines.push_back(source);
  }
  return TableMaker<Source>({"amounts",
                             "Amounts of the lines",
                             "The amounts of each source of lines, as far as they can be read.",
                             {}},
                            lines)
      .text("source", "The file or database.", [](const Source& s) { return s.record.name; })
      .money("read", "Amounts read.", [](const Source& s) { return s.sums.read.total(); })
      .money("kept", "Amounts in the daybook.", [](const Source& s) { return s.sums.kept.total(); })
      .money("duplicate", "Amounts of duplicates.",
             [](const Source& s) { return s.duplicate_amount.total(); })
      .money("excluded", "Amounts of excluded rows.",
             [](const Source& s) { return s.excluded_amount.total(); })
      .money("rejected", "Amounts of rejected rows.", [](const Source& s) { return s.sums.rejected.total(); })
      .take();
}

result::Table reasons_table(const std::vector<RejectReason>& reasons) {
  using Reason = RejectReason;
  return TableMaker<Reason>(
             {"reasons", "Why rows were rejected", "One row for each table, column and reason.", {}}, reasons)
      .text("table", "The table of raw data.", [](const Reason& r) { return r.table; })
      .text("column", "The column at fault.",
            [](const Reason& r) { return r.column.empty() ? "(whole row)" : r.column; })
      .text("first_value", "The value in the first such row.", [](const Reason& r) { return r.first_value; })
      .text("reason", "What is wrong with its value.", [](const Reason& r) { return r.reason; })
      .count("rows", "Rows rejected for this reason.", [](const Reason& r) { return r.rows; })
      .count("first_line", "Line of the first such row in its source.",
             [](const Reason& r) { return r.first_line; })
      .text("first_source", "The source of the first such row.",
            [](const Reason& r) { return r.first_source; })
      .take();
}

result::Table exclusions_table(const std::vector<ExclusionTally>& excluded) {
  using Tally = ExclusionTally;
  return TableMaker<Tally>(
             {"exclusions", "Rows left out on purpose", "One row for each table and reason.", {}}, excluded)
      .text("table", "The table of raw data.", [](const Tally& t) { return t.table; })
      .text("reason", "The reason in the intake file.", [](const Tally& t) { return t.reason; })
      .count("rows", "Rows left out; import-excluded.csv lists each.", [](const Tally& t) { return t.rows; })
      .money("amount", "Their amount; 0 for tables other than lines.",
             [](const Tally& t) { return t.amount.total(); })
      .count("first_line", "Line of the first such row in its source.",
             [](const Tally& t) { return t.first_line; })
      .text("first_source", "The source of the first such row.",
            [](const Tally& t) { return t.first_source; })
      .take();
}

result::Table cleaning_table(const std::vector<CleaningTally>& cleaned) {
  using Tally = CleaningTally;
  return TableMaker<Tally>(
             {"cleaning", "Cells that cleaning changed", "One row for each table, column and step.", {}},
             cleaned)
      .text("table", "The table of raw data.", [](const Tally& t) { return std::string(to_text(t.table)); })
      .text("column", "The column.", [](const Tally& t) { return t.column; })
      .text("step", "The cleaning step.", [](const Tally& t) { return t.step; })
      .count("cells", "Cells changed; import-changed.csv lists each.", [](const Tally& t) { return t.cells; })
      .take();
}

result::Table joins_table(const std::vector<JoinCount>& joins) {
  return TableMaker<JoinCount>(
             {"joins", "Joins", "How many rows of each table found their row in the other.", {}}, joins)
      .text("from", "The table of many rows.",
            [](const JoinCount& j) { return std::string(to_text(j.many)); })
      .text("to", "The table with one row for each key.",
            [](const JoinCount& j) { return std::string(to_text(j.one)); })
      .text("by", "The columns that must be equal.", [](const JoinCount& j) { return j.keys; })
      .count("matched", "Rows of the first table with a row in the second.",
             [](const JoinCount& j) { return j.matched; })
      .count("unmatched", "Rows of the first table without one.",
             [](const JoinCount& j) { return j.unmatched; })
      .count("unused", "Rows of the second table that no row of the first uses.",
             [](const JoinCount& j) { return j.unused; })
      .take();
}

result::Table unmatched_table(const std::vector<UnmatchedKey>& unmatched) {
  using Key = UnmatchedKey;
  result::Table table =
      TableMaker<Key>({"unmatched",
                       "Keys without a counterpart",
                       "One row for each key that only one side of a join has.",
                       {}},
                      unmatched)
          .text("table", "The table that has the key.",
                [](const Key& k) { return std::string(to_text(k.table)); })
          .text("missing_in", "The table that lacks it.",
                [](const Key& k) { return std::string(to_text(k.missing_in)); })
          .text("key", "The key.", [](const Key& k) { return k.key; })
          .count("rows", "Rows with the key.", [](const Key& k) { return k.rows; })
          .text("first_source", "The source of the first of them.",
                [](const Key& k) { return k.first_source; })
          .count("first_line", "Its line in the source.", [](const Key& k) { return k.first_line; })
          .take();
  table.most_shown = kFew;
  return table;
}

result::Table duplicates_table(const std::vector<DuplicateRow>& duplicates) {
  using Row = DuplicateRow;
  result::Table table =
      TableMaker<Row>({"duplicates",
                       "Duplicates",
                       "One row for each row of a group of duplicates; the one of rank 1 is kept.",
                       {}},
                      duplicates)
          .text("table", "The table of raw data.", [](const Row& r) { return std::string(to_text(r.table)); })
          .count("group", "Number of the group.", [](const Row& r) { return r.group; })
          .count("rank", "Rank within the group.", [](const Row& r) { return r.rank; })
          .text("stays", "Whether the row is kept.", [](const Row& r) { return r.rank == 1 ? "yes" : "no"; })
          .text("same", "The values that are equal in the whole group.", [](const Row& r) { return r.same; })
          .text("by", "The value that the rule sorts by.", [](const Row& r) { return r.by; })
          .text("source", "The file or database.", [](const Row& r) { return r.source; })
          .count("line", "Its line in the source.", [](const Row& r) { return r.line; })
          .take();
  table.most_shown = kFew;
  return table;
}

result::Table changed_customers_table(const std::vector<ChangedCustomer>& changes) {
  using Change = ChangedCustomer;
  result::Table table =
      TableMaker<Change>(
          {"changed-customers",
           "Customers with an older row",
           "One row for each value in an older row of a customer that the newest row does not have.",
           {}},
          changes)
          .text("customer_id", "The customer.", [](const Change& c) { return c.customer_id; })
          .text("column", "The column.", [](const Change& c) { return c.column; })
          .text("before", "The older row's value.", [](const Change& c) { return c.before; })
          .text("after", "The newest row's value, which is used.", [](const Change& c) { return c.after; })
          .text("source", "The source of the older row.", [](const Change& c) { return c.source; })
          .count("line", "Its line in the source.", [](const Change& c) { return c.line; })
          .take();
  table.most_shown = kFew;
  return table;
}

result::Table shared_table(const Imported& imported) {
  std::vector<std::pair<SharedValue, std::string>> all;
  for (const SharedValue& value : imported.similar_ids)
    all.emplace_back(value, "probably one customer; trim and fold_case of customer_id would join the ids");
  for (const SharedValue& value : imported.shared_names)
    all.emplace_back(value, "different people with the same name; they stay separate");
  for (const SharedValue& value : imported.shared_emails)
    all.emplace_back(value, "possibly one person; [[same_customer]] would join the ids");
  using Row = std::pair<SharedValue, std::string>;
  result::Table table =
      TableMaker<Row>({"shared-names",
                       "Customers with the same id, name or e-mail address",
                       "One row for each id, name or e-mail address that more than one customer has.",
                       {}},
                      all)
          .text("column", "The column.", [](const Row& r) { return r.first.column; })
          .text("value", "The shared value.", [](const Row& r) { return r.first.value; })
          .text("customer_ids", "The customers who have it.",
                [](const Row& r) { return join(r.first.customer_ids, " "); })
          .text("meaning", "What it means.", [](const Row& r) { return r.second; })
          .take();
  table.most_shown = kFew;
  return table;
}

result::Table ungrouped_table(const std::vector<UngroupedValue>& ungrouped) {
  using Value = UngroupedValue;
  result::Table table =
      TableMaker<Value>({"ungrouped", "Values without a group", "One row for each value.", {}}, ungrouped)
          .text("group", "The column made by [groups].", [](const Value& v) { return v.group; })
          .text("value", "The value.", [](const Value& v) { return v.value; })
          .count("rows", "Rows that have it, in the table that contains it.",
                 [](const Value& v) { return v.rows; })
          .take();
  table.most_shown = kFew;
  return table;
}

}  // namespace pear::intake
