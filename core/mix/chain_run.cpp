#include "mix/chain_run.h"

#include <algorithm>

namespace tuvvo {

namespace {
constexpr int kFull = 1 << 24;        ///< frames: more than any latency
constexpr float kFadeStep = 1.0f / 8; ///< of a share, each quantum: 11 ms
} // namespace

void ChainRun::want(const List& wanted, int count, bool atOnce) {
  m_wanted = wanted;
  m_wantedCount = count;
  if (!atOnce) return;
  m_count = 0;
  for (; m_count < count; ++m_count) {
    const Wanted& one = wanted[std::size_t(m_count)];
    one.insert->forget(true);
    m_entries[std::size_t(m_count)] = {one.insert, one.on ? 1.0f : 0.0f, true, one.on, kFull};
  }
}

void ChainRun::takeOver(const ChainRun& before) {
  m_entries = before.m_entries;
  m_count = before.m_count;
}

void ChainRun::remove(int place) {
  std::move(m_entries.begin() + place + 1, m_entries.begin() + m_count, m_entries.begin() + place);
  --m_count;
}

/// Compares what runs with what is wanted: what is not, or stands before something that is wanted
/// after it, leaves; what is missing comes in behind the one that it follows.
void ChainRun::arrange() {
  const auto wantedPlace = [&](const Insert* insert) {
    for (int i = 0; i < m_wantedCount; ++i)
      if (m_wanted[std::size_t(i)].insert == insert) return i;
    return -1;
  };
  int last = -1;
  for (int i = 0; i < m_count; ++i) {
    Entry& entry = m_entries[std::size_t(i)];
    const int place = wantedPlace(entry.insert);
    entry.stays = place > last;
    if (!entry.stays) continue;
    last = place;
    entry.insert->dry.setDelay(entry.insert->processor->latency()); // it may have been leaving
    entry.on = m_wanted[std::size_t(place)].on;
  }
  for (int i = m_count; i-- > 0;) {
    const Entry& entry = m_entries[std::size_t(i)];
    if (entry.stays || entry.wet > 0) continue;
    entry.insert->dry.setDelay(0);
    if (entry.insert->dry.settled()) remove(i);
  }
  int at = 0; // behind the last one that is there
  for (int i = 0; i < m_wantedCount; ++i) {
    const Wanted& one = m_wanted[std::size_t(i)];
    int found = -1;
    for (int k = 0; k < m_count; ++k)
      if (m_entries[std::size_t(k)].insert == one.insert) found = k;
    if (found >= 0) {
      if (m_entries[std::size_t(found)].stays) at = found + 1;
      continue; // it is there, or has to leave its old place first
    }
    if (m_count == int(m_entries.size())) continue; // in a moment there is room
    std::move_backward(m_entries.begin() + at, m_entries.begin() + m_count,
                       m_entries.begin() + m_count + 1);
    m_entries[std::size_t(at)] = {one.insert, 0, true, one.on, 0};
    one.insert->forget(false);
    one.insert->dry.setDelay(one.insert->processor->latency());
    ++m_count;
    ++at;
  }
}

void ChainRun::run(Entry& entry, float* left, float* right) {
  DelayLine& dry = entry.insert->dry;
  const bool comes = entry.stays && entry.on && dry.settled();
  const bool full = entry.fed >= entry.insert->processor->latency();
  const float next = std::clamp(entry.wet + (comes && full ? kFadeStep : -kFadeStep), 0.0f, 1.0f);
  const bool out = next <= 0 && entry.wet <= 0;
  if (out && !comes) { // off: only what makes it late is left
    if (dry.most() > 0) dry.process(left, right);
    return;
  }
  std::array<float, kQuantum> l, r;
  std::copy_n(left, kQuantum, l.begin());
  std::copy_n(right, kQuantum, r.begin());
  entry.insert->processor->process(l.data(), r.data());
  entry.fed = std::min(entry.fed + kQuantum, kFull);
  if (dry.most() > 0) dry.process(left, right); // filled, too, for when it is switched off
  for (int i = 0; i < kQuantum; ++i) {
    const float share = entry.wet + (next - entry.wet) * float(i + 1) / kQuantum;
    const auto n = std::size_t(i);
    left[i] = share >= 1 ? l[n] : left[i] + share * (l[n] - left[i]);
    right[i] = share >= 1 ? r[n] : right[i] + share * (r[n] - right[i]);
  }
  entry.wet = next;
  if (next > 0 || comes) return;
  entry.insert->processor->reset(); // it begins anew when it is switched on
  entry.fed = 0;
}

void ChainRun::process(float* left, float* right) {
  arrange();
  for (int i = 0; i < m_count; ++i) run(m_entries[std::size_t(i)], left, right);
}

void ChainRun::rest() { want(m_wanted, m_wantedCount, true); }

bool ChainRun::leaving() const {
  for (int i = 0; i < m_count; ++i) {
    const Insert* insert = m_entries[std::size_t(i)].insert;
    const bool wanted = std::any_of(m_wanted.begin(), m_wanted.begin() + m_wantedCount,
                                    [&](const Wanted& one) { return one.insert == insert; });
    if (!wanted) return true;
  }
  return false;
}

int ChainRun::latency() const {
  int frames = 0;
  for (int i = 0; i < m_wantedCount; ++i)
    frames += m_wanted[std::size_t(i)].insert->processor->latency();
  return frames;
}

int ChainRun::tail() const {
  int frames = 0;
  for (int i = 0; i < m_wantedCount; ++i)
    if (m_wanted[std::size_t(i)].on) frames += m_wanted[std::size_t(i)].insert->processor->tail();
  return frames;
}

} // namespace tuvvo
