#pragma once
#include <string>
#include <string_view>
#include <vector>

#include "dardo/io/problem.hpp"

namespace dardo::cli {

enum class Tone { plain, strong, good, quiet };

/// `text` in a colour when standard output is a terminal and NO_COLOR is not set; else as it is.
std::string toned(std::string_view text, Tone tone);

/// Rows in columns as wide as their widest cell, two blanks apart.
class Table {
 public:
  explicit Table(std::vector<Tone> tones) : tones_(std::move(tones)) {}
  void add(std::vector<std::string> cells) { rows_.push_back(std::move(cells)); }
  bool empty() const { return rows_.empty(); }
  void print(std::string_view indent) const;

 private:
  std::vector<Tone> tones_;
  std::vector<std::vector<std::string>> rows_;
};

/// One line each on standard error.
void print_problems(const std::vector<io::FileProblem>& problems);
/// The same of what is only doubted, each as a warning.
void print_doubts(const std::vector<io::FileProblem>& doubts);
/// "dardo: ..." on standard error.
void print_error(std::string_view message);

}  // namespace dardo::cli
