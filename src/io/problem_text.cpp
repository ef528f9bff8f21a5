#include <fmt/format.h>

#include "dardo/io/problem.hpp"

namespace dardo::io {
namespace {

/// What a terminal would obey is shown as '?'.
std::string printable(std::string text) {
  for (char& c : text) {
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f) c = '?';
  }
  return text;
}

}  // namespace

std::string text(const FileProblem& p) {
  std::string out = p.file;
  if (p.line > 0) out += fmt::format(":{}", p.line);
  out += ": ";
  if (!p.pointer.empty()) out += printable(p.pointer) + " ";
  out += p.what;
  if (p.fix.empty()) return out;
  if (p.fix.starts_with("did you mean")) return out + "; " + p.fix;
  return out + "; expected " + p.fix;
}

}  // namespace dardo::io
