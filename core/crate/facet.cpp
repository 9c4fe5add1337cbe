#include "crate/facet.h"

#include <limits>

namespace tuvvo {

namespace {

constexpr double kAboutBeat = 0.06; // "about the beat's tempo": within a semitone

bool tempoAgrees(const Facet& facet, double low, double high, bool folded) {
  if (facet.tempo <= 0) return false;
  for (double fold : {1.0, 2.0, 0.5}) {
    const double tempo = double(facet.tempo) * fold;
    if (tempo >= low && tempo <= high) return true;
    if (!folded) break;
  }
  return false;
}

KeyName keyOf(const Facet& facet) { return {facet.key % 12, facet.key >= 12}; }

} // namespace

FitQuestion fitQuestion(const Facet& facet, const BeatNow& beat) {
  FitQuestion question;
  if (facet.tempo > 0) question.bpm = Bpm(double(facet.tempo));
  if (facet.key >= 0) question.key = keyOf(facet);
  question.tuning = Cents(double(facet.tuning));
  question.hitsASecond = double(facet.hitsASecond);
  question.rings = facet.kind != int(SoundKind::Break);
  question.toBpm = beat.tempo;
  question.toKey = beat.key;
  return question;
}

float reachOf(const Facet& facet, const BeatNow& beat) {
  if (!facet.heard || (facet.tempo <= 0 && (facet.key < 0 || !beat.key)))
    return std::numeric_limits<float>::infinity();
  return float(cheapestFit(fitQuestion(facet, beat)));
}

FacetFilter::FacetFilter(const Query& query, const BeatNow& beat) : m_query(query) {
  if (query.tempo)
    m_tempos.push_back({query.tempo->first.value * 0.9995, query.tempo->second.value * 1.0005});
  if (query.tempoOfBeat)
    m_tempos.push_back({beat.tempo.value / (1 + kAboutBeat), beat.tempo.value * (1 + kAboutBeat)});
  if (query.key) m_keys.push_back(*query.key);
  if (query.keyOfBeat && beat.key) m_keys.push_back(*beat.key);
}

bool FacetFilter::takes(const Facet& f) const {
  const Query& q = m_query;
  const auto disagrees = [](const std::optional<bool>& wanted, bool is) {
    return wanted && *wanted != is;
  };
  if (q.kind && f.kind != int(*q.kind)) return false;
  for (const auto& [low, high] : m_tempos)
    if (!tempoAgrees(f, low, high, q.folded)) return false;
  for (const KeyName& key : m_keys)
    if (f.key < 0 || keyDistance(keyOf(f), key) > q.fifths) return false;
  if (q.bars && (f.bars < q.bars->first || f.bars > q.bars->second)) return false;
  if (f.stars < q.stars) return false;
  if (q.part.any() && !q.part.agrees(f.parts)) return false;
  if (q.likeThis && q.like && !(f.likeness && unlikeness(*f.likeness, *q.like) < kAlike))
    return false;
  return !disagrees(q.cleared, f.cleared) && !disagrees(q.used, f.used) &&
         !disagrees(q.steady, f.tempo > 0 && f.steady) && !disagrees(q.exact, f.exact) &&
         !disagrees(q.missing, f.copies == 0) && !disagrees(q.duplicate, f.copies > 1);
}

} // namespace tuvvo
