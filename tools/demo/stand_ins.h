// What the simulated microphone has before it.
#pragma once

#include "dsp.h"

namespace tuvvo::demo {

/// Somebody alone in the ticket hall of Salt Quay, at night: eight single sounds by hand, then two
/// phrases hummed over a table that is drummed on, one at 88 BPM and one at 102, with rests
/// between. Mono, 16 bits, as a plain microphone hears it.
Buffer makeMicrophone();

} // namespace tuvvo::demo
