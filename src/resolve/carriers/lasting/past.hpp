#pragma once
#include <span>

#include "resolve/carriers/lasting/extent.hpp"
#include "resolve/rules/act.hpp"

namespace dardo::detail {

/// Something that lasted, when it was over.
struct Lasted {
  Lasting lasting;
  Ended ended = Ended::over;
  double end = 0;
  Vec3 place;
  Blocker by;
};

/// What all that lasted of one stage has met: how the gates of geometry read for those that it did not
/// strike.
class LastingPast {
 public:
  /// All must outlive it.
  LastingPast(const Act& act, const Motions& motions, std::span<const Lasted* const> all)
      : act_(act), motions_(motions), plan_(*act.stage.lasting), all_(all) {}

  /// How near one came to a body, and whether it did so in its time.
  struct Met {
    BodyId body;
    const Lasted* by = nullptr;
    const Guest* guest = nullptr;  ///< if it was ever inside
    double gap = 0, time = 0;      ///< there, and when
    double early = 0, late = 0;    ///< it touched it so long before or after its time, if at all
  };
  Met met(BodyId body) const;
  double nearest_time(BodyId body) const { return met(body).time; }
  bool in_reach(const Met& met) const { return met.guest != nullptr || met.early > 0 || met.late > 0; }
  bool in_time(const Met& met) const { return met.guest != nullptr; }
  bool in_sight(const Met& met) const { return tell_sight(met).reason == Reason::none; }
  Reading tell_reach(const Met& met) const;
  Reading tell_time(const Met& met) const;
  Reading tell_sight(const Met& met) const;
  Reading tell_cap(const Met& met, const Outcome& outcome) const;

 private:
  void look_around(Met& met, const Extent& extent) const;

  const Act& act_;
  const Motions& motions_;
  const LastingPlan& plan_;
  std::span<const Lasted* const> all_;
};

/// What is drawn of it.
LastingMark mark_of(const Lasted& lasted, const LastingPlan& plan, const Motions& motions);
DashMark dash_mark_of(const Lasted& lasted, const Motions& motions);

}  // namespace dardo::detail
