#include "session/measure_song.h"

#include "base/tempo_map.h"
#include "listen/levels.h"
#include "listen/part_spectrum.h"
#include "song/timeline.h"

namespace tuvvo {

Session::SongMeasure measureSong(const Project& project, Bakery& bakery, JobContext& job) {
  Session::SongMeasure measure;
  const auto score = bakedSong(project, {}, bakery, job);
  if (!score) return measure;
  const auto printed = print(*score, {}, job);
  if (!printed) return measure;
  const Sound& song = **printed;
  measure.loudness = hearLoudness(song);
  const Timeline timeline = timelineOf(project);
  const TempoMap tempo = songTempo(project);
  for (int b = 0; b < timeline.bars && !job.cancelled(); ++b)
    measure.barLoudness.push_back(
        float(loudnessOf(song, tempo.frameAt(barAt(timeline, b), kEngineRate),
                         tempo.frameAt(barAt(timeline, b + 1), kEngineRate))));
  PrintOptions dry;
  dry.limiter = false;
  for (const auto& part : project.parts) {
    CompileOptions only;
    only.onlyPart = part.id;
    const auto alone = bakedSong(project, only, bakery, job);
    if (!alone) return measure;
    const auto stem = print(*alone, dry, job);
    if (job.cancelled()) return measure;
    if (stem) measure.spectra.emplace_back(part.id, partSpectrum(**stem));
  }
  return measure;
}

} // namespace tuvvo
