#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <string>

#include "dardo/io/outcome_json.hpp"
#include "dardo/io/scene.hpp"
#include "dardo/record/rows.hpp"
#include "io/detail/from_rows.hpp"

extern const std::string_view dardo_embedded_outcome_schema;

namespace dardo::io {
namespace {

using Json = nlohmann::ordered_json;
using namespace detail;

/// The name of a kind in its variant.
template <class Variant, class T>
constexpr std::string_view name_among() {
  std::string_view out;
  each_row<Variant>([&](const auto& k) {
    if constexpr (std::is_same_v<typename std::remove_cvref_t<decltype(k)>::type, T>) out = k.name;
  });
  return out;
}
/// What a struct is called among the schema's definitions and on the reference page.
template <class T>
constexpr std::string_view kTitle = std::max({name_among<Delivery, T>(), name_among<ShotPath, T>(),
                                              name_among<Shape, T>()});
template <>
constexpr std::string_view kTitle<BallArea> = "ball area";
template <>
constexpr std::string_view kTitle<RingArea> = "ring area";
template <>
constexpr std::string_view kTitle<ShellArea> = "shell area";
template <>
constexpr std::string_view kTitle<SectorArea> = "sector area";
template <>
constexpr std::string_view kTitle<ConeArea> = "cone area";
template <>
constexpr std::string_view kTitle<BoxArea> = "box area";
template <>
constexpr std::string_view kTitle<BeamArea> = "beam area";
template <>
constexpr std::string_view kTitle<CapsuleArea> = "capsule area";
template <>
constexpr std::string_view kTitle<PrismArea> = "prism area";
template <>
constexpr std::string_view kTitle<HalfSpaceArea> = "half-space area";
template <>
constexpr std::string_view kTitle<HullArea> = "hull area";
template <>
constexpr std::string_view kTitle<GrownArea> = "grown area";
template <>
constexpr std::string_view kTitle<Lasts> = "lasts";
template <>
constexpr std::string_view kTitle<SwingKey> = "swing key";
template <>
constexpr std::string_view kTitle<Push> = "push";
template <>
constexpr std::string_view kTitle<Damage> = "damage";
template <>
constexpr std::string_view kTitle<Heal> = "heal";
template <>
constexpr std::string_view kTitle<Change> = "number change";
template <>
constexpr std::string_view kTitle<Custom> = "custom effect";
template <>
constexpr std::string_view kTitle<Status> = "status";
template <>
constexpr std::string_view kTitle<Ticks> = "ticks";
template <>
constexpr std::string_view kTitle<Effect> = "effect";
template <>
constexpr std::string_view kTitle<Critical> = "critical";
template <>
constexpr std::string_view kTitle<Falloff> = "falloff";
template <>
constexpr std::string_view kTitle<Readiness> = "readiness";
template <>
constexpr std::string_view kTitle<Uses> = "uses";
template <>
constexpr std::string_view kTitle<Cost> = "cost";
template <>
constexpr std::string_view kTitle<Before> = "attack before";
template <>
constexpr std::string_view kTitle<Resistance> = "resistance";
template <>
constexpr std::string_view kTitle<FalloffPoint> = "falloff point";
template <>
constexpr std::string_view kTitle<Windup> = "windup";
template <>
constexpr std::string_view kTitle<Burst> = "burst";
template <>
constexpr std::string_view kTitle<Sight> = "sight";
template <>
constexpr std::string_view kTitle<ByNumber> = "number order";
template <>
constexpr std::string_view kTitle<ByTag> = "tag order";
template <>
constexpr std::string_view kTitle<AtChoice> = "choice";
template <>
constexpr std::string_view kTitle<FromEntry> = "from a place";
template <>
constexpr std::string_view kTitle<BodyChange> = "change";
template <>
constexpr std::string_view kTitle<HullEntry> = "turned hull";
template <>
constexpr std::string_view kTitle<TurnEntry> = "turn";
template <>
constexpr std::string_view kTitle<Disc> = "disc";
template <>
constexpr std::string_view kTitle<Rectangle> = "rectangle";
template <>
constexpr std::string_view kTitle<Polygon> = "polygon";
template <>
constexpr std::string_view kTitle<DiscArea> = "disc area";
template <>
constexpr std::string_view kTitle<RectangleArea> = "rectangle area";
template <>
constexpr std::string_view kTitle<PolygonArea> = "polygon area";
template <>
constexpr std::string_view kTitle<Condition> = "condition";
template <>
constexpr std::string_view kTitle<Condition::Other> = "condition number";
template <>
constexpr std::string_view kTitle<SlopeEntry> = "slope";
template <>
constexpr std::string_view kTitle<Mesh> = "mesh";
template <>
constexpr std::string_view kTitle<PrismEntry> = "prism";
template <>
constexpr std::string_view kTitle<Hitbox> = "hitbox";
template <>
constexpr std::string_view kTitle<Build> = "build";
template <>
constexpr std::string_view kTitle<Material> = "material";
template <>
constexpr std::string_view kTitle<Wall> = "wall";
template <>
constexpr std::string_view kTitle<TrackKey> = "track key";
template <>
constexpr std::string_view kTitle<Body> = "body";
template <>
constexpr std::string_view kTitle<FactionEntry> = "faction";
template <>
constexpr std::string_view kTitle<Pierce> = "pierce";
template <>
constexpr std::string_view kTitle<Ricochet> = "ricochet";
template <>
constexpr std::string_view kTitle<Volley> = "volley";
template <>
constexpr std::string_view kTitle<Then> = "then";
template <>
constexpr std::string_view kTitle<Attack> = "attack";
template <>
constexpr std::string_view kTitle<TowardEntry> = "toward";
template <>
constexpr std::string_view kTitle<Limits> = "limits";
template <>
constexpr std::string_view kTitle<UnderWayEntry> = "under_way";
template <>
constexpr std::string_view kTitle<LaunchEntry> = "launch";

std::string_view unit_of(const Range& range) {
  switch (range.unit) {
    case Unit::metres: return "metres";
    case Unit::seconds: return "seconds";
    case Unit::speed: return "m/s";
    case Unit::acceleration: return "m/s²";
    case Unit::angle: return "degrees";
    case Unit::turn_rate: return "degrees a second";
    case Unit::per_metre: return "1/m";
    default: return {};
  }
}

std::string described(std::string_view says, const Range& range) {
  const std::string_view unit = unit_of(range);
  return unit.empty() ? std::string(says) : fmt::format("{} In {}.", says, unit);
}

Json number_schema(const Range& range) {
  Json out{{"type", range.unit == Unit::count ? "integer" : "number"}};
  if (range.most != 0 || range.least != 0) {
    out[range.above ? "exclusiveMinimum" : "minimum"] = dardo::detail::in_files(range.least, range);
    out["maximum"] = dardo::detail::in_files(range.most, range);
  }
  if (range.endless) return {{"anyOf", {out, {{"const", "endless"}}}}};
  return out;
}

Json reference(std::string_view title) { return {{"$ref", fmt::format("#/definitions/{}", title)}}; }
Json list_of(Json items) { return {{"type", "array"}, {"items", std::move(items)}}; }
Json map_of(Json values) {
  return {
      {"type", "object"}, {"propertyNames", reference("name")}, {"additionalProperties", std::move(values)}};
}
Json either(Json one, Json other) { return {{"anyOf", {std::move(one), std::move(other)}}}; }
/// Two numbers in a flat scene.
Json vector_schema(const Range& range) {
  return {{"type", "array"}, {"minItems", 2}, {"maxItems", 3}, {"items", number_schema(range)}};
}
Json turn_schema(Json about_an_axis) {
  const Json angle = number_schema(units::any_turn),
             part = {{"type", "number"}, {"minimum", -1}, {"maximum", 1}};
  const auto three = [](const Json& items) {
    return Json{{"type", "array"}, {"minItems", 3}, {"maxItems", 3}, {"items", items}};
  };
  return {{"anyOf", {angle, three(angle), three(three(part)), std::move(about_an_axis)}}};
}

/// Makes the schema of each type, and of those within it, once.
class SchemaWriter {
 public:
  Json definitions;

