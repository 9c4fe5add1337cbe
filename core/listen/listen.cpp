#include "listen/listen.h"

#include "audio/resample.h"
#include "listen/chords.h"
#include "listen/hum.h"
#include "listen/key.h"
#include "listen/levels.h"
#include "listen/onsets.h"
#include "listen/sections.h"
#include "listen/tempo.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// Where a sound is first louder than 40 dB under its peak.
Seconds firstSoundOf(std::span<const float> mono, double rate) {
  float loudest = 0;
  for (float v : mono) loudest = std::max(loudest, std::abs(v));
  std::size_t at = 0;
  while (at < mono.size() && std::abs(mono[at]) < 0.01f * loudest) ++at;
  return Seconds(double(at) / rate);
}

/// Beats, or stretches of .37 s where there are none: what notes and chords are heard in.
struct Stretches {
  std::vector<Seconds> edges; ///< starts, and the end of the last
  std::vector<bool> downbeat;
};

Stretches stretchesOf(const TimeHeard& time, Seconds duration) {
  Stretches out;
  if (time.beats.size() >= 4) {
    if (time.beats.front().value > 0.1) out.edges.push_back(Seconds(0));
    out.edges.insert(out.edges.end(), time.beats.begin(), time.beats.end());
  } else {
    for (double at = 0; at < duration.value; at += 4096 / 11025.0) out.edges.push_back(Seconds(at));
  }
  for (const Seconds edge : out.edges)
    out.downbeat.push_back(std::binary_search(time.downbeats.begin(), time.downbeats.end(), edge));
  out.edges.push_back(duration);
  return out;
}

std::vector<Notes> notesOf(const Harmony& harmony, const std::vector<Seconds>& edges) {
  const NoteFinder finder;
  std::vector<Notes> out;
  for (std::size_t i = 0; i + 1 < edges.size(); ++i)
    out.push_back(finder.find(harmony.between(edges[i].value, edges[i + 1].value)));
  return out;
}

} // namespace

Listening listen(const Sound& sound, JobContext& job) {
  Listening heard;
  heard.duration = sound.duration();
  heard.rate = sound.rate();
  heard.channels = sound.channels();
  heard.loudness = hearLoudness(sound);
  heard.faults = hearFaults(sound);
  job.report(0.15);
  const std::vector<float> mono = resample(monoOf(sound), sound.rate(), Hertz(22050));
  for (auto fault : {hearHum(mono), hearDeadAir(mono)})
    if (fault) heard.faults.push_back(std::move(*fault));
  heard.onsets = OnsetFinder().find(mono, job);
  job.report(0.4);
  if (job.cancelled()) return heard;
  const Harmony harmony = hearHarmony(mono, job);
  job.report(0.6);
  if (job.cancelled()) return heard;
  const OnsetStrength strength = onsetStrength(mono);
  TimeHeard time = hearTime(strength, harmony, heard.duration, firstSoundOf(mono, 22050), job);
  job.report(0.8);
  if (job.cancelled()) return heard;
  if (heard.duration.value >= 0.5) {
    const Stretches stretches = stretchesOf(time, heard.duration);
    const auto notes = notesOf(harmony, stretches.edges);
    heard.key = hearKey(harmony, notes);
    if (heard.key) heard.chords = hearChords(notes, stretches.edges, stretches.downbeat, heard.key);
  }
  heard.sections = hearSections(harmony, strength, time.downbeats, heard.duration);
  heard.tempo = std::move(time.tempo);
  heard.meter = time.meter;
  heard.beats = std::move(time.beats);
  heard.downbeats = std::move(time.downbeats);
  heard.loop = time.loop;
  job.report(1.0);
  return heard;
}

} // namespace tuvvo
