// What a key's filters let through, for pictures.
#pragma once

#include "model/key.h"

namespace tuvvo {

/// Of the state variable filters that voices have (play/voice_filter.h), in dB; −120 at least.
/// @param level  of the filters' envelope, 0 to 1
[[nodiscard]] double filterResponseDb(const Key& key, double hz, double level);

} // namespace tuvvo
