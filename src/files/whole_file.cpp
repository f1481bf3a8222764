#include "files/whole_file.hpp"

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

#include <fmt/format.h>

#include "files/inputs.hpp"

namespace pear::files {

OrError<std::string> read_whole_file(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file) return io_error(fmt::format("cannot open {}: {}.", path, std::strerror(errno)));
  std::ostringstream bytes;
  bytes << file.rdbuf();
  return bytes.str();
}

OrError<std::string> read_input_file(const std::string& path) {
  protect_input(path);
  return read_whole_file(path);
}

}  // namespace pear::files
