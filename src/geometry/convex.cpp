#include "geometry/detail/convex.hpp"

#include <algorithm>
#include <array>
#include <limits>

#include "geometry/detail/kernels.hpp"
#include "geometry/detail/sector_part.hpp"
#include "geometry/detail/tolerance.hpp"

namespace dardo::detail {
namespace {

/// A point of the difference of two shapes, and the points of both that make it.
struct Vertex {
  Vec3 difference, on_a, on_b;
};

/// Up to four vertices, and the weights with which they make the point nearest to the origin.
struct Simplex {
  std::array<Vertex, 4> vertex;
  std::array<double, 4> weight{};
  std::size_t count = 0;

  Vec3 nearest() const {
    Vec3 v;
    for (std::size_t i = 0; i < count; ++i) v = v + vertex[i].difference * weight[i];
    return v;
  }
  Vec3 point_on_a() const {
    Vec3 v;
    for (std::size_t i = 0; i < count; ++i) v = v + vertex[i].on_a * weight[i];
    return v;
  }
  Vec3 point_on_b() const {
    Vec3 v;
    for (std::size_t i = 0; i < count; ++i) v = v + vertex[i].on_b * weight[i];
    return v;
  }
};

/// Some of a simplex's vertices, in rising order but for equal ones, and what they make with their weights.
struct Part {
  std::array<std::size_t, 3> which;
  std::array<double, 3> weight;
  std::size_t count = 0;
  double squared = std::numeric_limits<double>::infinity();  ///< how far that is from the origin

