#pragma once
#include "dardo/resolve/ready.hpp"
#include "resolve/moment/moment.hpp"
#include "resolve/rules/prepared.hpp"

namespace dardo::detail {

/// What a launch that has been checked is not ready for at the time of the moment. Requires an attack that
/// says when it is ready.
std::vector<NotReady> not_ready(const Moment& moment, const Stage& stage, const Launch& launch,
                                FactionId faction, const History& history);
/// The same as problems of a launch.
Problems as_problems(const std::vector<NotReady>& missing, const Arena& arena);

}  // namespace dardo::detail
