#include "questions/offers/campaign/campaign_file.hpp"

#include <algorithm>
#include <string>
#include <string_view>
#include <tuple>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"

namespace pear::offers {
namespace {

constexpr std::string_view kFrom = "plan_from", kUntil = "plan_until";

/// Codes of ids. Ids without a line have codes after these.
class Codes {
 public:
  explicit Codes(const TextArray& ids) : known_(static_cast<std::uint32_t>(ids.size())) {
    codes_.reserve(ids.size());
    for (std::uint32_t code = 0; code < ids.size(); ++code) codes_.emplace(ids[code], code);
  }
  std::uint32_t of(std::string_view id) {
    return codes_.try_emplace(id, static_cast<std::uint32_t>(codes_.size())).first->second;
  }
  [[nodiscard]] bool is_known(std::uint32_t code) const { return code < known_; }
  [[nodiscard]] std::uint64_t unknown() const { return codes_.size() - known_; }

 private:
  std::uint32_t known_;
  absl::flat_hash_map<std::string_view, std::uint32_t> codes_;
};

OrError<Date> date_in(const analysis::SideTable& table, std::size_t row, std::size_t column) {
  const std::string& text = table.rows[row][column];
  const auto moment = parse_iso_moment(text);
  if (!moment)
    return data_error(
        fmt::format("{}: {} {}.", table.place_of(row, column), in_quotes(text), describe(moment.error())));
  return moment->date;
}

/// The value that all rows of a column have.
OrError<Date> date_of_all(const analysis::SideTable& table, std::string_view name) {
  const std::size_t column = table.column(name);
  PEAR_ASSIGN(const Date date, date_in(table, 0, column));
  for (std::size_t row = 1; row < table.rows.size(); ++row)
    if (table.rows[row][column] != table.rows.front()[column])
      return data_error(
          fmt::format("{}: {} differs from {} in the rows before. Measure one campaign at a time.",
                      table.place_of(row, column), in_quotes(table.rows[row][column]),
                      in_quotes(table.rows.front()[column])));
  return date;
}

/// The days that the plan covers.
OrError<std::pair<Date, Date>> days_of(const analysis::QuestionInput& input, const Options& options,
                                       const analysis::SideTable& table) {
  Date from, until;
  if (options.as_of) {
    from = Date{options.as_of->at(input.data_end).last.days + 1};
  } else if (table.has(kFrom)) {
    PEAR_ASSIGN(from, date_of_all(table, kFrom));
  } else {
    return data_error(
        fmt::format("{} has no column {}, so the first day of the campaign is unknown. Give the day of the "
                    "plan with --as-of DATE.",
                    table.file, kFrom));
  }
  if (options.horizon || !table.has(kUntil)) {
    until = Date{from.days + static_cast<std::int32_t>(options.days_ahead()) - 1};
  } else {
    PEAR_ASSIGN(until, date_of_all(table, kUntil));
  }
  if (until < from)
    return data_error(fmt::format("{}: the campaign ends on {}, before it begins on {}.", table.file,
                                  to_text(until), to_text(from)));
  if (until > input.data_end) {
    const std::int32_t covered = input.data_end.days - from.days + 1;
    return data_error(fmt::format(
        "the sales end on {}, but the campaign lasts until {}. Import newer sales{}.",
        to_text(input.data_end), to_text(until),
        covered > 0 ? fmt::format(", or compare its first days with --horizon {}", covered) : ""));
  }
  return std::pair(from, until);
}

/// Whether a row is of the control group.
OrError<bool> is_control(const analysis::SideTable& table, std::size_t row, std::size_t column) {
  const std::string& group = table.rows[row][column];
  if (group != "offer" && group != "control")
    return data_error(fmt::format("{}: {} is not a group. Write offer or control.",
                                  table.place_of(row, column), in_quotes(group)));
  return group == "control";
}

OrError<void> check(const Campaign& campaign, const analysis::SideTable& table) {
  for (const bool control : {false, true})
    if (campaign.size_of(control) == 0)
      return data_error(
          fmt::format("{} has no row of the group {}, so there is nothing to compare. Make the plan with "
                      "--control 10%, and "
                      "measure its file offers.csv.",
                      table.file, control ? "control" : "offer"));
  if (campaign.without_lines == campaign.members.size())
    return data_error(fmt::format(
        "none of the {} of {} is in the daybook: check that its customer_id has the ids of this shop.",
        counted(campaign.members.size(), "customer"), table.file));
  return {};
}

}  // namespace

std::uint64_t Campaign::size_of(bool is_control) const {
  return static_cast<std::uint64_t>(std::count_if(
      members.begin(), members.end(), [&](const auto& member) { return member.is_control == is_control; }));
}

OrError<Campaign> read_campaign(const analysis::QuestionInput& input, const Options& options) {
  const analysis::SideTable& table = input.side_tables.at("measure");
  PEAR_TRY(table.require("a campaign", {"customer_id", "product_id", "group"}));
  if (table.rows.empty()) return data_error(fmt::format("{} has no offers, only a header.", table.file));
  const std::size_t customer_column = table.column("customer_id"),
                    product_column = table.column("product_id");
  const std::size_t group_column = table.column("group");
  Campaign campaign;
  PEAR_ASSIGN(const auto days, days_of(input, options, table));
  std::tie(campaign.from, campaign.until) = days;
  Codes customers(input.daybook.customer_ids()), products(input.daybook.product_ids());
  absl::flat_hash_map<std::uint32_t, std::size_t> places;  // in members, by code of the customer
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    PEAR_ASSIGN(const bool control, is_control(table, row, group_column));
    const std::uint32_t customer = customers.of(table.rows[row][customer_column]);
    const auto [place, is_new] = places.try_emplace(customer, campaign.members.size());
    if (is_new)
      campaign.members.push_back({customers.is_known(customer) ? customer : daybook::kNoMember, control, {}});
    CampaignMember& member = campaign.members[place->second];
    if (member.is_control != control)
      return data_error(fmt::format("{}: customer {} belongs to both groups. Remove the rows of one.",
                                    table.place_of(row), in_quotes(table.rows[row][customer_column])));
    const std::uint32_t product = products.of(table.rows[row][product_column]);
    if (std::find(member.products.begin(), member.products.end(), product) == member.products.end())
      member.products.push_back(product);
  }
  if (!input.chosen_customers.empty())
    std::erase_if(campaign.members, [&](const CampaignMember& member) {
      return member.customer == daybook::kNoMember || input.chosen_customers[member.customer] == 0;
    });
  absl::flat_hash_set<std::uint32_t> offered;
  for (const CampaignMember& member : campaign.members) {
    campaign.without_lines += member.customer == daybook::kNoMember ? 1U : 0U;
    offered.insert(member.products.begin(), member.products.end());
  }
  campaign.unknown_products = products.unknown();
  for (const std::uint32_t product : offered)
    if (products.is_known(product)) campaign.products.push_back(product);
  std::sort(campaign.products.begin(), campaign.products.end());
  PEAR_TRY(check(campaign, table));
  return campaign;
}

}  // namespace pear::offers
