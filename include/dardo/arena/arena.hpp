#pragma once
#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <unordered_map>
#include <vector>

#include "dardo/arena/body.hpp"
#include "dardo/arena/faction.hpp"
#include "dardo/arena/wall.hpp"
#include "dardo/arena/wall_table.hpp"
#include "dardo/arena/words.hpp"
#include "dardo/geometry/half_space.hpp"
#include "dardo/index/tree.hpp"

namespace dardo {

/// What stands where: bodies, walls, factions.
///
///     Arena arena;
///     auto wardens = arena.add_faction("wardens").value();
///     auto deckhand = arena.add_build({.name = "deckhand", .hitboxes = {{"trunk", Ball{{0, 0, 1},
///     0.4}}}}).value(); auto mara = arena.add_body({.id = "mara", .build = deckhand, .faction =
///     wardens}).value(); arena.update();
///
/// What is handed over is checked, and refused with every problem at once; what is inside is valid. Within a
/// tick of a `Skirmish`, as from its callbacks, every change is refused. After
/// adding, moving or removing, `update` brings the index up to date. Until then answers stay right, only
/// slower: what has changed since the last update is looked at one by one.
///
/// Reading from several threads at once is safe while nobody changes it.
class Arena {
 public:
  Result<FactionId> add_faction(std::string name);
  Result<MaterialId> add_material(Material material);
  Result<BuildId> add_build(Build build);
  Result<BodyId> add_body(Body body);
  Result<WallId> add_wall(Wall wall);

  /// What bodies of `to` are to an attacker of `from`. Unless said: `friendly` within a faction, else
  /// `neutral`. Does nothing for `self`, or for ids that are not of this arena.
  void relate(FactionId from, FactionId to, Relation relation);

  /// What falls falls so, m/s²; (0, 0, -9.81) unless said.
  /// Problems when it is not finite or stronger than 1e6 m/s²; it then stays as it was.
  Problems set_gravity(const Vec3& gravity);
  const Vec3& gravity() const { return gravity_; }
  /// Everything lies in the plane z = 0 and stands along z: what spreads, rebounds askew or turns about keeps
  /// to the plane. Whoever builds it keeps hitboxes and walls upright, through z = 0, and gravity in the
  /// plane; the geometry is then that of the plane.
  void set_flat(bool flat) {
    if (held_ == 0) flat_ = flat;
  }
  bool flat() const { return flat_; }
  /// What is upright stands along it, and it is what left and right go by: `up`; in a flat arena z.
  const Vec3& upright() const { return flat_ ? kZ : up_; }
  /// Against gravity, one metre long; +z without gravity. Heights, apex, climb, what is level, go by it.
  const Vec3& up() const { return up_; }
  /// The height along `up` below which there is nothing but ground, if there is any: rays and shots end
  /// there, or rebound from it as from a wall of the material "ground". Problems when it is not finite or
  /// beyond 1e7.
  Problems set_ground(std::optional<double> height);
  /// The same of ground that slopes: all that lies below a plane. Its normal points out of it; its length
  /// does not matter, but must not be 0.
  Problems set_ground(const HalfSpace& slope);
  /// Along `ground_normal`.
  std::optional<double> ground() const { return ground_; }
  /// One metre long; `up` unless it slopes.
  const Vec3& ground_normal() const { return slope_ ? slope_normal_ : up_; }
  /// As it was set, if it slopes.
  const std::optional<HalfSpace>& ground_slope() const { return slope_; }

