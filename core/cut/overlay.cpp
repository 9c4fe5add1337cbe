#include "cut/overlay.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::size_t kMostStarts = 48;
constexpr std::size_t kPhraseBars = 4;
constexpr double kTonesWeigh = 0.55, kRoomWeighs = 0.25, kTurnsWeigh = 0.2;
constexpr double kASemitone = 0.02, kAnOffset = 0.03, kOtherMeter = 0.1;
constexpr double kNothingBites = 0.8; ///< where one has no chords
constexpr int kLowestShift = -5, kShifts = 12;

/// By interval class, unison to tritone. Huron gives none for the unison: it counts as a fifth.
constexpr std::array<double, 7> kConsonance{1.240, -1.428, -0.582, 0.594, 0.386, 1.240, -0.453};

/// 0 for chords a semitone apart, 1 for the same chord.
double agreement(const ChordName& under, const ChordName& over, int shift) {
  double sum = 0;
  const auto a = under.tones(), b = over.tones();
  for (int x : a)
    for (int y : b) {
      const int apart = (((x - y - shift) % 12) + 12) % 12;
      sum += kConsonance[std::size_t(std::min(apart, 12 - apart))];
    }
  return std::clamp((sum / double(a.size() * b.size()) + 0.3) / 1.2, 0.0, 1.0);
}

/// How much two parts that lie on each other are in each other's way: only as much as both do it.
double crowded(double a, double b, double full) { return std::min({a, b, full}) / full; }

} // namespace

int OverlayQuestion::Side::barOf(std::size_t beat) const {
  return int(std::floor((double(beat) - double(downbeat)) / meter));
}

std::vector<std::size_t> OverlayQuestion::Side::starts(std::size_t length) const {
  std::vector<std::size_t> all, out;
  const auto bar = std::size_t(meter);
  for (std::size_t at = downbeat % bar; at + length <= count(); at += bar) all.push_back(at);
  const std::size_t step = (all.size() + kMostStarts - 1) / kMostStarts;
  for (std::size_t i = 0; i < all.size(); i += step) out.push_back(all[i]);
  return out;
}

Content OverlayQuestion::Side::meanContent(std::size_t from, std::size_t length) const {
  Content out;
  for (std::size_t i = from; i < from + length; ++i) {
    out.drums += contents[i].drums / double(length);
    out.lows += contents[i].lows / double(length);
    out.voices += contents[i].voices / double(length);
  }
  return out;
}

OverlayQuestion::Side OverlayQuestion::sideOf(const ResolvedSource& source, double level) {
  Side side;
  side.downbeat = source.downbeat();
  if (level == 1) {
    side.beats.assign(source.beats().begin(), source.beats().end());
  } else { // one that is twice as fast gives every second beat
    side.beats = beatsAtLevel(source.beats(), 1 / level, side.downbeat);
    side.downbeat = level == 2 ? side.downbeat / 2 : side.downbeat * 2;
  }
  const int meter = source.grid()->meter;
  side.meter = level == 0.5 ? 2 * meter : level == 2 && meter % 2 == 0 ? meter / 2 : meter;
  if (side.beats.size() < 2) return side;
  const Analysis& heard = *source.source().heard;
  // The last beat is whole where the sound goes on for as long as one.
  const double beatS =
      (side.beats.back() - side.beats.front()).value / double(side.beats.size() - 1);
  if (heard.duration.value > side.beats.back().value + 0.9 * beatS)
    side.beats.push_back(Seconds(side.beats.back().value + beatS));
  const std::size_t count = side.beats.size() - 1;
  side.chord.assign(count, -1);
  side.strokes.assign(count, {});
  side.contents.assign(count, heard.content);
  const auto beatAt = [&](Seconds at) {
    return std::upper_bound(side.beats.begin(), side.beats.end(), at) - side.beats.begin() - 1;
  };
  for (const auto& chord : heard.chords) {
    const auto name = chordFromName(chord.name);
    if (!name) continue;
    side.chords.push_back(*name);
    for (std::size_t i = 0; i < count; ++i) {
      const double middle = (side.beats[i].value + side.beats[i + 1].value) / 2;
      if (middle >= chord.start.value && middle < chord.end.value)
        side.chord[i] = int(side.chords.size()) - 1;
    }
  }
  for (const auto& onset : source.onsets()) {
    const auto i = beatAt(onset.at + Seconds(beatS / (2 * kSlots)));
    if (i < 0 || i >= std::ptrdiff_t(count)) continue;
    const double within = (onset.at - side.beats[std::size_t(i)]).value / beatS * kSlots;
    float& stroke = side.strokes[std::size_t(i)][std::size_t(toNearestIn(within, 0, kSlots - 1))];
    stroke = std::max(stroke, float(gainOf(onset.level)));
  }
  for (const auto& section : source.sections())
    for (std::size_t i = 0; i < count; ++i)
      if (side.beats[i].value >= section.start.value - 0.01 &&
          side.beats[i].value < section.end.value - 0.01 && !(section.content == Content{}))
        side.contents[i] = section.content;
  return side;
}

