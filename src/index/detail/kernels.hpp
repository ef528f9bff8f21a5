#pragma once
#include "dardo/index/query_batch.hpp"
#include "dardo/index/tree.hpp"

namespace dardo {

/// The node tests of one vector instruction set.
struct TreeKernels {
  using Node = Tree::Node;
  using FreshLanes = Tree::FreshLanes;
  using RefitLot = Tree::RefitLot;
  using Line = Tree::Line;
  using RayCursor = Tree::RayCursor;
  using SegmentCursor = Tree::SegmentCursor;
  using BoxCursor = Tree::BoxCursor;
  using BallCursor = Tree::BallCursor;
  static constexpr std::size_t kWidth = Tree::kWidth;
  static constexpr std::uint32_t kNothing = Tree::kNothing, kItem = Tree::kItem, kOther = Tree::kOther,
                                 kIndex = Tree::kIndex;
  static constexpr std::size_t kFound = Tree::kFound;

  /// Goes on until an entry is met within the limit: it is in `found`, which is kNothing at the end. To
  /// start, the stack must have its roots. The first of each is for one tree, the second for two.
  std::array<void (*)(RayCursor& cursor, const Ray& ray, double radius, float limit), 2> start_ray;
  std::array<void (*)(RayCursor& cursor, float limit), 2> next_ray;
  /// Goes on until entries are met, which are in `found`; how many, 0 at the end.
  std::size_t (*start_segment)(const Node* nodes, SegmentCursor& cursor, const Segment& segment);
  std::size_t (*next_segment)(const Node* nodes, SegmentCursor& cursor);
  /// Goes on until the lot is full or the end is reached.
  std::size_t (*next_box)(const Node* nodes, BoxCursor& cursor);
  std::size_t (*next_ball)(const Node* nodes, BallCursor& cursor);
  /// Lists the entries of a lot's nodes.
  void (*list)(const Node* nodes, RefitLot& lot);
  /// Makes the nodes [first, last) right from the bottom up, and their parents' lanes: of the lanes that hold
  /// items, if there are `fresh` ones (of the first node on), from those, rounded outward. The sum of the
  /// nodes' areas.
  float (*settle)(Node* nodes, std::uint32_t first, std::uint32_t last, const FreshLanes* fresh);
  float (*area)(const Node& node);

  /// Those of the best set that this machine has.
  static const TreeKernels& best();
};

/// The same for many queries side by side.
struct BatchKernels {
  using Rays = QueryBatch::Rays;
  using Lot = QueryBatch::Lot;
  static constexpr std::uint32_t kTogether = QueryBatch::kTogether;

  /// One step of all rays that are going, of one tree or two; those that then have an item on top are in
  /// `met`, and it is above their `top`. False when there are no more rays.
  std::array<bool (*)(Rays& rays), 2> next_rays;
  void (*start_lines)(Lot& lot, std::span<const Segment> segments);
  /// Goes on until enough are found or the end is reached.
  QueryBatch::NextOfLot next_lines, next_boxes;

  static const BatchKernels& best();
};

}  // namespace dardo