  template <class T>
  Json of(const Range& range = {}) {
    if constexpr (std::is_same_v<T, double> || std::is_same_v<T, std::uint32_t> ||
                  std::is_same_v<T, std::uint64_t>) {
      return number_schema(range);
    } else if constexpr (std::is_same_v<T, LevelName>) {
      return either(reference("name"), {{"type", "integer"}});
    } else if constexpr (std::is_same_v<T, bool>) {
      return {{"type", "boolean"}};
    } else if constexpr (std::is_same_v<T, Vec3>) {
      return vector_schema(range);
    } else if constexpr (std::is_same_v<T, BuildId>) {
      return either(reference("name"), of<Build>());
    } else if constexpr (std::is_same_v<T, Rotation>) {
      return turn_schema(of<TurnEntry>());
    } else if constexpr (HasWords<T>) {
      return {{"enum", words_of<T>()}};
    } else if constexpr (IsFlagSet<T>::value) {
      using Enum = decltype(enum_of(static_cast<T*>(nullptr)));
      Json out = list_of(of<Enum>());
      out["uniqueItems"] = true;
      return out;
    } else if constexpr (std::is_same_v<T, std::vector<std::string>>) {
      return list_of(reference("name"));
    } else if constexpr (std::is_same_v<T, Hull>) {
      Json points = list_of(vector_schema(units::coordinate));
      points["minItems"] = 1;
      return either(std::move(points), of<HullEntry>());
    } else if constexpr (kIsOptional<T>) {
      return of<typename T::value_type>(range);
    } else if constexpr (kIsVariant<T>) {
      Json out = object();
      add_kinds<T>(out);
      return out;
    } else if constexpr (IsList<T>::value) {
      using Item = typename T::value_type;
      if constexpr (HasKey<Item>) {
        using Value = std::remove_cvref_t<decltype(std::declval<Item>().*Keyed<Item>::value)>;
        return map_of(of<Value>(range));
      } else {
        return list_of(of<Item>(range));
      }
    } else if constexpr (HasRows<T>) {
      return of_struct<T>();
    } else {
      if (range.unit == Unit::text) return {{"type", "string"}};
      return reference("name");  // text, or a reference to something by its name
    }
  }

