#include "intake/clean/customer_sample.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <md5.h>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"

namespace pear::intake {
OrError<std::uint32_t> parse_sample(std::string_view text) {
  constexpr std::uint32_t kMost = 1'000'000;
  std::uint32_t one_in = 0;
  const bool has_one = text.starts_with("1/");
  const char* const end = text.data() + text.size();
  const auto [read, fault] = std::from_chars(text.data() + (has_one ? 2 : 0), end, one_in);
  if (!has_one || fault != std::errc() || read != end || one_in < 2 || one_in > kMost)
    return usage_error(fmt::format(
        "--customers takes a sample such as 1/50, up to 1/1000000, not {}. To import the lines of chosen "
        "customers, use [[exclude]] in the intake file.",
        in_quotes(text)));
  return one_in;
}

bool is_in_sample(std::string_view customer_id, std::uint32_t one_in) {
  MD5_CTX context;
  MD5Init(&context);
  MD5Update(&context, reinterpret_cast<const std::uint8_t*>(customer_id.data()), customer_id.size());
  std::array<std::uint8_t, MD5_DIGEST_LENGTH> digest{};
  MD5Final(digest.data(), &context);
  std::uint32_t bits = 0;
  for (std::size_t i = 0; i < sizeof(bits); ++i) bits = bits << 8U | digest.at(i);
  return bits % one_in == 0;
}

void keep_sampled(std::uint32_t one_in, JoinedLines& lines, IntakeLog& log) {
  const expression::RowView view = lines.view();
  const expression::ViewColumn& column = view.columns[view.find(daybook::role::kCustomerId)];
  const auto& ids = std::get<daybook::TextValues>(*column.values);
  std::vector<std::uint8_t> sampled;  // by position in the dictionary
  for (std::size_t i = 0; i < ids.dictionary.size(); ++i)
    sampled.push_back(is_in_sample(ids.dictionary[i], one_in) ? 1 : 0);
  std::vector<std::uint8_t> stays(view.rows);
  for (std::size_t row = 0; row < stays.size(); ++row) {
    const std::uint32_t code = ids.codes[column.member(row)];
    stays[row] = code == daybook::kEmptyCode ? 1 : sampled[code];
  }
  lines.sample_lines(
      stays, fmt::format("not in the sample of 1 in {} customers", with_thousands(std::int64_t{one_in})),
      log);
}

}  // namespace pear::intake
