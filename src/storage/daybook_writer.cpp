#include "storage/daybook_writer.hpp"

#include <functional>
#include <span>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <tbb/task_group.h>

#include "files/atomic_file.hpp"
#include "storage/daybook_info.hpp"
#include "storage/schema.hpp"
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

std::vector<std::uint32_t> run_lengths(const std::vector<std::uint32_t>& offsets) {
  std::vector<std::uint32_t> lengths;
  lengths.reserve(offsets.size());
  for (std::size_t i = 1; i < offsets.size(); ++i) lengths.push_back(offsets[i] - offsets[i - 1]);
  return lengths;
}

constexpr std::size_t kMostColumns = 1'990;  ///< of a readable table: SQLite's tables have up to 2,000

/// Writes one daybook into one connection.
class DaybookWriter {
 public:
  DaybookWriter(sqlite::Database& database, const daybook::Daybook& daybook)
      : database_(database),
        daybook_(daybook),
        orders_per_customer_(run_lengths(daybook.parts().order_offsets)),
        lines_per_order_(run_lengths(daybook.parts().line_offsets)) {
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
    PEAR_TRY(write_segments());
    info.fingerprint = fingerprint_.hex();
    PEAR_TRY(write_about(info));
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

  OrError<void> write_segments() {
    PEAR_ASSIGN(sqlite::Statement insert,
                database_.prepare("INSERT INTO segments VALUES (?, ?, ?, ?, ?, ?)"));
    for (const PagedArray& array : arrays_) {
      for (std::size_t page = 0; page < array.pages.size(); ++page) {
        const Page& made = array.pages[page];
        insert.bind(1, array.name)
            .bind(2, static_cast<std::int64_t>(page))
            .bind(3, std::int64_t{made.members});
        insert.bind(4, static_cast<std::int64_t>(made.codec))
            .bind(5, static_cast<std::int64_t>(made.checksum));
        PEAR_TRY(insert.bind_blob(6, made.bytes).run());
        fingerprint_.add(array.name, made);
      }
    }
    return database_.execute("CREATE UNIQUE INDEX segments_by_place ON segments (array, page)");
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
    PEAR_TRY(write_members("customers", daybook::Level::customer, daybook::role::kCustomerId,
                           daybook_.customer_ids()));
    PEAR_TRY(write_members("products", daybook::Level::product, daybook::role::kProductId,
                           daybook_.product_ids()));
    PEAR_ASSIGN(sqlite::Statement column, database_.prepare("INSERT INTO columns VALUES (NULL, ?, ?, ?, ?)"));
    for (const DaybookInfo::ColumnInfo& each : info.columns) {
      column.bind(1, each.name).bind(2, daybook::to_text(each.level)).bind(3, daybook::to_text(each.type));
      if (each.type == daybook::ColumnType::text)
        column.bind(4, static_cast<std::int64_t>(each.distinct_texts));
      else
        column.bind_null(4);
      PEAR_TRY(column.run());
    }
    PEAR_ASSIGN(sqlite::Statement run,
                database_.prepare("INSERT INTO import_runs VALUES (NULL, ?, ?, ?, ?)"));
    for (const daybook::ImportRun& each : info.provenance.runs) {
      run.bind(1, each.command).bind(2, static_cast<std::int64_t>(each.lines_added));
      run.bind(3, static_cast<std::int64_t>(each.lines_replaced));
      PEAR_TRY(run.bind(4, static_cast<std::int64_t>(each.lines)).run());
    }
    PEAR_TRY(write_sources(info));
    PEAR_ASSIGN(sqlite::Statement count,
                database_.prepare("INSERT INTO cleaning_counts VALUES (NULL, ?, ?)"));
    for (const daybook::CleaningCount& cleaning : info.provenance.cleaning)
      PEAR_TRY(count.bind(1, cleaning.what).bind(2, static_cast<std::int64_t>(cleaning.count)).run());
    return {};
  }

  OrError<void> write_sources(const DaybookInfo& info) {
    PEAR_ASSIGN(sqlite::Statement row,
                database_.prepare("INSERT INTO sources VALUES (NULL, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"));
    for (const daybook::SourceRecord& source : info.provenance.sources) {
      row.bind(1, std::int64_t{source.run}).bind(2, source.name);
      row.bind(3, static_cast<std::int64_t>(source.bytes)).bind(4, source.content_hash).bind(5, source.table);
      int column = 6;
      for (const std::uint64_t rows : {source.rows_read, source.rows_kept, source.rows_duplicate,
                                       source.rows_excluded, source.rows_rejected})
        row.bind(column++, static_cast<std::int64_t>(rows));
      PEAR_TRY(row.run());
    }
    return {};
  }

  /// The customers or products with their columns, a row each, readable with any SQLite client.
  OrError<void> write_members(const std::string& table, daybook::Level level, std::string_view id,
                              const TextArray& ids) {
    std::string definition = fmt::format("\"{}\" TEXT NOT NULL", id);
    std::string places = "?";
    std::vector<const daybook::Column*> columns;
    for (const daybook::Column& column : daybook_.parts().columns) {
      if (column.level != level || columns.size() == kMostColumns) continue;
      columns.push_back(&column);
      definition += fmt::format(", \"{}\" TEXT", column.name);
      places += ", ?";
    }
    PEAR_TRY(database_.execute(fmt::format("CREATE TABLE {} ({})", table, definition)));
    PEAR_ASSIGN(sqlite::Statement insert,
                database_.prepare(fmt::format("INSERT INTO {} VALUES ({})", table, places)));
    std::vector<std::string> values(columns.size());
    for (std::uint32_t member = 0; member < ids.size(); ++member) {
      insert.bind(1, ids[member]);
      for (std::size_t i = 0; i < columns.size(); ++i) {
        values[i] = daybook::value_text(columns[i]->values, member);
        if (values[i].empty())
          insert.bind_null(static_cast<int>(i) + 2);
        else
          insert.bind(static_cast<int>(i) + 2, values[i]);
      }
      PEAR_TRY(insert.run());
    }
    return {};
  }

  OrError<void> write_about(const DaybookInfo& info) {
    PEAR_ASSIGN(sqlite::Statement insert, database_.prepare("INSERT INTO about VALUES (?, ?)"));
    std::vector<std::pair<std::string, std::string>> facts = {{"format_version", std::to_string(info.format)},
                                                              {"fingerprint", info.fingerprint},
                                                              {"shop", info.provenance.shop},
                                                              {"currency", info.provenance.currency},
                                                              {"customers", std::to_string(info.customers)},
                                                              {"orders", std::to_string(info.orders)},
                                                              {"lines", std::to_string(info.lines)},
                                                              {"products", std::to_string(info.products)},
                                                              {"checksum", checksum_of(info)}};
    if (info.provenance.sample > 0) facts.emplace_back("sample", std::to_string(info.provenance.sample));
    for (const auto& [key, value] : facts) PEAR_TRY(insert.bind(1, key).bind(2, value).run());
    return {};
  }

  sqlite::Database& database_;
  const daybook::Daybook& daybook_;
  std::vector<std::uint32_t> orders_per_customer_;
  std::vector<std::uint32_t> lines_per_order_;
  std::vector<PagedArray> arrays_;
  Fingerprint fingerprint_;
};

/// A table like that of the members with lines.
OrError<void> write_waiting(sqlite::Database& database, const daybook::MemberList& list) {
  const bool is_customers = list.level == daybook::Level::customer;
  std::string definition = fmt::format("\"{}\" TEXT NOT NULL",
                                       is_customers ? daybook::role::kCustomerId : daybook::role::kProductId);
  std::string places = "?";
  const std::size_t columns = std::min(list.columns.size(), kMostColumns);
  for (std::size_t column = 0; column < columns; ++column) {
    definition += fmt::format(", \"{}\" TEXT", list.columns[column]);
    places += ", ?";
  }
  PEAR_TRY(database.execute(fmt::format("CREATE TABLE {} ({})", waiting_table(list.level), definition)));
  PEAR_ASSIGN(sqlite::Statement insert,
              database.prepare(fmt::format("INSERT INTO {} VALUES ({})", waiting_table(list.level), places)));
  for (std::size_t member = 0; member < list.ids.size(); ++member) {
    insert.bind(1, list.ids[member]);
    for (std::size_t column = 0; column < columns; ++column)
      insert.bind(static_cast<int>(column) + 2, list.values[column][member]);
    PEAR_TRY(insert.run());
  }
  return {};
}

}  // namespace

OrError<DaybookTarget> DaybookTarget::lock(const std::string& path, const files::Waiting& waiting) {
  PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create_locked(path, waiting));
  return DaybookTarget(std::move(file));
}

OrError<std::string> DaybookTarget::write(const daybook::Daybook& daybook,
                                          const daybook::Provenance& provenance,
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
    DaybookWriter writer(database, daybook);
    PEAR_ASSIGN(std::string fingerprint, writer.write(provenance));
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
