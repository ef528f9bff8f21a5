#pragma once
#include <memory>
#include <optional>
#include <vector>

#include "dardo/record/outcome.hpp"
#include "resolve/detail/attempt.hpp"
#include "resolve/detail/touch.hpp"

// One shot in flight: what it meets next.
namespace dardo::detail {

/// An attack with all attacks within it, each with a number: the attack itself is 0.
class Plan {
 public:
  explicit Plan(Attack attack);
  Plan(const Plan&) = delete;
  Plan& operator=(const Plan&) = delete;

  const Attack& attack(std::uint32_t stage) const { return *stages_[stage]; }
  std::uint32_t size() const { return static_cast<std::uint32_t>(stages_.size()); }
  /// Calls `visit(stage)` for every attack that this moment of a stage leads to, in order.
  template <class Visit>
  void each_then(std::uint32_t stage, Then::When when, Visit&& visit) const {
    std::uint32_t child = first_child_[stage];
    for (const Then& then : attack(stage).then) {
      for (std::size_t i = 0; i < then.attacks.size(); ++i, ++child) {
        if (then.when == when) visit(child);
      }
    }
  }
  /// The distance of a stage's `near`, if it has one.
  std::optional<double> near(std::uint32_t stage) const;
  bool has(std::uint32_t stage, Then::When when) const;

 private:
  Attack root_;
  std::vector<const Attack*> stages_;
  std::vector<std::uint32_t> first_child_;
};

/// One use of a plan.
struct Launched {
  std::shared_ptr<const Plan> plan;
  Launch launch;
  FactionId faction;
  std::uint32_t number = 0;   ///< among all launches
  std::uint32_t flights = 0;  ///< so far; numbers its shots
  std::uint32_t strikes = 0;
  std::uint32_t alive = 0;  ///< shots in flight
  bool used = false;
};

struct Struck {
  BodyId body;
  double time = 0;
};

/// Plain data but for the list of whom it struck.
struct Flight {
  std::uint32_t launch = 0;  ///< place in the machine's table
  std::uint32_t stage = 0;
  std::uint32_t number = 0;  ///< among the shots of its launch
  std::uint32_t cause = 0;   ///< the number of the strike that led to it, from 1; 0: none
  Course course;
  std::uint32_t strikes = 0, turns = 0;
  double through = 1;  ///< share of the power that walls have left
  double ends = 0;     ///< its lifetime's end
  /// Walls that it has just rebounded from or goes through, and until when they are not met again; three meet
  /// in a corner.
  struct Leaving {
    WallId wall;
    double until = 0;
  };
  std::array<Leaving, 3> leaving;
  /// Where it sticks: at a place in that body's frame, or, without a body, in the world.
  struct Stuck {
    bool yes = false;
    Blocker in;
    Vec3 at;
  };
  Stuck stuck;
  double last_turn = -1;
  double off_ground_until = 0;  ///< after a rebound from the ground it is not met again before
  bool alive = false, apex_passed = false, near_passed = false;
  std::vector<Struck> struck;

  void leave(WallId wall, double until) { leaving = {Leaving{wall, until}, leaving[0], leaving[1]}; }
};

/// What comes next of a flight.
struct Event {
  enum class Kind : std::uint8_t {
    none,
    body,
    wall,
    life,
    length,
    slow,
    out,
    apex,
    near,
    ground,
    lost,
    turned,
    returned,
    arrived,
    stopped
  };

  Kind kind = Kind::none;
  double time = 0;
  Course course;  ///< of the flight, at that time
  BodyId body;
  std::uint32_t hitbox = 0;
  bool strikes = false;  ///< or is only stopped by it
  WallId wall;
};

/// Who stands: the arena's word, and those that have fallen since.
class Standing {
 public:
  explicit Standing(const Arena& arena) : arena_(&arena) {}
  bool operator()(BodyId body) const {
    return arena_->has(body) && !arena_->body(body).fallen &&
           (body.index >= fallen_.size() || fallen_[body.index] != body.generation + 1);
  }
  void fall(BodyId body) {
    if (body.index >= fallen_.size()) fallen_.resize(arena_->slots(), 0);
    fallen_[body.index] = body.generation + 1;
  }

 private:
  const Arena* arena_;
  std::vector<std::uint32_t> fallen_;  ///< by slot: the generation that fell, plus 1
};

/// What a flight flies among.
struct Surroundings {
  const Arena& arena;
  const Motions& motions;
  const Standing& stands;
  std::optional<Bounds> bounds;
  double from = 0;  ///< nothing before this time is asked any more
};

Flyer flyer_of(const ShotDelivery& shot);

/// Where a flight that sticks is at a time.
Vec3 stuck_place(const Flight& flight, const Surroundings& around, double time);

/// Along its piece to a time, if that is later.
void catch_up(Course& course, double time);

/// The next event of a flight up to a time, which is none when nothing happens before that: then the event's
/// course is that of the flight at that time.
/// `trace`, if given, gets the pieces of the way there, each as long as it was flown.
Event next_event(const Flight& flight, const Launched& launched, const Surroundings& around, double until,
                 std::vector<Piece>* trace = nullptr);

}  // namespace dardo::detail
