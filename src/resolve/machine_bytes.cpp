// The machine's state as bytes, and back.
#include <algorithm>

#include "resolve/detail/machine.hpp"

namespace dardo::detail {
namespace {

/// The parts of a flight that are plain data.
struct FlightBytes {
  std::uint32_t launch, stage, number, cause, strikes, turns, met;
  double through, ends;
  std::uint64_t key;
  Flight::Stuck stuck;
  bool alive, apex_passed, near_passed;
  Course course;
};
/// The parts of a launch that are plain data.
struct LaunchBytes {
  std::uint32_t plan, number, flights, strikes, alive, toward;
  BodyId by, at;
  Vec3 place;
  FactionId faction;
  std::uint64_t seed;
  Aiming aim;
  bool used;
};

void put_text(std::string& out, const std::string& text) {
  put(out, static_cast<std::uint32_t>(text.size()));
  out += text;
}
bool take_text(std::string_view& in, std::string& text) {
  std::uint32_t size = 0;
  if (!take(in, size) || in.size() < size) return false;
  text = in.substr(0, size);
  in.remove_prefix(size);
  return true;
}

}  // namespace

void Machine::save(std::string& out, const std::vector<std::shared_ptr<const Plan>>& plans) const {
  const auto count = [&](std::size_t n) { put(out, static_cast<std::uint32_t>(n)); };
  count(plans.size());
  count(sizeof(FlightBytes));
  put(out, until_);
  count(launches_.size());
  for (const Launched& l : launches_) {
    const auto plan = std::find(plans.begin(), plans.end(), l.plan) - plans.begin();
    LaunchBytes b{};
    b.plan = static_cast<std::uint32_t>(plan), b.number = l.number, b.flights = l.flights,
    b.strikes = l.strikes;
    b.alive = l.alive, b.by = l.launch.by, b.faction = l.faction, b.seed = l.launch.seed, b.used = l.used,
    b.aim = l.launch.aim;
    b.toward = static_cast<std::uint32_t>(l.launch.toward.index());
    std::string zone, point;
    if (const auto* at = std::get_if<AtBody>(&l.launch.toward))
      b.at = at->body, zone = at->zone, point = at->point;
    if (const auto* place = std::get_if<AtPlace>(&l.launch.toward)) b.place = place->place;
    if (const auto* along = std::get_if<AlongDirection>(&l.launch.toward)) b.place = along->direction;
    put(out, b);
    put_text(out, l.launch.muzzle);
    put_text(out, zone);
    put_text(out, point);
  }
  count(flights_.size());
  for (const Flight& f : flights_) {
    put(out, FlightBytes{f.launch, f.stage, f.number, f.cause, f.strikes, f.turns,
                         static_cast<std::uint32_t>(f.met.size()), f.through, f.ends, f.key, f.stuck, f.alive,
                         f.apex_passed, f.near_passed, f.course});
    for (const Met& m : f.met) put(out, m);
  }
  for (const auto* list : {&free_, &free_launches_, &waiting_}) {
    count(list->size());
    for (const std::uint32_t i : *list) put(out, i);
  }
}

bool Machine::restore(std::string_view in, const std::vector<std::shared_ptr<const Plan>>& plans) {
  std::uint32_t known = 0, size = 0, count = 0;
  if (!take(in, known) || known != plans.size() || !take(in, size) || size != sizeof(FlightBytes))
    return false;
  std::vector<Launched> launches;
  std::vector<Flight> flights;
  double until = 0;
  if (!take(in, until)) return false;
  if (!take(in, count)) return false;
  for (std::uint32_t i = 0; i < count; ++i) {
    LaunchBytes b{};
    if (!take(in, b) || (b.used && b.plan >= plans.size())) return false;
    Launched l;
    std::string zone, point;
    if (!take_text(in, l.launch.muzzle) || !take_text(in, zone) || !take_text(in, point)) return false;
    if (b.toward == 1) l.launch.toward = AtBody{b.at, zone, point};
    if (b.toward == 2) l.launch.toward = AtPlace{b.place};
    if (b.toward == 3) l.launch.toward = AlongDirection{b.place};
    if (b.used) l.plan = plans[b.plan];
    l.launch.by = b.by, l.launch.seed = b.seed, l.launch.aim = b.aim, l.faction = b.faction;
    l.number = b.number, l.flights = b.flights, l.strikes = b.strikes, l.alive = b.alive, l.used = b.used;
    launches.push_back(std::move(l));
  }
  if (!take(in, count)) return false;
  for (std::uint32_t i = 0; i < count; ++i) {
    FlightBytes b{};
    if (!take(in, b) || (b.alive && (b.launch >= launches.size() || !launches[b.launch].used ||
                                     b.stage >= launches[b.launch].plan->size())))
      return false;
    Flight f;
    f.launch = b.launch, f.stage = b.stage, f.number = b.number, f.cause = b.cause, f.course = b.course;
    f.strikes = b.strikes, f.turns = b.turns, f.through = b.through, f.ends = b.ends;
    f.stuck = b.stuck;
    f.key = b.key;
    f.alive = b.alive, f.apex_passed = b.apex_passed, f.near_passed = b.near_passed;
    for (std::uint32_t k = 0; k < b.met; ++k) {
      Met m;
      if (!take(in, m)) return false;
      f.met.push_back(m);
    }
    flights.push_back(std::move(f));
  }
  std::vector<std::uint32_t> free, free_launches, waiting;
  for (auto* list : {&free, &free_launches, &waiting}) {
    if (!take(in, count)) return false;
    for (std::uint32_t i = 0; i < count; ++i) {
      std::uint32_t slot = 0;
      if (!take(in, slot)) return false;
      list->push_back(slot);
    }
  }
  if (!in.empty()) return false;
  launches_ = std::move(launches), flights_ = std::move(flights);
  free_ = std::move(free), free_launches_ = std::move(free_launches);
  waiting_ = std::move(waiting);
  queue_.clear();
  until_ = until;
  for (const Launched& l : launches_) {
    if (l.used) watch(*l.plan);
  }
  glances_.clear(), clear_.clear();
  for (const Flight& f : flights_) {
    glances_.push_back(f.alive ? glance_at(f) : Glance{});
    clear_.push_back(f.alive ? Clear{} : kOver);
  }
  events_.assign(flights_.size(), {}), versions_.assign(flights_.size(), 0),
      ways_.assign(flights_.size(), {});
  befores_.assign(flights_.size(), {});
  alive_ = static_cast<std::size_t>(
      std::count_if(flights_.begin(), flights_.end(), [](const Flight& f) { return f.alive; }));
  return true;
}

}  // namespace dardo::detail
