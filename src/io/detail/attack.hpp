#pragma once
#include <string>

#include "dardo/attack/attack.hpp"
#include "io/detail/parts.hpp"

namespace dardo::io::detail {

/// Reads one attack, and the attacks within it.
class AttackReader : private Parts {
 public:
  using Parts::Parts;
  Attack read(const std::string& name, const Place& place, int depth = 1);

 private:
  Relations read_relations(const Place& place);
  std::optional<Passage> read_sight(const Place& place);
  std::uint32_t read_count(const Place& place, std::uint32_t otherwise);
  AreaDelivery read_area(const Place& place);
  ShotDelivery read_shot(const Place& place);
  ShotPath read_path(const Place& place, const Fields& f);
  Pierce read_pierce(const Place& place);
  Ricochet read_ricochet(const Place& place);
  Volley read_volley(const Place& place);
  Then read_then(const std::string& name, const Place& place, int depth);
};

}  // namespace dardo::io::detail
