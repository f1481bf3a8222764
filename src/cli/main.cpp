#include "cli/command.hpp"
#include "cli/signals.hpp"

/// The settings of jemalloc, which looks for this name: large pages, because small ones would take a quarter
/// of the time of a question; and freed memory is returned after a moment, because most of it is used again.
extern "C" {
extern const char* malloc_conf;
const char* malloc_conf = "thp:always,metadata_thp:always,dirty_decay_ms:300,muzzy_decay_ms:0";
}

int main(int argc, char** argv) {
  pear::cli::watch_signals();
  return pear::cli::run_program_line({argv + 1, argv + argc});
}
