#pragma once
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <variant>
#include <vector>

#include "dardo/arena/ids.hpp"
#include "dardo/geometry/vec.hpp"

// What effects come to: with a strike, at a release, as statuses tick.
namespace dardo {

/// A text that its copies share: to copy one allocates nothing, from several threads, too.
class Name {
 public:
  Name() = default;
  explicit Name(std::string text)
      : text_(text.empty() ? nullptr : std::make_shared<const std::string>(std::move(text))) {}

  std::string_view view() const { return text_ == nullptr ? std::string_view() : *text_; }
  std::string str() const { return std::string(view()); }
  bool empty() const { return text_ == nullptr; }
  friend bool operator==(const Name& a, const Name& b) { return a.text_ == b.text_ || a.view() == b.view(); }
  friend bool operator==(const Name& a, std::string_view b) { return a.view() == b; }

 private:
  std::shared_ptr<const std::string> text_;
};

/// What a push comes to.
struct PushDone {
  Vec3 velocity;      ///< by so much the body's velocity changes, m/s; 0 where its mass is not known
  Vec3 impulse;       ///< N s; 0 of one that is a change of velocity
  double factor = 1;  ///< what falloff and the share seen have left of the strength

  friend bool operator==(const PushDone&, const PushDone&) = default;
};

/// What is taken of a number, and each step to it: see `Damage`.
struct DamageDone {
  Name kind, from;
  double rolled = 0;
  double power = 1;   ///< of the strike; 1 where the damage does not go by it
  double armour = 0;  ///< taken off
  double factor = 1;  ///< then: 0 is immune
  double floor = 0;
  double amount = 0;           ///< what arrives
  std::optional<double> left;  ///< of the number, where a ledger keeps it

  friend bool operator==(const DamageDone&, const DamageDone&) = default;
};
struct HealDone {
  Name to, at_most;
  double rolled = 0, power = 1, amount = 0;
  std::optional<double> given;  ///< of the amount, where a ledger keeps the number: the rest was too much
  std::optional<double> left;   ///< what the number is then, likewise

  friend bool operator==(const HealDone&, const HealDone&) = default;
};
struct ChangeDone {
  Name number;
  bool sets = false;  ///< the number becomes the amount; else it is added
  double amount = 0;
  std::optional<double> left;

  friend bool operator==(const ChangeDone&, const ChangeDone&) = default;
};
struct StatusDone {
  enum class Did : std::uint8_t {
    began,
    renewed,  ///< the body had it: it lasts as long from now
    kept,     ///< the body had it: nothing has changed
    added,    ///< beside another one
  };

  Name name;
  Did did = Did::began;
  double until_s = 0;         ///< on the clock of tracks; infinity: until something ends it
  std::uint32_t at_once = 1;  ///< so many of that name the body has now

  friend bool operator==(const StatusDone&, const StatusDone&) = default;
};
struct CustomDone {
  Name name, text;

  friend bool operator==(const CustomDone&, const CustomDone&) = default;
};

/// One effect that came.
struct EffectDone {
  std::uint32_t effect = 0;  ///< which of those of its attack's list, or of its status's, from 0
  BodyId on;
  std::variant<PushDone, DamageDone, HealDone, ChangeDone, StatusDone, CustomDone> what;

  friend bool operator==(const EffectDone&, const EffectDone&) = default;
};

/// One that did not come, and why.
struct EffectSpared {
  enum class Why : std::uint8_t { chance, tag_missing, tag_forbidden, nobody };

  std::uint32_t effect = 0;
  BodyId on;
  Why why = Why::chance;  ///< `nobody`: whom it was for has fallen, or is not there
  Name tag;
  double chance = 0, rolled = 0;  ///< with `chance`: it came to no less

  friend bool operator==(const EffectSpared&, const EffectSpared&) = default;
};

/// What comes otherwise than with a strike.
struct Happening {
  enum class What : std::uint8_t {
    released,  ///< what an attack's release does to the attacker, its costs too
    ticked,    ///< a status
    over,      ///< a status
  };
  enum class Over : std::uint8_t {
    time,   ///< its time was over
    fell,   ///< its body fell
    ended,  ///< another status ended it
  };

  What what = What::ticked;
  BodyId on;
  double time_s = 0;         ///< as in a strike
  std::uint32_t launch = 0;  ///< whose, as in a strike
  std::uint32_t stage = 0;   ///< which of its attacks
  std::uint32_t cause = 0;   ///< the number of the strike that gave the status; 0: none
  BodyId by;                 ///< the attacker
  Name attack, status;       ///< of a release no status
  std::uint32_t tick = 0;    ///< its number, from 1
  Over why = Over::time;
  bool felled = false;  ///< its body fell by it, as the ledger has it
  std::vector<EffectDone> effects;

  friend bool operator==(const Happening&, const Happening&) = default;
};

}  // namespace dardo
