// Files that appear whole or not at all.
#pragma once

#include <chrono>
#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "files/unfinished.hpp"

namespace pear::files {

/// How long to wait for another writer, and what to call when the waiting begins.
struct Waiting {
  std::chrono::seconds longest{0};
  std::function<void()> begins;
};

/// A file that is written under a hidden name in its folder, and gets its own name by commit(). Readers see
/// either the old file or the new one. Writes are buffered. Hidden files that a killed program left in the
/// folder are removed.
class AtomicFile {
 public:
  /// Errors: io, naming the path and the system's reason; those of check_output().
  [[nodiscard]] static OrError<AtomicFile> create(const std::string& path);
  /// The same with one hidden name for all writers, so that there is one writer at a time. If another process
  /// is writing the file, waits for it. A link is followed. Error: io, also if the waiting takes too long.
  [[nodiscard]] static OrError<AtomicFile> create_locked(const std::string& path,
                                                         const Waiting& waiting = {});
  AtomicFile(AtomicFile&& other) noexcept;
  AtomicFile& operator=(AtomicFile&& other) noexcept;
  ~AtomicFile();  ///< removes the file, unless it was committed

  [[nodiscard]] OrError<void> write(std::string_view bytes);
  /// Writes everything to the disk, so that only the renaming is left. What other code writes must be there
  /// by then.
  [[nodiscard]] OrError<void> finish();
  /// Finishes the file, renames it, syncs the folder.
  [[nodiscard]] OrError<void> commit();
  [[nodiscard]] const std::string& path() const { return path_; }
  /// The name until then, for code that writes the file by other means.
  [[nodiscard]] const std::string& hidden_path() const { return hidden_path_; }

 private:
  AtomicFile(std::string path, std::string hidden_path, int descriptor);
  friend OrError<void> commit_together(std::vector<AtomicFile>& files);
  [[nodiscard]] OrError<void> write_now(std::string_view bytes);
  [[nodiscard]] OrError<void> rename();
  void discard();

  std::string path_;
  std::string hidden_path_;
  int descriptor_ = -1;
  std::string buffer_;
  bool is_finished_ = false;
  std::int64_t size_ = 0,
               on_its_way_ = 0;  ///< bytes written, and of these, those that go to the disk already
  Unfinished unfinished_;
};

/// Finishes all files, and then renames all of them: a signal takes effect before or after that. Error: io;
/// the files renamed until then stay.
[[nodiscard]] OrError<void> commit_together(std::vector<AtomicFile>& files);

/// Writes a whole file at once.
[[nodiscard]] OrError<void> write_file(const std::string& path, std::string_view bytes);

/// Checks that files can be created next to `path`, without creating any. Errors: io.
[[nodiscard]] OrError<void> check_writable(const std::string& path);

/// Creates the folder and its parents, and checks that files can be created there. Errors: io.
[[nodiscard]] OrError<void> make_folder(const std::string& path);

/// Removes the hidden files in a folder that a killed program left there: no process has them locked.
void remove_leftovers(const std::string& folder);

/// A lock on a folder for as long as it lives, for those who change a file that several programs write. Waits
/// for the other programs. None where the system cannot lock folders.
class FolderLock {
 public:
  explicit FolderLock(const std::string& folder);
  ~FolderLock();
  FolderLock(const FolderLock&) = delete;
  FolderLock& operator=(const FolderLock&) = delete;

 private:
  int descriptor_;
};

}  // namespace pear::files