  Part(const Simplex& of, std::array<std::size_t, 3> vertices, std::array<double, 3> weights, std::size_t n)
      : which(vertices), weight(weights), count(n) {
    Vec3 v;
    for (std::size_t i = 0; i < count; ++i) v = v + of.vertex[which[i]].difference * weight[i];
    squared = dot(v, v);
  }
  Part() = default;
};

void keep(Simplex& s, const Part& part) {
  // Never one that is needed later: they come in rising order.
  for (std::size_t i = 0; i < part.count; ++i) {
    if (part.which[i] != i) s.vertex[i] = s.vertex[part.which[i]];
    s.weight[i] = part.weight[i];
  }
  s.count = part.count;
}

Part nearest_of_segment(const Simplex& s, std::size_t i, std::size_t k) {
  const Vec3 &a = s.vertex[i].difference, ab = s.vertex[k].difference - a;
  const double squared = dot(ab, ab), t = squared > 0 ? -dot(a, ab) / squared : 0;
  if (t <= 0) return {s, {i}, {1}, 1};
  if (t >= 1) return {s, {k}, {1}, 1};
  return {s, {i, k}, {1 - t, t}, 2};
}

/// The part of the triangle that is nearest to the origin: its inside, as far as that can be told of a thin
/// one, or one of its three sides.
Part nearest_of_triangle(const Simplex& s, std::size_t i, std::size_t j, std::size_t k) {
  const Vec3 &a = s.vertex[i].difference, &b = s.vertex[j].difference, &c = s.vertex[k].difference;
  Part best;
  const auto consider = [&](const Part& candidate) {
    if (candidate.squared < best.squared) best = candidate;
  };
  consider(nearest_of_segment(s, i, j));
  consider(nearest_of_segment(s, j, k));
  consider(nearest_of_segment(s, i, k));
  // Solved along one side and across it (Gram and Schmidt): that keeps its digits when the triangle is thin,
  // as triangles are that close in on a round surface.
  const Vec3 ab = b - a, ac = c - a;
  const double ab2 = dot(ab, ab);
  if (!(ab2 > 0)) return best;
  Vec3 across_ab = ac - ab * (dot(ac, ab) / ab2);
  across_ab = across_ab - ab * (dot(across_ab, ab) / ab2);
  const double across2 = dot(across_ab, across_ab);
  if (!(across2 > 0)) return best;
  const double wc = -dot(a, across_ab) / across2;
  const double wb = -dot(a + ac * wc, ab) / ab2;
  if (wb > 0 && wc > 0 && wb + wc < 1) consider({s, {i, j, k}, {1 - wb - wc, wb, wc}, 3});
  return best;
}

/// Whether the origin is inside; then the weights say where.
bool is_inside(Simplex& s) {
  const Vec3 &a = s.vertex[0].difference, &b = s.vertex[1].difference, &c = s.vertex[2].difference,
             &d = s.vertex[3].difference;
  // Inside only where each side says so by more than rounding: a flat tetrahedron has no inside.
  const double reach = std::max({largest(a), largest(b), largest(c), largest(d)});
  const auto same_side = [&](const Vec3& p, const Vec3& q, const Vec3& r, const Vec3& opposite) {
    const Vec3 pq = q - p, pr = r - p, normal = cross(pq, pr);
    const double unsure = 1e-14 * length(pq) * length(pr) * reach;
    const double here = dot(normal, -p), there = dot(normal, opposite - p);
    return here > 0 ? here > unsure && there > unsure : here < -unsure && there < -unsure;
  };
  if (!(same_side(a, b, c, d) && same_side(a, b, d, c) && same_side(a, c, d, b) && same_side(b, c, d, a)))
    return false;
  const auto share = [](const Vec3& p, const Vec3& q, const Vec3& r, const Vec3& opposite) {
    const Vec3 normal = cross(q - p, r - p);
    return dot(normal, -p) / dot(normal, opposite - p);
  };
  s.weight = {share(b, c, d, a), share(a, c, d, b), share(a, b, d, c), share(a, b, c, d)};
  return true;
}

/// Keeps the part of the simplex that is nearest to the origin. True when the origin is inside.
bool reduce(Simplex& s) {
  switch (s.count) {
    case 1: s.weight[0] = 1; return false;
    case 2: keep(s, nearest_of_segment(s, 0, 1)); return false;
    case 3: keep(s, nearest_of_triangle(s, 0, 1, 2)); return false;
    default: break;
  }
  if (is_inside(s)) return true;
  Part best = nearest_of_triangle(s, 0, 1, 2);
  for (const auto& f : {std::array<std::size_t, 3>{0, 1, 3}, {0, 2, 3}, {1, 2, 3}}) {
    const Part face = nearest_of_triangle(s, f[0], f[1], f[2]);
    if (face.squared < best.squared) best = face;
  }
  keep(s, best);
  return false;
}

/// `direction` as far as it is at a right angle to the axis, made `length` long; zero along the axis, as far
/// as that can be told: what is left of it there is rounding, and points anywhere.
Vec3 across(const Vec3& direction, const Vec3& axis, double length) {
  Vec3 out = direction - axis * dot(direction, axis);
  out = out - axis * dot(out, axis);  // once more: of a direction nearly along the axis little is left
  const double size = dardo::length(out);
  return size > 1e-14 * dardo::length(direction) ? out * (length / size) : Vec3{};
}

}  // namespace

Convex::Convex(const Ball& s) : a_(s.center), b_(s.center), margin_(s.radius), middle_(s.center) {}
Convex::Convex(const Capsule& s) : a_(s.from), b_(s.to), margin_(s.radius), middle_((s.from + s.to) * 0.5) {}
Convex::Convex(const Box& s) : kind_(Kind::box), middle_(s.center), box_(&s) {}
Convex::Convex(const Cylinder& s)
    : kind_(Kind::cylinder), a_(s.from), b_(s.to), radius_(s.radius), middle_((s.from + s.to) * 0.5) {
  axis_ = normalized(b_ - a_);
}
Convex::Convex(const Cone& s)
    : kind_(Kind::cone), a_(s.apex), b_(s.base), radius_(s.radius), middle_((s.apex + s.base) * 0.5) {
  axis_ = normalized(b_ - a_);
}
Convex::Convex(const Hull& s) : Convex(std::span<const Vec3>(s.points)) {}
Convex::Convex(std::span<const Vec3> s) : kind_(Kind::points), middle_(s.front()), points_(s) {}
Convex::Convex(const SectorPart& s) : kind_(Kind::sector), middle_(s.farthest(s.frame.x)), part_(&s) {}
Convex::Convex(const Triangle& s) : kind_(Kind::triangle), a_(s.a), b_(s.b), axis_(s.c), middle_(s.a) {}
Convex::Convex(const Segment& s) : a_(s.from), b_(s.to), middle_((s.from + s.to) * 0.5) {}
Convex::Convex(const Vec3& p) : a_(p), b_(p), middle_(p) {}
Convex::Convex(const Shape& shape) : Convex(std::visit([](const auto& s) { return Convex(s); }, shape)) {}

Vec3 Convex::farthest(const Vec3& d) const {
  switch (kind_) {
    case Kind::segment: return dot(a_, d) >= dot(b_, d) ? a_ : b_;
    case Kind::box: {
      const Vec3 l = into(box_->turn, d), h = box_->half;
      return box_->center +
             box_->turn * Vec3{l.x < 0 ? -h.x : h.x, l.y < 0 ? -h.y : h.y, l.z < 0 ? -h.z : h.z};
    }
    case Kind::cylinder: return (dot(axis_, d) > 0 ? b_ : a_) + across(d, axis_, radius_);
    case Kind::cone: {
      const Vec3 rim = b_ + across(d, axis_, radius_);
      return dot(a_, d) >= dot(rim, d) ? a_ : rim;
    }
    case Kind::triangle: {
      const Vec3& end = dot(a_, d) >= dot(b_, d) ? a_ : b_;
      return dot(end, d) >= dot(axis_, d) ? end : axis_;
    }
    case Kind::sector: return part_->farthest(d);
    case Kind::points: break;
  }
  const Vec3* best = points_.data();
  double most = dot(*best, d);
  for (const Vec3& p : points_) {
    const double along = dot(p, d);
    if (along > most) most = along, best = &p;
  }
  return *best;
}

namespace {

/// A convex shape moved aside.
struct Shifted {
  const Convex& shape;
  Vec3 by;