 private:
  static Json object() {
    return {{"type", "object"}, {"additionalProperties", false}, {"properties", Json::object()}};
  }

  template <class V>
  void add_kinds(Json& out) {
    Json one = Json::array();
    each_row<V>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      add_kind(out, one, k.name, k.says, of<Kind>());
    });
    if constexpr (kMayBePrism<V>)
      add_kind(out, one, "prism", "The prism over a convex polygon.", of<PrismEntry>());
    if constexpr (HasFlatForm<V>) {
      each_row<typename FlatForm<V>::type>([&](const auto& k) {
        using Kind = typename std::remove_cvref_t<decltype(k)>::type;
        if (out["properties"].contains(k.name)) return;  // which in space has more keys
        add_kind(out, one, k.name, k.says, of<Kind>());
      });
    }
    out["oneOf"] = std::move(one);
  }
  static void add_kind(Json& out, Json& one, std::string_view name, std::string_view says, Json schema) {
    add(out, name, says, std::move(schema));
    one.push_back({{"required", {name}}});
  }
  static void add_row(Json& out, std::string_view name, std::string_view says, const Range& range,
                      bool is_needed, Json schema) {
    add(out, name, described(says, range), std::move(schema));
    if (is_needed) out["required"].push_back(name);
  }
  static void add(Json& out, std::string_view name, std::string_view says, Json schema) {
    // Beside a "$ref" other keys are ignored (draft 7).
    if (schema.contains("$ref")) schema = {{"allOf", {schema}}};
    Json described_schema{{"description", says}};
    described_schema.update(schema);
    out["properties"][std::string(name)] = std::move(described_schema);
  }

