// The keys of the demo's beat, each with its sound, level and place.
#pragma once

#include "model/edits.h"

namespace tuvvo::demo {

inline constexpr double kBeatBpm = 85;

struct Deck {
  Project project;
  std::vector<Id> brass, breaks;
  Id kick, knock, low, bass, sub, snare, dusty, rim, clap, conga, wood, hat, hatHalf, hatOpen,
      shaker, tambourine, ride, crash;
  Id horn, gulls, rope, quay;

  Id put(Row row, int column, const std::vector<Source>& kit, std::size_t number, const char* name,
         double levelDb, double pan = 0, int choke = 0) {
    Id source = 0, key = 0;
    project = withSource(std::move(project), kit.at(number - 1), &source);
    project = withKeySound(std::move(project), row, column, 0, {source, 0}, name, &key);
    project = withKeyChanged(std::move(project), key, [&](Key& k) {
      k.level = Decibels(levelDb);
      k.pan = pan;
      k.choke = choke;
    });
    return key;
  }
};

/// Lays the kit and the three recordings' slices out on a new project.
Deck dealDeck(const std::vector<Source>& kit, Source brass, Source breakSource, Source quay);

} // namespace tuvvo::demo
