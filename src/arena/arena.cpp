#include "dardo/arena/arena.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

#include "geometry/detail/check_rows.hpp"

namespace dardo {
namespace {

template <class Table>
auto find_in(const Table& table, std::string_view name) -> std::optional<typename Table::mapped_type> {
  const auto found = table.find(name);
  if (found == table.end()) return std::nullopt;
  return found->second;
}

/// Names must be there and be new.
template <class Table>
void check_name(Problems& out, const Table& table, const std::string& name, const char* key,
                const char* kind) {
  if (name.empty()) {
    out.push_back({key, "is empty", std::string("a name for the ") + kind});
  } else if (table.contains(name)) {
    out.push_back(
        {key, "is there twice: \"" + name + "\"", std::string("a name of its own for each ") + kind});
  }
}

constexpr double kMostNumber = 1e15;

/// Who says only a velocity goes on so.
void take_velocity(Problems& out, Body& body) {
  if (body.velocity == Vec3{}) return;
  constexpr double kHour = 3600;
  if (!body.track.empty()) out.push_back({"/velocity", "is there beside a track", "one of the two"});
  const Pose there{body.pose.at + body.velocity * kHour, body.pose.turn};
  if (check(there).empty()) {
    body.track = {{0, body.pose}, {kHour, there}};
  } else {
    out.push_back({"/velocity", "takes it beyond 1e7 within an hour", "less of it, or a track"});
  }
}

/// Each has a name of its own, and a value.
void check_numbers(Problems& out, const std::vector<NamedNumber>& numbers) {
  for (std::size_t i = 0; i < numbers.size(); ++i) {
    const auto& [name, value] = numbers[i];
    const bool twice = std::any_of(numbers.begin(), numbers.begin() + static_cast<std::ptrdiff_t>(i),
                                   [&](const NamedNumber& other) { return other.name == numbers[i].name; });
    if (name.empty() || twice || !(std::fabs(value) <= kMostNumber))
      out.push_back({"/numbers" + detail::pointer_step(name), "has no name of its own, or no value",
                     "a name, once, and a number of at most 1e15 in size"});
  }
}

bool lists(const std::vector<std::string>& words, std::string_view word) {
  return std::find(words.begin(), words.end(), word) != words.end();
}

}  // namespace

Result<FactionId> Arena::add_faction(std::string name) {
  Problems problems;
  check_name(problems, faction_names_, name, "", "faction");
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  const FactionId id{static_cast<std::uint32_t>(factions_.size()), 0};
  for (auto& row : relations_) row.push_back(Relation::neutral);
  relations_.emplace_back(factions_.size() + 1, Relation::neutral);
  relations_.back().back() = Relation::friendly;
  faction_names_.emplace(name, id);
  factions_.push_back(std::move(name));
  return id;
}

Result<MaterialId> Arena::add_material(Material material) {
  Problems problems;
  check_name(problems, material_names_, material.name, "/name", "material");
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  const MaterialId id{static_cast<std::uint32_t>(materials_.size()), 0};
  material_names_.emplace(material.name, id);
  materials_.push_back(std::move(material));
  return id;
}

Result<BuildId> Arena::add_build(Build build) {
  Problems problems = check(build);
  check_name(problems, build_names_, build.name, "/name", "build");
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  const BuildId id{static_cast<std::uint32_t>(builds_.size()), 0};
  Bounds around;
  for (const Hitbox& h : build.hitboxes) around.add(dardo::bounds(h.shape));
  build_bounds_.push_back(around);
  build_reach_.push_back(0.5 * length(around.high - around.low));
  learn(build_tags_.emplace_back(), build.tags);
  learn(build_immune_.emplace_back(), build.immune);
  build_names_.emplace(build.name, id);
  builds_.push_back(std::move(build));
  return id;
}

Result<BodyId> Arena::add_body(Body body) {
  Problems problems = check_held();
  take_velocity(problems, body);
  if (!body.track.empty()) body.pose = leg_at(body.track, 0).at(0);
  for (Problem& p : check(body.pose)) problems.push_back(std::move(p));
  for (Problem& p : check(body.track)) problems.push_back(std::move(p));
  check_numbers(problems, body.numbers);
  for (Problem& p : check(body.resists)) problems.push_back(std::move(p));
  check_name(problems, body_names_, body.id, "/id", "body");
  if (body.build.index >= builds_.size()) {
    problems.push_back({"/build", "is not of this arena", "an id that add_build gave"});
  }
  if (body.faction.index >= factions_.size()) {
    problems.push_back({"/faction", "is not of this arena", "an id that add_faction gave"});
  }
  if (body.build.index < builds_.size()) {
    for (Problem& p : check(body.changes, builds_[body.build.index])) problems.push_back(std::move(p));
  }
  for (std::size_t i = 0; i < body.changes.size(); ++i) {
    if (!body.changes[i].faction.empty() && body.changes[i].faction.index >= factions_.size())
      problems.push_back({"/changes/" + std::to_string(i) + "/faction", "is not of this arena",
                          "an id that add_faction gave"});
  }
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  std::uint32_t index = 0;
  if (free_slots_.empty()) {
    index = static_cast<std::uint32_t>(slots_.size());
    slots_.emplace_back();
    marks_.emplace_back();
  } else {
    index = free_slots_.back();
    free_slots_.pop_back();
  }
  Slot& slot = slots_[index];
  slot.body = std::move(body);
  slot.order = next_order_++;
  learn_words(slot);
  slot.numbers.clear();
  for (const NamedNumber& n : slot.body.numbers) set_number(slot, n);
  Mark& mark = marks_[index];
  mark.alive = true, mark.fallen = slot.body.fallen, mark.tracked = !slot.body.track.empty();
  mark.faction = slot.body.faction.index;
  learn_changes(index);
  ++alive_;
  place(index);
  mark_changed(index);
  slot.legs = legs_of(slot.body.track);
  if (!slot.body.track.empty()) tracked_.push_back(id_of(index)), unindexed_tracks_.push_back(index);
  log_arrival(id_of(index));
  body_names_.emplace(slot.body.id, id_of(index));
  return id_of(index);
}

Result<WallId> Arena::add_wall(Wall wall) {
  Problems problems = check_held();
  for (Problem& p : check(wall)) problems.push_back(std::move(p));
  check_name(problems, wall_names_, wall.id, "/id", "wall");
  if (!wall.material.empty() && wall.material.index >= materials_.size()) {
    problems.push_back(
        {"/material", "is not of this arena", "an id that add_material gave, or an empty one"});
  }
  if (!problems.empty()) return tl::unexpected(std::move(problems));
  if (!wall.track.empty()) wall.pose = leg_at(wall.track, 0).at(0);
  std::string name = wall.id;
  const WallId id = walls_.add(std::move(wall));
  wall_names_.emplace(std::move(name), id);
  ++placements_;
  return id;
}

void Arena::relate(FactionId from, FactionId to, Relation relation) {
  if (held_ == 0 && from.index < factions_.size() && to.index < factions_.size() &&
      relation != Relation::self) {
    relations_[from.index][to.index] = relation;
  }
}

Problems Arena::check_held() const {
  if (held_ == 0) return {};
  return {{"", "is in the middle of a tick", "a change between two ticks"}};
}

Problems Arena::set_gravity(const Vec3& gravity) {
  if (held_ > 0) return check_held();
  constexpr double kMost = 1e6;
  if (!is_finite(gravity) || largest(gravity) > kMost)
    return {{"/gravity", "is not finite, or stronger than 1e6 m/s²",
             "three finite numbers of at most 1e6 in size"}};
  gravity_ = gravity;
  const double size = length(gravity);
  up_ = size > 0 ? -gravity / size : Vec3{0, 0, 1};
  ++placements_;
  return {};
}

Problems Arena::set_ground(std::optional<double> height) {
  if (held_ > 0) return check_held();
  if (height && !(std::fabs(*height) <= kMaxCoordinate))
    return {{"/ground", "is not finite, or beyond 10,000,000 m", "a height of at most 1e7 in size"}};
  ground_ = height;
  slope_.reset();
  ++placements_;
  return {};
}

Problems Arena::set_ground(const HalfSpace& slope) {
  if (held_ > 0) return check_held();
  Problems out;
  if (!is_finite(slope.point) || largest(slope.point) > kMaxCoordinate)
    out.push_back({"/ground/at", "is not finite, or beyond 10,000,000 m", "a place"});
  const double size = length(slope.normal);
  if (!is_finite(slope.normal) || !(size > 0) || !std::isfinite(size))
    out.push_back({"/ground/normal", "has no direction", "three finite numbers, not all 0"});
  if (!out.empty()) return out;
  slope_ = slope, slope_normal_ = slope.normal / size;
  ground_ = dot(slope.point, slope_normal_);
  ++placements_;
  return {};
}

Problems Arena::move(WallId wall, const Pose& pose) {
  if (held_ > 0) return check_held();
  Problems problems = check(pose);
  if (!has(wall)) {
    problems.push_back({"", "is not in the arena", "a wall that was added and not removed"});
  } else if (!walls_.wall(wall).track.empty()) {
    problems.push_back({"", "is on a track", "a wall without one"});
  }
  if (!problems.empty()) return problems;
  walls_.put(wall, pose);
  ++placements_;
  return {};
}

bool Arena::remove(WallId wall) {
  if (held_ > 0 || !has(wall)) return false;
  wall_names_.erase(walls_.wall(wall).id);
  walls_.remove(wall);
  ++placements_;
  return true;
}

Relation Arena::relation(FactionId from, FactionId to) const { return relations_[from.index][to.index]; }

Problems Arena::move(BodyId body, const Pose& pose) {
  if (held_ > 0) return check_held();
  Problems problems = check(pose);
  if (!has(body)) problems.push_back({"", "is not in the arena", "a body that was added and not removed"});
  if (problems.empty()) put(body, pose);
  return problems;
}

void Arena::log_arrival(BodyId body) {
  constexpr std::size_t kMost = 1 << 16;
  if (arrived_.size() >= kMost) forgotten_arrivals_ += arrived_.size(), arrived_.clear();
  arrived_.push_back(body);
}

std::optional<std::span<const BodyId>> Arena::arrivals_since(std::uint64_t number) const {
  if (number < forgotten_arrivals_ || number > arrivals()) return std::nullopt;
  return std::span(arrived_).subspan(number - forgotten_arrivals_);
}

const Leg& Arena::track_leg(BodyId id, double time) const {
  const Slot& slot = slots_[id.index];
  const auto& track = slot.body.track;
  const auto next = std::upper_bound(track.begin(), track.end(), time,
                                     [](double t, const TrackKey& key) { return t < key.time_s; });
  return slot.legs[static_cast<std::size_t>(next - track.begin())];
}

void Arena::put(BodyId body, const Pose& pose) {
  carry(body, pose);
  log_arrival(body);
}

void Arena::carry(BodyId body, const Pose& pose) {
  slots_[body.index].body.pose = pose;
  place(body.index);
  mark_changed(body.index);
}

bool Arena::set_fallen(BodyId body, bool fallen) {
  if (held_ > 0 || !has(body)) return false;
  slots_[body.index].body.fallen = marks_[body.index].fallen = fallen;
  return true;
}

bool Arena::remove(BodyId body) {
  if (held_ > 0 || !has(body)) return false;
  ++removals_;
  forget_changes(body);
  body_names_.erase(slots_[body.index].body.id);
  std::erase(tracked_, body);
  forget_track(slots_[body.index]);
  marks_[body.index].alive = false;
  ++marks_[body.index].generation;
  --alive_;
  mark_changed(body.index);
  free_slots_.push_back(body.index);
  return true;
}

void Arena::learn_words(Slot& slot) {
  slot.tags = build_tags_[slot.body.build.index], slot.immune = build_immune_[slot.body.build.index];
  learn(slot.tags, slot.body.tags), learn(slot.immune, slot.body.immune);
  slot.resists.clear();
  for (const auto* list : {&builds_[slot.body.build.index].resists, &slot.body.resists}) {
    for (const Resistance& r : *list)
      slot.resists.emplace_back(r.kind.empty() ? kEveryKind : word_number(r.kind), r);
  }
}

Resistance Arena::resistance(BodyId id, std::optional<std::uint32_t> kind) const {
  Resistance out;
  for (const auto& [of, r] : slots_[id.index].resists) {
    if (of != kEveryKind && of != kind) continue;
    out.factor *= r.factor, out.armour += r.armour, out.floor = std::max(out.floor, r.floor);
  }
  return out;
}

Problems Arena::check_there(BodyId body) const {
  if (held_ > 0) return check_held();
  if (has(body)) return {};
  return {{"", "is not in the arena", "a body that was added and not removed"}};
}

Problems Arena::set_faction(BodyId body, FactionId faction) {
  Problems out = check_there(body);
  if (faction.index >= factions_.size())
    out.push_back({"/faction", "is not of this arena", "an id that add_faction gave"});
  if (!out.empty()) return out;
  forget_changes(body);
  slots_[body.index].body.faction = faction;
  marks_[body.index].faction = faction.index;
  look_anew_at(body);
  return {};
}

const Arena::State& Arena::state_at(BodyId id, double time) const {
  const auto& states = slots_[id.index].states;
  const auto next = std::upper_bound(states.begin(), states.end(), time,
                                     [](double t, const State& s) { return t < s.from_s; });
  return next == states.begin() ? states.front() : *(next - 1);
}

void Arena::learn_changes(std::uint32_t index) {
  Slot& slot = slots_[index];
  slot.states.clear();
  marks_[index].changes = !slot.body.changes.empty();
  if (slot.body.changes.empty()) return;
  const Build& build = builds_[slot.body.build.index];
  State now{-std::numeric_limits<double>::infinity(), slot.body.faction};
  slot.states.push_back(now);
  const auto known = static_cast<std::ptrdiff_t>(change_times_.size());
  for (const BodyChange& c : slot.body.changes) {
    now.from_s = c.time_s;
    if (!c.faction.empty()) now.faction = c.faction;
    now.hitboxes = (now.hitboxes & ~detail::bits_of(build, c.off)) | detail::bits_of(build, c.on);
    slot.states.push_back(now);
    change_times_.push_back(c.time_s);
  }
  std::inplace_merge(change_times_.begin(), change_times_.begin() + known, change_times_.end());
}

void Arena::forget_changes(BodyId body) {
  for (const BodyChange& c : slots_[body.index].body.changes)
    change_times_.erase(std::lower_bound(change_times_.begin(), change_times_.end(), c.time_s));
  slots_[body.index].body.changes.clear(), slots_[body.index].states.clear();
  marks_[body.index].changes = false;
}

Problems Arena::set_tags(BodyId body, std::vector<std::string> tags) {
  if (Problems out = check_there(body); !out.empty()) return out;
  slots_[body.index].body.tags = std::move(tags);
  learn_words(slots_[body.index]);
  look_anew_at(body);
  return {};
}

Problems Arena::set_immune(BodyId body, std::vector<std::string> attack_tags) {
  if (Problems out = check_there(body); !out.empty()) return out;
  slots_[body.index].body.immune = std::move(attack_tags);
  learn_words(slots_[body.index]);
  look_anew_at(body);
  return {};
}

Problems Arena::set_resists(BodyId body, std::vector<Resistance> resists) {
  Problems out = check_there(body);
  for (Problem& p : check(resists)) out.push_back(std::move(p));
  if (!out.empty()) return out;
  slots_[body.index].body.resists = std::move(resists);
  learn_words(slots_[body.index]);
  return {};
}

Problems Arena::set_build(BodyId body, BuildId build) {
  Problems out = check_there(body);
  if (build.index >= builds_.size())
    out.push_back({"/build", "is not of this arena", "an id that add_build gave"});
  if (!out.empty()) return out;
  forget_changes(body);
  slots_[body.index].body.build = build;
  learn_words(slots_[body.index]);
  place(body.index);
  mark_changed(body.index);
  if (has_track(body)) forget_track(slots_[body.index]), unindexed_tracks_.push_back(body.index);
  log_arrival(body);
  return {};
}

void Arena::update() {
  // A few changes are made one by one, many movements by a refit of all, many arrivals or departures by
  // building anew.
  const auto arrives = [&](std::uint32_t i) { return marks_[i].alive && !marks_[i].indexed; };
  const auto departs = [&](std::uint32_t i) { return !marks_[i].alive && marks_[i].indexed; };
  const auto arrivals = static_cast<std::size_t>(std::count_if(changed_.begin(), changed_.end(), arrives));
  const auto departures = static_cast<std::size_t>(std::count_if(changed_.begin(), changed_.end(), departs));
  if ((arrivals + departures) * 4 > body_tree_.size()) {
    std::vector<Entry> entries;
    entries.reserve(slots_.size());
    for (std::uint32_t i = 0; i < slots_.size(); ++i) {
      marks_[i].indexed = marks_[i].alive;
      if (marks_[i].alive) entries.push_back({marks_[i].bounds, i});
    }
    body_tree_.build(entries);
  } else if (!changed_.empty()) {
    const bool many = (changed_.size() - arrivals) * 16 > body_tree_.size();
    for (const std::uint32_t i : changed_) {
      Mark& mark = marks_[i];
      if (mark.indexed && (!mark.alive || !many)) mark.indexed = !body_tree_.remove(i);
    }
    if (many) {
      body_tree_.refit([&](std::uint32_t i) { return marks_[i].bounds; },
                       [&](std::uint32_t i) { prefetch(marks_[i]); });
    }
    for (const std::uint32_t i : changed_) {
      if (!arrives(i)) continue;
      body_tree_.insert({marks_[i].bounds, i});
      marks_[i].indexed = true;
    }
  }
  for (const std::uint32_t i : changed_) marks_[i].changed = false;
  changed_.clear();
  index_tracks();
  walls_.update();
}

double Arena::reach_on(BodyId id, const Leg& leg) const {
  // A body that turns swings its middle about its origin.
  const double swing = leg.turn_rate != 0 ? 2 * length(cross(leg.axis, center_in_frame(id))) : 0;
  return reach_around_center(id) + swing;
}

Bounds Arena::TrackPart::bounds(double begin, double until) const {
  if (velocity == Vec3{}) return Bounds{middle, middle}.grown(reach);
  const Vec3 a = middle + velocity * (std::max(begin, from) - since),
             b = middle + velocity * (std::min(until, to) - since);
  Bounds out{a, a};
  out.add(b);
  return out.grown(reach);
}

Bounds Arena::way_bounds(BodyId id, const Leg& leg, double from, double to) const {
  const Vec3 center = center_in_frame(id);
  const double r = reach_on(id, leg);
  const Vec3 a = leg.at(from) * center, b = leg.at(to) * center;
  Bounds out{a, a};
  out.add(b);
  return out.grown(r);
}

void Arena::index_tracks() {
  if (unindexed_tracks_.empty()) return;
  std::vector<Entry> fresh;
  for (const std::uint32_t index : unindexed_tracks_) {
    Slot& slot = slots_[index];
    if (!marks_[index].alive || !slot.track_parts.empty()) continue;
    for (const Leg& leg : slot.legs) {
      std::uint32_t part = static_cast<std::uint32_t>(track_parts_.size());
      if (free_parts_.empty()) {
        track_parts_.emplace_back();
      } else {
        part = free_parts_.back(), free_parts_.pop_back();
      }
      const BodyId id = id_of(index);
      const double since = std::isfinite(leg.start) ? leg.start : 0;
      track_parts_[part] = {id,          leg.start,         leg.end,
                            since,       reach_on(id, leg), leg.at(since) * center_in_frame(id),
                            leg.velocity};
      slot.track_parts.push_back(part);
      fresh.push_back({way_bounds(id, leg, leg.start, leg.end), part});
    }
  }
  unindexed_tracks_.clear();
  if (fresh.size() * 4 > track_tree_.size()) {
    for (const BodyId body : tracked_) {
      const Slot& slot = slots_[body.index];
      for (std::size_t i = 0; i < slot.track_parts.size(); ++i) {
        if (track_tree_.has(slot.track_parts[i]))
          fresh.push_back(
              {way_bounds(body, slot.legs[i], slot.legs[i].start, slot.legs[i].end), slot.track_parts[i]});
      }
    }
    track_tree_.build(fresh);
  } else {
    for (const Entry& e : fresh) track_tree_.insert(e);
  }
}

void Arena::leave_track(BodyId body) {
  if (!has_track(body)) return;
  Slot& slot = slots_[body.index];
  std::erase(tracked_, body);
  forget_track(slot);
  slot.body.track.clear(), slot.legs.clear();
  marks_[body.index].tracked = false;
}

void Arena::forget_track(Slot& slot) {
  for (const std::uint32_t part : slot.track_parts) {
    track_tree_.remove(part);
    free_parts_.push_back(part);
  }
  slot.track_parts.clear();
}

std::optional<FactionId> Arena::find_faction(std::string_view name) const {
  return find_in(faction_names_, name);
}
std::optional<MaterialId> Arena::find_material(std::string_view name) const {
  return find_in(material_names_, name);
}
std::optional<BuildId> Arena::find_build(std::string_view name) const { return find_in(build_names_, name); }
std::optional<BodyId> Arena::find_body(std::string_view id) const { return find_in(body_names_, id); }
std::optional<WallId> Arena::find_wall(std::string_view id) const { return find_in(wall_names_, id); }

bool Arena::has(BodyId id) const {
  return id.index < slots_.size() && marks_[id.index].alive && marks_[id.index].generation == id.generation;
}

Vec3 Arena::center(BodyId id) const {
  const Body& b = body(id);
  return b.pose * build_bounds_[b.build.index].center();
}

Vec3 Arena::eyes(BodyId id) const {
  return body(id).pose * build(body(id).build).eyes.value_or(center_in_frame(id));
}

std::optional<Vec3> Arena::muzzle(BodyId id, std::string_view name) const {
  for (const Muzzle& m : build(body(id).build).muzzles) {
    if (m.name == name) return body(id).pose * m.at;
  }
  return std::nullopt;
}

Passages Arena::blocks(WallId id) const {
  const Wall& w = wall(id);
  if (w.blocks) return *w.blocks;
  return w.material.empty() ? kEverything : materials_[w.material.index].blocks;
}

bool Arena::has_tag(BodyId id, std::string_view tag) const {
  return lists(body(id).tags, tag) || lists(build(body(id).build).tags, tag);
}

bool Arena::is_immune(BodyId id, std::string_view attack_tag) const {
  return lists(body(id).immune, attack_tag) || lists(build(body(id).build).immune, attack_tag);
}

std::optional<std::uint32_t> Arena::find_word(std::string_view word) const { return find_in(words_, word); }

std::optional<std::uint32_t> Arena::find_number(std::string_view name) const {
  return find_in(number_names_, name);
}

void Arena::set_number(Slot& slot, const NamedNumber& n) {
  const std::uint32_t number =
      number_names_.try_emplace(n.name, static_cast<std::uint32_t>(number_names_.size())).first->second;
  if (number >= slot.numbers.size()) slot.numbers.resize(number + 1);
  slot.numbers[number] = n.value;
}

Problems Arena::set_number(BodyId body, std::string_view name, double value) {
  if (held_ > 0) return check_held();
  Problems out;
  if (!has(body)) out.push_back({"", "is not in the arena", "a body that was added and not removed"});
  if (!(std::fabs(value) <= kMostNumber))
    out.push_back({"/numbers" + detail::pointer_step(name), "is not finite, or beyond 1e15", "a number"});
  if (!out.empty()) return out;
  count(body, name, value);
  return out;
}

void Arena::count(BodyId body, std::string_view name, double value) {
  Slot& slot = slots_[body.index];
  const auto same = [&](const NamedNumber& n) { return n.name == name; };
  const auto at = std::find_if(slot.body.numbers.begin(), slot.body.numbers.end(), same);
  if (at != slot.body.numbers.end()) {
    at->value = value;
    if (const auto number = find_number(name)) slot.numbers[*number] = value;
  } else {
    set_number(slot, slot.body.numbers.emplace_back(NamedNumber{std::string(name), value}));
  }
}

std::uint32_t Arena::word_number(const std::string& word) {
  return words_.try_emplace(word, static_cast<std::uint32_t>(words_.size())).first->second;
}

void Arena::learn(WordSet& set, const std::vector<std::string>& words) {
  for (const std::string& word : words) set.add(word_number(word));
}

std::vector<BodyId> Arena::bodies() const {
  std::vector<BodyId> out;
  out.reserve(alive_);
  for (std::uint32_t i = 0; i < slots_.size(); ++i) {
    if (marks_[i].alive) out.push_back(id_of(i));
  }
  const auto earlier = [&](BodyId a, BodyId b) { return order(a) < order(b); };
  if (!std::is_sorted(out.begin(), out.end(), earlier)) std::sort(out.begin(), out.end(), earlier);
  return out;
}

namespace {

template <class IdType>
std::vector<IdType> first_ids(std::size_t count) {
  std::vector<IdType> out;
  for (std::uint32_t i = 0; i < count; ++i) out.push_back({i, 0});
  return out;
}

}  // namespace

std::vector<FactionId> Arena::factions() const { return first_ids<FactionId>(factions_.size()); }
std::vector<MaterialId> Arena::materials() const { return first_ids<MaterialId>(materials_.size()); }
std::vector<BuildId> Arena::builds() const { return first_ids<BuildId>(builds_.size()); }

void Arena::place(std::uint32_t index) {
  ++placements_;
  Slot& slot = slots_[index];
  Bounds& around = marks_[index].bounds = {};
  slot.hitboxes.clear();
  for (const Hitbox& h : builds_[slot.body.build.index].hitboxes) {
    slot.hitboxes.push_back(placed(h.shape, slot.body.pose));
    around.add(dardo::bounds(slot.hitboxes.back()));
  }
}

void Arena::mark_changed(std::uint32_t slot) {
  if (marks_[slot].changed) return;
  marks_[slot].changed = true;
  changed_.push_back(slot);
}

}  // namespace dardo
