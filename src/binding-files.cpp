// What R does not say of files: whether one is a plain file, and that its bytes are on the disk.
#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <string>
#include <sys/stat.h>
#include <unistd.h>

#include "binding-bridge.h"

using Rcpp::List;
using Rcpp::Named;

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
  int file = open(path.c_str(), O_RDONLY);
  if (file < 0) return std::strerror(errno);
  int failed = fsync(file) != 0 && errno != EINVAL ? errno : 0;
  if (close(file) != 0 && !failed) failed = errno;
  return failed ? std::strerror(failed) : "";
}
