// Any bytes as a CSV file, in any encoding: no crash, no hang, and the same rows for pieces of any size.
#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <cstring>
#include <memory>
#include <string>
#include <utility>
#include <vector>

#include "sources/csv_reader.hpp"
#include "sources/encoding.hpp"

namespace {

using namespace pear;

class HeldBytes final : public sources::ByteSource {
 public:
  explicit HeldBytes(std::string_view bytes) : rest_(bytes) {}
  OrError<std::size_t> read(std::span<char> into) override {
    const std::size_t count = std::min(into.size(), rest_.size());
    std::memcpy(into.data(), rest_.data(), count);
    rest_.remove_prefix(count);
    return count;
  }
  const std::string& name() const override { return name_; }
  std::uint64_t bytes_taken() const override { return 0; }
  std::optional<std::uint64_t> bytes_in_all() const override { return std::nullopt; }
  std::string content_hash() const override { return ""; }

 private:
  std::string_view rest_;
  std::string name_ = "held.csv";
};

/// The rows, each with its line and fields; the fault instead, if there is one.
std::vector<std::string> rows_of(std::string_view bytes, sources::Encoding encoding, std::size_t part_bytes) {
  auto reader = sources::CsvReader::open(sources::decoded(std::make_unique<HeldBytes>(bytes), encoding),
                                         std::nullopt, 0, part_bytes);
  if (!reader) return {reader.error().message};
  std::vector<std::string> all;
  const auto outcome = reader->for_each_part([](sources::CsvRows rows) { return rows; },
                                             [&](const sources::CsvRows& rows, std::uint64_t first_line) {
                                               for (std::size_t row = 0; row < rows.size(); ++row) {
                                                 std::string text =
                                                     std::to_string(first_line + rows.lines[row]);
                                                 for (std::size_t i = 0; i < rows.columns; ++i)
                                                   text.append(1, '\0').append(rows.field(row, i));
                                                 all.push_back(std::move(text));
                                               }
                                             });
  if (!outcome) return {outcome.error().message};
  return all;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size == 0) return 0;
  constexpr sources::Encoding kEncodings[] = {sources::Encoding::utf8, sources::Encoding::windows_1252,
                                              sources::Encoding::utf16_le, sources::Encoding::utf16_be};
  const sources::Encoding encoding = kEncodings[data[0] % 4];
  const std::string_view bytes(reinterpret_cast<const char*>(data + 1), size - 1);
  if (rows_of(bytes, encoding, 7) != rows_of(bytes, encoding, sources::CsvReader::kPartBytes)) std::abort();
  return 0;
}
