#include "deck.h"

#include "cut/slicing.h"
#include "model/edits.h"
#include "scenes.h"

namespace tuvvo::demo {

namespace {

std::vector<Id> cutKeys(const Project& project, Id source) {
  std::vector<Id> keys;
  const Source* s = findSource(project, source);
  for (const auto& cut : s->cuts)
    for (const auto& key : project.keys)
      if (key.sound == SoundRef{source, cut.id}) keys.push_back(key.id);
  return keys;
}

} // namespace

Deck dealDeck(const std::vector<Source>& kit, Source brass, Source breakSource, Source quay) {
  Deck d;
  Project& p = d.project;
  p.name = "Salt Quay";
  p.tempo = Bpm(kBeatBpm);
  p.key = keyFromName("Bm");
  Id brassId = 0, breakId = 0, quayId = 0;
  const double discBpm = brass.heard->tempo->bpm.value;
  p = withSource(std::move(p), std::move(brass), &brassId);
  p = withSource(std::move(p), std::move(breakSource), &breakId);
  p = withSource(std::move(p), std::move(quay), &quayId);

  CutSettings byBeats;
  byBeats.mode = CutMode::Beats;
  p = withCuts(std::move(p), brassId, byBeats, cutSource(*findSource(p, brassId), byBeats));
  d.brass = cutKeys(p, brassId);
  const double shift = 12 * std::log2(kBeatBpm / discBpm); // tempo and key meet here
  p = withSourceChanged(std::move(p), brassId, [&](Source& s) {
    s.shape.semitones = Semitones(std::round(shift));
    s.shape.cents = Cents((shift - std::round(shift)) * 100);
  });
  for (Id key : d.brass)
    p = withKeyChanged(std::move(p), key, [&](Key& k) { k.level = Decibels(-0.5); });
  CutSettings byHits;
  p = withCuts(std::move(p), breakId, byHits, cutSource(*findSource(p, breakId), byHits));
  d.breaks = cutKeys(p, breakId);
  for (Id key : d.breaks)
    p = withKeyChanged(std::move(p), key, [&](Key& k) {
      k.choke = 2;
      k.level = Decibels(1);
      k.pan = 0.12;
    });

  // The last beat of the fill rolls: the break's hit there stutters, each a little louder.
  p = withKeyChanged(std::move(p), d.breaks.at(15), [](Key& k) {
    treat::Stutter roll;
    roll.divisionBeats = 0.25;
    roll.count = 4;
    roll.ramp = Decibels(3);
    k.treatments = {Treatment{roll}};
  });

  d.kick = d.put(Row::Floor, 0, kit, 1, "kick", -5.5);
  d.knock = d.put(Row::Floor, 1, kit, 2, "knock", -8);
  d.low = d.put(Row::Floor, 2, kit, 3, "kick low", -6);
  d.bass = d.put(Row::Floor, 3, kit, 5, "bass", -7.5);
  d.sub = d.put(Row::Floor, 4, kit, 6, "sub", -6);
  d.snare = d.put(Row::Body, 0, kit, 7, "snare", -6);
  d.dusty = d.put(Row::Body, 1, kit, 8, "dusty", -1);
  d.rim = d.put(Row::Body, 2, kit, 9, "rim", -4, 0.2);
  d.clap = d.put(Row::Body, 3, kit, 10, "clap", -5, -0.15);
  d.conga = d.put(Row::Body, 4, kit, 12, "conga", -9, -0.35);
  d.wood = d.put(Row::Body, 5, kit, 13, "wood", -6, 0.4);
  d.hat = d.put(Row::Air, 0, kit, 14, "hat", -6, 0.15, 3);
  d.hatHalf = d.put(Row::Air, 1, kit, 15, "half", -8, 0.15, 3);
  d.hatOpen = d.put(Row::Air, 2, kit, 16, "open", -8, 0.15, 3);
  d.shaker = d.put(Row::Air, 3, kit, 17, "shaker", -4, -0.3);
  d.tambourine = d.put(Row::Air, 4, kit, 18, "tambo", -5, 0.35);
  d.ride = d.put(Row::Air, 5, kit, 19, "ride", -6, -0.2);
  d.crash = d.put(Row::Air, 6, kit, 20, "crash", -11, -0.1);
  // The main kick is two: one for the low note and, a moment later, one for the knock. The clap is
  // three hands.
  const auto again = [&](Id key, const SoundRef& sound, double delayMs, double levelDb) {
    p = withLayer(std::move(p), key, {sound, {Milliseconds(delayMs), Decibels(levelDb), {}, 1}});
  };
  again(d.kick, findKey(p, d.knock)->sound, 3, -9);
  again(d.clap, findKey(p, d.clap)->sound, 11, -4);
  again(d.clap, findKey(p, d.clap)->sound, 23, -7);
  for (Id key : {d.bass, d.sub})
    p = withKeyChanged(std::move(p), key, [](Key& k) {
      k.gate = true;
      k.choke = 4;
      k.envelope.release = Milliseconds(90);
    });

  // The quay is cut by hand: horn, gulls, rope; the whole of it lies on a key of its own.
  CutSettings hand;
  hand.mode = CutMode::Hand;
  std::vector<Cut> cuts;
  const Hertz rate = findSource(p, quayId)->sound->rate();
  for (const auto* span : {kHorn, kGulls, kRope}) {
    Cut cut;
    cut.start = toFrames(Seconds(span[0]), rate);
    cut.end = toFrames(Seconds(span[1]), rate);
    cut.byHand = true;
    cut.fadeIn = Milliseconds(20);
    cut.fadeOut = Milliseconds(50);
    cuts.push_back(cut);
  }
  p = withCuts(std::move(p), quayId, hand, cuts);
  const auto quayKeys = cutKeys(p, quayId);
  const char* names[] = {"horn", "gulls", "rope"};
  for (std::size_t i = 0; i < quayKeys.size(); ++i)
    p = withKeyChanged(std::move(p), quayKeys[i], [&](Key& k) {
      k.name = names[i];
      k.choke = 0;
      k.level = Decibels(i == 0 ? -7 : i == 1 ? -9 : -6);
    });
  d.horn = quayKeys[0];
  d.gulls = quayKeys[1];
  d.rope = quayKeys[2];
  p = withKeyChanged(std::move(p), d.gulls, [](Key& k) { // they come out of the fog
    k.treatments = {Treatment{treat::Reverse{}}};
  });
  p = withKeySound(std::move(p), Row::Body, 6, 0, {quayId, 0}, "quay", &d.quay);
  p = withKeyChanged(std::move(p), d.quay, [](Key& k) {
    k.level = Decibels(-10);
    k.choke = 5;
    k.gate = true;
    k.envelope.attack = Milliseconds(900);
    k.envelope.release = Milliseconds(1500);
  });
  for (const auto& [key, name] : std::vector<std::pair<Id, const char*>>{
           {d.brass[0], "brass cuts"}, {d.breaks[0], "break cuts"}, {d.horn, "quay cuts"}})
    p = withPartChanged(std::move(p), findKey(p, key)->part,
                        [name = name](Part& part) { part.name = name; });
  return d;
}

} // namespace tuvvo::demo
