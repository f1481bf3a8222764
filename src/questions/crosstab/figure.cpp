#include "questions/crosstab/figure.hpp"

#include <algorithm>
#include <limits>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/time_keys.hpp"
#include "base/text.hpp"

namespace pear::crosstab {
namespace {

constexpr const char* kLabel = "label";  ///< the column of the marks with their labels
constexpr std::size_t kMostMarks = 30;
constexpr std::size_t kMostBars = 40;  // for times, which need less room
constexpr std::size_t kMostLines = 8;
constexpr std::size_t kMostStacked = 6;

/// Values whose own order matters more than their size: numbers, and days of the week.
bool is_ordered(const Axis& axis) {
  return analysis::is_time(axis.keys[0]) || axis.keys[0].type == expression::ValueType::number ||
         axis.keys[0].source == "weekday";
}

/// The places of an axis that are drawn: those of its first key, or the largest of them and the total of the
/// others.
struct Drawn {
  const Axis* axis = nullptr;
  std::vector<std::uint32_t> places;
  std::uint64_t left_out = 0;
  bool with_other = false;
};

class FigureMaker {
 public:
  FigureMaker(const Crosstab& crosstab, std::string currency)
      : crosstab_(crosstab), shown_(crosstab.shown().front()), currency_(std::move(currency)) {}

  result::Figure make() {
    const bool both = crosstab_.down().has_several() && crosstab_.across().has_several();
    return both ? two_axes() : one_axis();
  }

 private:
  [[nodiscard]] bool is_share() const { return shown_.kind == ShownValue::Kind::share; }
  [[nodiscard]] bool adds_up() const { return crosstab_.adds_up(shown_.figure) && !is_share(); }

  [[nodiscard]] std::string value_name() const {
    const bool money = crosstab_.unit(shown_.figure) == result::Unit::money && !is_share();
    return money && !currency_.empty() ? fmt::format("{} ({})", shown_.name, currency_) : shown_.name;
  }

  [[nodiscard]] std::int64_t size_of(bool is_down, std::uint32_t place) const {
    return is_down ? crosstab_.figure(shown_.figure, place, 0).number
                   : crosstab_.figure(shown_.figure, 0, place).number;
  }

  /// The largest `most`, sorted by size unless their order is fixed.
  [[nodiscard]] Drawn drawn(bool is_down, std::size_t most) const {
    const Axis& axis = is_down ? crosstab_.down() : crosstab_.across();
    const std::vector<std::uint32_t>& places = axis.places[0].children;
    std::vector<std::pair<std::int64_t, std::size_t>> by_size;  // negative, so that the largest come first
    for (std::size_t i = 0; i < places.size(); ++i) by_size.emplace_back(-size_of(is_down, places[i]), i);
    const bool fits = places.size() <= most;
    const std::size_t kept = fits ? places.size() : most - 1;
    std::partial_sort(by_size.begin(), by_size.begin() + static_cast<std::ptrdiff_t>(kept), by_size.end());
    by_size.resize(kept);
    const Options& options = crosstab_.options();
    const bool chosen_order = is_down && (!options.sort.empty() || options.keep);
    if (is_ordered(axis) || chosen_order)
      std::sort(by_size.begin(), by_size.end(),
                [](const auto& a, const auto& b) { return a.second < b.second; });
    Drawn drawn{&axis, {}, places.size() - kept, !fits && adds_up()};
    for (const auto& [size, position] : by_size) drawn.places.push_back(places[position]);
    return drawn;
  }

  /// A value by place down and place across; nothing if it is empty.
  [[nodiscard]] std::optional<double> share_at(std::uint32_t down, std::uint32_t across) const {
    const ShownCell cell = crosstab_.value(shown_, down, across);
    return cell.filled ? std::optional(cell.share) : std::nullopt;
  }
  [[nodiscard]] std::int64_t number_at(std::uint32_t down, std::uint32_t across) const {
    const ShownCell cell = crosstab_.value(shown_, down, across);
    if (!cell.filled) return result::kEmptyCell;
    return crosstab_.unit(shown_.figure) == result::Unit::count ? cell.number / Decimal::kScale : cell.number;
  }