std::optional<OverlayQuestion> OverlayQuestion::of(const Source& under, const Source& over) {
  const ResolvedSource lower(under), upper(over);
  if (!lower.grid() || !upper.grid() || !under.heard || !over.heard) return std::nullopt;
  const double ratio = upper.grid()->tempo.value / lower.grid()->tempo.value;
  const double fold = std::round(std::log2(ratio));
  OverlayQuestion out;
  out.m_under = sideOf(lower, 1);
  out.m_over = sideOf(upper, std::exp2(std::clamp(fold, -1.0, 1.0)));
  for (const Side* side : {&out.m_under, &out.m_over})
    if (side->count() < std::size_t(out.m_under.meter)) return std::nullopt;
  return out;
}

std::vector<Overlay> OverlayQuestion::best(std::size_t most) const {
  const auto bar = std::size_t(m_under.meter);
  const std::size_t bars = std::min({kPhraseBars, m_under.count() / bar, m_over.count() / bar});
  if (bars == 0) return {};
  const std::size_t length = bars * bar;
  // What every chord of one does to every chord of the other, by shift.
  std::vector<double> agree(m_under.chords.size() * m_over.chords.size() * kShifts);
  const auto agreed = [&](int a, int b, int s) -> double& {
    return agree[(std::size_t(a) * m_over.chords.size() + std::size_t(b)) * kShifts +
                 std::size_t(s)];
  };
  for (std::size_t a = 0; a < m_under.chords.size(); ++a)
    for (std::size_t b = 0; b < m_over.chords.size(); ++b)
      for (int s = 0; s < kShifts; ++s)
        agreed(int(a), int(b), s) =
            agreement(m_under.chords[a], m_over.chords[b], kLowestShift + s);

  std::vector<Overlay> all;
  const double otherMeter = m_under.meter != m_over.meter ? kOtherMeter : 0;
  for (const std::size_t u : m_under.starts(length)) {
    const Content below = m_under.meanContent(u, length);
    for (const std::size_t o : m_over.starts(length)) {
      const Content above = m_over.meanContent(o, length);
      const double room = 1 - 0.5 * crowded(below.lows, above.lows, 0.25) -
                          0.2 * crowded(below.drums, above.drums, 2) -
                          0.3 * crowded(below.voices, above.voices, 0.5);
      for (std::size_t offset = 0; offset < bar; ++offset) {
        double together = 0, lower = 1e-9, upper = 1e-9;
        std::array<double, kShifts> tones{};
        int sounding = 0;
        for (std::size_t k = 0; k < length; ++k) {
          const std::size_t i = u + k, j = o + (k + length - offset) % length;
          for (std::size_t s = 0; s < kSlots; ++s) {
            const double a = double(m_under.strokes[i][s]), b = double(m_over.strokes[j][s]);
            together += std::min(a, b);
            lower += a;
            upper += b;
          }
          if (m_under.chord[i] < 0 || m_over.chord[j] < 0) continue;
          ++sounding;
          for (int s = 0; s < kShifts; ++s)
            tones[std::size_t(s)] += agreed(m_under.chord[i], m_over.chord[j], s);
        }
        const bool tonal = 4 * sounding >= int(length);
        const double turns = 1 - together / std::min(lower, upper);
        for (int s = 0; s < kShifts; ++s) {
          const int shift = kLowestShift + s;
          if (!tonal && shift != 0) continue;
          Overlay way;
          way.under = u;
          way.over = o;
          way.beats = int(length);
          way.offset = int(offset);
          way.shift = shift;
          way.tones = tonal ? tones[std::size_t(s)] / sounding : kNothingBites;
          way.room = room;
          way.turns = std::clamp(turns, 0.0, 1.0);
          way.score = kTonesWeigh * way.tones + kRoomWeighs * room + kTurnsWeigh * way.turns -
                      kASemitone * std::abs(shift) - (offset != 0 ? kAnOffset : 0) - otherMeter;
          all.push_back(way);
        }
      }
    }
  }
  std::stable_sort(all.begin(), all.end(),
                   [](const Overlay& a, const Overlay& b) { return a.score > b.score; });
  std::vector<Overlay> out;
  for (const Overlay& way : all) {
    if (out.size() >= most) break;
    int moved = 0;
    bool known = false;
    for (const Overlay& taken : out) {
      known = known || (taken.under == way.under && taken.over == way.over &&
                        (taken.shift == way.shift || taken.offset == way.offset));
      moved += taken.shift == way.shift && taken.offset == way.offset;
    }
    if (!known && moved < 2) out.push_back(way);
  }
  return out;
}

} // namespace tuvvo
