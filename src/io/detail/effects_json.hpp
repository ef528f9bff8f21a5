#pragma once
#include <nlohmann/json.hpp>

#include "dardo/arena/arena.hpp"
#include "dardo/record/outcome.hpp"
#include "io/detail/reader.hpp"

// What strikes, releases and statuses do, as JSON and back: each key is named once for both.
namespace dardo::io::detail {

nlohmann::ordered_json effect_object(const EffectDone& effect, const Arena& arena);
nlohmann::ordered_json spared_object(const EffectSpared& spared, const Arena& arena);
nlohmann::ordered_json happening_object(const Happening& happening, const Arena& arena);

EffectDone read_effect(Reader& reader, const Arena& arena, const Place& place);
EffectSpared read_spared(Reader& reader, const Arena& arena, const Place& place);
Happening read_happening(Reader& reader, const Arena& arena, const Place& place);

}  // namespace dardo::io::detail