  /// The values of the marks at one place of the other axis; other = the total there minus what is drawn,
  /// exactly, because other is used only for figures that add up.
  [[nodiscard]] result::TableColumn column(const Drawn& marks, bool marks_are_down,
                                           std::uint32_t beside) const {
    const auto at = [&](std::uint32_t place) {
      return marks_are_down ? std::pair(place, beside) : std::pair(beside, place);
    };
    result::TableColumn column;
    if (is_share()) {
      std::vector<double> shares;
      for (const std::uint32_t place : marks.places)
        shares.push_back(
            share_at(at(place).first, at(place).second).value_or(std::numeric_limits<double>::quiet_NaN()));
      column = result::share_column("", value_name(), std::move(shares));
    } else {
      std::vector<std::int64_t> numbers;
      std::int64_t rest = number_at(at(0).first, at(0).second);
      for (const std::uint32_t place : marks.places) {
        numbers.push_back(number_at(at(place).first, at(place).second));
        if (numbers.back() != result::kEmptyCell) rest -= numbers.back();
      }
      if (marks.with_other) numbers.push_back(rest);
      column = result::integer_column("", crosstab_.unit(shown_.figure), value_name(), std::move(numbers));
    }
    column.places = crosstab_.places(shown_.figure);
    return column;
  }

  [[nodiscard]] static result::TableColumn labels(const Drawn& marks) {
    TextArray texts;
    for (const std::uint32_t place : marks.places) texts.push_back(marks.axis->places[place].label);
    if (marks.with_other) texts.push_back(fmt::format("other ({})", marks.left_out));
    return result::text_column(kLabel, marks.axis->names[0] + ".", std::move(texts));
  }

  /// Marks along one axis, and a series for each place of the other; the names of the series.
  std::vector<std::string> fill(const Drawn& marks, bool marks_are_down, const Drawn& series,
                                result::Table& table) const {
    table.columns.push_back(labels(marks));
    std::vector<std::string> names;
    for (const std::uint32_t place : series.places)
      names.push_back(analysis::add_series(table, series.axis->places[place].label,
                                           column(marks, marks_are_down, place)));
    if (series.with_other) names.push_back(add_other_series(marks, marks_are_down, series, names, table));
    return names;
  }

  [[nodiscard]] std::string add_other_series(const Drawn& marks, bool marks_are_down, const Drawn& series,
                                             const std::vector<std::string>& drawn,
                                             result::Table& table) const {
    result::TableColumn other = column(marks, marks_are_down, 0);
    auto& rest = std::get<0>(other.values);
    for (const std::string& name : drawn) {
      const result::TableColumn& of = table.column(name);
      for (std::size_t row = 0; row < rest.size(); ++row)
        if (!of.is_empty(row) && rest[row] != result::kEmptyCell) rest[row] -= of.integer(row);
    }
    return analysis::add_series(table, fmt::format("other ({})", series.left_out), std::move(other));
  }

  [[nodiscard]] static bool is_of_months(const Drawn& marks) {
    const expression::GroupKey& key = marks.axis->keys[0];
    return key.source == "month" && key.type == expression::ValueType::text;
  }
  [[nodiscard]] static result::LabelAxis axis_of(const Drawn& marks) {
    return is_of_months(marks) ? result::LabelAxis::months : result::LabelAxis::categories;
  }
  [[nodiscard]] static std::string label_title(const Drawn& marks) {
    return is_of_months(marks) ? "" : marks.axis->names[0];
  }
  [[nodiscard]] static std::optional<std::size_t> other_mark(const Drawn& marks) {
    return marks.with_other ? std::optional(marks.places.size()) : std::nullopt;
  }

  [[nodiscard]] result::Figure one_axis() const {
    constexpr std::size_t kAll = std::numeric_limits<std::size_t>::max();
    const bool is_down = crosstab_.compares_down();
    const Axis& axis = is_down ? crosstab_.down() : crosstab_.across();
    const bool time = analysis::is_time(axis.keys[0]);
    const bool standing = is_ordered(axis) && axis.places[0].children.size() <= kMostBars;
    const Drawn marks = drawn(is_down, standing || time ? kAll : kMostMarks);
    const Drawn whole{is_down ? &crosstab_.across() : &crosstab_.down(), {0}, 0, false};
    result::Figure figure;
    const std::string value = fill(marks, is_down, whole, figure.marks).front();
    result::TableColumn& values = figure.marks.column(value);
    values.heading = shown_.name;
    const std::vector<std::size_t> noticed = best_of(values, other_mark(marks));
    figure.subtitle = subtitle(marks, whole);
    if (standing)
      figure.chart = result::BarChart{
          kLabel, value, axis_of(marks), label_title(marks), value_name(), other_mark(marks), noticed, false};
    else if (time)
      figure.chart =
          result::LineChart{kLabel, {value}, axis_of(marks), label_title(marks), value_name(), false};
    else
      figure.chart =
          result::RankedBarChart{kLabel, value, "", "", value_name(), other_mark(marks), noticed, false};
    return figure;
  }