  template <class T>
  void add_rows(Json& out) {
    each_row<T>([&](const auto& r) {
      using Part = std::remove_cvref_t<decltype(std::declval<T>().*r.member)>;
      if constexpr (kIsInline<decltype(r)>) {
        if constexpr (kIsVariant<Part>) {
          add_kinds<Part>(out);
        } else {
          add_rows<Part>(out);
        }
      } else {
        add_row(out, r.name, r.says, r.range, r.needed, of<Part>(r.range));
      }
    });
  }

  template <class T>
  Json of_struct() {
    if constexpr (requires { Rows<T>::as_list; }) {
      Json items = Json::array();
      each_row<T>([&](const auto& r) { items.push_back(number_schema(r.range)); });
      const std::size_t count = items.size();
      return {{"type", "array"}, {"minItems", count}, {"maxItems", count}, {"items", std::move(items)}};
    } else {
      const std::string title(kTitle<T>);
      if (!definitions.contains(title)) {
        definitions[title] = nullptr;  // an attack holds attacks
        Json out = object();
        add_rows<T>(out);
        definitions[title] = std::move(out);
      }
      if constexpr (requires { Rows<T>::shorthand; })
        return either(of<std::remove_cvref_t<decltype(std::declval<T>().*Rows<T>::shorthand)>>(),
                      reference(title));
      return reference(title);
    }
  }
};

/// What concerns several keys at once, as far as a schema can say it; the core's own checks say it all.
void add_conditions(Json& d) {
  const auto has = [](std::string_view key) { return Json{{"required", {key}}}; };
  const auto never = [&](const Json& these, std::initializer_list<std::string_view> keys) {
    Json any = Json::array();
    for (const std::string_view key : keys) any.push_back(has(key));
    return Json{{"if", these}, {"then", {{"not", {{"anyOf", any}}}}}};
  };
  d["attack"]["allOf"] = {never(has("ray"), {"cap", "sight", "order"}), never(has("shot"), {"cap"}),
                          never(has("area"), {"stopped_by"})};
  d["attack"]["properties"]["who"]["minItems"] = 1;
  d["then"]["if"] = {{"properties", {{"when", {{"const", "near"}}}}}};
  d["then"]["then"] = has("distance");
  d["then"]["else"] = {{"not", has("distance")}};
  d["then"]["properties"]["attacks"]["minItems"] = 1;
  d["shot"]["not"] = {{"required", {"radius", "shape"}},
                      {"properties", {{"radius", {{"exclusiveMinimum", 0}}}}}};
  d["lob"]["oneOf"] = {has("flight_time"), has("apex")};
  d["build"]["properties"]["hitboxes"]["minItems"] = 1;
  d["prism"]["properties"]["polygon"]["minItems"] = 3;
  d["faction"]["properties"]["others"]["enum"] = {"foe", "friend", "neutral"};
  d["body"]["oneOf"] = {has("at"), has("track")};
  d["body"]["not"] = {{"required", {"facing", "track"}}};
  d["body"]["properties"]["track"]["minItems"] = 1;
  d["wall"]["not"] = {{"anyOf", {{{"required", {"at", "track"}}}, {{"required", {"facing", "track"}}}}}};
  d["wall"]["properties"]["track"]["minItems"] = 1;
  d["track key"]["required"].push_back("at");
  d["toward"]["oneOf"] = {has("body"), has("place"), has("direction"), has("choice")};
  d["toward"]["dependencies"] = {{"zone", {"body"}}, {"point", {"body"}}};
}

