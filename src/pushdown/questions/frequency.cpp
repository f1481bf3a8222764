#include "pushdown/questions/frequency.hpp"

#include <utility>

#include "pushdown/questions/customer_lister.hpp"
#include "pushdown/questions/order_counter.hpp"
#include "questions/frequency/question.hpp"

namespace pear::pushdown {

OrError<result::Result> answer_frequency(const analysis::OptionValues& values, const SelectedLines& lines,
                                         const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const frequency::Options options, frequency::read_options(values));
  PEAR_ASSIGN(const GroupReader reader, GroupReader::read_groups("by", options.by, lines));
  frequency::Counts counts{options, input.daybook, reader.groups(), {}, {}, {}, {}, {}, false};
  counts.orders.groups.resize(counts.groups.count);
  OrderCounter counter(options, reader, input.data_end);
  PEAR_TRY(counter.count_customers(counts));
  if (options.count) PEAR_TRY(counter.count_values(lines, counts));
  PEAR_TRY(counter.count_days(counts.orders.groups));
  PEAR_ASSIGN(counts.orders.without_order, reader.customers_without_order());
  PEAR_ASSIGN(counts.orders.incomplete, counter.incomplete());
  PEAR_ASSIGN(counts.distribution, frequency::distribute(counts.values, options, counts.groups));
  if (options.list) PEAR_TRY(CustomerLister(options, counter, reader, lines, input).list(counts));
  if (lines.session.explains()) return result::Result{};
  return frequency::result_of(counts, input);
}

}  // namespace pear::pushdown
