#include "listen/listen.h"

#include "listen/key.h"
#include "listen/levels.h"
#include "listen/onsets.h"
#include "listen/tempo.h"

namespace tuvvo {

Listening listen(const Sound& sound, JobContext& job) {
  Listening heard;
  heard.duration = sound.duration();
  heard.rate = sound.rate();
  heard.channels = sound.channels();
  heard.loudness = hearLoudness(sound);
  heard.faults = hearFaults(sound);
  job.report(0.15);
  heard.onsets = OnsetFinder().find(sound, job);
  job.report(0.5);
  if (job.cancelled()) return heard;
  TimeHeard time = hearTime(sound, heard.onsets, job);
  heard.tempo = std::move(time.tempo);
  heard.beats = std::move(time.beats);
  heard.downbeats = std::move(time.downbeats);
  heard.loop = time.loop;
  job.report(0.75);
  if (job.cancelled()) return heard;
  heard.key = hearKey(sound, job);
  job.report(1.0);
  return heard;
}

} // namespace tuvvo
