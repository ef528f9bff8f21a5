#include "terminal.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>

namespace dardo::cli {
namespace {

bool colours() {
  static const bool wanted = [] {
    const char* no_color = std::getenv("NO_COLOR");
    const char* kind = std::getenv("TERM");
    const bool dumb = kind != nullptr && std::string_view(kind) == "dumb";
    return ::isatty(STDOUT_FILENO) == 1 && !dumb && (no_color == nullptr || *no_color == '\0');
  }();
  return wanted;
}

}  // namespace

std::string toned(std::string_view text, Tone tone) {
  if (!colours() || tone == Tone::plain || text.empty()) return std::string(text);
  const char* code = tone == Tone::strong ? "1" : tone == Tone::good ? "1;32" : "2";
  return fmt::format("\033[{}m{}\033[0m", code, text);
}

void Table::print(std::string_view indent) const {
  std::vector<std::size_t> widths;
  for (const auto& row : rows_) {
    widths.resize(std::max(widths.size(), row.size()));
    for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], row[i].size());
  }
  for (const auto& row : rows_) {
    std::string line(indent);
    for (std::size_t i = 0; i < row.size(); ++i) {
      const bool last = i + 1 == row.size();
      line += toned(row[i], i < tones_.size() ? tones_[i] : Tone::plain);
      if (!last) line.append(widths[i] - row[i].size() + 2, ' ');
    }
    fmt::print("{}\n", line);
  }
}

void print_problems(const std::vector<io::FileProblem>& problems) {
  for (const io::FileProblem& p : problems) fmt::print(stderr, "{}\n", io::text(p));
  if (problems.size() > 1) fmt::print(stderr, "{} problems; nothing was done\n", problems.size());
}

void print_doubts(const std::vector<io::FileProblem>& doubts) {
  for (const io::FileProblem& p : doubts) fmt::print(stderr, "warning: {}\n", io::text(p));
}

void print_error(std::string_view message) { fmt::print(stderr, "dardo: {}\n", message); }

}  // namespace dardo::cli
