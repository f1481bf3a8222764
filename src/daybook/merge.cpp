#include "daybook/merge.hpp"

#include <algorithm>
#include <array>
#include <optional>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "daybook/builder.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/select.hpp"

namespace pear::daybook {
namespace {

using Positions = std::vector<std::uint32_t>;

/// The ids of both, each once; `of_old` and `of_added` give the position of each.
struct MergedIds {
  TextArray ids;
  Positions of_old, of_added;
};

MergedIds merge_ids(const TextArray& old, const TextArray& added) {
  MergedIds merged;
  absl::flat_hash_map<std::string, std::uint32_t, TextHash, std::equal_to<>> known;
  const auto add = [&](const TextArray& ids, Positions& positions) {
    for (std::size_t i = 0; i < ids.size(); ++i) {
      const auto next = static_cast<std::uint32_t>(merged.ids.size());
      const auto [found, is_new] = known.try_emplace(std::string(ids[i]), next);
      if (is_new) merged.ids.push_back(ids[i]);
      positions.push_back(found->second);
    }
  };
  add(old, merged.of_old);
  add(added, merged.of_added);
  return merged;
}

/// For each line of a daybook the member of each level that it belongs to, in its own and in merged numbers.
struct LineMembers {
  std::array<Positions, 4> own;     // by Level
  std::array<Positions, 4> merged;  // by Level; of lines empty
};

const std::vector<std::int64_t>& units_of(const Daybook& daybook, std::string_view name) {
  return std::get<DecimalValues>(daybook.find(name)->values).units;
}

constexpr std::size_t at(Level level) { return static_cast<std::size_t>(level); }

class Merger {
 public:
  Merger(const Daybook& old, const Daybook& added, const std::vector<std::string>& master,
         RepeatedOrders repeated)
      : books_{&old, &added}, master_(master), repeated_(repeated) {}

  MergedLines run() {
    number_members();
    stays_ = {std::vector<bool>(books_[0]->lines(), true), std::vector<bool>(books_[1]->lines(), true)};
    find_lines_there_already();
    if (repeated_ == RepeatedOrders::replace) replace_orders();
    LineTable& table = result_.table;
    table.customer_ids = std::move(customers_.ids);
    table.product_ids = std::move(products_.ids);
    for (std::size_t book = 0; book < 2; ++book) {
      for (std::uint32_t line = 0; line < books_[book]->lines(); ++line) {
        if (!stays_[book][line]) continue;
        table.customer.push_back(members_[book].merged[at(Level::customer)][line]);
        table.product.push_back(members_[book].merged[at(Level::product)][line]);
        table.order.push_back(members_[book].merged[at(Level::order)][line]);
      }
    }
    for (const Column& column : books_[0]->parts().columns) add_column(column.name);
    for (const Column& column : books_[1]->parts().columns) {
      if (books_[0]->find(column.name) == nullptr) add_column(column.name);
    }
    drop_unused(table.customer_ids, table.customer);
    drop_unused(table.product_ids, table.product);
    drop_unused(table.order_ids, table.order);
    return std::move(result_);
  }

