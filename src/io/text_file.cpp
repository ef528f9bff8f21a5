#include <fmt/format.h>

#include <unistd.h>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <iterator>
#include <system_error>

#include "dardo/io/scene.hpp"

namespace dardo::io {
namespace {

constexpr std::size_t kLargest = std::size_t{256} << 20;

tl::unexpected<std::vector<FileProblem>> refuse(const std::string& path, std::string what, std::string fix) {
  return tl::unexpected(std::vector<FileProblem>{{path, 0, "", std::move(what), std::move(fix)}});
}

/// Nothing when there is more than may be read.
bool read_stream(std::istream& in, std::string& out) {
  std::string block(std::size_t{1} << 16, '\0');
  while (in.read(block.data(), static_cast<std::streamsize>(block.size())) || in.gcount() > 0) {
    out.append(block, 0, static_cast<std::size_t>(in.gcount()));
    if (out.size() > kLargest) return false;
  }
  return true;
}

}  // namespace

FileResult<std::string> read_text(const std::string& path) {
  std::string out;
  if (path == "-") {
    if (!read_stream(std::cin, out)) return refuse("standard input", "is longer than 256 MiB", "a scene");
    return out;
  }
  std::error_code ignored;
  if (std::filesystem::is_directory(path, ignored)) return refuse(path, "is a folder", "a file");
  std::ifstream in(path, std::ios::binary);
  if (!in) return refuse(path, fmt::format("cannot be read: {}", std::strerror(errno)), "a file that exists");
  if (!read_stream(in, out)) return refuse(path, "is longer than 256 MiB", "a scene");
  return out;
}

FileResult<void> write_text(const std::string& path, std::string_view text) {
  std::error_code ignored;
  if (std::filesystem::is_directory(path, ignored)) return refuse(path, "is a folder", "the name of a file");
  // What is no file of its own, as a pipe or a device, is written to; a link stays one, and what it leads to
  // is replaced.
  const auto status = std::filesystem::status(path, ignored);
  if (std::filesystem::exists(status) && !std::filesystem::is_regular_file(status)) {
    std::ofstream out(path, std::ios::binary);
    out.write(text.data(), static_cast<std::streamsize>(text.size()));
    out.close();
    if (out) return {};
    return refuse(path, fmt::format("cannot be written: {}", std::strerror(errno)),
                  "a place where files can be written");
  }
  if (std::filesystem::is_symlink(path, ignored)) {
    const std::string target = std::filesystem::weakly_canonical(path, ignored).string();
    if (!target.empty() && target != path && !std::filesystem::is_symlink(target, ignored))
      return write_text(target, text);
  }
  const std::string beside = fmt::format("{}.{}.part", path, ::getpid());
  std::ofstream out(beside, std::ios::binary);
  out.write(text.data(), static_cast<std::streamsize>(text.size()));
  out.close();
  std::error_code failed;
  if (out) {
    std::filesystem::rename(beside, path, failed);
    if (!failed) return {};
  }
  const std::string why = failed ? failed.message() : std::strerror(errno);
  std::filesystem::remove(beside, ignored);
  return refuse(path, "cannot be written: " + why, "a place where files can be written");
}

}  // namespace dardo::io
