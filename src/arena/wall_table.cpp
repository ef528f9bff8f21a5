#include "dardo/arena/wall_table.hpp"
#include "geometry/detail/ever.hpp"

#include <algorithm>

namespace dardo {
namespace {

/// The convex parts of a shape, in its frame.
std::vector<Shape> parts_of_shape(const WallShape& shape) {
  return std::visit(
      [](const auto& s) -> std::vector<Shape> {
        if constexpr (std::is_same_v<std::remove_cvref_t<decltype(s)>, Mesh>) {
          std::vector<Shape> out;
          out.reserve(s.triangles.size());
          for (const MeshTriangle& t : s.triangles)
            out.emplace_back(Triangle{s.corners[t.a], s.corners[t.b], s.corners[t.c]});
          return out;
        } else {
          return {Shape(s)};
        }
      },
      shape);
}

Leg resting(const Pose& pose) { return {-detail::kEver, detail::kEver, pose, {}, {0, 0, 1}, 0}; }

/// Within this is what lies in `own` of a frame while it goes along a leg.
void add_way(Bounds& out, const Bounds& own, const Leg& leg, double from, double to) {
  const Vec3 center = own.center();
  const double swing = leg.turn_rate != 0 ? 2 * length(cross(leg.axis, center)) : 0,
               r = 0.5 * length(own.high - own.low) + swing;
  for (const double t : {from, to}) {
    const Vec3 there = leg.at(t) * center;
    out.add(Bounds{there, there}.grown(r));
  }
}

}  // namespace

WallPartId WallTable::new_part(WallId wall, std::uint32_t number) {
  std::uint32_t index = static_cast<std::uint32_t>(parts_.size());
  if (free_parts_.empty()) {
    parts_.emplace_back();
  } else {
    index = free_parts_.back(), free_parts_.pop_back();
  }
  Part& part = parts_[index];
  part.wall = wall, part.number = number, part.alive = true;
  return id_of(index);
}

WallId WallTable::add(Wall wall) {
  std::uint32_t index = static_cast<std::uint32_t>(slots_.size());
  if (free_slots_.empty()) {
    slots_.emplace_back();
  } else {
    index = free_slots_.back(), free_slots_.pop_back();
  }
  Slot& slot = slots_[index];
  const WallId id{index, slot.generation};
  slot.wall = std::move(wall), slot.alive = true, slot.order = next_order_++;
  slot.legs = legs_of(slot.wall.track), slot.going.reset();
  const std::size_t count = parts_of_shape(slot.wall.shape).size();
  slot.parts.clear();
  for (std::uint32_t i = 0; i < count; ++i) slot.parts.push_back(new_part(id, i));
  place(id);
  return id;
}

void WallTable::put(WallId wall, const Pose& pose) {
  Slot& slot = slots_[wall.index];
  slot.wall.pose = pose, slot.going.reset();
  place(wall);
}

void WallTable::go(WallId wall, const Leg& leg) {
  Slot& slot = slots_[wall.index];
  slot.before = slot.going && slot.going->end == leg.start ? *slot.going : resting(leg.from);
  slot.going = leg, slot.wall.pose = leg.at(leg.end);
  place(wall);
}

void WallTable::remove(WallId wall) {
  Slot& slot = slots_[wall.index];
  for (const WallPartId part : slot.parts) {
    unindex(part.index);
    parts_[part.index].alive = false;
    ++parts_[part.index].generation;
    free_parts_.push_back(part.index);
  }
  slot.parts.clear();
  slot.alive = false, ++slot.generation;
  free_slots_.push_back(wall.index);
}

void WallTable::unindex(std::uint32_t part) {
  if (parts_[part].indexed) tree_.remove(part);
  parts_[part].indexed = false;
}

void WallTable::place(WallId wall) {
  Slot& slot = slots_[wall.index];
  const Wall& w = slot.wall;
  slot.moves = !w.track.empty() || slot.going.has_value();
  const std::vector<Shape> own = parts_of_shape(w.shape);
  for (std::size_t i = 0; i < slot.parts.size(); ++i) {
    const std::uint32_t index = slot.parts[i].index;
    Part& part = parts_[index];
    part.bounds = {};
    if (slot.moves) {
      part.shape = own[i];
      const Bounds around = dardo::bounds(own[i]);
      for (std::size_t k = 1; k + 1 < slot.legs.size(); ++k)
        add_way(part.bounds, around, slot.legs[k], slot.legs[k].start, slot.legs[k].end);
      // Before the first key and after the last it rests, and where it jumps to.
      for (const TrackKey& key : w.track) add_way(part.bounds, around, resting(key.pose), 0, 0);
      if (slot.going) add_way(part.bounds, around, *slot.going, slot.going->start, slot.going->end);
    } else {
      part.shape = placed(own[i], w.pose);
      part.bounds = dardo::bounds(part.shape);
    }
    unindex(index);
    if (!part.listed) unindexed_.push_back(index), part.listed = true;
  }
}

void WallTable::update() {
  if (unindexed_.empty()) return;
  std::vector<Entry> entries;
  const bool anew = unindexed_.size() * 4 > tree_.size();
  if (anew) {
    for (std::uint32_t i = 0; i < parts_.size(); ++i) {
      if (parts_[i].alive) entries.push_back({parts_[i].bounds, i});
    }
    tree_.build(entries);
  }
  for (const std::uint32_t i : unindexed_) {
    Part& part = parts_[i];
    part.listed = false;
    if (!part.alive) continue;
    if (!anew && !part.indexed) tree_.insert({part.bounds, i});
    part.indexed = true;
  }
  unindexed_.clear();
}

std::vector<WallId> WallTable::walls() const {
  std::vector<WallId> out;
  for (std::uint32_t i = 0; i < slots_.size(); ++i) {
    if (slots_[i].alive) out.push_back({i, slots_[i].generation});
  }
  std::sort(out.begin(), out.end(), [&](WallId a, WallId b) { return order(a) < order(b); });
  return out;
}

Leg WallTable::frame_leg(WallId id, double time) const {
  return slots_[id.index].moves ? leg(id, time) : resting(slots_[id.index].wall.pose);
}

Leg WallTable::leg(WallId id, double time) const {
  const Slot& slot = slots_[id.index];
  if (!slot.moves) return resting({});
  if (!slot.legs.empty()) {
    const auto& track = slot.wall.track;
    const auto next = std::upper_bound(track.begin(), track.end(), time,
                                       [](double t, const TrackKey& key) { return t < key.time_s; });
    return slot.legs[static_cast<std::size_t>(next - track.begin())];
  }
  if (time < slot.going->end) return *slot.going;
  return {slot.going->end, detail::kEver, slot.wall.pose, {}, {0, 0, 1}, 0};
}

Leg WallTable::leg_before(WallId id, double time) const {
  const Slot& slot = slots_[id.index];
  if (slot.legs.empty()) {
    if (!slot.going || time > slot.going->end) return leg(id, time);
    return time > slot.going->start ? *slot.going : slot.before;
  }
  const auto& track = slot.wall.track;
  const auto next = std::lower_bound(track.begin(), track.end(), time,
                                     [](const TrackKey& key, double t) { return key.time_s < t; });
  return slot.legs[static_cast<std::size_t>(next - track.begin())];
}

}  // namespace dardo
