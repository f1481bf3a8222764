#include "output/sinks/csv_sink.hpp"

#include <utility>

#include "files/atomic_file.hpp"
#include "output/tables/csv_writer.hpp"

namespace pear::output {
namespace {

class CsvSink final : public RowSink {
 public:
  explicit CsvSink(files::AtomicFile file) : file_(std::move(file)) {}
  OrError<void> add(const std::vector<std::string>& values) override {
    return file_.write(csv_line({values.begin(), values.end()}));
  }
  OrError<void> commit() override { return file_.commit(); }
  std::string name() const override { return file_.path(); }

 private:
  files::AtomicFile file_;
};

}  // namespace

OrError<std::unique_ptr<RowSink>> csv_sink(const std::string& path, const std::vector<SinkColumn>& columns) {
  PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(path));
  auto sink = std::make_unique<CsvSink>(std::move(file));
  std::vector<std::string> names;
  for (const SinkColumn& column : columns) names.push_back(column.name);
  PEAR_TRY(sink->add(names));
  return sink;
}

}  // namespace pear::output
