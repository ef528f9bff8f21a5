#include "dardo/index/query_batch.hpp"

#include "index/detail/kernels.hpp"

namespace dardo {
namespace {

/// Nodes of so many bytes stay in a core's own caches, more or less.
constexpr std::size_t kNear = 1 << 20;

}  // namespace

void QueryBatch::start(const Tree& tree, const Tree* other, std::span<const Ray> rays, double radius) {
  if (!rays_) rays_ = std::make_unique_for_overwrite<Rays>();
  Rays& b = *rays_;
  b.in[Rays::kGoing].count = b.in[Rays::kMet].count = b.roots_count = 0;
  Rays::Ways& idle = b.in[Rays::kIdle];
  idle.count = 0;
  for (Rays::Way& way : b.ways) {
    way.stack[0] = Tree::kNothing;
    idle.way[idle.count++] = &way;
  }
  b.rays = rays, b.radius = radius, b.next = 0;
  b.two = other != nullptr;
  b.is_far = (tree.nodes_.size() + (b.two ? other->nodes_.size() : 0)) * sizeof(Node) > kNear;
  // Both are nodes even if a tree has none.
  b.nodes.fill(b.two && tree.size_ == 0 ? other->nodes_.data() : tree.nodes_.data());
  if (tree.size_ > 0) b.roots[b.roots_count++] = 0;
  if (!b.two || other->size_ == 0) return;
  b.nodes[1] = other->nodes_.data();
  b.roots[b.roots_count++] = Tree::kOther;
}

bool QueryBatch::next() {
  return rays_->roots_count > 0 && BatchKernels::best().next_rays[rays_->two](*rays_);
}

QueryBatch::Lot& QueryBatch::start_lot(const Tree& tree, NextOfLot next_of_lot) {
  if (!lot_) lot_ = std::make_unique_for_overwrite<Lot>();
  lot_->nodes = tree.size_ > 0 ? tree.nodes_.data() : nullptr;
  lot_->next = next_of_lot;
  lot_->top = 0;
  return *lot_;
}

void QueryBatch::start_lines(const Tree& tree, std::span<const Segment> lines) {
  const BatchKernels& kernels = BatchKernels::best();
  Lot& b = start_lot(tree, kernels.next_lines);
  if (b.nodes != nullptr) kernels.start_lines(b, lines);
}

void QueryBatch::start_boxes(const Tree& tree) { start_lot(tree, BatchKernels::best().next_boxes); }

void QueryBatch::push(const Bounds& box, std::uint32_t place) {
  Lot& b = *lot_;
  if (b.nodes == nullptr || box.empty()) return;
  b.low[place] = {Node::down(box.low.x), Node::down(box.low.y), Node::down(box.low.z)};
  b.high[place] = {Node::up(box.high.x), Node::up(box.high.y), Node::up(box.high.z)};
  b.stack[b.top] = 0;
  b.whose[b.top++] = place;
}

std::size_t QueryBatch::next_lot() { return lot_->top == 0 ? 0 : lot_->next(lot_->nodes, *lot_); }

}  // namespace dardo
