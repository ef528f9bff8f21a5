#pragma once
#include <filesystem>
#include <fstream>
#include <iterator>
#include <string>

namespace dardo::test {

inline std::string read_file(const std::string& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

inline void write_file(const std::string& path, const std::string& text) {
  std::ofstream(path, std::ios::binary) << text;
}

inline std::string source_path(const std::string& path) { return std::string(DARDO_SOURCE_DIR) + "/" + path; }
inline std::string source_file(const std::string& path) { return read_file(source_path(path)); }

/// A new empty folder that goes away with its owner.
class Folder {
 public:
  Folder() {
    std::string pattern = (std::filesystem::temp_directory_path() / "dardo-XXXXXX").string();
    path_ = ::mkdtemp(pattern.data());
  }
  Folder(const Folder&) = delete;
  ~Folder() { std::filesystem::remove_all(path_); }
  std::string operator/(const std::string& name) const { return path_ + "/" + name; }
  const std::string& path() const { return path_; }
  std::size_t files() const {
    return static_cast<std::size_t>(std::distance(std::filesystem::directory_iterator(path_), {}));
  }

 private:
  std::string path_;
};

}  // namespace dardo::test
