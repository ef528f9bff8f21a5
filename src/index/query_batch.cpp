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

void QueryBatch::start(const Tree& tree, std::span<const Segment> lines) {
  if (!lines_) lines_ = std::make_unique_for_overwrite<Lines>();
  lines_->top = 0;
  if (tree.size_ > 0) BatchKernels::best().start_lines(*lines_, lines);
}

std::size_t QueryBatch::next(const Tree& tree) {
  return lines_->top == 0 ? 0 : BatchKernels::best().next_lines(tree.nodes_.data(), *lines_);
}

}  // namespace dardo
