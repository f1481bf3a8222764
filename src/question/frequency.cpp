#include "question/frequency.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "question/fold.hpp"

namespace pear {
namespace {

/// customers[n]: how many customers have n orders. Position 0 stays empty: without order nobody is in it.
struct Counts {
  std::vector<std::int64_t> customers{0};
  std::int64_t without_order = 0;
  std::int64_t window_incomplete = 0;
};

/// Counts the orders of one customer's first days.
class OrderCounter {
 public:
  OrderCounter(const Daybook& daybook, std::optional<std::int64_t> window, Date data_end)
      : daybook_(daybook), purchases_(daybook), window_(window), data_end_(data_end) {}

  void absorb(Counts& counts, std::uint32_t customer) const {
    const Run run = daybook_.orders_of(customer);
    std::uint32_t first = run.begin;
    while (first < run.end && !purchases_.is_order(first)) ++first;
    if (first == run.end) {
      ++counts.without_order;
      return;
    }
    const std::int64_t last_day = last_day_of_window(daybook_.date_of_order(first));
    if (window_ && last_day > data_end_.days) {
      ++counts.window_incomplete;
      return;
    }
    std::size_t orders = 0;
    for (std::uint32_t order = first; order < run.end; ++order) {
      if (daybook_.date_of_order(order).days > last_day) break;
      orders += purchases_.is_order(order) ? 1U : 0U;
    }
    if (counts.customers.size() <= orders) counts.customers.resize(orders + 1);
    ++counts.customers[orders];
  }

 private:
  [[nodiscard]] std::int64_t last_day_of_window(Date first) const {
    return window_ ? first.days + *window_ - 1 : data_end_.days;
  }

