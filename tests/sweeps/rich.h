// A small project with something of everything that a project's file can say.
#pragma once

#include "sweeps/world.h"

#include "mix/processor.h"

namespace tuvvo::test {

/// Few keys and hits, and something of everything that a project's file can say.
inline Project richProject() {
  World world = madeWorld(1);
  Project p = world.project;
  std::erase_if(p.keys, [&](const Key& key) {
    return key.id != world.slices[0] && key.id != world.bass && key.id != world.kick;
  });
  std::erase_if(p.parts, [&](const Part& part) {
    return std::none_of(p.keys.begin(), p.keys.end(),
                        [&](const Key& key) { return key.part == part.id; });
  });
  std::erase_if(p.sources, [&](const SourcePtr& source) {
    return source->kit && std::none_of(p.keys.begin(), p.keys.end(), [&](const Key& key) {
             return key.sound.source == source->id;
           });
  });
  for (Id pattern : world.patterns)
    p = withPatternChanged(p, pattern, [&](Pattern& changed) {
      changed.chords = {{Beats(0), "Am7", {}}, {at(2), "F", {}}};
      for (auto& lane : changed.lanes)
        if (lane.hits.size() > 3) lane.hits.resize(3);
    });
  p = withPatternChanged(p, world.patterns[0], [&](Pattern& pattern) {
    auto& lane = pattern.lanes.front();
    lane.length = wholeBeats(3);
    Feel& feel = lane.feel;
    feel.swing8 = 62;
    feel.swing16 = 58;
    feel.microTiming = Milliseconds(9);
    feel.lag = Beats(12);
    feel.accent = AccentShape(2);
    feel.accentDepth = 0.3;
    feel.humanise = Milliseconds(6);
    feel.humaniseLevel = 0.1;
    feel.seed = 7;
    feel.quantiseStrength = 0.5;
    feel.groove = p.grooves.front().id;
    feel.grooveTiming = 0.5;
    feel.grooveLevel = 0.75;
    auto& hit = lane.hits.front();
    hit.tune = Semitones(3);
    hit.length = wholeBeats(1);
    hit.start = 0.25;
    hit.pan = 0.5;
    hit.bright = 0.5;
    hit.reversed = true;
    hit.microTiming = Milliseconds(12);
    hit.roll = {4, Beats(kTicksPerBeat / 8), 0.5, Semitones(2)};
    hit.flam = {Milliseconds(20), 0.5};
    hit.condition = {0.5, 2, 2};
    hit.glide = {Milliseconds(80), Semitones(-5)};
    HitTreatments::List treated;
    treated.treatments = {{treat::Stutter{}}, {treat::Reverse{}, false}};
    treated.every = 3;
    treated.turn = 2;
    hit.treatments = HitTreatments(treated);
  });
  const Id kick = findKey(p, world.kick)->part;
  const Id bass = findKey(p, world.bass)->part;
  p = withPartChanged(std::move(p), bass, [&](Part& part) {
    part.duck = {kick, Decibels(7.5), Milliseconds(210)};
    part.muted = part.solo = true;
    part.quantiseStrength = 0.5;
    part.perBeat = 3;
    part.bus = {Decibels(-3), 0.25, 1.5, {Decibels(-12), kNoSend, Decibels(-6), kNoSend}, {}, {}};
    ProcessorSettings filter;
    filter.id = p.nextId;
    filter.kind = std::string(kFilterType.id);
    filter.on = false;
    for (const auto& parameter : kFilterType.parameters)
      filter.figures[std::string(parameter.id)] = parameter.least;
    part.bus.chain = {filter};
    ++p.nextId;
  });
  p.rows[1].level = p.sends[2].level = p.master.level = Decibels(-2);
  p.roles[2] = {true, true};
  p = withKeyChanged(std::move(p), world.slices[0], [&](Key& key) {
    key.layers = {{{world.chords, 0}, {Milliseconds(20), Decibels(-6), Semitones(7), 0.5}, {}},
                  {{world.drums, 0}, {}, {}}};
    key.mode = LayerMode::ByVelocity;
    key.own = {Milliseconds(5), Decibels(-1), Semitones(-12), 0.75};
    key.trimStart = Milliseconds(10);
    key.trimEnd = Milliseconds(20);
    key.method = FitMethod::Stretch;
    key.loop = {true, 0.5, 0.75, Milliseconds(30)};
    key.highPass = Hertz(200);
    key.lowPass = Hertz(4000);
    key.resonance = Decibels(6);
    key.filterEnvelope.lowMoves = 2;
    key.filterEnvelope.highMoves = -1;
    key.filterEnvelope.shape.attack = Milliseconds(3);
    key.level = Decibels(-4);
    key.pan = -0.5;
    key.tune = Semitones(5);
    key.fine = Cents(-20);
    key.envelope = {Milliseconds(5),
                    Milliseconds(10),
                    Milliseconds(300),
                    0.5,
                    Milliseconds(80),
                    0.5,
                    -0.5,
                    0.25};
    key.gate = key.mono = true;
    key.legato = false;
    key.choke = 3;
    key.glide = Milliseconds(60);
    key.muteSolo = {true, true};
    for (const auto& type : treatmentTypes()) key.treatments.push_back({type.usual, {}});
  });
  for (auto& source : p.sources) {
    if (source->kit) continue;
    Source copy = *source;
    copy.heard.reset();
    copy.cuts.resize(std::min<std::size_t>(copy.cuts.size(), 3));
    if (!copy.cuts.empty()) copy.cuts[0].byHand = true;
    copy.corrections = {Bpm(88),
                        Seconds(0.25),
                        KeyName{2, true},
                        SoundKind::Loop,
                        {{Seconds(1), {HitClass::Hat, HitClass::Kick}, {}}}};
    copy.provenance = {"a title",     "a maker",         "a shop",
                       "last winter", Permission::Asked, Permission::OpenLicence,
                       "a letter"};
    copy.cutting.fromDownbeat = true;
    copy.cutting.end = CutEnd::Decay;
    copy.shape = {FitMethod::Stretch, Semitones(-3), Cents(12),
                  StraightenBy::Hits, 0.5,           {{Seconds(1), 2, {}}, {Seconds(2), 3.5, {}}},
                  Material::Hits,     true};
    auto recipe = std::make_shared<Recipe>();
    recipe->as.sound = {world.drums, 0};
    recipe->end = Frames(1000);
    recipe->shape = copy.shape;
    recipe->under = {{Frames(10), Frames(500), copy.shape, {}}};
    if (source->id == world.chords) copy.recipe = recipe;
    source = std::make_shared<Source>(std::move(copy));
  }
  p.meter = {7, 8};
  p.tempoMarks = {{{at(6), Bpm(120), true}, {}}, {{at(12), Bpm(70), false}, {}}};
  p.dismissedNotes = {"levels:1"};
  return p;
}

} // namespace tuvvo::test