  Vec3 farthest(const Vec3& direction) const { return shape.farthest(direction) + by; }
  Vec3 middle() const { return shape.middle() + by; }
  double margin() const { return shape.margin(); }
};

/// A convex shape moved and turned.
struct Carried {
  const Convex& shape;
  Pose pose;

  Vec3 farthest(const Vec3& direction) const { return pose * shape.farthest(into(pose.turn, direction)); }
  Vec3 middle() const { return pose * shape.middle(); }
  double margin() const { return shape.margin(); }
};

template <class A>
Apart nearest_points_of(const A& a, const Convex& b,
                        double beyond = std::numeric_limits<double>::infinity()) {
  constexpr int kMostRounds = 200;
  constexpr double kEnough = 1e-13;
  const double scale = std::max(largest(a.middle()), largest(b.middle()));
  const double touching = slack(scale), least_told = touching / 16;
  Vec3 v = a.middle() - b.middle();
  if (v == Vec3{}) v = {1, 0, 0};
  Apart out;
  Simplex simplex;
  Vec3 best_on_a = a.middle(), best_on_b = b.middle();
  double least = std::numeric_limits<double>::infinity(), clear = 0;
  const auto take = [&] { best_on_a = simplex.point_on_a(), best_on_b = simplex.point_on_b(); };
  for (int round = 0; round < kMostRounds; ++round) {
    const Vec3 on_a = a.farthest(-v), on_b = b.farthest(v);
    const Vec3 w = on_a - on_b;
    // No point of the difference is nearer to the origin than the plane through w across v.
    const double bound = dot(v, w) / length(v);
    if (bound > clear) clear = bound, out.plane = -v / length(v);
    if (const double sure = clear - a.margin() - b.margin(); sure > beyond) {
      out.distance = out.measured = out.clear = sure;
      return out;
    }
    if (least < std::numeric_limits<double>::infinity()) {
      // Near enough, or a vertex for the second time?
      const double open = dot(v, v) - dot(v, w);
      if (open <= kEnough * dot(v, v)) break;
      const auto known = [&](const Vertex& k) { return k.difference == w; };
      if (std::any_of(simplex.vertex.begin(),
                      simplex.vertex.begin() + static_cast<std::ptrdiff_t>(simplex.count), known))
        break;
    }
    simplex.vertex[simplex.count++] = {w, on_a, on_b};
    const bool inside = reduce(simplex);
    if (inside) {
      least = 0;
      take();
      break;
    }
    v = simplex.nearest();
    const double squared = dot(v, v);
    if (!(squared < least)) break;  // rounding has the last word: no progress any more
    least = squared;
    take();
    // What touches is still told apart as far as numbers say: its points are places to go on from.
    if (squared <= least_told * least_told || simplex.count == 4) break;
  }
  const double margins = a.margin() + b.margin();
  const double core = std::sqrt(least);
  const Vec3 &on_a = best_on_a, &on_b = best_on_b;
  if (core > touching) {
    out.direction = (on_b - on_a) / core;
    const double size = length(out.direction);
    if (size > 0) out.direction = out.direction / size;
  }
  const double gap = core - margins;
  out.measured = gap;
  out.distance = gap <= slack(scale, margins) ? 0 : gap;
  out.clear = std::max(0.0, clear - margins);
  out.on_a = on_a + out.direction * a.margin();
  out.on_b = on_b - out.direction * std::min(b.margin(), core);  // of b, and, when they touch, of a as well
  if (out.distance == 0) out.on_a = out.on_b;
  return out;
}

}  // namespace

Apart nearest_points(const Convex& a, const Convex& b, const Vec3& shift) {
  return nearest_points_of(Shifted{a, shift}, b);
}
Apart nearest_points(const Convex& a, const Pose& pose, const Convex& b, double beyond) {
  return nearest_points_of(Carried{a, pose}, b, beyond);
}
Apart nearest_points_within(const Convex& a, const Convex& b, double beyond) {
  return nearest_points_of(Shifted{a, {}}, b, beyond);
}

std::optional<Meeting> first_meeting(const Convex& a, const Vec3& travel, const Convex& b) {
  constexpr int kMostRounds = 200;
  double part = 0;
  Vec3 last_normal;
  for (int round = 0; round < kMostRounds; ++round) {
    const Apart apart = nearest_points(a, b, travel * part);
    if (apart.distance == 0) return Meeting{part, apart.on_b, last_normal};
    // Nothing of a passes the plane between them sooner than this.
    const double speed = dot(travel, apart.plane);
    if (!(speed > 0) && apart.clear > 0) return std::nullopt;
    const double next = speed > 0 ? part + apart.clear / speed : part;
    last_normal = -apart.direction;
    if (next > 1) {
      // The end of the travel belongs to it, within the tolerance.
      const Apart end = nearest_points(a, b, travel);
      if (end.distance == 0) return Meeting{1, end.on_b, last_normal};
      return std::nullopt;
    }
    if (!(next > part)) return Meeting{part, apart.on_b, last_normal};
    part = next;
  }
  const Apart apart = nearest_points(a, b, travel * part);
  return Meeting{part, apart.on_b, last_normal};
}

std::optional<Contact> first_contact(const Convex& a, const Vec3& travel, const Convex& b) {
  const auto met = first_meeting(a, travel, b);
  if (!met) return std::nullopt;
  const double size = length(travel);
  const Vec3 against = size > 0 ? -travel / size : Vec3{0, 0, 1};
  return Contact{met->part * size, met->point, met->normal == Vec3{} ? against : met->normal};
}

std::optional<Contact> first_contact(const Convex& shape, const Bounds& around, const Ray& line) {
  // Beyond the shape nothing can be met: a shorter way keeps all the digits.
  const double reach = length(around.center() - line.from) + length(around.high - around.low);
  auto contact = first_contact(Convex(line.from), line.direction * std::min(line.length, reach), shape);
  if (contact) {
    contact->distance = std::min(contact->distance, line.length);
    contact->point = line.at(contact->distance);
    if (contact->distance == 0) {
      contact->normal = -line.direction;
      return contact;
    }
    // So near to the surface rounding tilts what points to it: it is taken from farther out.
    constexpr double kFarEnough = 0.01;
    for (int round = 0; round < 3; ++round) {
      const Apart apart = nearest_points(Convex(contact->point + contact->normal * kFarEnough), shape);
      if (!(apart.distance > 0)) break;
      contact->normal = -apart.direction;
    }
  }
  return contact;
}

namespace {

/// The segment at the heart of a ball or a capsule.
struct Core {
  Segment axis;
  double radius;
};
bool is_round(const Shape& shape, Core& out) {
  if (const auto* s = std::get_if<Capsule>(&shape)) return out = {{s->from, s->to}, s->radius}, true;
  if (const auto* s = std::get_if<Ball>(&shape)) return out = {{s->center, s->center}, s->radius}, true;
  return false;
}

}  // namespace

double gap_between(const Shape& a, const Pose& a_in_b, const Shape& b, double beyond) {
  Core one, other;
  if (!is_round(a, one) || !is_round(b, other))
    return nearest_points(Convex(a), a_in_b, Convex(b), beyond).measured;
  return segments_apart({a_in_b * one.axis.from, a_in_b * one.axis.to}, other.axis).distance - one.radius -
         other.radius;
}

}  // namespace dardo::detail