/// A level is an attack of its own once its patch is made: the reader checks it.
Json levels_schema() {
  const Json patch{{"type", "object"}, {"description", "A JSON Merge Patch (RFC 7396) over the attack."}};
  const Json growth{
      {"type", "object"},
      {"additionalProperties", false},
      {"minProperties", 1},
      {"maxProperties", 1},
      {"properties",
       {{"add", {{"description", "So much more each level."}, {"type", "number"}}},
        {"times", {{"description", "By this factor each level."}, {"type", "number"}}},
        {"list",
         {{"description", "One for each level."}, {"type", "array"}, {"items", {{"type", "number"}}}}}}}};
  return {
      {"type", "object"},
      {"additionalProperties", false},
      {"properties",
       {{"from", {{"description", "The first level by number; 1 unless said."}, {"type", "integer"}}},
        {"to", {{"description", "The last one."}, {"type", "integer"}}},
        {"grow",
         {{"description", "How numbers of the attack grow from the first level on, by their JSON pointers."},
          {"type", "object"},
          {"additionalProperties", growth}}},
        {"patches",
         {{"description", "Patches by the number of a level, or by the name of one."},
          {"type", "object"},
          {"additionalProperties", patch}}},
        {"build_on",
         {{"description", "Each patch comes on top of those before it; else on the attack itself."},
          {"type", "boolean"}}}}}};
  // Only an attack that has a name has levels.
}

std::string make_scene_schema() {
  SchemaWriter writer;
  const auto section = [](std::string_view says, const Json& item, bool list) {
    Json out{{"description", says}, {"type", list ? "array" : "object"}};
    if (list) {
      out["items"] = item;
    } else {
      out["propertyNames"] = reference("name"), out["additionalProperties"] = item;
    }
    return out;
  };
  Json out{{"$schema", "http://json-schema.org/draft-07/schema#"},
           {"title", "Dardo scene"},
           {"description",
            "What stands where, the attacks, and the launches to resolve. Metres, degrees, z up. Comments "
            "are allowed."},
           {"type", "object"},
           {"required", {"dardo", "factions", "builds", "bodies", "attacks", "launches"}},
           {"additionalProperties", false}};
  Json& p = out["properties"];
  p["$schema"] = {{"type", "string"}};
  p["dardo"] = {{"description", "The version of the format."}, {"const", 1}};
  p["title"] = {{"description", "For people."}, {"type", "string"}};
  p["flat"] = {
      {"description",
       "Everything lies in a plane, seen from above or from the side: places have two numbers, shapes "
       "are discs, rectangles, polygons, capsules."},
      {"enum", {"above", "side"}}};
  p["unit"] = {{"description", "What a metre is called in it, as \"px\"."}, {"type", "string"}};
  p["y_down"] = {{"description", "With `flat`: y is counted downwards."}, {"type", "boolean"}};
  p["ground"] = {
      {"description",
       "The height of the ground, metres, or a plane that slopes; none unless said. Rays and shots "
       "end on it."},
      {"anyOf", {number_schema(units::coordinate), writer.of<SlopeEntry>()}}};
  p["gravity"] = writer.of<Vec3>(units::acceleration);
  p["gravity"]["description"] =
      "What falls accelerates by this, m/s²; [0, 0, -9.81] unless said. Up is against it.";
  p["limits"] = {{"description", "What each launch may come to; generous unless said."},
                 {"allOf", {writer.of<Limits>()}}};
  p["factions"] = section("Who fights for whom, by name.", writer.of<FactionEntry>(), false);
  p["factions"]["maxProperties"] = 1024;
  p["materials"] = section("What walls are made of, by name.", writer.of<Material>(), false);
  p["builds"] = section("Kinds of bodies, by name.", writer.of<Build>(), false);
  p["bodies"] = section("Who stands where.", writer.of<Body>(), true);
  p["walls"] = section("What stands in the way.", writer.of<Wall>(), true);
  p["attacks"] = section("What can be launched, by name.", writer.of<Attack>(), false);
  p["launches"] = section("Uses of attacks.", writer.of<LaunchEntry>(), true);
  writer.definitions["name"] = {{"type", "string"}, {"minLength", 1}, {"maxLength", 64}};
  writer.definitions["levels"] = levels_schema();
  add_conditions(writer.definitions);
  Json named = writer.definitions["attack"];
  named["properties"]["levels"] = {{"description", "Other attacks made of this one, by number or by name."},
                                   {"allOf", {reference("levels")}}};
  writer.definitions["attack with levels"] = std::move(named);
  p["attacks"]["additionalProperties"] = reference("attack with levels");
  out["definitions"] = std::move(writer.definitions);
  return out.dump(2) + "\n";
}

