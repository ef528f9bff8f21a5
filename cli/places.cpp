#include "places.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>

#include "terminal.hpp"

namespace dardo::cli {
namespace {

std::optional<Vec3> place_of(std::string_view text) {
  std::array<double, 3> parts{};
  std::size_t count = 0;
  while (count < parts.size() && !text.empty()) {
    const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), parts[count]);
    if (fault != std::errc{} || !(std::fabs(parts[count]) <= kMaxCoordinate)) return std::nullopt;
    ++count;
    text.remove_prefix(static_cast<std::size_t>(end - text.data()));
    if (text.empty()) break;
    if (text.front() != ',') return std::nullopt;
    text.remove_prefix(1);
  }
  if (!text.empty() || count < 2) return std::nullopt;
  return Vec3{parts[0], parts[1], parts[2]};
}

}  // namespace

Vec3 as_counted(const io::Scene& scene, const Vec3& p) { return {p.x, scene.y_down ? -p.y : p.y, p.z}; }

bool find_spot(const io::Scene& scene, const char* option, const std::string& text, BodyId& body,
               std::optional<Vec3>& place) {
  if (const auto found = scene.arena.find_body(text)) {
    body = *found;
    return true;
  }
  place = place_of(text);
  if (place) return place = as_counted(scene, *place), true;
  print_error(
      fmt::format("{}: is neither a body nor a place: \"{}\"; expected a body's id, or x,y,z", option, text));
  return false;
}

}  // namespace dardo::cli
