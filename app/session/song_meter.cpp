#include "session/song_meter.h"

#include "base/tempo_map.h"
#include "listen/part_spectrum.h"
#include "play/print.h"
#include "song/timeline.h"

namespace tuvvo {

namespace {
constexpr int kSettledMs = 1200; // after the last edit
}

SongMeter::SongMeter(Document& document, JobService& jobs, Player& player)
    : m_document(document), m_jobs(jobs), m_player(player) {
  m_settled.setSingleShot(true);
  m_settled.setInterval(kSettledMs);
  connect(&m_settled, &QTimer::timeout, this, &SongMeter::begin);
  connect(&document, &Document::replaced, this, [this] { m_measure = {}; });
  connect(&document, &Document::changed, &m_settled, qOverload<>(&QTimer::start));
}

void SongMeter::begin() {
  // What was measured of a song that has changed since would only be thrown away.
  if (m_measuring) m_measuring->cancel();
  const int run = ++m_run;
  m_measuring = m_jobs.run([this, run, value = m_document.projectPtr()](JobContext& job) {
    auto measure = measureSong(*value, m_player.bakeCache(), job);
    if (job.cancelled()) return;
    m_jobs.later([this, run, measure = std::move(measure)] {
      if (run != m_run) return;
      m_measure = measure;
      emit measured();
    });
  });
}

SongMeter::Measure measureSong(const Project& project, BakeCache& bakeCache, JobContext& job) {
  SongMeter::Measure measure;
  const auto score = bakedSong(project, {}, bakeCache, job);
  if (!score) return measure;
  const auto printed = print(*score, {}, job);
  if (!printed) return measure;
  const Sound& song = **printed;
  measure.loudness = analyseLoudness(song);
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
    const auto alone = bakedSong(project, only, bakeCache, job);
    if (!alone) return measure;
    const auto stem = print(*alone, dry, job);
    if (job.cancelled()) return measure;
    if (stem) measure.spectra.emplace_back(part.id, partSpectrum(**stem));
  }
  return measure;
}

} // namespace tuvvo
