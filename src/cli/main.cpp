#include "cli/command.hpp"

int main(int argc, char** argv) { return pear::cli::run_program_line({argv + 1, argv + argc}); }
