#include "cli/command.hpp"

/// For jemalloc, which looks for this name: large pages, and no memory given back before the end of a process
/// that lives for seconds. A quarter of the time of a question would go into small pages otherwise.
extern "C" {
extern const char* malloc_conf;
const char* malloc_conf = "thp:always,metadata_thp:always,dirty_decay_ms:-1,muzzy_decay_ms:-1";
}

int main(int argc, char** argv) { return pear::cli::run_program_line({argv + 1, argv + argc}); }
