// Instruments as SFZ text: an open format that many samplers read.
#pragma once

#include "model/project.h"

namespace tuvvo {

struct SfzRegion {
  Key key;          ///< whose settings are written
  std::string file; ///< beside the instrument
  std::optional<std::pair<Frames, Frames>> loop;
};

/// One region for each, on neighbouring keys from MIDI note 36 up (notes beyond 127 are left out).
[[nodiscard]] std::string sfzText(const std::string& title, const std::vector<SfzRegion>& regions);

} // namespace tuvvo
