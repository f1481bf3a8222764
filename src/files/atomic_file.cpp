#include "files/atomic_file.hpp"

#include <cerrno>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <map>
#include <mutex>
#include <set>
#include <thread>
#include <utility>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include "files/inputs.hpp"

namespace pear::files {
namespace {

constexpr std::size_t kBuffer = std::size_t{1} << 18U;
constexpr std::string_view kHidden = ".unfinished";  ///< the ending of hidden files

tl::unexpected<Error> cannot_write(const std::string& path) {
  return io_error(fmt::format("cannot write {}: {}.", path, std::strerror(errno)));
}

/// Whether the descriptor is still the file of that name: its last writer may have renamed it in the
/// meantime.
bool is_still(int descriptor, const std::string& path) {
  struct stat opened {};
  struct stat named {};
  return fstat(descriptor, &opened) == 0 && stat(path.c_str(), &named) == 0 &&
         opened.st_ino == named.st_ino && opened.st_dev == named.st_dev;
}

/// Makes the new name survive a power failure. If the system cannot sync a folder, the file itself is still
/// complete.
void sync_folder(const std::string& path) {
  std::filesystem::path folder = std::filesystem::path(path).parent_path();
  if (folder.empty()) folder = ".";
  const int descriptor = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (descriptor < 0) return;
  fsync(descriptor);
  close(descriptor);
}

/// Once for each folder, because a folder may have many files.
void remove_leftovers_once(const std::filesystem::path& folder) {
  static std::mutex mutex;
  static std::set<std::string> known;
  const std::lock_guard lock(mutex);
  if (known.insert(folder.string()).second) remove_leftovers(folder.empty() ? "." : folder.string());
}

}  // namespace

AtomicFile::AtomicFile(std::string path, std::string hidden_path, int descriptor)
    : path_(std::move(path)),
      hidden_path_(std::move(hidden_path)),
      descriptor_(descriptor),
      unfinished_(hidden_path_) {}

AtomicFile::AtomicFile(AtomicFile&& other) noexcept
    : path_(std::move(other.path_)),
      hidden_path_(std::move(other.hidden_path_)),
      descriptor_(std::exchange(other.descriptor_, -1)),
      buffer_(std::move(other.buffer_)),
      is_finished_(other.is_finished_),
      size_(other.size_),
      on_its_way_(other.on_its_way_),
      unfinished_(std::move(other.unfinished_)) {}

AtomicFile& AtomicFile::operator=(AtomicFile&& other) noexcept {
  if (this == &other) return *this;
  discard();
  path_ = std::move(other.path_);
  hidden_path_ = std::move(other.hidden_path_);
  descriptor_ = std::exchange(other.descriptor_, -1);
  buffer_ = std::move(other.buffer_);
  is_finished_ = other.is_finished_;
  size_ = other.size_;
  on_its_way_ = other.on_its_way_;
  unfinished_ = std::move(other.unfinished_);
  return *this;
}

AtomicFile::~AtomicFile() { discard(); }

void AtomicFile::discard() {
  if (descriptor_ < 0) return;
  const auto uninterrupted = no_interruption();
  unlink(hidden_path_.c_str());  // before the lock is released: after that, a second writer may own the name
  unfinished_.forget();
  close(std::exchange(descriptor_, -1));
}

OrError<AtomicFile> AtomicFile::create(const std::string& path) {
  PEAR_TRY(check_output(path));
  const std::filesystem::path whole(path);
  remove_leftovers_once(whole.parent_path());
  for (;;) {
    std::string hidden =
        (whole.parent_path() / fmt::format(".{}.XXXXXX{}", whole.filename().string(), kHidden)).string();
    const auto uninterrupted = no_interruption();  // until the file is known as unfinished
    const int descriptor = mkostemps(hidden.data(), static_cast<int>(kHidden.size()), O_CLOEXEC);
    if (descriptor < 0) return cannot_write(path);
    // Locked, so that remove_leftovers() of another program knows that it is in use.
    const bool is_taken = flock(descriptor, LOCK_EX | LOCK_NB) != 0 && errno == EWOULDBLOCK;
    if (is_taken || !is_still(descriptor, hidden)) {
      close(descriptor);
      continue;
    }
    const mode_t mask = umask(0);
    umask(mask);
    fchmod(descriptor, 0666 & ~mask);
    return AtomicFile(path, hidden, descriptor);
  }
}

OrError<AtomicFile> AtomicFile::create_locked(const std::string& path, const Waiting& waiting) {
  using Clock = std::chrono::steady_clock;
  std::error_code failure;
  if (std::filesystem::is_symlink(path, failure)) {
    const std::string target = std::filesystem::canonical(path, failure).string();
    if (failure) return io_error(fmt::format("cannot write {}: the link leads nowhere.", path));
    return create_locked(target, waiting);
  }
  const std::filesystem::path whole(path);
  const std::string hidden =
      (whole.parent_path() / fmt::format(".{}{}", whole.filename().string(), kHidden)).string();
  remove_leftovers_once(whole.parent_path());
  const Clock::time_point until = Clock::now() + waiting.longest;
  constexpr std::chrono::milliseconds kPause{50};
  for (bool told = false;; std::this_thread::sleep_for(kPause)) {
    const auto uninterrupted = no_interruption();  // until the file is known as unfinished
    const int descriptor = ::open(hidden.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW, 0666);
    if (descriptor < 0) return cannot_write(path);
    const bool is_locked = flock(descriptor, LOCK_EX | LOCK_NB) == 0;
    if (!is_locked && errno != EWOULDBLOCK) {
      close(descriptor);
      return cannot_write(path);
    }
    if (is_locked && is_still(descriptor, hidden)) {
      if (ftruncate(descriptor, 0) == 0) return AtomicFile(path, hidden, descriptor);
      close(descriptor);
      return cannot_write(path);
    }
    close(descriptor);
    if (Clock::now() >= until)
      return io_error(fmt::format(
          "cannot write {}: another import is writing it now. Wait until it ends, or use --wait SECONDS.",
          path));
    if (!std::exchange(told, true) && waiting.begins) waiting.begins();
  }
}

OrError<void> AtomicFile::write(std::string_view bytes) {
  is_finished_ = false;
  if (buffer_.size() + bytes.size() < kBuffer) {
    buffer_.append(bytes);
    return {};
  }
  PEAR_TRY(write_now(std::exchange(buffer_, {})));
  return write_now(bytes);
}

/// Every few MB are sent on their way to the disk at once, so that finish() has little left to wait for.
OrError<void> AtomicFile::write_now(std::string_view bytes) {
  while (!bytes.empty()) {
    const ssize_t written = ::write(descriptor_, bytes.data(), bytes.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return cannot_write(path_);
    bytes.remove_prefix(static_cast<std::size_t>(written));
    size_ += written;
  }
  constexpr std::int64_t kAtOnce = 8'000'000;
  if (size_ - on_its_way_ >= kAtOnce) {
    sync_file_range(descriptor_, on_its_way_, size_ - on_its_way_, SYNC_FILE_RANGE_WRITE);
    on_its_way_ = size_;
  }
  return {};
}

OrError<void> AtomicFile::finish() {
  if (is_finished_) return {};
  PEAR_TRY(write_now(std::exchange(buffer_, {})));
  if (fsync(descriptor_) != 0) return cannot_write(path_);
  is_finished_ = true;
  return {};
}

OrError<void> AtomicFile::rename() {
  if (std::rename(hidden_path_.c_str(), path_.c_str()) != 0) return cannot_write(path_);
  unfinished_.forget();
  close(std::exchange(descriptor_, -1));
  return {};
}

OrError<void> AtomicFile::commit() {
  PEAR_TRY(finish());
  const auto uninterrupted = no_interruption();
  PEAR_TRY(rename());
  sync_folder(path_);
  return {};
}

OrError<void> commit_together(std::vector<AtomicFile>& files) {
  for (AtomicFile& file : files) PEAR_TRY(file.finish());
  const auto uninterrupted = no_interruption();
  std::map<std::string, std::string> by_folder;  // one path in each
  for (AtomicFile& file : files) {
    PEAR_TRY(file.rename());
    by_folder.emplace(std::filesystem::path(file.path()).parent_path().string(), file.path());
  }
  for (const auto& [folder, path] : by_folder) sync_folder(path);
  return {};
}

OrError<void> write_file(const std::string& path, std::string_view bytes) {
  PEAR_ASSIGN(AtomicFile file, AtomicFile::create(path));
  PEAR_TRY(file.write(bytes));
  return file.commit();
}

OrError<void> check_writable(const std::string& path) {
  std::filesystem::path folder = std::filesystem::path(path).parent_path();
  if (folder.empty()) folder = ".";
  if (access(folder.c_str(), W_OK | X_OK) != 0) return cannot_write(path);
  return {};
}

OrError<void> make_folder(const std::string& path) {
  std::error_code failure;
  std::filesystem::create_directories(path, failure);
  if (failure) return io_error(fmt::format("cannot create the folder {}: {}.", path, failure.message()));
  if (access(path.c_str(), W_OK | X_OK) != 0)
    return io_error(fmt::format("cannot write to the folder {}: {}.", path, std::strerror(errno)));
  return {};
}

void remove_leftovers(const std::string& folder) {
  std::error_code failure;
  for (const auto& entry : std::filesystem::directory_iterator(folder, failure)) {
    const std::string name = entry.path().filename().string();
    if (!name.starts_with('.') || !name.ends_with(kHidden)) continue;
    const int descriptor = ::open(entry.path().c_str(), O_RDWR | O_CLOEXEC | O_NOFOLLOW);
    if (descriptor < 0) continue;
    const bool is_left = flock(descriptor, LOCK_EX | LOCK_NB) == 0 && is_still(descriptor, entry.path());
    if (is_left) unlink(entry.path().c_str());
    close(descriptor);
  }
}

FolderLock::FolderLock(const std::string& folder)
    : descriptor_(::open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)) {
  while (descriptor_ >= 0 && flock(descriptor_, LOCK_EX) != 0 && errno == EINTR) {
  }
}

FolderLock::~FolderLock() {
  if (descriptor_ >= 0) close(descriptor_);
}

}  // namespace pear::files
