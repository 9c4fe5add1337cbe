// What the song measures: loudness, energy by bar, where each part lies in the spectrum.
#pragma once

#include "listen/levels.h"
#include "session/player.h"

namespace tuvvo {

/// Measures the printed song in the background after edits.
class SongMeter : public Service {
  Q_OBJECT
public:
  SongMeter(Document& document, JobService& jobs, Player& player);

  struct Measure {
    LoudnessHeard loudness;
    std::vector<float> barLoudness; ///< LUFS a bar; empty: not measured yet
    std::vector<std::pair<Id, std::vector<float>>>
        spectra; ///< a part: 24 bands, as partSpectrum() gives them
  };
  [[nodiscard]] const Measure& measure() const { return m_measure; }
  /// Without waiting for edits to settle.
  void measureNow() { begin(); }

signals:
  void measured();

private:
  void begin();

  Document& m_document;
  JobService& m_jobs;
  Player& m_player;
  Measure m_measure;
  std::shared_ptr<JobContext> m_measuring; ///< the job that runs, or ran last
  int m_run = 0;
  QTimer m_settled; ///< runs while edits come one after the other
};

/// Prints the song and each part alone, without writing anything. For a job.
[[nodiscard]] SongMeter::Measure measureSong(const Project& project, BakeCache& bakeCache,
                                             JobContext& job);

} // namespace tuvvo
