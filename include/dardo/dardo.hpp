#pragma once
/// The front door: an arena, an attack, a launch, and what came of it. Files and pictures are apart:
/// dardo/io/scene.hpp, dardo/draw/picture.hpp.
#include "dardo/arena/arena.hpp"
#include "dardo/attack/attack.hpp"
#include "dardo/attack/launch.hpp"
#include "dardo/record/explain.hpp"
#include "dardo/record/outcome.hpp"
#include "dardo/record/sketch.hpp"
#include "dardo/resolve/choose.hpp"
#include "dardo/resolve/look.hpp"
#include "dardo/resolve/prepared.hpp"
#include "dardo/resolve/ready.hpp"
#include "dardo/resolve/resolve.hpp"
#include "dardo/resolve/skirmish.hpp"
#include "dardo/resolve/together.hpp"
