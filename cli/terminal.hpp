#pragma once
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "dardo/io/problem.hpp"

namespace dardo::cli {

enum class Tone { plain, strong, good, quiet };

/// As a terminal may show it: characters that would move the cursor, turn the direction of writing or are no
/// text at all stand there as \u{1b}, bytes that are none as \x{ff}.
std::string shown(std::string_view text);
/// How many columns a text takes that `shown` has made.
std::size_t columns(std::string_view text);

/// `text` in a colour when standard output is a terminal and NO_COLOR is not set; else as it is.
std::string toned(std::string_view text, Tone tone);

/// Rows in columns as wide as their widest cell, two blanks apart. Where the window is known (a terminal's,
/// or COLUMNS says it) the last cell of a row folds to it.
class Table {
 public:
  explicit Table(std::vector<Tone> tones) : tones_(std::move(tones)) {}
  /// What is in the cells is shown as text, whatever names hold.
  void add(std::vector<std::string> cells);
  /// A line below the last row, which no column goes by.
  void note(std::string line);
  bool empty() const { return rows_.empty(); }
  void print(std::string_view indent) const;

 private:
  std::vector<Tone> tones_;
  struct Row {
    std::vector<std::string> cells;
    bool note = false;
  };
  std::vector<Row> rows_;
};

/// One line each on standard error.
void print_problems(const std::vector<io::FileProblem>& problems);
/// The same of what is only doubted, each as a warning.
void print_doubts(const std::vector<io::FileProblem>& doubts);
/// "dardo: ..." on standard error.
void print_error(std::string_view message);
/// A line on standard error, if anybody reads it.
void print_note(std::string_view line);
/// Whether the file that `option` names for output is none of the inputs, whatever links lead to it; prints
/// what is wrong otherwise. An input may be "-", standard input.
bool spares_inputs(std::string_view option, const std::string& output, std::span<const std::string> inputs);

}  // namespace dardo::cli
