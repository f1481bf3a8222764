#include "output/sinks/csv_sink.hpp"

#include <utility>

#include "files/atomic_file.hpp"
#include "output/tables/csv_writer.hpp"

namespace pear::output {
namespace {

class CsvSink final : public RowSink {
 public:
  CsvSink(files::AtomicFile file, const std::vector<SinkColumn>& columns, const CsvStyle& style)
      : file_(std::move(file)), columns_(columns), style_(style) {}

  OrError<void> begin() {
    std::vector<std::string_view> names;
    for (const SinkColumn& column : columns_) names.emplace_back(column.name);
    return file_.write(std::string(csv_beginning(style_)) + csv_line(names));
  }

  OrError<void> add(const std::vector<std::string>& values) override {
    if (style_.formulas == Formulas::keep) return file_.write(csv_line({values.begin(), values.end()}));
    std::vector<std::string> fields = values;
    for (std::size_t i = 0; i < fields.size(); ++i)
      if (columns_[i].type == SinkType::text) fields[i] = csv_text(fields[i], style_.formulas);
    return file_.write(csv_line({fields.begin(), fields.end()}));
  }
  OrError<void> commit() override { return file_.commit(); }
  std::string name() const override { return file_.path(); }

 private:
  files::AtomicFile file_;
  std::vector<SinkColumn> columns_;
  CsvStyle style_;
};

}  // namespace

OrError<std::unique_ptr<RowSink>> csv_sink(const std::string& path, const std::vector<SinkColumn>& columns,
                                           const CsvStyle& style) {
  PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(path));
  auto sink = std::make_unique<CsvSink>(std::move(file), columns, style);
  PEAR_TRY(sink->begin());
  return sink;
}

}  // namespace pear::output