/// The page of the docs that lists every key.
class ReferenceWriter {
 public:
  std::string page =
      "# Reference\n\nEvery key of a scene file, made by `dardo schema --reference` from the rows of the "
      "data. Angles are "
      "degrees, times seconds, lengths metres. A key in **bold** must be there.\n";

  template <class T>
  void section(std::string_view about) {
    start_section(kTitle<T>, about);
    T standard{};
    rows(standard);
  }
  template <class Variant>
  void kinds(std::string_view about) {
    each_row<Variant>([&](const auto& k) {
      using Kind = typename std::remove_cvref_t<decltype(k)>::type;
      if constexpr (HasRows<Kind>) section<Kind>(about);
    });
  }
  template <class Enum>
  void words(std::string_view title) {
    page += fmt::format("\n## {}\n\n| word | meaning |\n|---|---|\n", title);
    for (const auto& w : Words<Enum>::all) add_word(w.word, w.says);
  }

 private:
  void start_section(std::string_view title, std::string_view about) {
    page += fmt::format("\n## {}\n\n{}\n\n| key | what | unit and range | unless said |\n|---|---|---|---|\n",
                        title, about);
  }
  void add_word(std::string_view word, std::string_view says) {
    page += fmt::format("| `{}` | {} |\n", word, says);
  }
  void add_kind(std::string_view name, std::string_view says) {
    page += fmt::format("| `{}` | {} | one of these | |\n", name, says);
  }
  void add_row(std::string_view name, std::string_view says, const std::string& kind, bool is_needed,
               const std::string& standard) {
    page += fmt::format("| {2}`{0}`{2} | {1} | {3} | {4} |\n", name, says, is_needed ? "**" : "", kind,
                        is_needed ? "" : standard);
  }
  static std::string joined(const std::vector<std::string>& words) {
    return fmt::format("{}", fmt::join(words, ", "));
  }

  template <class T>
  void rows(const T& standard) {
    each_row<T>([&](const auto& r) {
      using Part = std::remove_cvref_t<decltype(standard.*r.member)>;
      if constexpr (kIsInline<decltype(r)>) {
        if constexpr (kIsVariant<Part>) {
          each_row<Part>([&](const auto& k) { add_kind(k.name, k.says); });
          if constexpr (kMayBePrism<Part>) add_kind("prism", "The prism over a convex polygon.");
        } else {
          rows(standard.*r.member);
        }
      } else {
        add_row(r.name, r.says, kind_text<Part>(r.range), r.needed,
                standard_text(standard.*r.member, r.range));
      }
    });
  }
  template <class Part>
  static std::string kind_text(const Range& range) {
    if constexpr (std::is_same_v<Part, bool>) return "true or false";
    if constexpr (HasWords<Part>) return joined(words_of<Part>());
    if constexpr (IsFlagSet<Part>::value)
      return "list of " + kind_text<decltype(enum_of(static_cast<Part*>(nullptr)))>(range);
    if constexpr (kIsOptional<Part>) return kind_text<typename Part::value_type>(range);
    if constexpr (std::is_same_v<Part, Rotation>)
      return "degrees about z, [yaw, pitch, roll], or {axis, angle}";
    if constexpr (std::is_same_v<Part, Vec3>)
      return range.most == 0 ? "[x, y, z], not all 0" : "[x, y, z], " + dardo::detail::range_text(range);
    if constexpr (std::is_same_v<Part, std::vector<double>>)
      return "list, " + dardo::detail::range_text(range);
    if constexpr (std::is_same_v<Part, std::vector<std::string>>) return "list of names";
    if (range.least != 0 || range.most != 0) return dardo::detail::range_text(range);
    if constexpr (HasRows<Part>)
      return kTitle<Part>.empty() ? "see there" : "see " + std::string(kTitle<Part>);
    return "";
  }
  template <class Part>
  static std::string standard_text(const Part& v, const Range& range) {
    if constexpr (std::is_same_v<Part, double>)
      return std::isinf(v) ? "endless" : dardo::detail::number_text(dardo::detail::in_files(v, range));
    if constexpr (std::is_same_v<Part, std::uint32_t> || std::is_same_v<Part, std::uint64_t>)
      return std::to_string(v);
    if constexpr (std::is_same_v<Part, bool>) return v ? "true" : "false";
    if constexpr (HasWords<Part>) return std::string(word_of(v));
    if constexpr (IsFlagSet<Part>::value) {
      std::string out;
      for (const auto& w : Words<decltype(enum_of(static_cast<const Part*>(nullptr)))>::all) {
        if (v.has(w.value)) out += (out.empty() ? "" : ", ") + std::string(w.word);
      }
      return out.empty() ? "none" : out;
    }
    if constexpr (std::is_same_v<Part, Reach>)
      return "[" + dardo::detail::number_text(v.near) + ", " + dardo::detail::number_text(v.far) + "]";
    return "";
  }
};

