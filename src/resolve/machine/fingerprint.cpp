#include "dardo/attack/rows.hpp"
#include "resolve/machine/bytes.hpp"
#include "resolve/machine/machine.hpp"

namespace dardo::detail {
namespace {

template <class Enum>
bool has_flag(const FlagSet<Enum>& set, unsigned i) {
  return set.has(static_cast<Enum>(i));
}

template <class T>
void hash_rows(Hash& hash, const T& v) {
  if constexpr (std::is_same_v<T, double>) {
    hash.add(v);
  } else if constexpr (std::is_integral_v<T> || std::is_enum_v<T>) {
    hash.add(static_cast<std::uint64_t>(v));
  } else if constexpr (std::is_same_v<T, std::string>) {
    hash.add(static_cast<std::uint64_t>(v.size()));
    hash.add(std::string_view(v));
  } else if constexpr (std::is_same_v<T, Vec3>) {
    hash.add(v.x), hash.add(v.y), hash.add(v.z);
  } else if constexpr (std::is_same_v<T, Rotation>) {
    hash_rows(hash, v.x), hash_rows(hash, v.y), hash_rows(hash, v.z);
  } else if constexpr (std::is_same_v<T, Hull>) {
    hash_rows(hash, v.points);
  } else if constexpr (kIsOptional<T>) {
    hash.add(static_cast<std::uint64_t>(v.has_value()));
    if (v) hash_rows(hash, *v);
  } else if constexpr (kIsVariant<T>) {
    hash.add(static_cast<std::uint64_t>(v.index()));
    std::visit([&](const auto& kind) { hash_rows(hash, kind); }, v);
  } else if constexpr (requires { v.size(); }) {
    hash.add(static_cast<std::uint64_t>(v.size()));
    for (const auto& item : v) hash_rows(hash, item);
  } else if constexpr (std::is_same_v<T, Muzzle>) {
    hash_rows(hash, v.name), hash_rows(hash, v.at);
  } else if constexpr (HasRows<T>) {
    each_row<T>([&](const auto& r) { hash_rows(hash, v.*r.member); });
  } else if constexpr (requires { v.index; }) {
    hash.add(static_cast<std::uint64_t>(v.index));
  } else {  // a set of words
    for (unsigned i = 0; i < 8; ++i) hash.add(static_cast<std::uint64_t>(has_flag(v, i)));
  }
}
}  // namespace

std::uint64_t fingerprint(const Arena& arena, std::span<const std::shared_ptr<Prepared>> attacks) {
  Hash hash;
  for (const auto& attack : attacks) hash_rows(hash, attack->attack(0));
  for (const BuildId id : arena.builds()) hash_rows(hash, arena.build(id));
  for (const WallId id : arena.walls()) {
    const Wall& w = arena.wall(id);
    hash_rows(hash, w.id), hash_rows(hash, w.shape), hash_rows(hash, w.track);
    hash_rows(hash, arena.blocks(id)), hash_rows(hash, w.one_way);
    hash.add(static_cast<std::uint64_t>(w.material.index));
    hash.add(static_cast<std::uint64_t>(id.index)), hash.add(static_cast<std::uint64_t>(id.generation));
  }
  for (const FactionId id : arena.factions()) hash_rows(hash, arena.faction_name(id));
  hash.add(static_cast<std::uint64_t>(arena.slots()));
  for (const BodyId id : arena.bodies()) {
    hash.add(static_cast<std::uint64_t>(id.index));
    hash.add(static_cast<std::uint64_t>(id.generation));
    hash_rows(hash, arena.body(id).id);
    hash.add(static_cast<std::uint64_t>(arena.body(id).build.index));
  }
  return hash.value();
}

}  // namespace dardo::detail
