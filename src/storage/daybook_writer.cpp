#include "storage/daybook_writer.hpp"

#include <functional>
#include <span>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <tbb/task_group.h>

#include "files/atomic_file.hpp"
#include "storage/daybook_info.hpp"
#include "storage/readable_tables.hpp"
#include "storage/schema.hpp"
#include "storage/segment_table.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {
namespace {

/// One array of the daybook, cut into pages that can be encoded in parallel.
struct PagedArray {
  std::string name;
  std::size_t size = 0;
  std::function<Page(std::size_t begin, std::size_t end)> encode;
  std::vector<Page> pages;
};

template <class T>
PagedArray integers(std::string name, std::span<const T> values) {
  return {std::move(name),
          values.size(),
          [values](std::size_t begin, std::size_t end) {
            return encode_page<T>(values.subspan(begin, end - begin), kEmptyOf<T>);
          },
          {}};
}

PagedArray texts(std::string name, const TextArray& array) {
  return {std::move(name),
          array.size(),
          [&array](std::size_t begin, std::size_t end) { return encode_text_page(array, begin, end); },
          {}};
}

/// Writes one daybook into one connection.
class DaybookWriter {
 public:
  DaybookWriter(sqlite::Database& database, const daybook::Daybook& daybook)
      : database_(database),
        daybook_(daybook),
        orders_per_customer_(counts_of(daybook.parts().order_offsets)),
        lines_per_order_(counts_of(daybook.parts().line_offsets)) {
    const daybook::DaybookParts& parts = daybook.parts();
    arrays_.push_back(
        integers<std::uint32_t>(std::string(array_name::kOrdersPerCustomer), orders_per_customer_));
    arrays_.push_back(integers<std::uint32_t>(std::string(array_name::kLinesPerOrder), lines_per_order_));
    arrays_.push_back(texts(std::string(array_name::kCustomerIds), parts.customer_ids));
    arrays_.push_back(texts(std::string(array_name::kProductIds), parts.product_ids));
    arrays_.push_back(texts(std::string(array_name::kOrderIds), parts.order_ids));
    arrays_.push_back(integers<std::uint32_t>(std::string(array_name::kLineProducts), parts.line_products));
    for (const daybook::Column& column : parts.columns) add_column(column);
  }

  /// The fingerprint of what was written.
  OrError<std::string> write(const daybook::Provenance& provenance) {
    PEAR_TRY(database_.execute(kSchema));
    tbb::task_group encoding;  // the pages are encoded while the readable tables are written
    encoding.run([this] { encode(); });
    DaybookInfo info = describe(provenance);
    const auto tables = write_tables(info);
    encoding.wait();
    PEAR_TRY(tables);
    PEAR_ASSIGN(info.fingerprint, write_segments());
    PEAR_TRY(write_about(database_, info));
    return info.fingerprint;
  }

 private:
  void add_column(const daybook::Column& column) {
    const std::string name = array_name::of_column(column.name);
    std::visit(
        [&](const auto& values) {
          const auto& array = daybook::array_of(values);
          using Value = typename std::remove_cvref_t<decltype(array)>::value_type;
          arrays_.push_back(integers<Value>(name, array));
        },
        column.values);
    if (const auto* text = std::get_if<daybook::TextValues>(&column.values))
      arrays_.push_back(texts(array_name::of_dictionary(column.name), text->dictionary));
  }

  void encode() {
    std::vector<std::pair<PagedArray*, std::size_t>> work;
    for (PagedArray& array : arrays_) {
      array.pages.resize((array.size + kPageValues - 1) / kPageValues);
      for (std::size_t page = 0; page < array.pages.size(); ++page) work.emplace_back(&array, page);
    }
    tbb::parallel_for(std::size_t{0}, work.size(), [&](std::size_t i) {
      const auto [array, page] = work[i];
      const std::size_t begin = page * kPageValues;
      array->pages[page] = array->encode(begin, std::min(array->size, begin + kPageValues));
    });
  }

  OrError<std::string> write_segments() {
    PEAR_ASSIGN(SegmentTable segments, SegmentTable::make(database_));
    for (const PagedArray& array : arrays_)
      for (std::size_t page = 0; page < array.pages.size(); ++page)
        PEAR_TRY(segments.add(array.name, page, array.pages[page]));
    return segments.finish();
  }

