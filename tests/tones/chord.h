// A chord by its name, in tests.
#pragma once

#include "tones/theory.h"

#include <QtGlobal>

namespace tuvvo::test {

inline ChordName chord(const char* name) {
  const auto found = chordFromName(name);
  if (!found) qFatal("%s is no chord", name);
  return *found;
}

} // namespace tuvvo::test