 private:
  void number_members() {
    customers_ = merge_ids(books_[0]->customer_ids(), books_[1]->customer_ids());
    products_ = merge_ids(books_[0]->product_ids(), books_[1]->product_ids());
    absl::flat_hash_map<std::pair<std::uint32_t, std::string>, std::uint32_t> known;
    for (std::size_t book = 0; book < 2; ++book) {
      const Daybook& daybook = *books_[book];
      const Positions& customer_of = book == 0 ? customers_.of_old : customers_.of_added;
      const Positions& product_of = book == 0 ? products_.of_old : products_.of_added;
      LineMembers& members = members_[book];
      for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
        const Run orders = daybook.orders_of(customer);
        for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
          const std::string_view id = daybook.order_ids()[order];
          const auto next = static_cast<std::uint32_t>(result_.table.order_ids.size());
          const auto [found, is_new] = known.try_emplace({customer_of[customer], std::string(id)}, next);
          if (is_new) result_.table.order_ids.push_back(id);
          const Run lines = daybook.lines_of(order);
          for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
            const std::uint32_t product = daybook.line_products()[line];
            members.own[at(Level::line)].push_back(line);
            members.own[at(Level::order)].push_back(order);
            members.own[at(Level::customer)].push_back(customer);
            members.own[at(Level::product)].push_back(product);
            members.merged[at(Level::order)].push_back(found->second);
            members.merged[at(Level::customer)].push_back(customer_of[customer]);
            members.merged[at(Level::product)].push_back(product_of[product]);
          }
        }
      }
    }
  }

  using LineKey = std::tuple<std::uint32_t, std::uint32_t, std::int64_t, std::int64_t, std::int64_t>;
  LineKey key_of(std::size_t book, std::uint32_t line) const {
    const Daybook& daybook = *books_[book];
    return {members_[book].merged[at(Level::order)][line], members_[book].merged[at(Level::product)][line],
            units_of(daybook, role::kQuantity)[line], units_of(daybook, role::kUnitPrice)[line],
            units_of(daybook, role::kAmount)[line]};
  }

  void find_lines_there_already() {
    absl::flat_hash_map<LineKey, std::uint32_t> there;
    for (std::uint32_t line = 0; line < books_[0]->lines(); ++line) ++there[key_of(0, line)];
    for (std::uint32_t line = 0; line < books_[1]->lines(); ++line) {
      const auto found = there.find(key_of(1, line));
      if (found == there.end() || found->second == 0) continue;
      --found->second;
      stays_[1][line] = false;
      ++result_.lines_there_already;
    }
  }

  /// Puts the added lines in the place of the old ones, in every order that both have.
  void replace_orders() {
    if (!ids_are_shared(*books_[0]) && !ids_are_shared(*books_[1])) number_orders_by_id();
    struct Counts {
      std::uint32_t old = 0, added = 0, same = 0;  // lines
    };
    std::vector<Counts> orders(result_.table.order_ids.size());
    for (const std::uint32_t order : members_[0].merged[at(Level::order)]) ++orders[order].old;
    for (std::uint32_t line = 0; line < books_[1]->lines(); ++line) {
      Counts& counts = orders[members_[1].merged[at(Level::order)][line]];
      ++counts.added;
      if (!stays_[1][line]) ++counts.same;
    }
    for (const Counts& counts : orders) {
      if (counts.old == 0 || counts.added == 0) continue;
      ++result_.orders_repeated;
      if (counts.same != counts.old || counts.same != counts.added) ++result_.orders_changed;
    }
    for (std::uint32_t line = 0; line < books_[0]->lines(); ++line) {
      if (orders[members_[0].merged[at(Level::order)][line]].added == 0) continue;
      stays_[0][line] = false;
      ++result_.lines_replaced;
    }
    stays_[1].assign(books_[1]->lines(), true);
    result_.lines_there_already = 0;
    count_orders_of_others(orders);
  }

  /// Whether several customers have an order of the same id.
  static bool ids_are_shared(const Daybook& daybook) {
    absl::flat_hash_set<std::string_view> ids;
    for (std::uint32_t order = 0; order < daybook.orders(); ++order)
      if (!ids.insert(daybook.order_ids()[order]).second) return true;
    return false;
  }

  /// Gives orders of one id the same number, so that one whose customer was corrected is the same order.
  void number_orders_by_id() {
    TextArray& ids = result_.table.order_ids;
    absl::flat_hash_map<std::string_view, std::uint32_t> first;
    Positions number(ids.size());
    for (std::uint32_t order = 0; order < ids.size(); ++order)
      number[order] = first.try_emplace(ids[order], order).first->second;
    for (LineMembers& members : members_)
      for (std::uint32_t& order : members.merged[at(Level::order)]) order = number[order];
  }

  /// Where customers share ids, an order whose customer was corrected is another order.
  template <class Counts>
  void count_orders_of_others(const std::vector<Counts>& orders) {
    absl::flat_hash_set<std::string_view> old_ids;
    const TextArray& ids = books_[0]->order_ids();
    for (std::size_t i = 0; i < ids.size(); ++i) old_ids.insert(ids[i]);
    for (std::size_t order = 0; order < orders.size(); ++order)
      if (orders[order].old == 0 && old_ids.contains(result_.table.order_ids[order]))
        ++result_.orders_of_others;
  }

  /// Ids that only replaced lines had.
  static void drop_unused(TextArray& ids, Positions& positions) {
    Positions places(ids.size(), kEmptyCode);
    for (const std::uint32_t position : positions) places[position] = 0;
    if (std::find(places.begin(), places.end(), kEmptyCode) == places.end()) return;
    TextArray used;
    for (std::size_t i = 0; i < ids.size(); ++i) {
      if (places[i] == kEmptyCode) continue;
      places[i] = static_cast<std::uint32_t>(used.size());
      used.push_back(ids[i]);
    }
    for (std::uint32_t& position : positions) position = places[position];
    ids = std::move(used);
  }

  /// The level at which members have one value in both daybooks, if any: of the only daybook with the column,
  /// or of master data.
  [[nodiscard]] std::optional<Level> member_level(const Column* old, const Column* added) const {
    const Column& known = old != nullptr ? *old : *added;
    const bool is_alone = old == nullptr || added == nullptr;
    const bool is_master = std::find(master_.begin(), master_.end(), known.name) != master_.end();
    if (known.level == Level::line || (!is_alone && (!is_master || old->level != added->level))) return {};
    return known.level;
  }

  /// The value of each merged line, from the old or the added daybook.
  template <class T>
  std::vector<T> joined(const std::vector<T>* old, Level old_level, const std::vector<T>* added,
                        Level added_level, std::optional<Level> member_level, T empty) {
    if (member_level) return by_member(old, added, *member_level, empty);
    return by_line(old, old_level, added, added_level, empty);
  }

  /// Each line keeps the value of its own daybook.
  template <class T>
  std::vector<T> by_line(const std::vector<T>* old, Level old_level, const std::vector<T>* added,
                         Level added_level, T empty) {
    std::vector<T> values;
    for (std::uint32_t line = 0; line < books_[0]->lines(); ++line) {
      if (stays_[0][line])
        values.push_back(old == nullptr ? empty : (*old)[members_[0].own[at(old_level)][line]]);
    }
    for (std::uint32_t line = 0; line < books_[1]->lines(); ++line) {
      if (stays_[1][line])
        values.push_back(added == nullptr ? empty : (*added)[members_[1].own[at(added_level)][line]]);
    }
    return values;
  }

  /// One value for each member, from the added daybook if it has one.
  template <class T>
  std::vector<T> by_member(const std::vector<T>* old, const std::vector<T>* added, Level level, T empty) {
    absl::flat_hash_map<std::uint32_t, T> value_of;
    const std::vector<T>* columns[] = {old, added};
    for (std::size_t book = 0; book < 2; ++book) {
      if (columns[book] == nullptr) continue;
      const Positions& merged = members_[book].merged[at(level)];
      const Positions& own = members_[book].own[at(level)];
      std::uint32_t last = kEmptyCode;
      for (std::uint32_t line = 0; line < merged.size(); ++line) {
        if (merged[line] == last) continue;
        last = merged[line];
        const T value = (*columns[book])[own[line]];
        const auto [found, is_new] = value_of.try_emplace(last, value);
        if (is_new || found->second == value || value == empty) continue;
        if (book == 1 && level != Level::order) ++result_.changed_values;
        found->second = value;
      }
    }
    std::vector<T> values;
    for (std::size_t book = 0; book < 2; ++book) {
      for (std::uint32_t line = 0; line < books_[book]->lines(); ++line) {
        if (!stays_[book][line]) continue;
        const auto found = value_of.find(members_[book].merged[at(level)][line]);
        values.push_back(found == value_of.end() ? empty : found->second);
      }
    }
    return values;
  }

  template <class Values, class T>
  Values joined_columns(const Column* old, const Column* added, T empty) {
    const auto array = [](const Column* column) {
      return column == nullptr ? nullptr : &array_of(std::get<Values>(column->values));
    };
    Values result;
    array_of(result) = joined(array(old), old == nullptr ? Level::line : old->level, array(added),
                              added == nullptr ? Level::line : added->level, member_level(old, added), empty);
    return result;
  }

  TextValues joined_texts(const Column* old, const Column* added) {
    MergedIds texts =
        merge_ids(old == nullptr ? TextArray{} : std::get<TextValues>(old->values).dictionary,
                  added == nullptr ? TextArray{} : std::get<TextValues>(added->values).dictionary);
    const auto recoded = [](const Column* column, const Positions& positions) {
      Column copy = *column;
      for (std::uint32_t& code : std::get<TextValues>(copy.values).codes) {
        if (code != kEmptyCode) code = positions[code];
      }
      return copy;
    };
    std::optional<Column> own_old, own_added;
    if (old != nullptr) own_old = recoded(old, texts.of_old);
    if (added != nullptr) own_added = recoded(added, texts.of_added);
    TextValues values = joined_columns<TextValues>(own_old ? &*own_old : nullptr,
                                                   own_added ? &*own_added : nullptr, kEmptyCode);
    values.dictionary = std::move(texts.ids);
    return values;
  }

  /// For an order that both have, the builder uses the earliest moment.
  template <class Values>
  std::vector<std::int32_t> moments_by_line(const Column* const (&columns)[2], std::int32_t empty) {
    const auto array = [](const Column* column) {
      return column == nullptr ? nullptr : &array_of(std::get<Values>(column->values));
    };
    return by_line(array(columns[0]), Level::order, array(columns[1]), Level::order, empty);
  }

  void add_column(const std::string& name) {
    std::optional<Column> as_text[2];
    const Column* columns[2] = {books_[0]->find(name), books_[1]->find(name)};
    const bool both = columns[0] != nullptr && columns[1] != nullptr;
    if (both && columns[0]->type() != columns[1]->type()) {
      for (std::size_t i = 0; i < 2; ++i) {
        as_text[i] = text_column_of(*columns[i]);
        columns[i] = &*as_text[i];
      }
    }
    const Column& known = columns[0] != nullptr ? *columns[0] : *columns[1];
    LineTable& table = result_.table;
    if (name == role::kOrderDate) {
      table.days = moments_by_line<DateValues>(columns, kEmptyDays);
    } else if (name == role::kOrderTime) {
      table.seconds = moments_by_line<TimeValues>(columns, Moment::kNoTime);
    } else if (name == role::kIsReturn) {
      table.is_return = joined_columns<FlagValues>(columns[0], columns[1], std::uint8_t{0}).flags;
    } else {
      ColumnValues values;
      if (known.type() == ColumnType::text) values = joined_texts(columns[0], columns[1]);
      if (known.type() == ColumnType::decimal)
        values = joined_columns<DecimalValues>(columns[0], columns[1], kEmptyUnits);
      if (known.type() == ColumnType::flag)
        values = joined_columns<FlagValues>(columns[0], columns[1], std::uint8_t{0});
      if (known.type() == ColumnType::date)
        values = joined_columns<DateValues>(columns[0], columns[1], kEmptyDays);
      std::vector<Level> levels = {Level::customer, Level::product, Level::order};
      if (const auto level = member_level(columns[0], columns[1])) levels = {*level};
      if (is_of_lines(name)) levels = {};
      if (name == role::kUnitCost || name == role::kListPrice) levels = {Level::product};
      table.columns.push_back({{name, Level::line, std::move(values)}, std::move(levels)});
    }
  }

  /// Whether a role belongs to lines, even where it is constant.
  static bool is_of_lines(std::string_view name) {
    return name == role::kQuantity || name == role::kUnitPrice || name == role::kAmount ||
           name == role::kIsFee;
  }

  /// A column with text values; empty ones stay empty.
  static Column text_column_of(const Column& column) {
    Column text{column.name, column.level, TextValues{}};
    auto& values = std::get<TextValues>(text.values);
    absl::flat_hash_map<std::string, std::uint32_t> codes;
    for (std::size_t member = 0; member < column.size(); ++member) {
      const std::string value = value_text(column.values, member);
      if (value.empty()) {
        values.codes.push_back(kEmptyCode);
        continue;
      }
      const auto [found, is_new] = codes.try_emplace(value, static_cast<std::uint32_t>(codes.size()));
      if (is_new) values.dictionary.push_back(value);
      values.codes.push_back(found->second);
    }
    return text;
  }

  std::array<const Daybook*, 2> books_;
  const std::vector<std::string>& master_;
  MergedIds customers_, products_;
  std::array<LineMembers, 2> members_;
  RepeatedOrders repeated_;
  std::array<std::vector<bool>, 2> stays_;  // by book and line
  MergedLines result_;
};

}  // namespace

MergedLines merge_daybooks(const Daybook& old, const Daybook& added, const std::vector<std::string>& master,
                           RepeatedOrders repeated) {
  return Merger(old, added, master, repeated).run();
}

OrError<Daybook> with_other_customers(const Daybook& asked, Daybook others) {
  absl::flat_hash_set<std::string_view> known;
  for (std::size_t i = 0; i < asked.customer_ids().size(); ++i) known.insert(asked.customer_ids()[i]);
  std::vector<std::uint8_t> chosen(others.lines());
  for (std::uint32_t customer = 0; customer < others.customers(); ++customer) {
    if (known.contains(others.customer_ids()[customer])) continue;
    const Run lines = lines_of_customer(others, customer);
    std::fill(chosen.begin() + lines.begin, chosen.begin() + lines.end, 1);
  }
  if (std::find(chosen.begin(), chosen.end(), 1) == chosen.end()) return asked;
  PEAR_ASSIGN(BuiltDaybook built,
              build_daybook(merge_daybooks(select_lines(std::move(others), chosen), asked, {}).table));
  return std::move(built.daybook);
}

}  // namespace pear::daybook
