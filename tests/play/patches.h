// Patches that tests of voices are made of.
#pragma once

#include "play/score.h"

namespace tuvvo::test {

/// All of a sound at a speed, open and unshaped.
inline Patch patchOf(SoundPtr sound, double step = 1) {
  Patch patch;
  patch.end = sound->frames();
  patch.sound = std::move(sound);
  patch.step = step;
  return patch;
}

} // namespace tuvvo::test
