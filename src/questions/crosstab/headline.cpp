#include "questions/crosstab/headline.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::crosstab {
namespace {

struct Extremes {
  std::uint32_t best = 0, weakest = 0;
  std::int64_t most = 0, least = 0;
  std::size_t compared = 0;
};

/// The largest and the smallest of the figures of these places; the first of equals.
template <class At>
std::optional<Extremes> extremes_of(const std::vector<std::uint32_t>& places, const At& at) {
  std::optional<Extremes> found;
  for (const std::uint32_t place : places) {
    const CubeCell cell = at(place);
    if (!cell.filled) continue;
    if (!found) found = Extremes{place, place, cell.number, cell.number, 0};
    ++found->compared;
    if (cell.number > found->most) found->best = place, found->most = cell.number;
    if (cell.number < found->least) found->weakest = place, found->least = cell.number;
  }
  return found;
}

/// Leaves out combined rows and rows without a value: they are neither the largest nor the smallest.
std::vector<std::uint32_t> compared_places(const Axis& axis) {
  std::vector<std::uint32_t> places = axis.places[0].children;
  std::erase_if(places, [&](std::uint32_t place) {
    return axis.places[place].is_other || axis.places[place].code == axis.keys[0].distinct;
  });
  return places;
}

std::string share_text(std::int64_t part, std::int64_t whole) {
  return fmt::format("{:.1f}%", 100 * static_cast<double>(part) / static_cast<double>(whole));
}

/// " (34.2% of 234,500)", or " (8,100 in total)" where parts of the figure have no share.
std::string share_of_total(const Crosstab& crosstab, const Extremes& found, const std::string& currency) {
  const CubeCell all = crosstab.figure(0, 0, 0);
  if (!all.filled) return "";
  const std::string total = readable_figure(crosstab, 0, all.number, currency);
  const bool has_share = crosstab.can_share(0) && found.least >= 0 && all.number > 0;
  return has_share ? fmt::format(" ({} of {})", share_text(found.most, all.number), total)
                   : fmt::format(" ({} overall)", total);
}

/// "Highest sales by region: North with 80,300 (34.2% of 234,500); lowest: Islands with 9,800."
std::string compare(const Crosstab& crosstab, const Axis& axis, const Extremes& found,
                    const std::string& currency) {
  const std::string& figure = crosstab.figures()[0].name();
  const std::string noun = analysis::noun_of(axis.names[0]);
  const auto with = [&](std::uint32_t place, std::int64_t units) {
    return fmt::format("{} with {}", axis.places[place].label, readable_figure(crosstab, 0, units, ""));
  };
  const std::string total = share_of_total(crosstab, found, currency);
  if (found.compared == 1)
    return fmt::format("{} by {}: {}{}.", figure, noun, with(found.best, found.most), total);
  if (found.most == found.least)
    return fmt::format("{} is the same for every {}: {}.", figure, noun,
                       readable_figure(crosstab, 0, found.most, currency));
  const auto& places = axis.places[0].children;
  const bool all_shown = !axis.places[places.back()].is_other;
  const bool counts = crosstab.figures()[0].measure() == expression::Measure::count;
  return fmt::format(
      "{} {} by {}: {}{}{}.", counts ? "Most" : "Highest", figure, noun, with(found.best, found.most), total,
      all_shown ? (counts ? "; fewest: " : "; lowest: ") + with(found.weakest, found.least) : "");
}

/// The largest of all cells; empty where one axis repeats the other, as in months by year.
std::string best_cell(const Crosstab& crosstab) {
  std::optional<Extremes> best;
  std::uint32_t best_across = 0;
  std::size_t compared = 0;
  const std::vector<std::uint32_t> rows = compared_places(crosstab.down());
  for (const std::uint32_t column : compared_places(crosstab.across())) {
    const auto found = extremes_of(rows, [&](std::uint32_t row) {
      CubeCell cell = crosstab.figure(0, row, column);
      cell.filled = cell.filled && cell.has_lines;
      return cell;
    });
    if (found) compared += found->compared;
    if (!found || (best && found->most <= best->most)) continue;
    best = found;
    best_across = column;
  }
  if (!best || compared <= rows.size()) return "";
  return fmt::format("The highest cell is {} in {} with {}.", crosstab.down().places[best->best].label,
                     crosstab.across().places[best_across].label,
                     readable_figure(crosstab, 0, best->most, ""));
}

/// "sales in 2025 are 12.3% higher than in 2024.", for the last period of the whole; empty if there is none.
std::string growth_sentence(const Crosstab& crosstab) {
  const Growth& growth = *crosstab.growth();
  const Axis& axis = growth.is_down ? crosstab.down() : crosstab.across();
  const auto& shown = crosstab.shown();
  const auto found = std::find_if(shown.begin(), shown.end(), [](const ShownValue& each) {
    return each.kind == ShownValue::Kind::growth;
  });
  if (found == shown.end() || growth.depth != 1) return "";
  for (auto place = axis.places[0].children.rbegin(); place != axis.places[0].children.rend(); ++place) {
    const ShownCell cell = crosstab.value(*found, growth.is_down ? *place : 0, growth.is_down ? 0 : *place);
    if (!cell.filled) continue;
    const std::string before = axis.places[growth.previous[*place]].label;
    return fmt::format("{} in {}: {} {} than in {}{}.", crosstab.figures()[found->figure].name(),
                       axis.places[*place].label, analysis::per_cent(std::abs(cell.share)),
                       cell.share < 0 ? "lower" : "higher",
                       growth.is_unfinished[*place] != 0 ? "the same days of " : "", before);
  }
  return "";
}

}  // namespace

