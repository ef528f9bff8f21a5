#include <algorithm>

#include "geometry/detail/check_rows.hpp"

namespace dardo {
namespace detail {

std::string pointer_step(std::string_view key) {
  std::string out = "/";
  for (const char c : key) {
    if (c == '~') {
      out += "~0";
    } else if (c == '/') {
      out += "~1";
    } else {
      out += c;
    }
  }
  return out;
}

std::string Where::text() const {
  if (up == nullptr) return key.empty() ? std::string() : pointer_step(key);
  return up->text() + (key.empty() ? "/" + std::to_string(number) : pointer_step(key));
}

std::string number_text(double value) {
  if (std::isnan(value)) return "not a number";
  if (std::isinf(value)) return value > 0 ? "infinite" : "negative and infinite";
  std::array<char, 32> buffer;
  const auto done = std::to_chars(buffer.data(), buffer.data() + buffer.size(), value);
  std::string out(buffer.data(), done.ptr);
  // "1e+07" reads "1e7".
  if (const auto e = out.find('e'); e != std::string::npos) {
    std::size_t at = e + 1;
    if (out[at] == '+') out.erase(at, 1);
    if (out[at] == '-') ++at;
    while (at + 1 < out.size() && out[at] == '0') out.erase(at, 1);
  }
  return out;
}

namespace {

std::string_view unit_text(Unit unit) {
  switch (unit) {
    case Unit::plain: return "a number";
    case Unit::metres: return "metres";
    case Unit::seconds: return "seconds";
    case Unit::speed: return "m/s";
    case Unit::acceleration: return "m/s²";
    case Unit::angle: return "degrees";
    case Unit::turn_rate: return "degrees a second";
    case Unit::factor: return "a factor";
    case Unit::share: return "a share";
    case Unit::per_metre: return "1/m";
    case Unit::count: return "a whole number";
    case Unit::text: return "text";
  }
  return {};
}

}  // namespace

double in_files(double value, const Range& range) {
  const double v = value / range.per_file, near = std::round(v * 1e6) / 1e6;
  return std::fabs(v - near) <= 1e-12 * std::fabs(v) ? near : v;
}

std::string range_text(const Range& range) {
  const std::string least = number_text(in_files(range.least, range)),
                    most = number_text(in_files(range.most, range));
  return std::string(unit_text(range.unit)) +
         (range.above ? " above " + least + ", at most " + most : " from " + least + " to " + most) +
         (range.endless ? ", or \"endless\"" : "");
}

void check_number(Problems& out, const Where& where, double value, const Range& range) {
  if (!range.holds(value))
    out.push_back({where.text(), "is " + number_text(in_files(value, range)), range_text(range)});
}

void check_rotation(Problems& out, const Where& where, const Rotation& turn) {
  const auto off = [](double a, double b) { return !(std::fabs(a - b) <= 1e-9); };
  const Vec3 &x = turn.x, &y = turn.y, &z = turn.z;
  if (off(length(x), 1) || off(length(y), 1) || off(length(z), 1) || off(dot(x, y), 0) || off(dot(x, z), 0) ||
      off(dot(y, z), 0) || off(dot(cross(x, y), z), 1))
    out.push_back(
        {where.text(), "is not a rotation", "three axes at right angles, each one metre long, right-handed"});
}

}  // namespace detail

namespace {

Problems check_axis(const Vec3& from, const Vec3& to) {
  if (is_finite(from) && is_finite(to) && !(length(to - from) > 0))
    return {{"", "has no length", "two ends apart from each other"}};
  return {};
}

}  // namespace

Problems Rows<Cylinder>::across(const Cylinder& c) { return check_axis(c.from, c.to); }
Problems Rows<Cone>::across(const Cone& c) { return check_axis(c.apex, c.base); }
Problems Rows<Triangle>::across(const Triangle& t) {
  const Vec3 ab = t.b - t.a, ac = t.c - t.a;
  if (!is_finite(t.a) || !is_finite(t.b) || !is_finite(t.c) ||
      length(cross(ab, ac)) > 1e-12 * std::max(dot(ab, ab), dot(ac, ac)))
    return {};
  return {{"", "has no area", "three corners that are not on a line"}};
}

Problems check(const Shape& shape) {
  Problems out;
  detail::check_by_rows(out, {}, shape);
  return out;
}

}  // namespace dardo
