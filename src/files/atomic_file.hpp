// Files that appear whole or not at all.
#pragma once

#include <string>
#include <string_view>

#include "base/error.hpp"

namespace pear::files {

/// A file that is written under another name in its folder, and gets its own name by commit(). Readers see
/// either the old file or the new one. Writes are buffered.
class AtomicFile {
 public:
  /// Errors: io, naming the path and the system's reason.
  [[nodiscard]] static OrError<AtomicFile> create(const std::string& path);
  /// The same under the name PATH.part, locked against a second writer; replaces a file that a killed writer
  /// left there. Error: io, also if another process is writing the same file now.
  [[nodiscard]] static OrError<AtomicFile> create_locked(const std::string& path);
  AtomicFile(AtomicFile&& other) noexcept;
  AtomicFile& operator=(AtomicFile&& other) noexcept;
  ~AtomicFile();  ///< removes the file, unless it was committed

  [[nodiscard]] OrError<void> write(std::string_view bytes);
  /// Syncs the file, renames it, syncs the folder.
  [[nodiscard]] OrError<void> commit();
  [[nodiscard]] const std::string& path() const { return path_; }
  /// The name until then, for code that writes the file by other means.
  [[nodiscard]] const std::string& hidden_path() const { return hidden_path_; }

 private:
  AtomicFile(std::string path, std::string hidden_path, int descriptor);
  [[nodiscard]] OrError<void> flush();
  void discard();

  std::string path_;
  std::string hidden_path_;
  int descriptor_ = -1;
  std::string buffer_;
};

/// Writes a whole file at once.
[[nodiscard]] OrError<void> write_file(const std::string& path, std::string_view bytes);

/// Checks that files can be created next to `path`, without creating any. Errors: io.
[[nodiscard]] OrError<void> check_writable(const std::string& path);

/// Creates the folder and its parents, and checks that files can be created there. Errors: io.
[[nodiscard]] OrError<void> make_folder(const std::string& path);

}  // namespace pear::files