  /// Problems when the body is gone or the pose is not finite; the body then stays where it was.
  Problems move(BodyId body, const Pose& pose);
  /// The same for those who have checked: requires a body that is there and a pose that `check` passes.
  void put(BodyId body, const Pose& pose);
  /// False when the body is gone, or within a tick: there the strike's callback says who falls.
  bool set_fallen(BodyId body, bool fallen);
  /// By hand, between two ticks of a running game (what was to change at stated times with its faction or
  /// build is off then): whom a body fights for, what it is called and cannot be
  /// struck by (in addition to its build's), and what it is built like. What is under way sees it from the
  /// next tick on; an attacker keeps the faction that it had when it launched. Problems when the body is
  /// gone, or what is named is not of this arena; all stays as it was then.
  Problems set_faction(BodyId body, FactionId faction);
  Problems set_tags(BodyId body, std::vector<std::string> tags);
  Problems set_immune(BodyId body, std::vector<std::string> attack_tags);
  Problems set_resists(BodyId body, std::vector<Resistance> resists);
  Problems set_build(BodyId body, BuildId build);
  /// False when it was gone already, or within a tick. Its id may be used again.
  bool remove(BodyId body);
  /// Where a wall's frame is from now on. Problems when the wall is gone or on a track, or the pose is not
  /// finite; it then stays where it was.
  Problems move(WallId wall, const Pose& pose);
  bool remove(WallId wall);

  /// Brings the index up to date with all changes.
  void update();

  std::optional<FactionId> find_faction(std::string_view name) const;
  std::optional<MaterialId> find_material(std::string_view name) const;
  std::optional<BuildId> find_build(std::string_view name) const;
  std::optional<BodyId> find_body(std::string_view id) const;
  std::optional<WallId> find_wall(std::string_view id) const;

  bool has(BodyId id) const;
  /// Whether it is there and has not fallen.
  bool stands(BodyId id) const { return has(id) && !is_fallen(id); }
  bool has(WallId id) const { return walls_.has(id); }
  /// The following require an id that this arena has.
  const std::string& faction_name(FactionId id) const { return factions_[id.index]; }
  const Material& material(MaterialId id) const { return materials_[id.index]; }
  const Build& build(BuildId id) const { return builds_[id.index]; }
  const Body& body(BodyId id) const { return slots_[id.index].body; }
  /// What gates ask of every body that comes near; as in `body`, from beside its box.
  bool is_fallen(BodyId id) const { return marks_[id.index].fallen; }
  bool has_track(BodyId id) const { return marks_[id.index].tracked; }
  FactionId faction_of(BodyId id) const { return {marks_[id.index].faction, 0}; }
  /// Whether something changes with it at stated times; what is so at a time, from then on.
  bool changes(BodyId id) const { return marks_[id.index].changes; }
  FactionId faction_at(BodyId id, double time) const {
    return changes(id) ? state_at(id, time).faction : faction_of(id);
  }
  bool has_hitbox(BodyId id, std::uint32_t hitbox, double time) const {
    return !changes(id) || state_at(id, time).has(hitbox);
  }
  /// What a body is from a time on: a bit for each of its first 64 hitboxes that is there.
  struct State {
    double from_s = 0;
    FactionId faction;
    std::uint64_t hitboxes = ~std::uint64_t{0};

    bool has(std::uint32_t hitbox) const { return hitbox >= 64 || (hitboxes >> hitbox & 1) != 0; }
  };
  /// From the first time on, in order. Requires that it changes.
  std::span<const State> states(BodyId id) const { return slots_[id.index].states; }
  /// All times at which a body changes, in order.
  std::span<const double> change_times() const { return change_times_; }
  const Wall& wall(WallId id) const { return walls_.wall(id); }
  /// What walls are made of, and where that is at a time.
  const WallTable& wall_table() const { return walls_; }
  /// Empty when it is of no material.
  std::string_view material_name(WallId id) const {
    const MaterialId material = wall(id).material;
    return material.empty() ? std::string_view() : materials_[material.index].name;
  }
  Relation relation(FactionId from, FactionId to) const;
  /// Bodies in order of creation have rising numbers; ties between equal contacts go to the lower one.
  std::uint64_t order(BodyId id) const { return slots_[id.index].order; }