std::string readable_figure(const Crosstab& crosstab, std::size_t figure, std::int64_t units,
                            const std::string& currency) {
  switch (crosstab.unit(figure)) {
    case result::Unit::date:
      return to_text(Date{static_cast<std::int32_t>(units)});
    case result::Unit::money:
      return with_thousands(Decimal::from_units(units), crosstab.places(figure)) +
             (currency.empty() ? "" : " " + currency);
    default:
      return with_thousands(Decimal::from_units(units), crosstab.places(figure));
  }
}

std::vector<std::string> headline_of(const Crosstab& crosstab, const std::string& currency) {
  const expression::ValueType type = crosstab.figures()[0].type();
  const bool is_down = crosstab.compares_down();
  const Axis& axis = is_down ? crosstab.down() : crosstab.across();
  const auto found = extremes_of(compared_places(axis), [&](std::uint32_t place) {
    return is_down ? crosstab.figure(0, place, 0) : crosstab.figure(0, 0, place);
  });
  if (!found || (type != expression::ValueType::number && type != expression::ValueType::date))
    return {fmt::format("{} by {}.", crosstab.figures()[0].name(), axis.names[0])};
  std::vector<std::string> sentences;
  if (crosstab.growth())
    if (std::string growth = growth_sentence(crosstab); !growth.empty())
      sentences.push_back(std::move(growth));
  sentences.push_back(compare(crosstab, axis, *found, currency));
  if (is_down && crosstab.across().depth() > 0 && type == expression::ValueType::number) {
    const std::string cell = best_cell(crosstab);
    if (!cell.empty()) sentences.push_back(cell);
  }
  return sentences;
}

std::vector<result::Stake> stakes_of(const Crosstab& crosstab) {
  if (crosstab.unit(0) != result::Unit::money || !crosstab.adds_up(0)) return {};
  const bool is_down = crosstab.compares_down();
  const auto found =
      extremes_of(compared_places(is_down ? crosstab.down() : crosstab.across()), [&](std::uint32_t place) {
        return is_down ? crosstab.figure(0, place, 0) : crosstab.figure(0, 0, place);
      });
  if (!found || found->most <= 0) return {};
  const bool has_growth = crosstab.growth() && !growth_sentence(crosstab).empty();
  return {{has_growth ? 1U : 0U, found->most}};
}

}  // namespace pear::crosstab
