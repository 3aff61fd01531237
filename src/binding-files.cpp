// What R does not say of files: whether one is a plain file, and that its bytes are on the disk;
// and the stream for errors, which libraries write to past R.
#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#ifdef _WIN32
#include <io.h>
#endif
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <string>

#include "binding-bridge.h"

using Rcpp::List;
using Rcpp::Named;

namespace {
#ifdef _WIN32
constexpr int kForSyncing = O_RDWR;
constexpr const char* kNowhere = "NUL";
int fsync(int file) {
  return _commit(file);
}
#else
constexpr int kForSyncing = O_RDONLY;
constexpr const char* kNowhere = "/dev/null";
#endif
}  // namespace

// "file", "folder", "other" (a pipe, device or socket) or "none".
// [[Rcpp::export]]
std::string file_kind_core(const std::string& path) {
  struct stat s;
  if (stat(path.c_str(), &s) != 0) return "none";
  return S_ISREG(s.st_mode) ? "file" : S_ISDIR(s.st_mode) ? "folder" : "other";
}

// Waits until a file's bytes are on the disk; the fault that the system names, or nothing.
// [[Rcpp::export]]
std::string sync_file_core(const std::string& path) {
  int file = open(path.c_str(), kForSyncing);
  if (file < 0) return std::strerror(errno);
  int failed = fsync(file) != 0 && errno != EINVAL ? errno : 0;
  if (close(file) != 0 && !failed) failed = errno;
  return failed ? std::strerror(failed) : "";
}

// Sends what is written to the stream for errors nowhere; what it gives brings the stream back.
// [[Rcpp::export]]
int mute_stderr_core(int restore) {
  std::fflush(nullptr);
  if (restore >= 0) {
    dup2(restore, STDERR_FILENO);
    close(restore);
    return -1;
  }
  int kept = dup(STDERR_FILENO), nowhere = open(kNowhere, O_WRONLY);
  if (kept >= 0 && nowhere >= 0) dup2(nowhere, STDERR_FILENO);
  if (nowhere >= 0) close(nowhere);
  return kept;
}