  /// The hitboxes of a body where it stands now, in the order of its build.
  std::span<const Shape> hitboxes(BodyId id) const { return slots_[id.index].hitboxes; }
  /// Fetches what `hitboxes` reads ahead of time: first where they are, some bodies later themselves.
  void fetch_place(BodyId id) const { prefetch(slots_[id.index].hitboxes); }
  void fetch_hitboxes(BodyId id) const { prefetch(*slots_[id.index].hitboxes.data()); }
  Bounds bounds(BodyId id) const { return marks_[id.index].bounds; }
  /// How often a body, a wall or the ground has been put somewhere, by adding or moving it: whoever keeps
  /// what it saw can tell whether that may have changed.
  std::uint64_t placements() const { return placements_; }
  /// How many of these were bodies that were added or moved, other than by the tick of a skirmish.
  std::uint64_t arrivals() const { return forgotten_arrivals_ + arrived_.size(); }
  /// Those from that number on, gone ones too; nothing when it is too long ago to be known.
  std::optional<std::span<const BodyId>> arrivals_since(std::uint64_t number) const;
  /// How often a body has been removed.
  std::uint64_t removals() const { return removals_; }
  /// The middle of the box around all its hitboxes: what an attack aims at, and starts from without a muzzle.
  Vec3 center(BodyId id) const;
  /// The same in the body's frame, and how far any of its hitboxes reaches from there.
  Vec3 center_in_frame(BodyId id) const { return build_bounds_[body(id).build.index].center(); }
  double reach_around_center(BodyId id) const { return build_reach_[body(id).build.index]; }
  /// Bodies that have a track, in order of creation.
  std::span<const BodyId> tracked() const { return tracked_; }
  /// As `leg_at` of its track. Requires that it has one.
  const Leg& track_leg(BodyId id, double time) const;
  /// Within this are its hitboxes while it goes along a leg from one time to another.
  Bounds way_bounds(BodyId id, const Leg& leg, double from, double to) const;
  /// How many places for bodies there are: ids have an index below it.
  std::size_t slots() const { return slots_.size(); }
  Vec3 eyes(BodyId id) const;
  /// Nothing when its build has no such muzzle.
  std::optional<Vec3> muzzle(BodyId id, std::string_view name) const;
  Passages blocks(WallId id) const;

  /// All tags of the body, its own and its build's.
  bool has_tag(BodyId id, std::string_view tag) const;
  bool is_immune(BodyId id, std::string_view attack_tag) const;
  /// The same as sets. A word has a number as soon as some build or body has it, and keeps it.
  const WordSet& tags(BodyId id) const { return slots_[id.index].tags; }
  const WordSet& immune(BodyId id) const { return slots_[id.index].immune; }
  /// All that a body, with its build, has against damage of a kind, by the kind's word; without one: of no
  /// kind, or of one that nobody names.
  Resistance resistance(BodyId id, std::optional<std::uint32_t> kind) const;
  /// A number of a body by its own number; nothing when the body has none of that name.
  std::optional<double> number(BodyId id, std::uint32_t number) const {
    const auto& numbers = slots_[id.index].numbers;
    return number < numbers.size() ? numbers[number] : std::nullopt;
  }
  std::optional<double> number(BodyId id, std::string_view name) const {
    const auto found = find_number(name);
    return found ? number(id, *found) : std::nullopt;
  }
  /// A name has a number as soon as some body has it, and keeps it. How many there are.
  std::optional<std::uint32_t> find_number(std::string_view name) const;
  std::size_t numbers() const { return number_names_.size(); }
  /// Problems when the body is gone, within a tick, or the value is not finite or beyond 1e15.
  Problems set_number(BodyId body, std::string_view name, double value);
  std::optional<std::uint32_t> find_word(std::string_view word) const;
  /// How many words there are.
  std::size_t words() const { return words_.size(); }

