// Many parts whose keys are filtered and shaped, for what voices cost and for what they must not
// do.
#pragma once

#include "model/edits.h"
#include "play/score.h"

#include <cmath>

namespace tuvvo::test {

struct FilteredKeys {
  Project project;
  std::vector<Id> keys;
};

/// One key a part, up to 32: half a minute of stereo, repitched, both filters moving with their
/// envelope all the time, and an amplitude envelope with every stage.
inline FilteredKeys filteredKeys(int parts) {
  FilteredKeys out;
  for (int i = 0; i < parts; ++i) {
    Channels stereo;
    for (int c = 0; c < 2; ++c) {
      Samples samples(48000 * 30);
      for (std::size_t k = 0; k < samples.size(); ++k)
        samples[k] = float(0.02 * std::sin(double(k) * (0.03 + 0.002 * i + 0.0007 * c)));
      stereo.push_back(std::move(samples));
    }
    Source source;
    source.name = "tone " + std::to_string(i);
    source.sound = std::make_shared<Sound>(std::move(stereo), Hertz(48000));
    source.hash = source.sound->hash();
    Id id = 0, key = 0;
    out.project = withSource(std::move(out.project), source, &id);
    out.project = withKeySound(std::move(out.project), Row(i / kColumns), i % kColumns, 0, {id, 0},
                               source.name, &key);
    out.project = withKeyChanged(std::move(out.project), key, [i](Key& k) {
      k.mono = false;
      k.gate = true;
      k.tune = Semitones(3.7 - i % 5);
      k.lowPass = Hertz(2500);
      k.highPass = Hertz(80);
      k.resonance = Decibels(6);
      k.filterEnvelope.lowMoves = 2;
      k.filterEnvelope.highMoves = 1;
      k.filterEnvelope.shape = {Milliseconds(4000), Milliseconds(0), Milliseconds(9000), 0.5,
                                Milliseconds(120)};
      k.envelope = {Milliseconds(50), Milliseconds(0), Milliseconds(9000), 0.5, Milliseconds(100)};
    });
    out.keys.push_back(key);
  }
  return out;
}

} // namespace tuvvo::test
