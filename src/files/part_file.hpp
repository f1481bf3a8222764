// A file written beside the one it is to replace.
#pragma once

#include <string>

#include "base/error.hpp"

namespace pear::files {

/// PATH.part, locked against a second writer, and renamed over PATH when it is complete. Whoever reads PATH
/// sees the old file or the new one, whatever happens in between. A part file that a killed writer left is
/// taken over.
class PartFile {
 public:
  /// Errors: io, also where another process is writing the same file now.
  [[nodiscard]] static OrError<PartFile> create(const std::string& path);
  PartFile(PartFile&& other) noexcept;
  PartFile& operator=(PartFile&&) = delete;
  ~PartFile();  ///< removes the part file unless it was committed

  [[nodiscard]] const std::string& part_path() const { return part_path_; }
  /// Syncs the part file, renames it, syncs the folder.
  [[nodiscard]] OrError<void> commit();

 private:
  PartFile(std::string path, std::string part_path, int descriptor);
  std::string path_;
  std::string part_path_;
  int descriptor_ = -1;
};

}  // namespace pear::files