  /// In order of creation.
  std::vector<BodyId> bodies() const;
  std::vector<WallId> walls() const { return walls_.walls(); }
  std::vector<FactionId> factions() const;
  std::vector<MaterialId> materials() const;
  std::vector<BuildId> builds() const;
  std::size_t body_count() const { return alive_; }
  std::size_t material_count() const { return materials_.size(); }

  /// Calls `visit(body, limit)` for the bodies that the ray may meet within `limit`, fallen ones too; `visit`
  /// returns the new limit, a negative one to stop. With a radius: those that a ball along the ray may meet.
  template <class Visit>
  void bodies_along(const Ray& ray, double limit, Visit&& visit, double radius = 0) const {
    for (const std::uint32_t slot : changed_) {
      if (limit < 0) return;
      if (marks_[slot].alive) limit = visit(id_of(slot), limit);
    }
    body_tree_.along(
        ray, limit,
        [&](std::uint32_t slot, double now) { return marks_[slot].changed ? now : visit(id_of(slot), now); },
        radius);
  }
  /// Calls `visit(body)` for the bodies whose boxes touch `box`, and perhaps for some others.
  template <class Visit>
  void bodies_touching(const Bounds& box, Visit&& visit) const {
    for (const std::uint32_t slot : changed_) {
      if (marks_[slot].alive) visit(id_of(slot));
    }
    body_tree_.touching(
        box,
        [&](std::uint32_t slot) {
          if (!marks_[slot].changed) visit(id_of(slot));
        },
        [&](std::uint32_t slot) { prefetch(marks_[slot]); });
  }
  /// Calls `visit(body)` for the bodies on tracks whose hitboxes may touch `box` between two times, and
  /// perhaps for some others. A body may come twice.
  template <class Visit>
  void tracks_touching(const Bounds& box, double from, double to, Visit&& visit) const {
    for (const std::uint32_t slot : unindexed_tracks_) {
      if (marks_[slot].alive && marks_[slot].tracked) visit(id_of(slot));
    }
    track_tree_.touching(box, [&](std::uint32_t i) {
      const TrackPart& part = track_parts_[i];
      if (part.from <= to && from <= part.to && overlaps(part.bounds(from, to), box)) visit(part.body);
    });
  }
  /// Calls `visit(body, limit)` for the bodies on tracks that the ray may meet at a time; else like
  /// `bodies_along` and `tracks_touching`.
  template <class Visit>
  void tracks_along(const Ray& ray, double limit, double time, Visit&& visit, double radius = 0) const {
    for (const std::uint32_t slot : unindexed_tracks_) {
      if (limit < 0) return;
      if (marks_[slot].alive && marks_[slot].tracked) limit = visit(id_of(slot), limit);
    }
    track_tree_.along(
        ray, limit,
        [&](std::uint32_t i, double now) {
          const TrackPart& part = track_parts_[i];
          return part.from <= time && time <= part.to ? visit(part.body, now) : now;
        },
        radius);
  }

 private:
  friend class Skirmish;
  /// While anybody holds it, within a tick, others do not change it. Each who has held it lets go of it once.
  void hold() { ++held_; }
  void let_go() { --held_; }
  void count(BodyId body, std::string_view name, double value);
  void fall(BodyId body) { slots_[body.index].body.fallen = marks_[body.index].fallen = true; }
  Problems check_held() const;

  static constexpr std::uint32_t kEveryKind = 0xffffffffu;
  struct Slot {
    Body body;
    std::vector<Shape> hitboxes;  ///< in the world
    std::vector<Leg> legs;        ///< of its track, with its rest before and after
    std::vector<std::uint32_t> track_parts;
    std::uint64_t order = 0;
    WordSet tags, immune;
    std::vector<std::pair<std::uint32_t, Resistance>> resists;  ///< by the word of the kind; kEveryKind
    std::vector<std::optional<double>> numbers;                 ///< by the number of their name
    std::vector<State> states;
  };
  /// What queries and upkeep read of a slot, within one cache line.
  struct alignas(64) Mark {
    Bounds bounds;
    std::uint32_t generation = 0;
    std::uint32_t faction = 0;
    bool fallen = false, tracked = false, changes = false;
    bool alive = false;
    bool indexed = false;  ///< has an entry in the tree
    bool changed = false;  ///< since the last update; then it is listed in changed_
  };
  /// A hash for look-ups by string_view; nothing ever iterates over these tables.
  struct TextHash {
    using is_transparent = void;
    std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>{}(text); }
  };
  template <class IdType>
  using Names = std::unordered_map<std::string, IdType, TextHash, std::equal_to<>>;

