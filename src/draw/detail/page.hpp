#pragma once
#include <string>
#include <vector>

#include "draw/detail/view.hpp"

namespace dardo::draw::detail {

/// One view's place on the page.
struct Framed {
  std::size_t sketch = 0;
  Plan plan;
  Rect frame;
};

/// How the views of some sketches stand in `room`, below captions of a height where there are several: the
/// same extents and scales in each; an elevation at the scale of the plan over it.
std::vector<Framed> arrange(const std::vector<Sketch>& sketches, const PictureOptions& options,
                            const Rect& room, double caption_height);

/// What a page has left out.
struct LeftOut {
  std::size_t crowded = 0;  ///< labels that found no place of their own
  std::size_t names = 0;
};
/// Draws a whole page.
LeftOut draw_page(const std::vector<Sketch>& sketches, const std::vector<std::string>& captions,
                  const PictureOptions& options, Canvas& canvas);

}  // namespace dardo::draw::detail
