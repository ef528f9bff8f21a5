#pragma once
#include <optional>
#include <string>
#include <vector>

#include "dardo/arena/wall.hpp"
#include "dardo/geometry/shape.hpp"
#include "io/detail/reader.hpp"

namespace dardo::io::detail {

double radians(double degrees);

/// The values that several sections of a scene have in common.
class Parts {
 public:
  explicit Parts(Reader& reader) : reader_(reader) {}

 protected:
  double read_number(const Fields& f, std::string_view key, double otherwise);
  double need_number(const Fields& f, std::string_view key, std::string_view what);
  Vec3 need_vec3(const Fields& f, std::string_view key);
  Rotation read_turn(const Place& place);
  Box read_box(const Place& place);
  Hull read_prism(const Place& place);
  /// The one shape among the fields.
  std::optional<Shape> read_shape(const Place& place, const Fields& f);
  Passages read_passages(const Place& place);
  template <class Set, class Member>
  Set read_set(const Place& place, const std::vector<std::string>& words) {
    Set out;
    for (const Place& item : reader_.items(place)) {
      const auto w = reader_.word(item, words);
      if (!w) continue;
      if (out.has(static_cast<Member>(*w))) reader_.problem(item.pointer, "is there twice", "each word once");
      out.add(static_cast<Member>(*w));
    }
    return out;
  }

  Reader& reader_;
};

}  // namespace dardo::io::detail
