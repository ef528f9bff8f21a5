#pragma once
#include <span>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <vector>

#include "dardo/io/scene.hpp"

namespace dardo::io {

/// A scene of a report, and what came of some of its launches.
struct ReportScene {
  std::string name;  ///< how it is called beside another
  const Scene& scene;
  std::vector<Outcome> outcomes;  ///< of this scene, resolved with Detail::full
  bool together = false;          ///< as one course of events
};

/// All that a report's page shows, as one JSON object on one line, in which no "<" stands: bodies, walls and
/// doors with their ways as pieces in closed form, attacks as files say them, outcomes with every gate.
/// Metres, radians and seconds on the clock of tracks. Ways are written to the bit; of what is only told,
/// ten digits.
std::string report_json(std::span<const ReportScene> scenes);

/// The page: `viewer`, the page without data as the viewer's build makes it, with the data in it. The error
/// says what is wrong with `viewer`.
tl::expected<std::string, std::string> report_page(std::string_view viewer,
                                                   std::span<const ReportScene> scenes);

}  // namespace dardo::io
