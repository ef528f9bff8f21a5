#include "dardo/index/tree.hpp"

#include <bit>
#include <cassert>

#include "index/detail/builder.hpp"
#include "index/detail/kernels.hpp"

namespace dardo {
namespace {

using detail::Box4;
using detail::box4;
using detail::kInfinite;
using detail::Quad;

/// One part in this many is renewed in each refit.
constexpr std::size_t kRenewal = 40;
/// Up to so many times as much, when the tree has lost more than this share of its quality.
constexpr float kMostRenewal = 12, kBearable = 0.12f;
/// Who is outside its section's home by this share of the section's extent has left it.
constexpr float kLeaves = 0.25f;

Box4 rounded(const Bounds& b, float (*down)(double)) {
  return box4(down(b.low.x), down(b.low.y), down(b.low.z), -down(-b.high.x), -down(-b.high.y),
              -down(-b.high.z));
}

}  // namespace

void Tree::build(std::span<const Entry> entries) {
  std::vector<Primitive> primitives;
  primitives.reserve(entries.size());
  for (const Entry& e : entries) {
    if (!e.bounds.empty()) primitives.emplace_back(rounded(e.bounds, Node::down), e.item);
  }
  build_from(primitives);
}

void Tree::build_from(std::vector<Primitive>& primitives) {
  nodes_.clear();
  sections_.clear();
  left_.clear();
  kernels_ = &TreeKernels::best();
  std::uint32_t most = 0;
  for (const Primitive& p : primitives) most = std::max(most, p.item() + 1);
  where_.assign(most, 0);
  size_ = primitives.size();
  if (primitives.empty()) return;
  Builder(*this, primitives).make_all();
}

void Tree::put(std::uint32_t node, std::size_t lane, const Primitive& p) {
  Node& n = nodes_[node];
  for (int axis = 0; axis < 3; ++axis) {
    n.plane[static_cast<std::size_t>(axis)][lane] = p.box.low[axis];
    n.plane[static_cast<std::size_t>(axis) + 3][lane] = p.box.high[axis];
  }
  n.child[lane] = p.item() | kItem;
  ++n.used;
  where_[p.item()] = node * static_cast<std::uint32_t>(kWidth) + static_cast<std::uint32_t>(lane) + 1;
}

/// Makes the boxes of the nodes [first, last) right from the bottom up, those of their own lanes in their
/// parents included; the sum of their areas.
float Tree::settle(std::uint32_t first, std::uint32_t last) {
  return kernels_->settle(nodes_.data(), first, last, nullptr);
}

void Tree::collect(std::uint32_t first, std::uint32_t last, std::vector<Primitive>& out) const {
  for (std::uint32_t i = first; i < last; ++i) {
    const Node& n = nodes_[i];
    if (n.used == 0) continue;
    for (std::size_t lane = 0; lane < kWidth; ++lane) {
      if ((n.child[lane] & kItem) == 0) continue;
      const auto& p = n.plane;
      out.emplace_back(box4(p[0][lane], p[1][lane], p[2][lane], p[3][lane], p[4][lane], p[5][lane]),
                       n.child[lane] & ~kItem);
    }
  }
}

/// The nodes that come before those of a lot, into `lot`; none after the first of the first section.
void Tree::place_below(const RefitLot& above, RefitLot& lot) const {
  lot.section = above.section;
  lot.last = above.first;
  while (lot.last == sections_[lot.section].first) {
    if (lot.section == 0) {
      lot.first = lot.last;
      return;
    }
    const Section& s = sections_[--lot.section];
    lot.last = s.first + s.used;
  }
  lot.first = lot.last - std::min(kLot, lot.last - sections_[lot.section].first);
}

void Tree::list_below(const RefitLot& above, RefitLot& lot) const {
  place_below(above, lot);
  lot.count = 0;
  kernels_->list(nodes_.data(), lot);
}

/// Says where the nodes below a lot lie, so that they can be fetched one by one while boxes are asked for.
void Tree::announce_below(const RefitLot& lot, Refit& r) const {
  RefitLot below;
  place_below(lot, below);
  r.upcoming = reinterpret_cast<std::uintptr_t>(nodes_.data() + below.last);
  r.lines = (below.last - below.first) * std::uint32_t{sizeof(Node) / kLine};
}

bool Tree::start(Refit& r) {
  if (sections_.empty()) return false;
  for (Section& s : sections_) s.cost = 0;
  RefitLot end;
  end.section = static_cast<std::uint32_t>(sections_.size()) - 1;
  end.first = sections_.back().first + sections_.back().used;
  list_below(end, r.lots[0]);
  list_below(r.lots[0], r.lots[1]);
  announce_below(r.lots[1], r);
  return true;
}

bool Tree::next(Refit& r) {
  RefitLot& now = r.lots[r.now];
  sections_[now.section].cost += kernels_->settle(nodes_.data(), now.first, now.last, r.fresh.data());
  r.now = 1 - r.now;
  const RefitLot& then = r.lots[r.now];
  if (then.first == then.last) return false;
  list_below(then, now);
  announce_below(now, r);
  return true;
}

detail::Box4 Tree::box_of(std::uint32_t node) const {
  Box4 box;
  const Node& n = nodes_[node];
  for (std::size_t lane = 0; lane < kWidth; ++lane) {
    const auto& p = n.plane;
    if (n.child[lane] != kNothing)
      box.add(box4(p[0][lane], p[1][lane], p[2][lane], p[3][lane], p[4][lane], p[5][lane]));
  }
  return box;
}

float Tree::extent_of(std::uint32_t node) const {
  const Box4 box = box_of(node);
  const Quad extent = box.high - box.low;
  return std::max({extent[0], extent[1], extent[2], 0.0f});
}

/// Those who have left a section's home by far, as by a jump, leave it; its boxes are then right without
/// them.
void Tree::take_leavers(Section& section, std::vector<Primitive>& leavers) {
  // The home is told by twice the centres. Walkers on its border stay until it is renewed.
  const float margin = 2 * kLeaves * section.extent;
  const auto& h = section.home;
  const auto is_far = [&](const Quad& low, const Quad& high) {
    return low[0] < h[0] - margin || low[1] < h[1] - margin || low[2] < h[2] - margin ||
           high[0] > h[3] + margin || high[1] > h[4] + margin || high[2] > h[5] + margin;
  };
  const Box4 all = box_of(section.first);
  if (!is_far(all.low * 2.0f, all.high * 2.0f)) return;
  const std::size_t before = leavers.size();
  std::vector<Primitive> list;
  list.reserve(section.count);
  collect(section.first, section.first + section.used, list);
  for (const Primitive& p : list) {
    const Quad m = p.middle();
    if (!is_far(m, m) || section.count < 2) continue;
    leavers.push_back(p);
    remove(p.item());
    ++size_;  // it comes back
  }
  if (leavers.size() > before) section.cost = settle(section.first, section.first + section.used);
}

/// How many entries may be renewed in a refit: more of a tree that has lost more.
std::size_t Tree::renewal() const {
  float cost = 0, fresh = 0;
  for (const Section& s : sections_) cost += s.cost, fresh += s.fresh_cost;
  const float loss = fresh > 0 ? cost / fresh - 1 : 0;
  return static_cast<std::size_t>(static_cast<float>(size_ / kRenewal + 1) *
                                  std::clamp(loss / kBearable, 1.0f, kMostRenewal));
}

void Tree::finish_refit() {
  if (nodes_.empty()) return;
  std::vector<Primitive> leavers;
  if (sections_.size() > 1) {
    for (Section& s : sections_) take_leavers(s, leavers);
  }
  settle(0, top_);

  // Renew the sections that have lost most, a small part of the tree.
  const auto worst = [&] {
    Section* found = nullptr;
    float most = 1.01f;
    for (Section& s : sections_) {
      const float loss = s.cost > s.fresh_cost ? s.cost / s.fresh_cost : 0;
      if (loss > most) most = loss, found = &s;
    }
    return found;
  };
  Section* worn = worst();
  credit_ = worn == nullptr ? 0 : std::min(credit_ + renewal(), size_);
  bool fits = true;
  for (; worn != nullptr && worn->count <= credit_ && fits; worn = worst()) {
    credit_ -= worn->count;
    fits = renew(*worn, leavers);
  }
  for (std::size_t i = 0; i < leavers.size() && fits; ++i) {
    fits = add(leavers[i]);
    if (!fits) leavers.erase(leavers.begin(), leavers.begin() + static_cast<std::ptrdiff_t>(i));
  }
  if (!fits) {
    std::vector<Primitive> all = std::move(leavers);
    collect(0, static_cast<std::uint32_t>(nodes_.size()), all);
    build_from(all);
    return;
  }
  settle(0, top_);
}

/// Builds a section again from the entries that belong to its home; the others go to `leavers`. False when
/// its room does not do: then nothing has changed.
bool Tree::renew(Section& section, std::vector<Primitive>& leavers) {
  std::vector<Primitive> list;
  list.reserve(section.count);
  collect(section.first, section.first + section.used, list);
  const auto stays = [&](const Primitive& p) {
    const Quad m = p.middle();
    const auto& h = section.home;
    return m[0] >= h[0] && m[1] >= h[1] && m[2] >= h[2] && m[0] < h[3] && m[1] < h[4] && m[2] < h[5];
  };
  const auto end = std::partition(list.begin(), list.end(), stays);
  if (end == list.begin()) {
    // Nobody would stay: the section is left as it is, and not looked at again this time.
    section.cost = 0;
    return true;
  }
  const std::size_t old_leavers = leavers.size();
  leavers.insert(leavers.end(), end, list.end());
  list.erase(end, list.end());
  if (!rebuild(section, list)) {
    leavers.resize(old_leavers);
    return false;
  }
  return true;
}

/// Builds a section again over the list. When that is more than its room holds, it moves: to a place that
/// another has left, or after all others. False when it can't, as it begins with the root: then nothing has
/// changed.
bool Tree::rebuild(Section& section, std::vector<Primitive>& list) {
  Builder builder(*this, list);
  const std::uint32_t count = builder.plan_section();
  const bool fits = count <= section.room;
  if (!fits && section.first == 0) return false;
  const std::uint32_t parent = nodes_[section.first].parent, lane = nodes_[section.first].parent_lane;
  // What is not built over must not look as if it held something.
  std::fill_n(nodes_.begin() + section.first, section.used, Node());
  if (!fits) {
    const auto place =
        std::find_if(left_.begin(), left_.end(), [&](const Section& s) { return s.room >= count; });
    if (place != left_.end()) {
      std::swap(section.first, place->first), std::swap(section.room, place->room);
    } else {
      left_.push_back(section);
      section.first = static_cast<std::uint32_t>(nodes_.size());
      section.room = room_for(count);
      const std::size_t size = nodes_.size() + section.room;
      if (nodes_.capacity() < size) nodes_.reserve(size + size / 8);
      nodes_.resize(size);
    }
  }
  builder.make_section(section, parent, lane);
  return true;
}

Tree::Section* Tree::section_of(const Primitive& p) {
  const Quad m = p.middle();
  for (Section& s : sections_) {
    const auto& h = s.home;
    if (m[0] >= h[0] && m[1] >= h[1] && m[2] >= h[2] && m[0] < h[3] && m[1] < h[4] && m[2] < h[5]) return &s;
  }
  return sections_.empty() ? nullptr : &sections_.front();
}

/// Adds to the section that the primitive belongs to; false when that has no room left.
bool Tree::add(const Primitive& p) {
  Section* const section = section_of(p);
  if (section == nullptr || section->count > 2 * section->planned + 64) return false;
  // Down to a node without nodes, always where the box grows least.
  std::uint32_t node = section->first;
  for (int depth = 0;; ++depth) {
    if (depth > kDeepest) return false;
    const Node& n = nodes_[node];
    std::size_t best = kWidth;
    float least = kInfinite;
    for (std::size_t lane = 0; lane < kWidth; ++lane) {
      if (n.child[lane] == kNothing || (n.child[lane] & kItem) != 0) continue;
      const auto& q = n.plane;
      const Box4 box = box4(q[0][lane], q[1][lane], q[2][lane], q[3][lane], q[4][lane], q[5][lane]);
      Box4 grown = box;
      grown.add(p.box);
      const float growth = grown.half_area() - box.half_area();
      if (growth < least) least = growth, best = lane;
    }
    if (best == kWidth) break;
    node = n.child[best];
  }
  // Where that is full, into a lane of the node above.
  if (nodes_[node].used == kWidth && node != section->first && nodes_[nodes_[node].parent].used < kWidth) {
    node = nodes_[node].parent;
  }
  if (nodes_[node].used == kWidth) {
    // Full too: the entries are shared between two new nodes below.
    std::vector<Primitive> list;
    if (section->used + 2 > section->room) {
      collect(section->first, section->first + section->used, list);
      list.push_back(p);
      if (!rebuild(*section, list)) return false;
      credit_ -= std::min<std::size_t>(credit_, section->count);  // as good as renewed
      grow_above(section->first, p.box);
      return true;
    }
    collect(node, node + 1, list);
    Quad low{kInfinite, kInfinite, kInfinite, 0}, high = -low;
    for (const Primitive& e : list) low = detail::min(low, e.middle()), high = detail::max(high, e.middle());
    const Quad extent = high - low;
    const int axis = extent[0] >= extent[1] && extent[0] >= extent[2] ? 0 : extent[1] >= extent[2] ? 1 : 2;
    std::sort(list.begin(), list.end(), [axis](const Primitive& a, const Primitive& b) {
      const float x = a.middle()[axis], y = b.middle()[axis];
      return x != y ? x < y : a.item() < b.item();
    });
    Node& n = nodes_[node];
    for (std::size_t lane = 0; lane < kWidth; ++lane) n.clear(lane);
    n.used = 2;
    const std::uint32_t made = section->first + section->used;
    section->used += 2;
    for (std::uint32_t half = 0; half < 2; ++half) {
      Node& m = nodes_[made + half];
      m = Node();
      m.parent = node, m.parent_lane = half;
      for (std::size_t i = 0; i < kWidth / 2; ++i) put(made + half, i, list[half * (kWidth / 2) + i]);
      n.child[half] = made + half;
    }
    settle(made, made + 2);
    node = made + (p.middle()[axis] < list[kWidth / 2].middle()[axis] ? 0 : 1);
  }
  std::size_t lane = 0;
  while (nodes_[node].child[lane] != kNothing) ++lane;
  put(node, lane, p);
  ++section->count;
  grow_above(node, p.box);
  return true;
}

/// Makes the boxes of a node in all nodes above it large enough.
void Tree::grow_above(std::uint32_t node, const detail::Box4& box) {
  for (; node != 0; node = nodes_[node].parent) {
    Node& parent = nodes_[nodes_[node].parent];
    const std::uint32_t l = nodes_[node].parent_lane;
    for (std::size_t axis = 0; axis < 3; ++axis) {
      parent.plane[axis][l] = std::min(parent.plane[axis][l], box.low[static_cast<int>(axis)]);
      parent.plane[axis + 3][l] = std::max(parent.plane[axis + 3][l], box.high[static_cast<int>(axis)]);
    }
  }
}

void Tree::insert(const Entry& entry) {
  if (entry.bounds.empty()) return;
  const Primitive p{rounded(entry.bounds, Node::down), entry.item};
  if (entry.item >= where_.size()) where_.resize(entry.item + 1, 0);
  assert(where_[entry.item] == 0 && "an item is there at most once");
  if (size_ == 0 || !add(p)) {
    std::vector<Primitive> all{p};
    collect(0, static_cast<std::uint32_t>(nodes_.size()), all);
    build_from(all);
    return;
  }
  ++size_;
}

bool Tree::remove(std::uint32_t item) {
  if (item >= where_.size() || where_[item] == 0) return false;
  const std::uint32_t place = where_[item] - 1;
  std::uint32_t node = place / static_cast<std::uint32_t>(kWidth);
  std::size_t lane = place % kWidth;
  where_[item] = 0;
  --size_;
  std::uint32_t section_root = 0;
  for (Section& s : sections_) {
    if (node >= s.first && node < s.first + s.room) --s.count, section_root = s.first;
  }
  // A node that becomes empty is taken from its parent, and so on up to the first of its section, which
  // stays.
  for (;;) {
    Node& n = nodes_[node];
    n.clear(lane);
    if (--n.used > 0 || node == section_root) break;
    lane = n.parent_lane;
    node = n.parent;
  }
  if (size_ == 0) build({});
  return true;
}

double Tree::quality_cost() const {
  double sum = 0;
  for (const Node& n : nodes_) {
    if (n.used == 0) continue;
    sum += kernels_->area(n);
  }
  return sum;
}

std::size_t Tree::bytes() const {
  return nodes_.capacity() * sizeof(Node) + sections_.capacity() * sizeof(Section) +
         where_.capacity() * sizeof(std::uint32_t);
}

bool Tree::start(RayCursor& c, const Tree* other, const Ray& ray, double radius, double limit) const {
  c.top = 0;
  c.nodes = {nodes_.data(), nodes_.data()};
  c.two = other != nullptr;
  const auto push = [&](const Tree& tree, std::uint32_t root) {
    if (tree.size_ == 0) return;
    c.kernels = tree.kernels_;
    c.enters[c.top] = 0, c.stack[c.top++] = root;
  };
  push(*this, 0);
  if (other != nullptr) {
    c.nodes[1] = other->nodes_.data();
    push(*other, kOther);
  }
  if (c.top == 0) return false;
  c.kernels->start_ray[c.two](c, ray, radius, Node::up(limit));
  return c.found != kNothing;
}

bool Tree::next(RayCursor& c, double limit) const {
  if (c.top == 0) return false;
  c.kernels->next_ray[c.two](c, Node::up(limit));
  return c.found != kNothing;
}

std::size_t Tree::start(SegmentCursor& c, const Segment& segment) const {
  return size_ > 0 ? kernels_->start_segment(nodes_.data(), c, segment) : 0;
}

std::size_t Tree::next(SegmentCursor& c) const { return kernels_->next_segment(nodes_.data(), c); }

std::size_t Tree::start(BoxCursor& c, const Bounds& box) const {
  c.low = {Node::down(box.low.x), Node::down(box.low.y), Node::down(box.low.z)};
  c.high = {Node::up(box.high.x), Node::up(box.high.y), Node::up(box.high.z)};
  c.top = 0;
  return !box.empty() && push_root(c) ? next(c) : 0;
}

std::size_t Tree::next(BoxCursor& c) const { return c.top == 0 ? 0 : kernels_->next_box(nodes_.data(), c); }

std::size_t Tree::start(BallCursor& c, const Ball& ball) const {
  c.center = {static_cast<float>(ball.center.x), static_cast<float>(ball.center.y),
              static_cast<float>(ball.center.z)};
  // Room for the rounding of the centre and of the sum of squares.
  const double reach = ball.radius + largest(ball.center) * 4e-7;
  c.squared = static_cast<float>(reach * reach * (1 + 2e-6)) + 1e-30f;
  c.top = 0;
  return push_root(c) ? next(c) : 0;
}

std::size_t Tree::next(BallCursor& c) const { return c.top == 0 ? 0 : kernels_->next_ball(nodes_.data(), c); }

}  // namespace dardo
