#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

double placeAmong(std::span<const Seconds> beats, Seconds at) {
  auto after = std::upper_bound(beats.begin(), beats.end(), at);
  after = std::clamp(after, beats.begin() + 1, beats.end() - 1);
  const Seconds a = *(after - 1), b = *after;
  return double(after - 1 - beats.begin()) + (at - a).value / (b - a).value;
}

std::vector<Seconds> beatsAtLevel(std::span<const Seconds> beats, double ratio,
                                  std::size_t downbeat) {
  std::vector<Seconds> out;
  if (std::abs(ratio - 2) < 1e-3) {
    for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
      out.push_back(beats[i]);
      out.push_back(Seconds((beats[i].value + beats[i + 1].value) / 2));
    }
    out.push_back(beats.back());
    return out;
  }
  for (std::size_t i = downbeat % 2; i < beats.size(); i += 2) out.push_back(beats[i]);
  return out;
}

namespace {

std::size_t nearestBeat(std::span<const Seconds> beats, Seconds at) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < beats.size(); ++i)
    if (std::abs(beats[i].value - at.value) < std::abs(beats[best].value - at.value)) best = i;
  return best;
}

bool isLevel(double ratio) {
  return std::abs(ratio - 1) < 1e-6 || std::abs(ratio - 2) < 1e-3 || std::abs(ratio - 0.5) < 1e-3;
}

/// What was followed stays followed, at another level or from another beat.
std::vector<Seconds> followedBeats(std::span<const Seconds> heard, double ratio, Seconds downbeat) {
  auto beats = std::abs(ratio - 1) < 1e-6
                   ? std::vector<Seconds>(heard.begin(), heard.end())
                   : beatsAtLevel(heard, ratio, nearestBeat(heard, downbeat));
  const std::size_t near = nearestBeat(beats, downbeat);
  const std::size_t next = near + 1 < beats.size() ? near + 1 : near - 1;
  const double apart = std::abs(beats[next].value - beats[near].value);
  const double off = (downbeat.value - beats[near].value) / apart;
  if (std::abs(off) <= 0.1) return beats;
  // The beat itself was moved: every beat moves by the same part of one.
  for (std::size_t i = 0; i < beats.size(); ++i) {
    const double step = i + 1 < beats.size() ? beats[i + 1].value - beats[i].value : apart;
    beats[i] = Seconds(std::max(0.0, beats[i].value + off * step));
  }
  return beats;
}

/// One tempo over the whole sound.
std::vector<Seconds> gridBeats(const Source& source, const Grid& grid) {
  std::vector<Seconds> beats;
  if (!source.sound && !source.heard) return beats;
  const double period = 60.0 / grid.tempo.value, duration = source.sound
                                                                ? source.sound->duration().value
                                                                : source.heard->duration.value;
  double at = grid.downbeat.value;
  at -= std::floor((at + 0.001) / period) * period;
  for (; at < duration; at += period) beats.push_back(Seconds(std::max(0.0, at)));
  return beats;
}

EvenBeats evenBeats(const Grid& grid, std::span<const Seconds> beats, std::size_t downbeat) {
  EvenBeats even{grid.downbeat.value, 60 / grid.tempo.value};
  if (beats.size() < 3) return even;
  const double n = double(beats.size());
  double sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    const double x = double(i), y = beats[i].value;
    sx += x;
    sy += y;
    sxx += x * x;
    sxy += x * y;
  }
  even.beatS = (n * sxy - sx * sy) / (n * sxx - sx * sx);
  even.firstS = (sy - even.beatS * sx) / n + even.beatS * double(downbeat);
  return even;
}

} // namespace

ResolvedSource::ResolvedSource(const Source& source) : m_source(source), m_grid(gridOf(source)) {
  const auto& heard = source.heard;
  const auto& corrections = source.corrections;
  if (m_grid) {
    const bool followed = heard && heard->tempo && heard->beats.size() >= 2;
    const double ratio = followed ? m_grid->tempo.value / heard->tempo->bpm.value : 0;
    if (followed && !corrections.tempo && !corrections.downbeat) {
      m_beats = heard->beats;
    } else {
      m_ownBeats = followed && !heard->tempo->steady && isLevel(ratio)
                       ? followedBeats(heard->beats, ratio, m_grid->downbeat)
                       : gridBeats(source, *m_grid);
      m_beats = m_ownBeats;
    }
    m_downbeat = nearestBeat(m_beats, m_grid->downbeat);
    m_even = evenBeats(*m_grid, m_beats, m_downbeat);
  }
  if (!heard) return;
  m_onsets = heard->onsets;
  if (corrections.hits.empty()) return;
  m_ownOnsets = heard->onsets;
  for (const auto& said : corrections.hits)
    for (auto& onset : m_ownOnsets)
      if (std::abs(onset.at.value - said.at.value) < kSameHit.value) {
        onset.hits = said.hits;
        onset.sure = {1, 1, 1, 1};
        std::erase_if(onset.drums, [&](Drum drum) {
          return std::find(onset.hits.begin(), onset.hits.end(), classOf(drum)) == onset.hits.end();
        });
      }
  m_onsets = m_ownOnsets;
}

bool ResolvedSource::steady() const {
  return !m_source.heard || !m_source.heard->tempo || m_source.heard->tempo->steady;
}

std::vector<Seconds> ResolvedSource::bars() const {
  std::vector<Seconds> bars;
  if (!m_grid) return bars;
  const auto meter = std::size_t(std::max(1, m_grid->meter));
  for (std::size_t i = m_downbeat % meter; i < m_beats.size(); i += meter)
    bars.push_back(m_beats[i]);
  return bars;
}

std::vector<SectionHeard> ResolvedSource::sections() const {
  if (!m_source.heard) return {};
  auto sections = m_source.heard->sections;
  const auto& corrections = m_source.corrections;
  if (!corrections.tempo && !corrections.downbeat) return sections;
  const auto lines = bars();
  if (lines.empty()) return sections;
  for (std::size_t i = 1; i < sections.size(); ++i) {
    const auto near = std::min_element(lines.begin(), lines.end(), [&](Seconds a, Seconds b) {
      return std::abs(a.value - sections[i].start.value) <
             std::abs(b.value - sections[i].start.value);
    });
    sections[i].start = sections[i - 1].end = *near;
  }
  std::erase_if(sections, [](const SectionHeard& s) { return s.end <= s.start; });
  return sections;
}

} // namespace tuvvo
