// Pictures of sounds, measured once a sound.
#pragma once

#include "audio/peaks.h"
#include "model/project.h"
#include "session/job_service.h"

#include <QHash>

namespace tuvvo {

class PeaksCache : public QObject {
  Q_OBJECT
public:
  explicit PeaksCache(JobService& jobs) : m_jobs(jobs) {}

  /// Null where a source has no sound, and for a long one until it was measured in the background.
  [[nodiscard]] PeaksPtr peaksOf(const Source& source);

signals:
  /// A long one is there.
  void arrived();

private:
  JobService& m_jobs;
  QHash<QString, PeaksPtr> m_byHash;
};

} // namespace tuvvo
