#include "terminal.hpp"

#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>
#include <utf8proc.h>

#include <algorithm>
#include <charconv>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <limits>
#include <system_error>

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

/// How wide the window is; without one no line is too long.
std::size_t window() {
  static const std::size_t columns = [] {
    std::size_t said = 0;
    if (const char* text = std::getenv("COLUMNS"))
      std::from_chars(text, text + std::string_view(text).size(), said);
    winsize size{};
    if (said == 0 && ::isatty(STDOUT_FILENO) == 1 && ::ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0)
      said = size.ws_col;
    return said > 0 ? said : std::numeric_limits<std::size_t>::max();
  }();
  return columns;
}

/// Calls `visit(character, bytes)`; of bytes that are no character -1 and the first of them.
template <class Visit>
void each_character(std::string_view text, Visit&& visit) {
  while (!text.empty()) {
    utf8proc_int32_t character = -1;
    const auto* bytes = reinterpret_cast<const utf8proc_uint8_t*>(text.data());
    const auto read = utf8proc_iterate(bytes, static_cast<utf8proc_ssize_t>(text.size()), &character);
    const std::size_t size = read > 0 ? static_cast<std::size_t>(read) : 1;
    visit(read > 0 ? character : -1, text.substr(0, size));
    text.remove_prefix(size);
  }
}

bool is_text(utf8proc_int32_t c) {
  switch (utf8proc_category(c)) {
    case UTF8PROC_CATEGORY_CC:
    case UTF8PROC_CATEGORY_ZL:
    case UTF8PROC_CATEGORY_ZP: return false;
    // What joins letters and pictures is text; what turns the direction of writing is not.
    case UTF8PROC_CATEGORY_CF: return c == 0x200c || c == 0x200d || c == 0xad;
    default: return true;
  }
}

/// In lines of so many columns at most, but for words that are longer.
std::vector<std::string> folded(std::string_view text, std::size_t most) {
  std::vector<std::string> out(1);
  while (!text.empty()) {
    const std::string_view word = text.substr(0, text.find(' '));
    std::string& line = out.back();
    if (!line.empty() && columns(line) + 1 + columns(word) > most) {
      out.emplace_back(word);
    } else {
      if (!line.empty()) line += ' ';
      line += word;
    }
    text.remove_prefix(std::min(text.size(), word.size() + 1));
  }
  return out;
}

}  // namespace

std::string shown(std::string_view text) {
  std::string out;
  each_character(text, [&](utf8proc_int32_t c, std::string_view bytes) {
    if (c < 0) {
      out += fmt::format("\\x{{{:02x}}}", static_cast<unsigned char>(bytes[0]));
    } else if (is_text(c)) {
      out += bytes;
    } else {
      out += fmt::format("\\u{{{:x}}}", c);
    }
  });
  return out;
}

std::size_t columns(std::string_view text) {
  std::size_t out = 0;
  each_character(text, [&](utf8proc_int32_t c, std::string_view) {
    out += c < 0 ? 1 : static_cast<std::size_t>(utf8proc_charwidth(c));
  });
  return out;
}

std::string toned(std::string_view text, Tone tone) {
  if (!colours() || tone == Tone::plain || text.empty()) return std::string(text);
  const char* code = tone == Tone::strong ? "1" : tone == Tone::good ? "1;32" : "2";
  return fmt::format("\033[{}m{}\033[0m", code, text);
}

void Table::add(std::vector<std::string> cells) {
  for (std::string& cell : cells) cell = shown(cell);
  rows_.push_back({std::move(cells)});
}

void Table::note(std::string line) { rows_.push_back({{shown(line)}, true}); }

void Table::print(std::string_view indent) const {
  constexpr std::size_t kLeast = 24;  // columns that are worth a fold
  std::vector<std::size_t> widths;
  for (const auto& [row, note] : rows_) {
    if (note) continue;
    widths.resize(std::max(widths.size(), row.size()));
    for (std::size_t i = 0; i < row.size(); ++i) widths[i] = std::max(widths[i], columns(row[i]));
  }
  for (const auto& [row, note] : rows_) {
    std::string line(indent);
    std::size_t at = indent.size();
    for (std::size_t i = 0; i < row.size(); ++i) {
      const Tone tone = note ? Tone::quiet : i < tones_.size() ? tones_[i] : Tone::plain;
      const std::size_t size = columns(row[i]);
      if (i + 1 < row.size()) {
        line += toned(row[i], tone);
        line.append(widths[i] - size + 2, ' ');
        at += widths[i] + 2;
      } else if (at + size <= window() || at + kLeast > window()) {
        line += toned(row[i], tone);
      } else {
        const std::vector<std::string> parts = folded(row[i], window() - at);
        for (std::size_t k = 0; k < parts.size(); ++k)
          line += (k == 0 ? "" : "\n" + std::string(at, ' ')) + toned(parts[k], tone);
      }
    }
    fmt::print("{}\n", line);
  }
}

void print_problems(const std::vector<io::FileProblem>& problems) {
  for (const io::FileProblem& p : problems) print_note(io::text(p));
  if (problems.size() > 1) print_note(fmt::format("{} problems; nothing was done", problems.size()));
}

void print_doubts(const std::vector<io::FileProblem>& doubts) {
  for (const io::FileProblem& p : doubts) print_note("warning: " + io::text(p));
}

void print_error(std::string_view message) { print_note(fmt::format("dardo: {}", message)); }

void print_note(std::string_view line) {
  // Nobody may be there to read it: that is no error of its own.
  (void)std::fwrite(line.data(), 1, line.size(), stderr);
  (void)std::fputc('\n', stderr);
}

bool spares_inputs(std::string_view option, const std::string& output, std::span<const std::string> inputs) {
  for (const std::string& input : inputs) {
    std::error_code none;
    const bool same = std::filesystem::equivalent(output, input == "-" ? "/dev/stdin" : input, none);
    if (none || !same) continue;
    print_error(fmt::format("{} {}: is the file that is read as {}; expected another file", option, output,
                            input == "-" ? "standard input" : input));
    return false;
  }
  return true;
}

}  // namespace dardo::cli
