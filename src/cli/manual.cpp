#include "cli/manual.hpp"

#include <fmt/format.h>

#include "cli/command.hpp"

namespace pear::cli {
namespace {

/// Text in which nothing is a request of roff.
std::string plain(std::string_view text) {
  std::string escaped;
  bool begins_line = true;
  for (const char c : text) {
    if (begins_line && (c == '.' || c == '\'')) escaped += "\\&";
    begins_line = c == '\n';
    if (c == '\\') {
      escaped += "\\e";
    } else {
      if (c == '-') escaped += '\\';
      escaped += c;
    }
  }
  return escaped;
}

std::string options_of(const std::vector<analysis::OptionInfo>& options) {
  std::string text;
  for (const analysis::OptionInfo& option : options) {
    text += fmt::format(".TP\n\\fB{}\\fR", plain("--" + option.name));
    if (!option.placeholder.empty()) text += fmt::format(" \\fI{}\\fR", plain(option.placeholder));
    text += "\n" + plain(option.help);
    if (!option.default_text.empty()) text += plain(fmt::format(" (default: {})", option.default_text));
    text += "\n";
  }
  return text;
}

}  // namespace

std::string manual_page() {
  std::string page =
      ".TH PEAR\\-THREAD 1 \"\" \"Pear Thread\" \"User commands\"\n.SH NAME\npear\\-thread \\- analyses "
      "sales per customer and plans what to offer whom\n.SH SYNOPSIS\n\\fBpear\\-thread\\fR \\fICOMMAND\\fR "
      "[\\fIDAYBOOK\\fR] [\\fIOPTIONS\\fR]\n.SH DESCRIPTION\nImport your sales once into a daybook. Every "
      "question then reads this one file and writes tables and figures. You can omit \\fIDAYBOOK\\fR if the "
      "working folder contains only one.\n.SH OPTIONS OF EVERY COMMAND\n";
  page += options_of(common_options());
  for (const Command& command : commands()) {
    page +=
        fmt::format(".SH {}\n\\fBpear\\-thread {}\\fR {} [\\fIOPTIONS\\fR]\n.PP\n{}\n", plain(command.name),
                    plain(command.name), plain(command.words), plain(command.description));
    page += options_of(command.options);
    page += ".PP\nExamples:\n.nf\n";
    for (const std::string& example : command.examples) page += "  " + plain(example) + "\n";
    page += ".fi\n";
  }
  page +=
      ".SH EXIT STATUS\n.TP\n0\ndone\n.TP\n1\ninternal error or failed check\n.TP\n2\nwrong "
      "usage\n.TP\n3\nbad input or data\n"
      ".TP\n4\ncannot read or write\n"
      ".SH ENVIRONMENT\n.TP\nNO_COLOR\nplain text also on a terminal\n";
  return page;
}

}  // namespace pear::cli
