// The import: from raw tables to a daybook and a report on every row.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/decimal.hpp"
#include "base/error.hpp"
#include "daybook/builder.hpp"
#include "daybook/member_list.hpp"
#include "daybook/provenance.hpp"
#include "intake/clean/duplicates.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/clean/latest_customer_rows.hpp"
#include "intake/join/joins.hpp"
#include "intake/join/value_groups.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// A value that several customers share.
struct SharedValue {
  std::string column;
  std::string value;
  std::vector<std::string> customer_ids;
};

struct Imported {
  daybook::BuiltDaybook built;
  std::string currency;
  std::map<std::string, std::uint64_t> currencies;  ///< lines in each
  std::vector<SourceAccount> sources;               ///< lines first
  std::vector<RejectReason> reasons;                ///< most frequent first
  std::vector<CleaningTally> cleaned;
  std::vector<ExclusionTally> excluded;
  std::vector<DuplicateRow> duplicates;
  std::vector<JoinCount> joins;
  std::vector<UnmatchedKey> unmatched;
  std::vector<ChangedCustomer> changed_customers;
  std::vector<SharedValue> shared_names, shared_emails, similar_ids;
  std::vector<UngroupedValue> ungrouped;
  std::vector<std::string> master;           ///< see PreparedLines
  std::vector<daybook::MemberList> waiting;  ///< customers and products of lists that have no line
  std::uint64_t turned = 0;                  ///< see PreparedLines
  DecimalSum turned_amount;
  std::uint64_t fees = 0;
  DecimalSum fee_amount;
  std::vector<std::string> notes;  ///< what was decided, in sentences

  /// What the log has counted.
  void take_tallies(const IntakeLog& log) {
    reasons = log.reasons();
    cleaned = log.cleaned();
    excluded = log.excluded();
  }
};

/// Reads, cleans, joins, checks and nests all lines. A row that cannot be used is not an error: it goes to
/// hooks.reject. Errors: those of the sources, of the plan against the data (data, naming the key), and of
/// the hooks; data if not one row can be used.
[[nodiscard]] OrError<Imported> import_tables(const IntakePlan& plan, const ImportHooks& hooks);

/// Only up to the duplicates: what import_tables would drop, and what it would keep.
[[nodiscard]] OrError<std::vector<DuplicateRow>> preview_duplicates(const IntakePlan& plan,
                                                                    const ImportHooks& hooks);

}  // namespace pear::intake