constexpr std::string_view kLevelsSection =
    "\n## levels\n\nOther attacks made of one of `attacks`: its `levels`. Each is read and checked as an "
    "attack of its own.\n\n| key | what | unit and range | unless said |\n|---|---|---|---|\n"
    "| `from` | The first level by number. | whole number | 1 |\n"
    "| `to` | The last one. | whole number | none by number |\n"
    "| `grow` | How numbers of the attack grow from the first level on, by their JSON pointers: each by "
    "one "
    "of `add` (so much more each level), `times` (by this factor each level), `list` (one number for each "
    "level). | object |  |\n"
    "| `patches` | JSON Merge Patches (RFC 7396) by the number of a level, or by the name of one; after "
    "what "
    "grows. | object |  |\n"
    "| `build_on` | Each patch comes on top of those before it; else on the attack itself. | true or false "
    "| false |\n";

std::string make_reference() {
  ReferenceWriter w;
  w.section<FactionEntry>("Who is what to whom: one of `factions`.");
  w.section<Material>("What walls are made of: one of `materials`.");
  w.section<Build>("A kind of body: one of `builds`.");
  w.section<Resistance>("How a body takes damage of a kind: one of `resists`.");
  w.section<Hitbox>("One volume of a body, in its frame.");
  w.kinds<Shape>("A shape.");
  w.section<PrismEntry>("A shape; read as the hull of its corners.");
  w.section<HullEntry>("A `hull` that is turned or put elsewhere; else it is the list of its points.");
  w.section<TurnEntry>("About any axis: a `turn` or a `facing`.");
  w.section<Disc>("A shape of flat scenes alone, where it stands for shapes that are upright on the plane.");
  w.section<Rectangle>("A shape of flat scenes alone.");
  w.section<Polygon>("A shape of flat scenes alone.");
  w.section<Mesh>("A shape of walls alone.");
  w.section<Body>(
      "Anything that can attack or be struck: one of `bodies`. `track` instead of `at` and `facing`.");
  w.section<TrackKey>("Where a body is at a time.");
  w.section<BodyChange>("What changes with a body at a time: one of its `changes`.");
  w.section<Wall>(
      "Something that stands in the way: one of `walls`. Its shape lies in its frame, which `track` moves, "
      "instead of `at` and `facing`.");
  w.section<SlopeEntry>("Ground that slopes: `ground`, instead of a height.");
  w.section<Attack>("One of `attacks`.");
  w.page += kLevelsSection;
  w.kinds<Delivery>("A delivery.");
  w.kinds<AreaShape>("What an area covers, in its frame: x along it, y to its left, z up.");
  w.section<DiscArea>("What an area covers in a flat scene.");
  w.section<RectangleArea>("What an area covers in a flat scene.");
  w.section<PolygonArea>("What an area covers in a flat scene.");
  w.section<Lasts>("An area that stays for a time: its `lasts`.");
  w.section<GrownArea>("One of what such an area grows to: its shape by a time.");
  w.section<SwingKey>("Where a blade is at a time: one of the `keys` of a swing.");
  w.section<Effect>("One of `effects` of an attack, or of those `at_release`.");
  w.section<Push>("An effect.");
  w.section<Damage>("An effect, and one of those of ticks.");
  w.section<Heal>("An effect, and one of those of ticks.");
  w.section<Change>("An effect, and one of those of ticks.");
  w.section<Status>("An effect.");
  w.section<Ticks>("What a status does again and again: its `ticks`.");
  w.section<Custom>("An effect, and one of those of ticks.");
  w.section<Falloff>("Less with the distance: `by_distance` of an attack.");
  w.section<FalloffPoint>("One of the `points` of a falloff.");
  w.section<Critical>("A factor with a chance: `critical` of an attack.");
  w.section<Readiness>("When a launch may come at all: `ready` of an attack.");
  w.section<Uses>("So many uses, that come back: `uses` of a readiness.");
  w.section<Cost>("One of the `costs` of a readiness.");
  w.section<Before>("One of the attacks `before` of a readiness.");
  w.section<Windup>("Between a launch and its release: `windup` of an attack.");
  w.section<Burst>("Several rounds of an attack: its `burst`.");
  w.section<Sight>("What it takes to see a body: `sight` of an attack.");
  w.section<Condition>("On a number: one of `conditions` of an attack.");
  w.section<Condition::Other>("Another number: `than` of a condition.");
  w.words<Condition::Is>("What a number must be");
  w.section<ByNumber>("One of an `order`: by a number of the bodies.");
  w.section<ByTag>("One of an `order`: those with a tag first.");
  w.kinds<ShotPath>("A path of a shot.");
  w.section<Pierce>("Of a shot.");
  w.section<Ricochet>("Of a shot.");
  w.section<Volley>("Of a shot.");
  w.section<Then>("One of what follows from an attack.");
  w.section<LaunchEntry>("One use of an attack: one of `launches`.");
  w.section<TowardEntry>("What a launch is aimed at: exactly one of body, place, direction and choice.");
  w.section<FromEntry>("From where a launch comes that no body makes: `from`.");
  w.section<AtChoice>("Whom a launch picks by itself: `toward` a choice.");
  w.section<UnderWayEntry>("A shot in the air when a launch begins.");
  w.words<AreaDelivery::Around>("Where an area's middle is");
  w.words<AreaDelivery::Along>("Where an area points");
  w.words<AreaDelivery::Inside>("What counts as within an area");
  w.words<Sight::From>("From where it is looked");
  w.words<Sight::To>("What of a body is looked at");
  w.words<Then::When>("Moments that something follows from");
  w.words<Volley::Spread>("Spreads of a volley");
  w.words<GuidedPath::Lost>("When a guided shot loses its target");
  w.words<Falloff::Curve>("Curves of a falloff");
  w.words<Rounding>("Ways to round");
  w.words<Status::Again>("When a body has the status already");
  w.words<EffectOrder>("Orders of effects at one instant");
  w.words<Uses::Back>("How uses come back");
  w.words<Aiming>("Ways to aim");
  w.words<Passage>("What a wall may block");
  w.words<Reason>("Reasons in outcomes");
  w.words<Gate>("Gates in outcomes, in their order");
  w.section<Limits>("What each launch may come to, with all that follows from it: `limits` of a scene.");
  w.words<Limit>("Limits in outcomes");
  w.words<Ended>("Ends in outcomes");
  return w.page;
}

/// The words in the outcome's schema are those of the core.
std::string make_outcome_schema() {
  Json out = Json::parse(dardo_embedded_outcome_schema);
  out["definitions"]["gate"]["enum"] = words_of<Gate>();
  out["definitions"]["reason"]["enum"] = words_of<Reason>();
  out["definitions"]["ended"]["enum"] = words_of<Ended>();
  out["definitions"]["limit"]["enum"] = words_of<Limit>();
  return out.dump(2) + "\n";
}

}  // namespace

std::string_view scene_schema() {
  static const std::string schema = make_scene_schema();
  return schema;
}
std::string_view outcome_schema() {
  static const std::string schema = make_outcome_schema();
  return schema;
}
std::string_view reference_page() {
  static const std::string page = make_reference();
  return page;
}

}  // namespace dardo::io
