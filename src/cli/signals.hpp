// What ends the program from outside.
#pragma once

namespace pear::cli {

/// From now on an interrupt, a termination or the end of the terminal (INT, TERM, HUP) ends the program with
/// a message and 128 plus the signal's number, and leaves no hidden files. A signal that the caller ignores
/// stays ignored. Writing to a closed pipe or beyond a limit is an error like any other. Call it before any
/// other thread exists.
void watch_signals();

}  // namespace pear::cli
