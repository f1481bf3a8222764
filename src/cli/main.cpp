#include "cli/command.hpp"

/// For jemalloc, which looks for this name: large pages, without which a quarter of the time of a question
/// would go into small ones; and what is freed is given back after a moment, in which most is taken again.
extern "C" {
extern const char* malloc_conf;
const char* malloc_conf = "thp:always,metadata_thp:always,dirty_decay_ms:300,muzzy_decay_ms:0";
}

int main(int argc, char** argv) { return pear::cli::run_program_line({argv + 1, argv + argc}); }
