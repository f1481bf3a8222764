// What a question returns: the link between questions and writers.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "result/figure.hpp"
#include "result/table.hpp"

namespace pear::result {

/// What a selection contains.
struct Population {
  std::uint64_t customers = 0;  ///< with at least one line
  std::uint64_t orders = 0;     ///< with at least one line that is not a return
  std::uint64_t lines = 0;      ///< returns included
  std::uint64_t returns = 0;    ///< lines that are returns
  std::optional<Date> first_date, last_date;
  std::optional<Decimal> amount;     ///< net of returns; none if amounts were not read, or are out of range
  std::uint64_t fee_lines = 0;       ///< lines that are fees, and no returns
  std::optional<Decimal> fees = {};  ///< part of the amount; none if the shop marks no fees
  std::uint32_t one_in = 0;          ///< a sample of 1 in so many of the shop's customers; 0: all of them
};

/// A statement that was tested on this very result.
struct Check {
  std::string statement;
  bool holds = false;
};

/// Names and values that say how a result was computed ("window", "90 days").
using Definitions = std::vector<std::pair<std::string, std::string>>;

/// The money that a sentence of the headline is about, so that findings of several questions can be compared.
struct Stake {
  std::size_t sentence = 0;
  std::int64_t units = 0;  ///< of Decimal, above 0
};

struct Result {
  std::string question;
  std::vector<std::string> headline;  ///< one to three sentences
  std::vector<Stake> stakes;          ///< of sentences about money
  Population population;
  std::optional<Population> whole;  ///< of the daybook, if the population is a selection of it
  std::string selection;            ///< in words
  std::string currency;             ///< of all money; empty if unknown
  Definitions definitions;
  std::vector<Table> tables;  ///< the main table first
  std::vector<Figure> figures;
  std::vector<Check> checks;
  std::vector<std::string> notes;  ///< what was left out, and why
};

}  // namespace pear::result
