#include "output/charts/figure_writer.hpp"

#include <chrono>
#include <utility>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>

#include "base/text.hpp"
#include "files/atomic_file.hpp"
#include "files/run_program.hpp"
#include "files/scratch_folder.hpp"
#include "files/whole_file.hpp"
#include "output/charts/chart.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// gnuplot's name for its drawing. It runs in the scratch folder, because paths would appear in the SVG,
/// which must be the same for the same figure.
std::string drawing_name(FigureFormat format) { return "figure." + extension(format); }

/// gnuplot's SVG names a font exactly as given, but a viewer needs weight and a fallback font; and its
/// titles, which a viewer shows, are names of its own. What is replaced here contains double quotes or tags,
/// which no text of the data does (see field(); gnuplot escapes the rest).
std::string finished_svg(std::string svg, const result::Figure& figure) {
  const std::string title =
      absl::StrReplaceAll(without_controls(figure.title), {{"&", "&amp;"}, {"<", "&lt;"}});
  constexpr std::string_view kOwnName = "<title>gnuplot_plot_";
  for (std::size_t at = svg.find(kOwnName); at != std::string::npos; at = svg.find(kOwnName, at))
    svg.erase(at, svg.find('\n', at) - at);
  return absl::StrReplaceAll(
      svg, {{"<title>Gnuplot</title>", fmt::format("<title>{}</title>", title)},
            {"font-family=\"Lato:Bold\"", "font-family=\"Lato, sans-serif\" font-weight=\"bold\""},
            {"font-family=\"Lato\"", "font-family=\"Lato, sans-serif\""}});
}

OrError<void> run_gnuplot(const files::ScratchFolder& scratch) {
  constexpr std::chrono::seconds kLongest{60};
  PEAR_ASSIGN(const files::ProgramEnd end,
              files::run_program({"gnuplot", "script.gp"}, scratch.path(), "messages", kLongest));
  if (end == files::ProgramEnd::not_found)
    return io_error(
        "no figure was drawn: gnuplot is not installed. Install it (Debian: apt install gnuplot-nox "
        "fonts-lato), or use --figure none.");
  if (end == files::ProgramEnd::too_slow)
    return io_error(
        fmt::format("no figure was drawn: gnuplot did not finish within {} seconds.", kLongest.count()));
  if (end == files::ProgramEnd::well) return {};
  const std::string said = files::read_whole_file(scratch.file("messages")).value_or("");
  return io_error(fmt::format("no figure was drawn: gnuplot failed with {}", in_quotes(said)));
}

}  // namespace

std::string extension(FigureFormat format) { return format == FigureFormat::svg ? "svg" : "png"; }

OrError<std::vector<files::AtomicFile>> draw_figure(const result::Figure& figure, const std::string& folder,
                                                    const std::string& stem,
                                                    const std::vector<FigureFormat>& formats) {
  const files::ScratchFolder scratch;
  if (!scratch.made())
    return io_error("no figure was drawn: no temporary folder could be created. Check TMPDIR.");
  const Drawing drawing = draw(figure);
  std::string script;
  for (const FigureFormat format : formats) script += drawing.script(format, drawing_name(format));
  for (const auto& [name, content] : drawing.files())
    PEAR_TRY(files::write_file(scratch.file(name), content));
  PEAR_TRY(files::write_file(scratch.file("script.gp"), script));
  PEAR_TRY(run_gnuplot(scratch));
  std::vector<files::AtomicFile> written;
  for (const FigureFormat format : formats) {
    const std::string bytes = files::read_whole_file(scratch.file(drawing_name(format))).value_or("");
    if (bytes.empty()) return io_error("no figure was drawn: gnuplot wrote nothing.");
    PEAR_ASSIGN(files::AtomicFile file,
                files::AtomicFile::create(folder + "/" + stem + "." + extension(format)));
    PEAR_TRY(file.write(format == FigureFormat::svg ? finished_svg(bytes, figure) : bytes));
    PEAR_TRY(file.finish());
    written.push_back(std::move(file));
  }
  return written;
}

}  // namespace pear::output
