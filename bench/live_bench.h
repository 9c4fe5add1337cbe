// How soon it answers, and ten minutes on a real server.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// From a key event and from a message of a controller to the first changed frame that is handed to
/// the device, at 128 frames and 48 kHz, with the window open.
void benchAnswer(Report report);

/// On jackd's dummy driver at 128 frames: the demo song plays, sounds are baked all the time and
/// the window is painted 30 times a second. Only when it is asked for by name: it takes ten minutes
/// (TUVVO_SOAK_SECONDS says otherwise).
void benchSoak(Report report);

} // namespace tuvvo