  /// The largest of several values; empty for shares.
  [[nodiscard]] static std::vector<std::size_t> best_of(const result::TableColumn& values,
                                                        std::optional<std::size_t> other) {
    if (values.unit == result::Unit::share || values.size() < 2) return {};
    std::optional<std::size_t> best;
    for (std::size_t row = 0; row < values.size(); ++row)
      if (other != row && !values.is_empty(row) && (!best || values.integer(row) > values.integer(*best)))
        best = row;
    return best ? std::vector<std::size_t>{*best} : std::vector<std::size_t>{};
  }

  [[nodiscard]] result::Figure two_axes() const {
    const Axis& down = crosstab_.down();
    const Axis& across = crosstab_.across();
    constexpr std::size_t kFewTimes = 4;
    constexpr std::size_t kAll = std::numeric_limits<std::size_t>::max();
    const std::size_t rows = down.places[0].children.size();
    const std::size_t columns = across.places[0].children.size();
    if (analysis::is_time(across.keys[0]) && columns >= kFewTimes)
      return lines(drawn(false, kAll), false, drawn(true, kMostLines));
    if (analysis::is_time(down.keys[0]) && rows >= kFewTimes)
      return lines(drawn(true, kAll), true, drawn(false, kMostLines));
    if (columns <= kMostStacked && (adds_up() || rows * columns <= kMostBars))
      return bars(drawn(true, kMostMarks), drawn(false, kMostStacked));
    return heat_map(drawn(true, kMostMarks), drawn(false, kMostMarks));
  }

  [[nodiscard]] result::Figure heat_map(const Drawn& marks, const Drawn& series) const {
    result::Figure figure;
    figure.chart = result::HeatMap{kLabel, fill(marks, true, series, figure.marks), value_name()};
    figure.subtitle = subtitle(marks, series);
    return figure;
  }

  [[nodiscard]] result::Figure lines(const Drawn& marks, bool marks_are_down, const Drawn& series) const {
    result::Figure figure;
    figure.chart = result::LineChart{kLabel,         fill(marks, marks_are_down, series, figure.marks),
                                     axis_of(marks), label_title(marks),
                                     value_name(),   false};
    figure.subtitle = subtitle(marks, series);
    return figure;
  }

  /// Bars that form a whole are stacked, others are grouped; those of a single series are ranked bars.
  [[nodiscard]] result::Figure bars(const Drawn& marks, const Drawn& series) const {
    result::Figure figure;
    const std::vector<std::string> names = fill(marks, true, series, figure.marks);
    figure.subtitle = subtitle(marks, series);
    const bool in_order = is_ordered(*series.axis);
    if (names.size() == 1) {
      figure.chart =
          result::RankedBarChart{kLabel, names.front(), "", "", value_name(), other_mark(marks), {}, false};
    } else if (adds_up() && !has_negative(figure.marks, names)) {
      const std::string total = analysis::add_series(figure.marks, "Total", column(marks, true, 0));
      figure.chart = result::StackedBarChart{kLabel, names, total, value_name(), in_order};
    } else {
      figure.chart = result::GroupedBarChart{kLabel, names, value_name(), in_order};
    }
    return figure;
  }

  [[nodiscard]] static bool has_negative(const result::Table& marks, const std::vector<std::string>& names) {
    for (const std::string& name : names) {
      const result::TableColumn& values = marks.column(name);
      for (std::size_t row = 0; row < values.size() && values.unit != result::Unit::share; ++row)
        if (!values.is_empty(row) && values.integer(row) < 0) return true;
    }
    return false;
  }

  [[nodiscard]] std::string subtitle(const Drawn& marks, const Drawn& series) const {
    std::string text = fmt::format("{} by {}", value_name(), marks.axis->names[0]);
    if (series.axis->has_several()) text += fmt::format(" and {}", series.axis->names[0]);
    for (const Drawn* drawn : {&marks, &series}) {
      if (drawn->left_out == 0) continue;
      text +=
          fmt::format("; the {} largest of {}", drawn->places.size(), drawn->places.size() + drawn->left_out);
      text += drawn->with_other ? ", the rest as other" : ", the rest not drawn";
    }
    return text;
  }

  const Crosstab& crosstab_;
  const ShownValue& shown_;
  std::string currency_;
};

}  // namespace

std::vector<result::Figure> figures_of(const Crosstab& crosstab, const std::string& currency) {
  const bool is_number = crosstab.figures().front().type() == expression::ValueType::number;
  if (!is_number || (!crosstab.down().has_several() && !crosstab.across().has_several())) return {};
  return {FigureMaker(crosstab, currency).make()};
}

}  // namespace pear::crosstab
