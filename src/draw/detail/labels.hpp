#pragma once
#include <string>
#include <vector>

#include "draw/detail/canvas.hpp"

namespace dardo::draw::detail {

/// A label that wants to stand beside a spot.
struct Label {
  Spot anchor;
  double clearance = 0;  ///< pixels around the anchor to stay away from
  double width = 0, height = 0;
  double most_gap = 160;        ///< pixels from the clearance to its near side
  bool may_be_missing = false;  ///< rather than cover anything
};

/// A label's place. `crowded`: there was no place free of everything, and it stands where it covers least.
struct PlacedLabel {
  Rect box;
  bool crowded = false;
  bool missing = false;  ///< it stands nowhere
};

/// A place for each label inside `page`, clear of all `taken` boxes and of each other as long as there is
/// room. Labels earlier in the list choose first; nearer places are preferred.
std::vector<PlacedLabel> place_labels(const std::vector<Label>& labels, std::vector<Rect> taken,
                                      const Rect& page);

}  // namespace dardo::draw::detail