  [[nodiscard]] DaybookInfo describe(const daybook::Provenance& provenance) const {
    DaybookInfo info;
    info.format = kFormatVersion;
    info.customers = daybook_.customers();
    info.orders = daybook_.orders();
    info.lines = daybook_.lines();
    info.products = daybook_.products();
    info.provenance = provenance;
    for (const daybook::Column& column : daybook_.parts().columns) {
      const auto* text = std::get_if<daybook::TextValues>(&column.values);
      info.columns.push_back(
          {column.name, column.level, column.type(), text == nullptr ? 0 : text->dictionary.size()});
    }
    return info;
  }

  OrError<void> write_tables(const DaybookInfo& info) {
    PEAR_TRY(write_members(database_, members_of(daybook::Level::customer)));
    PEAR_TRY(write_members(database_, members_of(daybook::Level::product)));
    return write_description(database_, info);
  }

  [[nodiscard]] ListedMembers members_of(daybook::Level level) const {
    const bool is_customers = level == daybook::Level::customer;
    ListedMembers members{level, is_customers ? &daybook_.customer_ids() : &daybook_.product_ids(), {}};
    for (const daybook::Column& column : daybook_.parts().columns)
      if (column.level == level) members.columns.push_back(&column);
    return members;
  }

  sqlite::Database& database_;
  const daybook::Daybook& daybook_;
  std::vector<std::uint32_t> orders_per_customer_;
  std::vector<std::uint32_t> lines_per_order_;
  std::vector<PagedArray> arrays_;
};

}  // namespace

OrError<DaybookTarget> DaybookTarget::lock(const std::string& path, const files::Waiting& waiting) {
  PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create_locked(path, waiting));
  return DaybookTarget(std::move(file));
}

OrError<std::string> DaybookTarget::write(const daybook::Daybook& daybook,
                                          const daybook::Provenance& provenance,
                                          const std::vector<daybook::MemberList>& waiting) {
  return write_with(
      [&](sqlite::Database& database) { return DaybookWriter(database, daybook).write(provenance); },
      waiting);
}

OrError<std::string> DaybookTarget::write(const MergedSales& sales, const daybook::Daybook& built,
                                          const daybook::Provenance& provenance,
                                          const std::vector<daybook::MemberList>& waiting,
                                          const ShowProgress& progress) {
  return write_with(
      [&](sqlite::Database& database) { return sales.write(database, built, provenance, progress); },
      waiting);
}

OrError<std::string> DaybookTarget::write_with(const WriteSales& write_sales,
                                               const std::vector<daybook::MemberList>& waiting) {
  const auto write_all = [&]() -> OrError<std::string> {
    PEAR_ASSIGN(sqlite::Database database,
                sqlite::Database::open(file_.hidden_path(), file_.path(), sqlite::Database::Mode::write));
    // No journal: nobody reads the hidden file until it is complete.
    PEAR_TRY(
        database.execute(fmt::format("PRAGMA page_size = 65536; PRAGMA journal_mode = OFF; PRAGMA "
                                     "synchronous = OFF; PRAGMA locking_mode = EXCLUSIVE;"
                                     "PRAGMA application_id = {}; BEGIN",
                                     kApplicationId)));
    PEAR_ASSIGN(std::string fingerprint, write_sales(database));
    for (const daybook::MemberList& list : waiting) PEAR_TRY(write_waiting(database, list));
    PEAR_TRY(database.execute("COMMIT"));
    return fingerprint;
  };
  auto fingerprint = write_all();
  if (!fingerprint)
    return io_error(fmt::format("cannot write {}: {}", file_.path(), fingerprint.error().message));
  PEAR_TRY(file_.finish());
  return fingerprint;
}

OrError<std::string> write_daybook(const std::string& path, const daybook::Daybook& daybook,
                                   const daybook::Provenance& provenance) {
  PEAR_ASSIGN(DaybookTarget target, DaybookTarget::lock(path));
  PEAR_ASSIGN(std::string fingerprint, target.write(daybook, provenance));
  PEAR_TRY(target.commit());
  return fingerprint;
}

}  // namespace pear::storage
