#include "listen/listen.h"

#include "audio/resample.h"
#include "listen/key.h"
#include "listen/levels.h"
#include "listen/onsets.h"
#include "listen/tempo.h"

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

/// Notes by beat, or by stretches of .37 s where there are no beats.
std::vector<std::array<float, Harmony::kNotes>>
notesOf(const Harmony& harmony, std::vector<Seconds> edges, Seconds duration) {
  if (edges.size() < 4) {
    edges.clear();
    for (double at = 0; at < duration.value; at += 4096 / 11025.0) edges.push_back(Seconds(at));
  }
  edges.push_back(duration);
  const NoteFinder finder;
  std::vector<std::array<float, Harmony::kNotes>> out;
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
  heard.onsets = OnsetFinder().find(sound, job);
  job.report(0.4);
  if (job.cancelled()) return heard;
  const std::vector<float> mono = resample(monoOf(sound), sound.rate(), Hertz(22050));
  const Harmony harmony = hearHarmony(mono, job);
  job.report(0.6);
  if (job.cancelled()) return heard;
  TimeHeard time =
      hearTime(onsetStrength(mono), harmony, heard.duration, firstSoundOf(mono, 22050), job);
  heard.tempo = std::move(time.tempo);
  heard.meter = time.meter;
  heard.beats = std::move(time.beats);
  heard.downbeats = std::move(time.downbeats);
  heard.loop = time.loop;
  job.report(0.8);
  if (job.cancelled() || heard.duration.value < 0.5) return heard;
  heard.key = hearKey(harmony, notesOf(harmony, heard.beats, heard.duration));
  job.report(1.0);
  return heard;
}

} // namespace tuvvo
