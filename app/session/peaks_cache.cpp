#include "session/peaks_cache.h"

namespace tuvvo {

namespace {
constexpr double kLongS = 30;
}

PeaksPtr PeaksCache::peaksOf(const Source& source) {
  if (!source.sound) return nullptr;
  const QString hash = QString::fromStdString(source.hash);
  const auto known = m_byHash.constFind(hash);
  if (known != m_byHash.constEnd()) return *known;
  if (source.sound->duration().value < kLongS)
    return m_byHash[hash] = std::make_shared<Peaks>(*source.sound);
  m_byHash[hash] = nullptr;
  m_jobs.run([this, hash, sound = source.sound](JobContext&) {
    auto peaks = std::make_shared<Peaks>(*sound);
    m_jobs.later([this, hash, peaks] {
      m_byHash[hash] = peaks;
      emit arrived();
    });
  });
  return nullptr;
}

} // namespace tuvvo
