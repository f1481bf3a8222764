// A folder for intermediate files.
#pragma once

#include <string>

#include "files/unfinished.hpp"

namespace pear::files {

/// A new folder among the system's temporary ones, removed with its contents. Also removes those that killed
/// programs left there.
class ScratchFolder {
 public:
  ScratchFolder();
  ~ScratchFolder();
  ScratchFolder(const ScratchFolder&) = delete;
  ScratchFolder& operator=(const ScratchFolder&) = delete;
  [[nodiscard]] bool made() const { return !path_.empty(); }
  [[nodiscard]] const std::string& path() const { return path_; }
  [[nodiscard]] std::string file(const std::string& name) const { return path_ + "/" + name; }

 private:
  std::string path_;
  int lock_ = -1;  ///< of the folder: other programs remove folders that no process has locked
  Unfinished unfinished_;
};

}  // namespace pear::files
