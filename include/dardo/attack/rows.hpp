#pragma once
#include "dardo/arena/rows.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/effect_rows.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/geometry/rows.hpp"

namespace dardo {

template <>
struct Words<ZoneRule> {
  static constexpr std::array all{
      Word{ZoneRule::first, "first", "The first that is touched."},
      Word{ZoneRule::best, "best", "The touched one with the highest factor."},
  };
};
template <>
struct Words<AreaDelivery::Around> {
  static constexpr std::array all{
      Word{AreaDelivery::Around::aim, "aim", "The point aimed at."},
      Word{AreaDelivery::Around::attacker, "attacker", "The attacker's centre."},
  };
};
template <>
struct Words<AreaDelivery::Along> {
  static constexpr std::array all{
      Word{AreaDelivery::Along::aim, "aim",
           "From the attacker's centre to the aim; of a follow-up: its way."},
      Word{AreaDelivery::Along::attacker, "attacker", "The attacker's facing."},
      Word{AreaDelivery::Along::target, "target",
           "The facing of the body aimed at, or that it follows from."},
      Word{AreaDelivery::Along::world, "world", "The x axis of the world."},
  };
};
template <>
struct Words<AreaDelivery::Inside> {
  static constexpr std::array all{
      Word{AreaDelivery::Inside::touches, "touches", "Any part of a hitbox."},
      Word{AreaDelivery::Inside::centre, "centre", "The middle of a hitbox."},
      Word{AreaDelivery::Inside::whole, "whole", "All hitboxes, wholly."},
  };
};
template <>
struct Words<Sight::From> {
  static constexpr std::array all{
      Word{Sight::From::middle, "middle", "The area's middle, or where the shot is."},
      Word{Sight::From::eyes, "eyes", "The attacker's eyes."},
      Word{Sight::From::muzzle, "muzzle", "The attacker's muzzle."},
  };
};
template <>
struct Words<Sight::To> {
  static constexpr std::array all{
      Word{Sight::To::nearest, "nearest", "The point nearest to the middle, of each hitbox that is within."},
      Word{Sight::To::centre, "centre", "The body's centre."},
      Word{Sight::To::zones, "zones", "The middle of each hitbox."},
      Word{Sight::To::points, "points", "A fixed set of points all over the volume of the hitboxes."},
  };
};
template <>
struct Words<ByDistance> {
  static constexpr std::array all{
      Word{ByDistance::least, "least", "The nearest first."},
      Word{ByDistance::most, "most", "The farthest first."},
  };
};
template <>
struct Words<ByAngle> {
  static constexpr std::array all{
      Word{ByAngle::least, "least", "The least away from the attack's direction first."},
      Word{ByAngle::most, "most", "The most away from it first."},
  };
};
template <>
struct Words<ByChance> {
  static constexpr std::array all{Word{ByChance::even, "even", "Each with the same chance, by the seed."}};
};
template <>
struct Words<ByNumber::Take> {
  static constexpr std::array all{
      Word{ByNumber::Take::least, "least", "Who has least of it first."},
      Word{ByNumber::Take::most, "most", "Who has most of it first."},
  };
};
template <>
struct Words<Then::When> {
  static constexpr std::array all{
      Word{Then::When::strike, "strike", "On each body struck."},
      Word{Then::When::surface, "surface", "On each wall or ground met."},
      Word{Then::When::end, "end", "Where it ends, however it does."},
      Word{Then::When::apex, "apex", "Where a shot that falls is highest."},
      Word{Then::When::near, "near", "As soon as it is within `distance` of its target."},
      Word{Then::When::comes_in, "comes_in", "As a body comes into what lasts, whether it is struck or not."},
      Word{Then::When::goes_out, "goes_out", "As a body is out of it again."},
      Word{Then::When::interval, "interval", "Each `every` of an area that lasts, at its middle."},
      Word{Then::When::release, "release", "As the attack is released, at its muzzle."},
      Word{Then::When::hop, "hop", "As a chain departs from a body to another, toward that."},
      Word{Then::When::trigger, "trigger", "As a trap goes off, toward the body that has set it off."},
      Word{Then::When::landing, "landing", "As a dash comes to where it goes, or is stopped by a wall."},
  };
};
template <>
struct Words<GuidedPath::Lost> {
  static constexpr std::array all{
      Word{GuidedPath::Lost::fly_on, "fly_on", "It flies straight on."},
      Word{GuidedPath::Lost::pick_anew, "pick_anew", "It takes the nearest other that it may strike."},
      Word{GuidedPath::Lost::end, "end", "It ends."},
  };
};
template <>
struct Words<Volley::Spread> {
  static constexpr std::array all{
      Word{Volley::Spread::none, "none", "All along the aim."},
      Word{Volley::Spread::cone, "cone", "Evenly in a cone of that half angle."},
      Word{Volley::Spread::gauss, "gauss", "Normally, with that standard deviation."},
      Word{Volley::Spread::fan, "fan", "Side by side over that whole angle."},
      Word{Volley::Spread::ring, "ring", "Around the aim at that half angle."},
      Word{Volley::Spread::bodies, "bodies",
           "Each toward another body that it may strike, the first by its order; no more than there are."},
  };
};
template <>
struct Words<Aiming> {
  static constexpr std::array all{
      Word{Aiming::direct, "direct", "Along the straight line to it."},
      Word{Aiming::lead, "lead", "So as to meet it where it will be; over the lower arc when it falls."},
      Word{Aiming::high, "high", "The same over the higher arc."},
  };
};

template <>
struct Rows<BallArea> {
  static constexpr auto all = std::tuple{
      needed(row("radius", &BallArea::radius, units::metres, "Its radius.")),
  };
};
template <>
struct Rows<RingArea> {
  static constexpr auto all = std::tuple{
      row("near", &RingArea::near, units::metres, "Nothing nearer to its axis."),
      needed(row("far", &RingArea::far, units::metres, "Nothing farther from it.")),
      needed(row("low", &RingArea::low, units::coordinate, "From this height over its middle.")),
      needed(row("high", &RingArea::high, units::coordinate, "To this one.")),
  };
  static Problems across(const RingArea& ring);
};
template <>
struct Rows<ShellArea> {
  static constexpr auto all = std::tuple{
      row("near", &ShellArea::near, units::metres, "Nothing nearer to its middle."),
      needed(row("far", &ShellArea::far, units::metres, "Nothing farther from it.")),
  };
  static Problems across(const ShellArea& shell);
};
template <>
struct Rows<SectorArea> {
  static constexpr auto all = std::tuple{
      needed(row("angle", &SectorArea::angle, units::whole_turn, "Its full opening, seen from above.")),
      row("near", &SectorArea::near, units::metres, "Nothing nearer to its axis."),
      needed(row("far", &SectorArea::far, units::metres, "Nothing farther from it.")),
      needed(row("low", &SectorArea::low, units::coordinate, "From this height over its middle.")),
      needed(row("high", &SectorArea::high, units::coordinate, "To this one.")),
  };
  static Problems across(const SectorArea& sector);
};
template <>
struct Rows<ConeArea> {
  static constexpr auto all = std::tuple{
      needed(row("angle", &ConeArea::angle, units::whole_turn, "Its full opening.")),
      row("near", &ConeArea::near, units::metres, "Nothing nearer to its tip."),
      needed(row("far", &ConeArea::far, units::metres, "Nothing farther from it.")),
  };
  static Problems across(const ConeArea& cone);
};
template <>
struct Rows<BoxArea> {
  static constexpr auto all = std::tuple{
      needed(row("size", &BoxArea::half, units::half_extent, "Its whole extent: along it, across, up.")),
  };
};
template <>
struct Rows<BeamArea> {
  static constexpr auto all = std::tuple{
      needed(row("length", &BeamArea::length, Range{Unit::metres, 1e-6, kMaxCoordinate}, "Along it.")),
      needed(row("radius", &BeamArea::radius, units::metres, "Around it.")),
  };
};
template <>
struct Rows<CapsuleArea> {
  static constexpr auto all = std::tuple{
      needed(row("from", &CapsuleArea::from, units::coordinate, "One end of its axis, in the area's frame.")),
      needed(row("to", &CapsuleArea::to, units::coordinate, "The other end.")),
      needed(row("radius", &CapsuleArea::radius, units::metres, "Around the axis and its ends.")),
  };
};
template <>
struct Rows<PrismArea> {
  static constexpr auto all = std::tuple{
      needed(row("polygon", &PrismArea::polygon, "Its corners in order: [[x, y], ...], convex.")),
      needed(row("low", &PrismArea::low, units::coordinate, "From this height over its middle.")),
      needed(row("high", &PrismArea::high, units::coordinate, "To this one.")),
  };
  static Problems across(const PrismArea& prism);
};
template <>
struct Rows<HalfSpaceArea> {
  static constexpr auto all = std::tuple{};
};
template <>
struct Rows<HullArea> {
  static constexpr auto all = std::tuple{
      needed(row("points", &HullArea::points, units::coordinate, "In its frame: x ahead, y left, z up.")),
  };
  static Problems across(const HullArea& hull);
};
template <>
struct Rows<AreaShape> {
  static constexpr auto all = std::tuple{
      kind<BallArea>("ball", "A ball around its middle."),
      kind<RingArea>("ring", "An upright ring."),
      kind<ShellArea>("shell", "Between two distances."),
      kind<SectorArea>("sector", "A part of an upright ring, around its direction."),
      kind<ConeArea>("cone", "A part of a shell, around its direction; its far end is round."),
      kind<BoxArea>("box", "An upright box around its middle."),
      kind<BeamArea>("beam", "A round bar from its middle along its direction."),
      kind<CapsuleArea>("capsule", "A capsule in its frame: x along its direction, y to its left."),
      kind<PrismArea>("prism", "An upright prism over a convex polygon in its frame."),
      kind<HalfSpaceArea>("half_space", "All that lies ahead of its middle."),
      kind<HullArea>("hull", "The convex hull of points in its frame."),
  };
};
template <>
struct Words<Hangs> {
  static constexpr std::array all{
      Word{Hangs::place, "place", "It stays where it is put."},
      Word{Hangs::attacker, "attacker", "It goes and turns with the attacker."},
      Word{Hangs::target, "target", "With the body aimed at, or that it follows from."},
  };
};
template <>
struct Rows<GrownArea> {
  static constexpr auto all = std::tuple{
      needed(row("t", &GrownArea::time_s, units::some_seconds, "Since it began.")),
      inlined(&GrownArea::shape),
  };
};
template <>
struct Rows<Lasts> {
  static constexpr auto all = std::tuple{
      needed(row("for", &Lasts::for_s, Range{Unit::seconds, 1e-6, 3600}, "How long.")),
      row("every", &Lasts::every_s, units::endless(Range{Unit::seconds, 1e-3, 3600}),
          "Strikes whoever is still inside again after so long; without it each once."),
      row("strikes", &Lasts::strikes, units::count(1, 1e9), "In all; with the last it is over."),
      row("on", &Lasts::on, "What it hangs on."),
      row("velocity", &Lasts::velocity, Range{Unit::speed, -1e6, 1e6},
          "It goes along: ahead, to its left, up."),
      row("growth", &Lasts::growth, Range{Unit::speed, 0, 1e6},
          "All that reaches outward grows so fast; an inner edge goes along."),
      row("grows", &Lasts::grows,
          "Instead: what it has grown to by some times, evenly between them. Of the same kind."),
  };
};
template <>
struct Rows<SwingKey> {
  static constexpr auto all = std::tuple{
      needed(row("t", &SwingKey::time_s, Range{Unit::seconds, 0, 3600}, "Since the swing began.")),
      row("at", &SwingKey::at, units::coordinate, "Of the blade's origin, in the body's frame."),
      row("angle", &SwingKey::angle,
          Range{Unit::angle, -1000 * units::kPi, 1000 * units::kPi, false, false, units::kPi / 180},
          "About the axis, taken literally: from 350 to 10 it turns back by 340."),
  };
};
template <>
struct Rows<SwingDelivery> {
  static constexpr auto all = std::tuple{
      inlined(&SwingDelivery::blade),
      needed(row("keys", &SwingDelivery::keys, "Where the blade is when; between two it moves steadily.")),
      row("axis", &SwingDelivery::axis, "Of its turns, in the body's frame."),
      row("from", &SwingDelivery::from_s, Range{Unit::seconds, 0, 3600}, "Active from then on."),
      row("to", &SwingDelivery::to_s, units::endless(Range{Unit::seconds, 0, 3600}),
          "Up to then; to its last key at most."),
      row("again_after", &SwingDelivery::again_after_s, Range{Unit::seconds, 1e-3, 3600},
          "Strikes whom it still touches again after so long."),
      row("stopped_by_walls", &SwingDelivery::stopped_by_walls, "A wall that blocks shots ends it."),
      row("on", &SwingDelivery::on, "In whose frame it swings."),
  };
  static Problems across(const SwingDelivery& swing);
};
template <>
struct Rows<TrapDelivery> {
  static constexpr auto all = std::tuple{
      inlined(&TrapDelivery::shape),
      row("armed_after", &TrapDelivery::armed_after_s, Range{Unit::seconds, 0, 3600},
          "Whoever stands inside by then sets it off then."),
      row("for", &TrapDelivery::for_s, Range{Unit::seconds, 1e-6, 3600}, "How long it is there."),
      row("times", &TrapDelivery::times, units::count(1, 1e9), "How often it goes off."),
      row("rest", &TrapDelivery::rest_s, Range{Unit::seconds, 0, 3600},
          "Between one time and the next; whoever stands inside by then sets it off then."),
      row("on", &TrapDelivery::on, "What it hangs on."),
      row("vulnerable", &TrapDelivery::vulnerable, units::metres,
          "What strikes within so far of its middle ends it; 0: nothing does."),
      row("struck_sets_off", &TrapDelivery::struck_sets_off,
          "It goes off as it is struck, once it is armed; else it is just gone."),
  };
  static Problems across(const TrapDelivery& trap);
};
template <>
struct Rows<AreaDelivery> {
  static constexpr auto all = std::tuple{
      inlined(&AreaDelivery::shape),
      row("around", &AreaDelivery::around, "Where its middle is."),
      row("along", &AreaDelivery::along, "Where it points."),
      row("offset", &AreaDelivery::offset, units::coordinate,
          "Of its middle: ahead along its direction, to its left, up."),
      row("inside", &AreaDelivery::inside, "How much of a hitbox must be within."),
      row("share", &AreaDelivery::share, Range{Unit::share, 0, 1, true},
          "Instead of `inside`: so much of the volume of all hitboxes must be within."),
      row("lasts", &AreaDelivery::lasts, "It stays for a time; without it it is over in an instant."),
  };
  static Problems across(const AreaDelivery& area);
};
template <>
struct Rows<Sight> {
  static constexpr auto shorthand = &Sight::through;
  static constexpr auto all = std::tuple{
      row("through", &Sight::through, "Walls that block this stand in the way; that word alone will do."),
      row("from", &Sight::from, "From where it is looked."),
      row("place", &Sight::place, units::coordinate, "Instead: from a place in the world."),
      row("to", &Sight::to, "What of a body is looked at."),
      row("least", &Sight::least, units::share, "So large a share of that must be seen; 0: any."),
      row("thickness", &Sight::thickness, units::metres, "A ball of this radius must pass."),
      row("blocked_by", &Sight::blocked_by, "Bodies of these relations stand in the way, too."),
      row("scales_power", &Sight::scales_power, "The share that is seen is a factor of the power."),
  };
  static Problems across(const Sight& sight);
};
template <>
struct Rows<ByNumber> {
  static constexpr auto all = std::tuple{
      needed(row("name", &ByNumber::name, "Of the bodies' `numbers`.")),
      row("take", &ByNumber::take, "Which first."),
  };
};
template <>
struct Rows<ByTag> {
  static constexpr auto shorthand = &ByTag::tag;
  static constexpr auto all = std::tuple{
      needed(row("tag", &ByTag::tag, "Those with it come first; the word alone will do.")),
  };
};
template <>
struct Rows<OrderBy> {
  static constexpr auto all = std::tuple{
      kind<ByDistance>("distance", "How far away."),
      kind<ByAngle>("angle", "How far away from the direction."),
      kind<ByNumber>("number", "By a number of the bodies."),
      kind<ByTag>("tag", "Those with a tag first."),
      kind<ByChance>("chance", "By chance."),
  };
};

template <>
struct Rows<StraightPath> {
  static constexpr auto all = std::tuple{
      needed(row("speed", &StraightPath::speed, units::speed, "When it sets off.")),
      row("acceleration", &StraightPath::acceleration, units::acceleration, "Below 0 it slows down."),
      row("top_speed", &StraightPath::top_speed, units::endless(units::speed), "It gains no more than this."),
  };
  static Problems across(const StraightPath& path);
};
template <>
struct Rows<FallingPath> {
  static constexpr auto all = std::tuple{
      needed(row("speed", &FallingPath::speed, units::speed, "At the muzzle.")),
      row("gravity", &FallingPath::gravity, units::gravity_share, "Share of the arena's that draws it."),
      row("drag", &FallingPath::drag, units::drag, "Loses drag times the square of its speed each second."),
  };
  static Problems across(const FallingPath& path);
};
template <>
struct Rows<CurvePath> {
  static constexpr auto all = std::tuple{
      needed(row("speed", &CurvePath::speed, units::speed, "Along the curve.")),
      row("side", &CurvePath::side, units::coordinate, "How far its inner points lie to the left."),
      row("rise", &CurvePath::rise, units::coordinate, "How far they lie up."),
      row("through", &CurvePath::through, units::coordinate,
          "Instead of these two, on the way out: points that it goes through before the aim point, in the "
          "frame of the throw: x along it, y to its left, z at a right angle to both."),
      row("returns", &CurvePath::returns, "Comes back to its thrower, or ends at the point aimed at."),
      row("strikes_again", &CurvePath::strikes_again, "On the way back, whom it struck on the way out."),
  };
  static Problems across(const CurvePath& path);
};
template <>
struct Rows<GuidedPath> {
  static constexpr auto all = std::tuple{
      needed(row("speed", &GuidedPath::speed, units::speed, "Steady.")),
      needed(row("turn_rate", &GuidedPath::turn_rate, units::turn_rate, "At most.")),
      row("delay", &GuidedPath::delay_s, units::seconds, "Flies straight on for so long."),
      row("climb", &GuidedPath::climb, units::metres, "Rises by so much before it seeks."),
      row("lead", &GuidedPath::lead, "Aims where the target will be, not where it is."),
      row("needs_sight", &GuidedPath::needs_sight, "Loses a target that a wall hides."),
      row("lost", &GuidedPath::lost, "What it does when the target falls or is lost."),
  };
};
template <>
struct Rows<LobPath> {
  static constexpr auto all = std::tuple{
      row("flight_time", &LobPath::flight_time_s, units::some_seconds, "Until it arrives."),
      row("apex", &LobPath::apex, Range{Unit::metres, 1e-6, kMaxCoordinate},
          "How far its highest point lies above the higher of start and target."),
      row("follows", &LobPath::follows,
          "Its arc's end stays on a moving target; else thrown where it will be."),
  };
  static Problems across(const LobPath& path);
};
template <>
struct Rows<ShotPath> {
  static constexpr auto all = std::tuple{
      kind<StraightPath>("straight", "Straight ahead, at a steady speed or gaining or losing some."),
      kind<FallingPath>("falling", "Under gravity, with drag if it is said."),
      kind<CurvePath>("curve", "Out to the aim point along a curve, and back."),
      kind<GuidedPath>("guided", "Turns toward its target."),
      kind<LobPath>("lob", "Thrown so as to arrive: after a flight time, or over an apex."),
  };
};

template <>
struct Rows<Pierce> {
  static constexpr auto all = std::tuple{
      row("bodies", &Pierce::bodies, units::count(1, 1e9), "How many it strikes at most, the last included."),
      row("power", &Pierce::power, units::factor, "Factor for the first, second, ... body."),
      row("power_ratio", &Pierce::power_ratio, units::factor,
          "After the list each body gets this share of what the one before got."),
      row("materials", &Pierce::materials, "It goes through walls of these."),
      row("thickness", &Pierce::thickness, units::metres, "Up to so much way through them."),
      row("speed_loss", &Pierce::speed_loss, Range{Unit::speed, 0, 1e9}, "For each metre of wall."),
      row("power_loss", &Pierce::power_loss, units::factor, "Share of the power for each metre of wall."),
  };
};
template <>
struct Rows<Ricochet> {
  static constexpr auto all = std::tuple{
      needed(row("count", &Ricochet::count, units::count(0, 1e9),
                 "How often it turns; the contact after the last ends it.")),
      row("restitution", &Ricochet::restitution, Range{Unit::share, 0, 10},
          "Share of the speed along the normal that is kept."),
      row("friction", &Ricochet::friction, units::share,
          "Share of the speed along the surface that is lost."),
      row("jitter", &Ricochet::jitter, units::half_turn, "How far the new direction may be off."),
      row("least_speed", &Ricochet::least_speed, units::speed_or_none,
          "Ends when it would leave more slowly."),
      row("materials", &Ricochet::materials, "Of these walls only; empty: of all."),
  };
};
template <>
struct Rows<Volley> {
  static constexpr auto all = std::tuple{
      needed(row("count", &Volley::count, units::count(1, 10'000), "How many shots.")),
      row("gap", &Volley::gap_s, units::seconds, "Between one and the next."),
      row("spread", &Volley::spread, "How directions spread around the aim, by `angle`."),
      row("angle", &Volley::angle, units::whole_turn, "Of the spread."),
      row("speed_variation", &Volley::speed_variation, units::part,
          "Share of the speed by which each may be faster or slower."),
  };
};
template <>
struct Rows<RayDelivery> {
  static constexpr auto all = std::tuple{
      row("radius", &RayDelivery::radius, units::metres, "Of the ball that goes along it; 0: a line."),
      row("pierce", &RayDelivery::pierce, "What it goes through."),
      row("ricochet", &RayDelivery::ricochet, "What it turns at."),
      row("tracer_speed", &RayDelivery::tracer_speed, units::speed_or_none,
          "What is seen of it flies so fast; 0: as instant as the strike."),
      row("most_delay", &RayDelivery::most_delay_s, units::endless(units::seconds),
          "A warning when what is seen arrives later than this."),
  };
  static Problems across(const RayDelivery& ray);
};
template <>
struct Rows<ShotDelivery> {
  static constexpr auto all = std::tuple{
      inlined(&ShotDelivery::path),
      row("radius", &ShotDelivery::radius, units::metres, "Of the ball that flies; 0: a point."),
      row("shape", &ShotDelivery::shape, "Instead of the radius: in the shot's own frame, x ahead, z up."),
      row("life", &ShotDelivery::life_s, units::endless(units::some_seconds), "Its lifetime."),
      row("least_speed", &ShotDelivery::least_speed, units::speed_or_none, "Ends when slower."),
      row("pierce", &ShotDelivery::pierce, "What it goes through."),
      row("ricochet", &ShotDelivery::ricochet, "What it rebounds from."),
      row("volley", &ShotDelivery::volley, "Several shots of one launch."),
      row("again_after", &ShotDelivery::again_after_s, units::some_seconds,
          "Strikes a body that it still touches again after so long."),
      row("sticks", &ShotDelivery::sticks,
          "Stays in what would end it, and is carried along, until its lifetime is over."),
      row("foreseen", &ShotDelivery::foreseen,
          "Leads and lobs know the target's whole track; else how it moves when the shot sets off."),
      row("vulnerable", &ShotDelivery::vulnerable, units::metres,
          "What strikes within so far of its centre shoots it down; 0: nothing does."),
  };
  static Problems across(const ShotDelivery& shot);
};
template <>
struct Words<ChainDelivery::Measure> {
  static constexpr std::array all{
      Word{ChainDelivery::Measure::surface, "surface", "To the nearest point of a hitbox."},
      Word{ChainDelivery::Measure::centre, "centre", "To the centre of the next."},
  };
};
template <>
struct Words<ChainDelivery::Again> {
  static constexpr std::array all{
      Word{ChainDelivery::Again::never, "never", "Each body once."},
      Word{ChainDelivery::Again::not_at_once, "not_at_once", "Not the one that it comes from."},
      Word{ChainDelivery::Again::always, "always", "Any, even that."},
  };
};
template <>
struct Rows<ChainDelivery> {
  static constexpr auto all = std::tuple{
      needed(row("hop", &ChainDelivery::hop, units::metres, "How far, from the centre of the last one.")),
      row("hop_ratio", &ChainDelivery::hop_ratio, units::factor,
          "Each hop by this factor of the one before."),
      row("measure", &ChainDelivery::measure, "To where it is measured."),
      row("hops", &ChainDelivery::hops, units::count(0, 100'000),
          "One after the other, after the first body."),
      row("next", &ChainDelivery::next, units::count(1, 1000), "How many are gone for from each."),
      row("again", &ChainDelivery::again, "Whom it comes back to."),
      row("delay", &ChainDelivery::delay_s, Range{Unit::seconds, 0, 3600}, "Each hop takes so long."),
      row("speed", &ChainDelivery::speed, units::speed_or_none,
          "And as long as its way at this speed takes; 0: no more."),
      row("power", &ChainDelivery::power, units::factor, "Factor for the first, second, ... body."),
      row("power_ratio", &ChainDelivery::power_ratio, units::factor,
          "After the list each body gets this share of what the one before got."),
      row("power_step", &ChainDelivery::power_step, units::factor, "And so much less, never below 0."),
      row("arc", &ChainDelivery::arc, units::metres, "How high a leg is drawn over its middle."),
  };
};
template <>
struct Words<Windup::Aim> {
  static constexpr std::array all{
      Word{Windup::Aim::release, "release", "At where its target is when it is released."},
      Word{Windup::Aim::start, "start", "At the point where that was when it began."},
  };
};
template <>
struct Rows<Windup> {
  static constexpr auto all = std::tuple{
      needed(row("for", &Windup::for_s, Range{Unit::seconds, 0, 3600}, "How long.")),
      row("aim", &Windup::aim, "Where it is aimed."),
      row("though_fallen", &Windup::though_fallen,
          "It is released although the attacker has fallen meanwhile; else nothing happens."),
  };
};
template <>
struct Rows<Burst> {
  static constexpr auto all = std::tuple{
      needed(row("count", &Burst::count, units::count(1, 10'000), "How many rounds.")),
      needed(row("gap", &Burst::gap_s, Range{Unit::seconds, 0, 3600}, "Between one and the next.")),
      row("follows_muzzle", &Burst::follows_muzzle,
          "Each from where the attacker's muzzle is by then; else all from where it was at first."),
      row("aims_anew", &Burst::aims_anew,
          "Each at where its target is by then; else all at where that was at first."),
      row("though_fallen", &Burst::though_fallen, "Goes on although the attacker has fallen."),
  };
};
template <>
struct Words<DashDelivery::Side> {
  static constexpr std::array all{
      Word{DashDelivery::Side::near, "near", "Where it comes from."},
      Word{DashDelivery::Side::far, "far", "Beyond the body."},
      Word{DashDelivery::Side::front, "front", "Where the body faces."},
      Word{DashDelivery::Side::back, "back", "Behind that."},
  };
};
template <>
struct Words<DashDelivery::Blocked> {
  static constexpr std::array all{
      Word{DashDelivery::Blocked::shortened, "shortened", "It comes as near as it can."},
      Word{DashDelivery::Blocked::refused, "refused", "It does not begin."},
  };
};
template <>
struct Rows<DashDelivery> {
  static constexpr auto all = std::tuple{
      row("speed", &DashDelivery::speed, Range{Unit::speed, 0.01, 1e6},
          "Along the line to where it lands; without it, it is there at once."),
      row("distance", &DashDelivery::distance, units::metres, "So far toward its aim, instead of to that."),
      row("beside", &DashDelivery::beside, units::metres,
          "Instead: beside the body aimed at, with so much room between their hitboxes."),
      row("side", &DashDelivery::side, "Of that body; it lands on the level of its origin."),
      row("level", &DashDelivery::level, "It stays on the height that it begins on, wherever it is aimed."),
      row("rise", &DashDelivery::rise, units::metres,
          "How high its way rises over the middle of the line, in 32 straight pieces."),
      row("through_walls", &DashDelivery::through_walls,
          "Only where it lands there must be room; else what blocks feet, and the ground, stop it."),
      row("blocked", &DashDelivery::blocked,
          "What becomes of one that cannot come there: for its reach, for walls, or for want of room."),
  };
  static Problems across(const DashDelivery& dash);
};
template <>
struct Rows<Delivery> {
  static constexpr auto all = std::tuple{
      kind<RayDelivery>("ray", "An instant straight line that strikes the nearest body."),
      kind<AreaDelivery>("area", "Everything within a shape, at one instant or for a time."),
      kind<ShotDelivery>("shot", "Something that flies."),
      kind<SwingDelivery>("swing", "A blade that moves with the attacker's body."),
      kind<TrapDelivery>("trap", "Waits for somebody to come in; then what follows at `trigger`."),
      kind<ChainDelivery>("chain", "From body to body: each next one is chosen from those within a hop."),
      kind<DashDelivery>("dash", "The attacker itself moves, and strikes whom it touches on its way."),
  };
};

template <>
struct Rows<Reach> {
  static constexpr bool as_list = true;
  static constexpr auto all = std::tuple{
      row("near", &Reach::near, units::metres, "Nothing nearer."),
      row("far", &Reach::far, units::endless(units::metres), "Nothing farther."),
  };
  static Problems across(const Reach& reach);
};
template <>
struct Rows<Then> {
  static constexpr auto all = std::tuple{
      needed(row("when", &Then::when, "At which moment.")),
      row("distance", &Then::distance, units::metres, "With `near`, and only there: how near."),
      row("delay", &Then::delay_s, Range{Unit::seconds, 0, 3600}, "So long after it, from the same place."),
      needed(row("attacks", &Then::attacks, "The attacks that follow, from that place and at that time.")),
  };
  static Problems across(const Then& then);
};
template <>
struct Words<Condition::Of> {
  static constexpr std::array all{
      Word{Condition::Of::target, "target", "The body that may be struck."},
      Word{Condition::Of::attacker, "attacker", "The attacker."},
  };
};
template <>
struct Words<Condition::Is> {
  static constexpr std::array all{
      Word{Condition::Is::below, "below", "Less."},
      Word{Condition::Is::at_most, "at_most", "Less, or equal."},
      Word{Condition::Is::equal, "equal", "Equal."},
      Word{Condition::Is::at_least, "at_least", "More, or equal."},
      Word{Condition::Is::above, "above", "More."},
  };
};
template <>
struct Rows<AtChoice> {
  static constexpr auto all = std::tuple{
      row("within", &AtChoice::within, units::metres, "Of the muzzle, to the nearest point of a hitbox."),
      row("order", &AtChoice::order, "Who comes first; the nearest unless said."),
      row("sight", &AtChoice::sight, "Whom it must see."),
  };
};
template <>
struct Rows<Condition::Other> {
  static constexpr auto all = std::tuple{
      row("of", &Condition::Other::of, "Whose."),
      needed(row("number", &Condition::Other::number, "Which of its numbers.")),
  };
};
template <>
struct Rows<Condition> {
  static constexpr auto all = std::tuple{
      row("of", &Condition::of, "Whose number."),
      needed(row("number", &Condition::number, "Which; whoever has none fails.")),
      row("is", &Condition::is, "What it must be."),
      row("value", &Condition::value, Range{Unit::plain, -1e15, 1e15}, "Than this number."),
      row("than", &Condition::than, "Than another number, instead of the value."),
  };
  static Problems across(const Condition& condition);
};
template <>
struct Rows<Attack> {
  static constexpr auto all = std::tuple{
      inlined(&Attack::delivery),
      row("reach", &Attack::reach,
          "[near, far], metres from its origin: of a ray or shot its travel; of an area how far from the "
          "attacker "
          "its middle may lie."),
      row("who", &Attack::who, "Whom it strikes, seen from the attacker."),
      row("stopped_by", &Attack::stopped_by, "Bodies of these relations stop it without being struck."),
      row("tags", &Attack::tags, "What it is: bodies immune to one of them are passed."),
      row("needs", &Attack::needs, "Tags that a target must have, all of them."),
      row("forbids", &Attack::forbids, "Tags that a target must not have, none of them."),
      row("conditions", &Attack::conditions, "On numbers of the target or the attacker; all must hold."),
      row("rules", &Attack::rules, "The game's own rules, by name; all must let a body through."),
      row("sight", &Attack::sight,
          "An area: whom it must see, or what walls that cut the line to a target block. Without it sight "
          "does "
          "not matter. A guided shot with `needs_sight`: how it sees its target."),
      row("cap", &Attack::cap, units::count(1, 1e9),
          "An area: how many bodies at most; one that lasts: at once; a swing: in all."),
      row("order", &Attack::order,
          "Whom a `cap` takes first, or a guided shot that picks anew: by the first of these that tells two "
          "apart; the nearest unless said."),
      row("zone", &Attack::zone, "Which hitbox of a struck body counts."),
      row("power", &Attack::power, units::power, "Before any factor."),
      row("level_factor", &Attack::level_factor, units::factor, "Of its power: what a level makes of it."),
      row("by_distance", &Attack::by_distance,
          "Of its power, by the distance from its origin; of a shot: flown."),
      row("critical", &Attack::critical, "Of its power: a factor that comes with a chance."),
      row("facing_within", &Attack::facing_within, units::half_turn,
          "A warning when the attacker faces farther away from its aim."),
      row("effects", &Attack::effects, "What each strike does to the body, or to the attacker."),
      row("at_release", &Attack::at_release, "What comes to the attacker each time that it is released."),
      row("effect_order", &Attack::effect_order,
          "A ray, or an area in one instant without `stagger`: in which order the effects come."),
      row("ready", &Attack::ready, "When a launch may come at all."),
      row("windup", &Attack::windup, "Of a launch: between its start and its release."),
      row("burst", &Attack::burst, "Several rounds, each an act of its own."),
      row("stagger", &Attack::stagger_s, Range{Unit::seconds, 0, 3600},
          "An area in one instant: its strikes come one after the other, so long apart."),
      row("then", &Attack::then, "What contacts, or the way itself, lead to."),
  };
  static Problems across(const Attack& attack);
};

}  // namespace dardo
