#include "io/detail/effects_json.hpp"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "dardo/record/explain.hpp"
#include "dardo/record/rows.hpp"

namespace dardo::io::detail {
namespace {

using Json = nlohmann::ordered_json;

/// Puts each key of a thing into an object.
class KeysOut {
 public:
  KeysOut(Json& out, const Arena& arena) : out_(out), arena_(arena) {}

  void operator()(const char* key, const double& v) {
    if (!std::isinf(v)) out_[key] = v;
  }
  void operator()(const char* key, const std::uint32_t& v) { out_[key] = v; }
  void operator()(const char* key, const bool& v) {
    if (v) out_[key] = true;
  }
  void operator()(const char* key, const Name& v) {
    if (!v.empty()) out_[key] = v.str();
  }
  void operator()(const char* key, const Vec3& v) { out_[key] = Json::array({v.x, v.y, v.z}); }
  void operator()(const char* key, const std::optional<double>& v) {
    if (v) out_[key] = *v;
  }
  void operator()(const char* key, const BodyId& v) {
    if (arena_.has(v)) out_[key] = arena_.body(v).id;
  }
  template <class Enum>
  requires HasWords<Enum>
  void operator()(const char* key, const Enum& v) { out_[key] = word_of(v); }

 private:
  Json& out_;
  const Arena& arena_;
};

/// The names of the keys of a thing.
class KeyNames {
 public:
  template <class T>
  void operator()(const char* key, const T&) {
    names.emplace_back(key);
  }
  std::vector<std::string> names;
};

/// Takes each key of a thing from an object; what `KeysOut` leaves out stays as it is.
class KeysIn {
 public:
  KeysIn(Reader& reader, const Fields& fields, const Arena& arena)
      : reader_(reader), fields_(fields), arena_(arena) {}

  void operator()(const char* key, double& v) {
    const auto p = fields_.at(key);
    v = p ? reader_.number(*p).value_or(0) : std::numeric_limits<double>::infinity();
  }
  void operator()(const char* key, std::uint32_t& v) {
    const auto p = fields_.need(key, "a whole number");
    const double n = p ? reader_.number(*p).value_or(0) : 0;
    if (p && !(n >= 0 && n <= 4294967295.0 && n == std::floor(n)))
      return reader_.problem(p->pointer, "is no whole number from 0 to 4294967295", "one");
    v = static_cast<std::uint32_t>(n);
  }
  void operator()(const char* key, bool& v) {
    const auto p = fields_.at(key);
    v = p && reader_.boolean(*p).value_or(false);
  }
  void operator()(const char* key, Name& v) {
    if (const auto p = fields_.at(key)) v = Name(reader_.text(*p).value_or(""));
  }
  void operator()(const char* key, Vec3& v) {
    if (const auto p = fields_.need(key, "a list of 3 numbers")) v = reader_.vec3(*p).value_or(Vec3{});
  }
  void operator()(const char* key, std::optional<double>& v) {
    if (const auto p = fields_.at(key)) v = reader_.number(*p);
  }
  void operator()(const char* key, BodyId& v) {
    const auto p = fields_.at(key);
    const auto id = p ? reader_.name(*p) : std::nullopt;
    if (!id) return;
    if (const auto found = arena_.find_body(*id)) return void(v = *found);
    reader_.problem(p->pointer, fmt::format("is not a body of the arena: \"{}\"", *id), "a body's id");
  }
  template <class Enum>
  requires HasWords<Enum>
  void operator()(const char* key, Enum& v) {
    std::vector<std::string> words;
    for (const auto& w : Words<Enum>::all) words.emplace_back(w.word);
    const auto p = fields_.need(key, "one of its words");
    if (const auto at = p ? reader_.word(*p, words) : std::nullopt) v = Words<Enum>::all[*at].value;
  }

