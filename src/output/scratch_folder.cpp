#include "output/scratch_folder.hpp"

#include <cerrno>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <sstream>

#include <fmt/format.h>

namespace pear {

ScratchFolder::ScratchFolder() {
  std::string name = (std::filesystem::temp_directory_path() / "pear-thread-XXXXXX").string();
  if (mkdtemp(name.data()) != nullptr) path_ = name;
}

ScratchFolder::~ScratchFolder() {
  std::error_code ignored;
  if (!path_.empty()) std::filesystem::remove_all(path_, ignored);
}

OrError<std::string> read_whole_file(const std::string& path) {
  std::ifstream file(path, std::ios::binary);
  if (!file) return io_error(fmt::format("cannot open {}: {}.", path, std::strerror(errno)));
  std::ostringstream bytes;
  bytes << file.rdbuf();
  return bytes.str();
}

}  // namespace pear
