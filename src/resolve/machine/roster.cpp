#include "resolve/machine/roster.hpp"

#include <algorithm>

namespace dardo::detail {

std::uint32_t Roster::add(const Prepared& attack, FactionId faction) {
  const auto is_it = [&](const Row& r) { return r.attack == &attack && r.faction == faction; };
  if (last_ >= rows_.size() || !is_it(rows_[last_])) {
    const auto found = std::find_if(rows_.begin(), rows_.end(), is_it);
    last_ = static_cast<std::uint32_t>(found - rows_.begin());
    if (found == rows_.end()) rows_.push_back({&attack, faction, 0, {}});
  }
  ++rows_[last_].launches;
  return last_;
}

void Roster::look(const Arena& arena) {
  const auto is_vulnerable = [](const Stage& s) { return s.shot != nullptr && s.shot->vulnerable > 0; };
  // Factions first that have shots which could be struck, then those whose shots somebody strikes.
  constexpr std::uint8_t kThere = 1, kStruck = 2;
  std::size_t factions = 0;
  for (const Row& r : rows_) factions = std::max<std::size_t>(factions, r.faction.index + std::size_t{1});
  struck_.assign(factions, 0);
  any_ = false;
  const auto each_stage = [&](auto&& visit) {
    for (Row& r : rows_) {
      for (std::uint32_t i = 0; r.launches > 0 && i < r.attack->size(); ++i) visit(r, i, r.attack->stage(i));
    }
  };
  bool vulnerable = false;
  each_stage([&](Row& r, std::uint32_t, const Stage& s) {
    if (is_vulnerable(s)) struck_[r.faction.index] = kThere, vulnerable = true;
  });
  if (!vulnerable) return;
  each_stage([&](Row& r, std::uint32_t number, const Stage& s) {
    r.may.resize(r.attack->size());
    May& may = r.may[number] = {};
    for (std::uint32_t f = 0; f < factions; ++f) {
      const Relations& who = s.attack->who;
      const bool strikes =
          who.has(arena.relation(r.faction, {f, 0})) || (f == r.faction.index && who.has(Relation::self));
      // What lasts strikes no shots.
      if (struck_[f] != 0 && strikes && !s.lasting) may.strike = any_ = true, struck_[f] |= kStruck;
    }
  });
  each_stage([&](Row& r, std::uint32_t number, const Stage& s) {
    if (!is_vulnerable(s) || (struck_[r.faction.index] & kStruck) == 0) return;
    r.may[number].be_struck = true, r.may[number].radius = s.shot->vulnerable;
  });
}

}  // namespace dardo::detail