 private:
  Reader& reader_;
  const Fields& fields_;
  const Arena& arena_;
};

template <class Key>
void keys(Key&& k, PushDone& d) {
  k("velocity", d.velocity), k("impulse", d.impulse), k("factor", d.factor);
}
template <class Key>
void keys(Key&& k, DamageDone& d) {
  k("kind", d.kind), k("from", d.from), k("rolled", d.rolled), k("power", d.power), k("armour", d.armour);
  k("factor", d.factor), k("floor", d.floor), k("amount", d.amount), k("left", d.left);
}
template <class Key>
void keys(Key&& k, HealDone& h) {
  k("to", h.to), k("at_most", h.at_most), k("rolled", h.rolled), k("power", h.power), k("amount", h.amount);
  k("given", h.given), k("left", h.left);
}
template <class Key>
void keys(Key&& k, ChangeDone& c) {
  k("number", c.number), k("sets", c.sets), k("amount", c.amount), k("left", c.left);
}
template <class Key>
void keys(Key&& k, StatusDone& s) {
  k("name", s.name), k("did", s.did), k("until", s.until_s), k("at_once", s.at_once);
}
template <class Key>
void keys(Key&& k, CustomDone& c) {
  k("name", c.name), k("text", c.text);
}
template <class Key>
void keys(Key&& k, EffectSpared& s) {
  k("effect", s.effect), k("on", s.on), k("why", s.why), k("tag", s.tag), k("chance", s.chance);
  k("rolled", s.rolled);
}
template <class Key>
void keys(Key&& k, Happening& h) {
  k("what", h.what), k("on", h.on), k("time", h.time_s), k("stage", h.stage), k("cause", h.cause);
  k("by", h.by), k("attack", h.attack), k("status", h.status), k("tick", h.tick), k("why", h.why);
  k("felled", h.felled);
}

template <class Thing>
Json object(const Thing& thing, const Arena& arena) {
  Json out = Json::object();
  Thing copy = thing;
  keys(KeysOut(out, arena), copy);
  return out;
}
template <class Thing>
Thing read(Reader& reader, const Arena& arena, const Place& place, std::vector<std::string> more = {}) {
  Thing out;
  KeyNames names;
  keys(names, out);
  names.names.emplace_back("text");
  for (std::string& name : more) names.names.push_back(std::move(name));
  const Fields fields(reader, place, names.names);
  if (fields.is_object()) keys(KeysIn(reader, fields, arena), out);
  return out;
}

/// In the order of the variant.
constexpr std::array<const char*, 6> kKinds{"push", "damage", "heal", "change", "status", "custom"};

template <std::size_t I>
void read_kind(Reader& reader, const Arena& arena, const Fields& f, EffectDone& out) {
  using What = decltype(out.what);
  if (const auto p = f.at(kKinds[I])) out.what = read<std::variant_alternative_t<I, What>>(reader, arena, *p);
}

}  // namespace

Json effect_object(const EffectDone& effect, const Arena& arena) {
  Json out{{"effect", effect.effect}};
  if (arena.has(effect.on)) out["on"] = arena.body(effect.on).id;
  out[kKinds[effect.what.index()]] =
      std::visit([&](const auto& what) { return object(what, arena); }, effect.what);
  out["text"] = explain(effect);
  return out;
}
Json spared_object(const EffectSpared& spared, const Arena& arena) {
  Json out = object(spared, arena);
  out["text"] = explain(spared);
  return out;
}
Json happening_object(const Happening& happening, const Arena& arena) {
  Json out = object(happening, arena);
  Json& effects = out["effects"] = Json::array();
  for (const EffectDone& e : happening.effects) effects.push_back(effect_object(e, arena));
  out["text"] = explain(happening, arena);
  return out;
}

EffectDone read_effect(Reader& reader, const Arena& arena, const Place& place) {
  EffectDone out;
  std::vector<std::string> known{"effect", "on", "text"};
  known.insert(known.end(), kKinds.begin(), kKinds.end());
  const Fields f(reader, place, known);
  const auto given = [&](const char* kind) { return f.has(kind); };
  if (std::count_if(kKinds.begin(), kKinds.end(), given) != 1)
    reader.problem(place.pointer, "is not one kind of effect",
                   "one of push, damage, heal, change, status, custom");
  KeysIn in(reader, f, arena);
  in("effect", out.effect), in("on", out.on);
  read_kind<0>(reader, arena, f, out), read_kind<1>(reader, arena, f, out);
  read_kind<2>(reader, arena, f, out), read_kind<3>(reader, arena, f, out);
  read_kind<4>(reader, arena, f, out), read_kind<5>(reader, arena, f, out);
  return out;
}
EffectSpared read_spared(Reader& reader, const Arena& arena, const Place& place) {
  return read<EffectSpared>(reader, arena, place);
}
Happening read_happening(Reader& reader, const Arena& arena, const Place& place) {
  Happening out = read<Happening>(reader, arena, place, {"effects"});
  const Fields f(reader, place,
                 {"what", "on", "time", "stage", "cause", "by", "attack", "status", "tick", "why", "felled",
                  "text", "effects"});
  if (const auto p = f.need("effects", "a list")) {
    for (const Place& item : reader.items(*p)) out.effects.push_back(read_effect(reader, arena, item));
  }
  return out;
}

}  // namespace dardo::io::detail
