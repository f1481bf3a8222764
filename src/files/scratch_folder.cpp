#include "files/scratch_folder.hpp"

#include <cstdlib>
#include <filesystem>

namespace pear::files {

ScratchFolder::ScratchFolder() {
  std::string name = (std::filesystem::temp_directory_path() / "pear-thread-XXXXXX").string();
  if (mkdtemp(name.data()) != nullptr) path_ = name;
}

ScratchFolder::~ScratchFolder() {
  std::error_code ignored;
  if (!path_.empty()) std::filesystem::remove_all(path_, ignored);
}

}  // namespace pear::files
