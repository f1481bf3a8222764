#include "intake/sample_queries.hpp"

#include <algorithm>
#include <optional>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "database/connection.hpp"
#include "daybook/daybook.hpp"

namespace pear::intake {
namespace {

namespace role = daybook::role;

/// See is_in_sample. True where there is no id, so that the row is rejected.
std::string in_sample_sql(const std::string& id, std::uint32_t one_in) {
  const std::string text = fmt::format("CAST({} AS TEXT)", id);
  std::vector<std::string> bytes;
  // Functions instead of a cast of a text to bits, which is not sent to foreign servers.
  for (const int place : {0, 1, 2, 3})
    bytes.push_back(fmt::format("get_byte(decode(md5({}), 'hex'), {}) * bigint '{}'", text, place,
                                std::int64_t{1} << (24 - 8 * place)));
  return fmt::format("({0} IS NULL OR {1} = '' OR ({2}) % {3} = 0)", id, text, join(bytes, " + "), one_in);
}

bool names(const std::vector<std::string>& columns, std::string_view name) {
  return std::find(columns.begin(), columns.end(), name) != columns.end();
}

/// Whether customers have the ids that the source has.
bool has_clean_ids(const IntakePlan& plan, const SourcePlan& source) {
  const std::string id(role::kCustomerId);
  return plan.same_customers.empty() && !source.trim_all && !names(source.trim, id) &&
         !names(source.fold_case, id) && !source.replace.contains(id) && source.empty_as.empty() &&
         std::none_of(source.computed.begin(), source.computed.end(),
                      [&](const ComputedColumn& column) { return column.name == id; });
}

/// The tables of one database, each as a query.
class DatabaseSampler {
 public:
  explicit DatabaseSampler(IntakePlan& plan) : plan_(plan) {}

  /// Either all lines are sampled, or nothing is: lines that are read need their orders and customers.
  OrError<void> sample() {
    PEAR_ASSIGN(const auto lines, sampled(TableKind::lines));
    for (const std::string& query : lines)
      if (query.empty()) return {};
    for (const TableKind kind : {TableKind::orders, TableKind::customers}) {
      PEAR_ASSIGN(const auto others, sampled(kind));
      replace(kind, others);
    }
    replace(TableKind::lines, lines);
    return {};
  }

 private:
  /// A query of the sample for each source of a table; empty where the database does not take it.
  [[nodiscard]] OrError<std::vector<std::string>> sampled(TableKind kind) const {
    std::vector<std::string> queries;
    const TablePlan* table = plan_.table(kind);
    if (table == nullptr) return queries;
    for (const SourcePlan& source : table->from)
      for (const sources::TableAddress& address : source.sources) {
        PEAR_ASSIGN(const auto condition, condition_of(kind, source, address));
        queries.push_back(
            condition ? fmt::format("SELECT * FROM ({}) AS pear_rows WHERE {}", address.query, *condition)
                      : "");
      }
    return queries;
  }

  void replace(TableKind kind, const std::vector<std::string>& queries) {
    auto query = queries.begin();
    if (queries.empty()) return;
    for (SourcePlan& source : plan_.tables[static_cast<std::size_t>(kind)]->from)
      for (sources::TableAddress& address : source.sources) {
        if (!query->empty()) address.query = *query;
        ++query;
      }
  }

  [[nodiscard]] OrError<std::optional<std::string>> condition_of(TableKind kind, const SourcePlan& source,
                                                                 const sources::TableAddress& address) const {
    PEAR_ASSIGN(const bool is_possible, can_sample(source, address));
    if (!is_possible) return std::nullopt;
    PEAR_ASSIGN(const auto id, column_of(source, address, role::kCustomerId));
    if (id) return in_sample_sql("pear_rows." + *id, plan_.sample);
    return kind == TableKind::lines ? by_orders(source, address)
                                    : OrError<std::optional<std::string>>(std::nullopt);
  }

  [[nodiscard]] OrError<bool> can_sample(const SourcePlan& source,
                                         const sources::TableAddress& address) const {
    if (address.database.empty() || !has_clean_ids(plan_, source)) return false;
    PEAR_ASSIGN(const database::DatabaseAddress database, database::parse_database_address(address.database));
    if (database.kind != database::DatabaseKind::postgresql) return false;
    PEAR_ASSIGN(const auto session, database::connect(database, false));
    std::string encoding;  // of the texts that are hashed
    try {
      *session << "SELECT current_setting('server_encoding')", soci::into(encoding);
    } catch (const std::exception&) {
      return false;
    }
    return encoding == "UTF8";
  }

  /// The SQL name of a column of ours, if the source has it.
  [[nodiscard]] static OrError<std::optional<std::string>> column_of(const SourcePlan& source,
                                                                     const sources::TableAddress& address,
                                                                     std::string_view name) {
    PEAR_ASSIGN(const database::DatabaseAddress database, database::parse_database_address(address.database));
    PEAR_ASSIGN(const auto session, database::connect(database, false));
    try {
      for (const database::HeaderColumn& column : database::header_of(*session, address.query)) {
        const auto renamed = std::find_if(source.columns.begin(), source.columns.end(),
                                          [&](const auto& each) { return each.second == column.name; });
        if ((renamed == source.columns.end() ? snake_case(column.name) : renamed->first) == name)
          return database::sql_name(column.name);
      }
    } catch (const std::exception& fault) {
      return database::database_error("cannot read from", database, fault);
    }
    return std::nullopt;
  }

  /// Lines of sampled orders, and those without an order, so that they are rejected.
  [[nodiscard]] OrError<std::optional<std::string>> by_orders(const SourcePlan& lines,
                                                              const sources::TableAddress& address) const {
    const TablePlan* orders = plan_.table(TableKind::orders);
    if (orders == nullptr || orders->from.size() != 1 || orders->from.front().sources.size() != 1)
      return std::nullopt;
    const SourcePlan& source = orders->from.front();
    const sources::TableAddress& of = source.sources.front();
    PEAR_ASSIGN(const bool is_possible, can_sample(source, of));
    if (!is_possible || of.database != address.database) return std::nullopt;
    const auto given = plan_.joins.find({TableKind::lines, TableKind::orders});
    const std::string order(role::kOrderId);
    const JoinKeys keys = given == plan_.joins.end() ? JoinKeys{{order, order}} : given->second;
    PEAR_ASSIGN(const auto id, column_of(source, of, role::kCustomerId));
    if (!id) return std::nullopt;
    std::vector<std::string> same;
    for (const auto& [ours, theirs] : keys) {
      PEAR_ASSIGN(const auto a, column_of(lines, address, ours));
      PEAR_ASSIGN(const auto b, column_of(source, of, theirs));
      if (!a || !b) return std::nullopt;
      same.push_back(fmt::format("CAST(pear_rows.{} AS TEXT) = CAST(pear_orders.{} AS TEXT)", *a, *b));
    }
    return fmt::format("NOT EXISTS (SELECT 1 FROM ({}) AS pear_orders WHERE {} AND NOT ({}))", of.query,
                       join(same, " AND "), in_sample_sql("pear_orders." + *id, plan_.sample));
  }

  IntakePlan& plan_;
};

}  // namespace

OrError<void> sample_in_databases(IntakePlan& plan) { return DatabaseSampler(plan).sample(); }

}  // namespace pear::intake