  /// One leg of a body on a track, in the index.
  struct TrackPart {
    BodyId body;
    double from = 0, to = 0;
    double since = 0, reach = 0;  ///< at that time its middle was there; no hitbox is farther from it
    Vec3 middle, velocity;

    /// Within this is the body between two times, as far as that is on this leg.
    Bounds bounds(double begin, double until) const;
  };
  double reach_on(BodyId id, const Leg& leg) const;
  void index_tracks();
  void forget_track(Slot& slot);
  void log_arrival(BodyId body);
  /// As `put`, but no arrival: a tick has brought it there on its way.
  void carry(BodyId body, const Pose& pose);
  /// The same of a wall, which goes there along a leg.
  void carry(WallId wall, const Leg& leg) { walls_.go(wall, leg); }
  void put(WallId wall, const Pose& pose) { walls_.put(wall, pose); }
  /// It stands where it is.
  void leave_track(BodyId body);

  BodyId id_of(std::uint32_t slot) const { return {slot, marks_[slot].generation}; }
  void place(std::uint32_t index);
  void mark_changed(std::uint32_t slot);
  std::uint32_t word_number(const std::string& word);
  void learn(WordSet& set, const std::vector<std::string>& words);
  void learn_words(Slot& slot);
  const State& state_at(BodyId id, double time) const;
  void learn_changes(std::uint32_t slot);
  /// What is said by hand from then on holds, whatever was to change.
  void forget_changes(BodyId body);
  /// Whoever would have passed it may now strike it.
  void look_anew_at(BodyId body) { log_arrival(body), ++placements_; }
  Problems check_there(BodyId body) const;

  std::vector<std::string> factions_;
  std::vector<std::vector<Relation>> relations_;
  std::vector<Material> materials_;
  std::vector<Build> builds_;
  std::vector<Bounds> build_bounds_;
  std::vector<double> build_reach_;
  std::vector<WordSet> build_tags_, build_immune_;
  std::vector<BodyId> tracked_;
  std::vector<double> change_times_;
  static constexpr Vec3 kZ{0, 0, 1};
  bool flat_ = false;
  Vec3 gravity_{0, 0, -9.81}, up_{0, 0, 1};
  std::optional<double> ground_;
  std::optional<HalfSpace> slope_;
  Vec3 slope_normal_;
  std::vector<Slot> slots_;
  std::vector<Mark> marks_;  ///< of each slot
  std::vector<std::uint32_t> free_slots_;
  WallTable walls_;
  Names<FactionId> faction_names_;
  Names<MaterialId> material_names_;
  Names<BuildId> build_names_;
  Names<BodyId> body_names_;
  Names<WallId> wall_names_;
  void set_number(Slot& slot, const NamedNumber& number);

  Names<std::uint32_t> words_, number_names_;
  std::uint64_t next_order_ = 0, placements_ = 0, removals_ = 0;
  std::uint32_t held_ = 0;  ///< by so many
  std::size_t alive_ = 0;

  Tree body_tree_;
  std::vector<std::uint32_t> changed_;
  Tree track_tree_;
  std::vector<TrackPart> track_parts_;
  std::vector<std::uint32_t> free_parts_, unindexed_tracks_;
  std::vector<BodyId> arrived_;
  std::uint64_t forgotten_arrivals_ = 0;
};

}  // namespace dardo