  const Daybook& daybook_;
  Purchases purchases_;
  std::optional<std::int64_t> window_;
  Date data_end_;
};

void merge(Counts& earlier, const Counts& later) {
  if (earlier.customers.size() < later.customers.size()) earlier.customers.resize(later.customers.size());
  for (std::size_t i = 0; i < later.customers.size(); ++i) earlier.customers[i] += later.customers[i];
  earlier.without_order += later.without_order;
  earlier.window_incomplete += later.window_incomplete;
}

double share(std::int64_t part, std::int64_t whole) {
  return static_cast<double>(part) / static_cast<double>(whole);
}

std::string in_window(const FrequencyOptions& options) {
  return options.within
             ? fmt::format(" in their first {}", counted(static_cast<std::uint64_t>(*options.within), "day"))
             : "";
}

Table distribution(const Counts& counts, std::int64_t counted_customers, const FrequencyOptions& options) {
  std::vector<std::int64_t> orders, customers;
  std::vector<double> shares, running;
  std::int64_t so_far = 0;
  for (std::size_t n = 1; n < counts.customers.size(); ++n) {
    if (counts.customers[n] == 0) continue;
    so_far += counts.customers[n];
    orders.push_back(static_cast<std::int64_t>(n));
    customers.push_back(counts.customers[n]);
    shares.push_back(share(counts.customers[n], counted_customers));
    running.push_back(share(so_far, counted_customers));
  }
  Table table{"",
              "Customers by number of orders",
              fmt::format("One row for each number of orders that customers placed{}.", in_window(options)),
              {}};
  table.columns.push_back(
      integer_column("orders", Unit::count, "Number of orders a customer placed.", orders));
  table.columns.push_back(
      integer_column("customers", Unit::count, "Customers who placed exactly so many orders.", customers));
  table.columns.push_back(
      share_column("share", "These customers as a share of all customers counted.", shares));
  table.columns.push_back(
      share_column("running_share", "Share of customers with so many orders or fewer.", running));
  return table;
}

/// Bars 1, 2, 3, ... and "N or more" where the tail is long: a bar at least for 98% of the customers, and up
/// to 12 of them.
Figure bars(const Counts& counts, std::int64_t counted_customers, const FrequencyOptions& options) {
  constexpr std::size_t kMostBars = 12;
  constexpr double kEnough = 0.98;
  const std::size_t most = counts.customers.size() - 1;
  std::size_t last = 0;
  std::int64_t so_far = 0;
  while (last < most && last + 1 < kMostBars && share(so_far, counted_customers) < kEnough)
    so_far += counts.customers[++last];
  TextArray labels;
  std::vector<double> shares;
  for (std::size_t n = 1; n <= last; ++n) {
    labels.push_back(std::to_string(n));
    shares.push_back(share(counts.customers[n], counted_customers));
  }
  if (last < most) {
    labels.push_back(last + 1 == most ? std::to_string(most) : fmt::format("{} or more", last + 1));
    shares.push_back(share(counted_customers - so_far, counted_customers));
  }
  Figure figure;
  figure.subtitle =
      fmt::format("Share of customers by the number of orders they placed{}; {}", in_window(options),
                  counted(static_cast<std::uint64_t>(counted_customers), "customer"));
  figure.marks.columns = {text_column("orders", "Number of orders.", std::move(labels)),
                          share_column("share", "Share of customers.", std::move(shares))};
  figure.label_title = "orders placed";
  figure.value_title = "share of customers";
  figure.noticed = {0};
  return figure;
}

std::string headline(const Counts& counts, std::int64_t counted_customers, const FrequencyOptions& options) {
  const std::int64_t once = counts.customers.size() > 1 ? counts.customers[1] : 0;
  const std::int64_t again = counted_customers - once;
  return fmt::format(
      "{} of {} ({:.1f}%) ordered again{}; {:.1f}% ordered only once{}.", with_thousands(again),
      counted(static_cast<std::uint64_t>(counted_customers), "customer"),
      100 * share(again, counted_customers),
      options.within ? fmt::format(" within {}", counted(static_cast<std::uint64_t>(*options.within), "day"))
                     : "",
      100 * share(once, counted_customers), options.within ? " in that time" : "");
}

/// The median number of orders, and the most.
std::string spread(const Counts& counts, std::int64_t counted_customers) {
  std::int64_t so_far = 0;
  std::size_t median = 0;
  while (2 * so_far < counted_customers) so_far += counts.customers[++median];
  return fmt::format("Half of them placed {} or fewer; the most frequent one placed {}.",
                     counted(median, "order"), counted(counts.customers.size() - 1, "order"));
}

void add_notes(const Counts& counts, const FrequencyOptions& options, Date data_end, Result& result) {
  if (counts.window_incomplete > 0)
    result.notes.push_back(fmt::format(
        "{} left out: too new to judge, since their first {} are not wholly within the data, which ends on "
        "{}.",
        counted(static_cast<std::uint64_t>(counts.window_incomplete), "customer"),
        counted(static_cast<std::uint64_t>(*options.within), "day"), to_text(data_end)));
  if (counts.without_order > 0)
    result.notes.push_back(
        fmt::format("{} left out: they have returns and no order.",
                    counted(static_cast<std::uint64_t>(counts.without_order), "customer")));
}

}  // namespace

OrError<Result> ask_frequency(const Asked& asked, const FrequencyOptions& options) {
  const Daybook& daybook = asked.daybook;
  Result result;
  result.question = "frequency";
  result.population = asked.population;
  const OrderCounter counter(daybook, options.within, asked.data_end);
  const Counts counts = fold_customers(
      daybook, [] { return Counts{}; },
      [&](Counts& state, std::uint32_t customer) { counter.absorb(state, customer); }, merge);

  std::int64_t customers = 0;
  std::int64_t orders = 0;
  for (std::size_t n = 1; n < counts.customers.size(); ++n) {
    customers += counts.customers[n];
    orders += static_cast<std::int64_t>(n) * counts.customers[n];
  }
  result.definitions = {
      {"order", "distinct order id of a customer with at least one line that is not a return"}};
  if (options.within)
    result.definitions.emplace_back(
        "window",
        fmt::format("days 1 to {} of a customer, day 1 being that of the first order", *options.within));
  result.tables.push_back(distribution(counts, customers, options));
  add_notes(counts, options, asked.data_end, result);
  const auto all = static_cast<std::int64_t>(result.population.customers);
  result.checks.push_back({fmt::format("the rows and the customers left out add up to all {}",
                                       counted(result.population.customers, "customer")),
                           customers + counts.window_incomplete + counts.without_order == all});
  if (!options.within)
    result.checks.push_back(
        {fmt::format("orders times customers add up to all {}", counted(result.population.orders, "order")),
         orders == static_cast<std::int64_t>(result.population.orders)});
  if (customers == 0) {
    result.headline = {"No customer can be counted."};
    return result;
  }
  result.headline = {headline(counts, customers, options), spread(counts, customers)};
  result.figures.push_back(bars(counts, customers, options));
  result.figures.back().title = result.headline.front();
  return result;
}

Question frequency_question() {
  const OptionDeclarations<FrequencyOptions> declarations = {
      whole_option<FrequencyOptions>({"within", "N", "", "count orders of each customer's first N days only"},
                                     &FrequencyOptions::within, 1, 36'500)};
  return {"frequency",
          "how many customers ordered how often",
          "Counts each customer's orders and shows how many customers placed one, two, three and more.\n"
          "With --within N only the first N days of each customer count, and only customers whose\n"
          "N days lie wholly within the data, so that old customers are not compared with new ones.",
          {"pear-thread frequency shop.daybook", "pear-thread frequency shop.daybook --within 90"},
          infos(declarations),
          [declarations](const OptionValues& values) -> OrError<PreparedQuestion> {
            PEAR_ASSIGN(const FrequencyOptions options, read_options(declarations, values));
            return PreparedQuestion{{std::string(role::kOrderDate), std::string(role::kIsReturn)},
                                    {},
                                    [options](const Asked& asked) { return ask_frequency(asked, options); }};
          }};
}

}  // namespace pear
