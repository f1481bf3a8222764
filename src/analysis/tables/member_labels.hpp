// Names of customers and products, and other columns of them, next to their ids in tables.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// Computed from a daybook, of which it keeps no reference.
class MemberLabels {
 public:
  /// customer_name and product_name, if they are loaded and belong to customers and products, and these
  /// expressions. `option` is named in errors. Errors: usage, for an expression that neither a customer nor a
  /// product determines.
  [[nodiscard]] static OrError<MemberLabels> prepare(const std::string& option,
                                                     const std::vector<expression::Tree>& with,
                                                     const expression::LineView& lines);

  /// Adds them after each column of ids, except names that are there already. Next to `product_a` they are
  /// called product_a_name and product_a_COLUMN. Returns whether any expression was added.
  bool add_to(result::Table& table) const;

 private:
  struct Label {
    result::TableColumn by_member;
    bool is_name = false;
  };
  using Places = absl::flat_hash_map<std::string_view, std::uint32_t>;

  struct Member {
    std::string word;  ///< "customer"
    std::shared_ptr<const TextArray> ids;
    std::vector<Label> labels;
    mutable std::shared_ptr<const Places> places;  ///< by id, from the first use on
  };

  [[nodiscard]] static result::LazyColumn<std::uint32_t> members_of(const result::TableColumn& ids,
                                                                    const Member& member);

  std::array<Member, 2> members_;  ///< customers, products
};

}  // namespace pear::analysis
