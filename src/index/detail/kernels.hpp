#pragma once
#include "dardo/index/tree.hpp"

namespace dardo {

/// The node tests of one vector instruction set.
struct TreeKernels {
  using Node = Tree::Node;
  using FreshLanes = Tree::FreshLanes;
  using Line = Tree::Line;
  using RayCursor = Tree::RayCursor;
  using SegmentCursor = Tree::SegmentCursor;
  using BoxCursor = Tree::BoxCursor;
  using BallCursor = Tree::BallCursor;
  static constexpr std::size_t kWidth = Tree::kWidth;
  static constexpr std::uint32_t kNothing = Tree::kNothing, kItem = Tree::kItem, kLeafNode = Tree::kLeafNode,
                                 kOther = Tree::kOther, kIndex = Tree::kIndex;
  static constexpr std::size_t kFound = Tree::kFound;

  /// Goes on until an entry is met within the limit: it is in `found`, which is kNothing at the end. To
  /// start, the stack must have its roots.
  void (*start_ray)(RayCursor& cursor, const Ray& ray, double radius, float limit);
  void (*next_ray)(RayCursor& cursor, float limit);
  /// Goes on until some are met or the end is reached.
  std::size_t (*start_segment)(const Node* nodes, SegmentCursor& cursor, const Segment& segment);
  std::size_t (*next_segment)(const Node* nodes, SegmentCursor& cursor);
  /// Goes on until the lot is full or the end is reached.
  std::size_t (*next_box)(const Node* nodes, BoxCursor& cursor);
  std::size_t (*next_ball)(const Node* nodes, BallCursor& cursor);
  /// The box around all lanes of a node, as low x, y, z, high x, y, z.
  void (*around)(const Node& node, float* box);
  /// The same once the fresh boxes, rounded outward, are in those lanes that hold items.
  void (*take)(Node& node, const FreshLanes& fresh, float* box);

  /// Those of the best set that this machine has.
  static const TreeKernels& best();
};

}  // namespace dardo
