#include "cut/fit.h"

#include "base/convert.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <limits>
#include <span>

namespace tuvvo {

namespace {

// The cost counts what is heard. Weights are common practice, no source, but for three thresholds:
// a tempo difference of 1 % is where a loop audibly runs apart within four bars; 5 cents is about
// the smallest mistuning heard between tones (Zwicker & Fastl give .7 % of frequency below 500 Hz
// for pure tones one after the other; together, beats show less); and a gap between drums is
// covered by what sounded before it for some 20 ms at least (forward masking; Zwicker & Fastl,
// Psychoacoustics, ch. 4).
constexpr double kCostPerTempoPercent = 4.0;
constexpr double kCostPerFifth = 3.0;
constexpr double kCostPerSemitoneRepitched = 0.9;
constexpr double kCostPerStretchPercent = 0.22;
constexpr double kCostPerSemitoneShifted = 1.6; // pitch moved without speed smears attacks
constexpr double kCostPerGapMs = 0.05;
constexpr double kCostPerCutMs = 0.03; // a tail cut short is missed less than silence is heard
constexpr double kCoveredGapMs = 20;
constexpr double kTornTones = 5; // times as much where tones are cut and not drums
constexpr double kCostPerCentOff = 0.06;
constexpr double kCostPerUnheardCent = 0.02; // in tune is in tune
constexpr int kWidestShift = 6;
constexpr double kMostBeatMove = 4, kCostPerBeatPercent = 1.2;

/// Half and double tempo meet as well: the nearest of an octave's steps.
double foldedOctaves(double octaves) {
  if (octaves > 0.5) return octaves - 1;
  return octaves < -0.5 ? octaves + 1 : octaves;
}

/// How far a tempo is from another, folded, as a ratio.
double meetingRatio(double bpm, double target) {
  return std::exp2(foldedOctaves(std::log2(bpm / target)));
}

/// Fills in what follows from a change of pitch and of length.
FitRow finish(FitRow row, const FitQuestion& q, double shift, double speed) {
  row.semitones = Semitones(std::round(shift) + 0.0); // no minus zero
  row.cents = Cents((shift - std::round(shift)) * 100);
  if (q.bpm) {
    row.resultBpm = Bpm(q.bpm->value * speed);
    row.bpmErrorPercent = row.method == FitMethod::Repitch
                              ? (meetingRatio(row.resultBpm.value, q.toBpm.value) - 1) * 100
                              : 0;
  }
  const double sounding = shift + q.tuning.value / 100; // against A4 = 440 Hz
  if (q.key) {
    row.resultKey = transposed(*q.key, toWhole<int>(std::round(sounding)));
    row.centsOff = (sounding - std::round(sounding)) * 100;
    if (q.toKey) row.keyDistance = keyDistance(*row.resultKey, *q.toKey);
  }
  row.cost = kCostPerTempoPercent * std::abs(row.bpmErrorPercent) +
             kCostPerFifth * std::max(0, row.keyDistance) +
             kCostPerUnheardCent * std::min(std::abs(row.centsOff), kHeardCents) +
             kCostPerCentOff * std::max(0.0, std::abs(row.centsOff) - kHeardCents);
  const double moved = std::abs(shift);
  if (row.method == FitMethod::Stretch) {
    row.cost +=
        kCostPerStretchPercent * std::abs(row.stretchPercent) + kCostPerSemitoneShifted * moved;
  } else {
    row.cost += kCostPerSemitoneRepitched * moved;
    const double torn =
        row.gap.value > 0
            ? kCostPerGapMs * std::max(0.0, row.gap.value - (q.rings ? 0 : kCoveredGapMs))
            : kCostPerCutMs * -row.gap.value;
    row.cost += q.rings ? kTornTones * torn : torn;
  }
  return row;
}

/// Brought to the beat's length by stretching or re-spacing, moved in pitch beside it.
FitRow lengthRow(const FitQuestion& q, FitMethod method, double shift) {
  const double speed = q.bpm ? 1 / meetingRatio(q.bpm->value, q.toBpm.value) : 1;
  FitRow row;
  row.method = method;
  if (method == FitMethod::Stretch) {
    row.stretchPercent = (1 / speed - 1) * 100;
  } else if (q.hitsASecond > 0) {
    const double sliceMs = 1000 / q.hitsASecond;
    row.gap = Milliseconds(sliceMs / speed - sliceMs / ratioOf(Semitones(shift)));
  }
  return finish(row, q, shift, speed);
}

FitRow rowOf(const FitQuestion& q, FitMethod method, double shift) {
  return method == FitMethod::Repitch ? finish(FitRow{}, q, shift, ratioOf(Semitones(shift)))
                                      : lengthRow(q, method, shift);
}

bool possible(const FitQuestion& q, FitMethod method) {
  return method == FitMethod::Repitch ||
         (q.bpm && (method == FitMethod::Stretch || q.hitsASecond > 0));
}

constexpr std::array kMethods{FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace};

/// Every way worth a thought, one after the other: whole semitones in tune, just as it is, exactly
/// at the beat's tempo.
template <class Take> void everyWay(const FitQuestion& q, const Take& take) {
  if (q.bpm) take(rowOf(q, FitMethod::Repitch, repitchToTempo(*q.bpm, q.toBpm).value));
  for (int whole = -kWidestShift; whole <= kWidestShift; ++whole) {
    const double inTune = whole - q.tuning.value / 100;
    for (FitMethod method : kMethods) {
      if (!possible(q, method)) continue;
      take(rowOf(q, method, inTune));
      if (whole == 0 && inTune != 0.0 && method != FitMethod::Repitch) take(rowOf(q, method, 0));
    }
  }
}

/// All places where the cost of a method bends, as a function of the pitch: its least lies at one
/// of them or close by.
std::vector<double> bends(const FitQuestion& q) {
  std::vector<double> out{0.0};
  constexpr double edge = 0.4999; // of a semitone: there the key becomes another one
  const double free = kHeardCents / 100;
  for (int whole = -kWidestShift - 1; whole <= kWidestShift + 1; ++whole)
    for (double off : {0.0, -free, free, -edge, edge})
      out.push_back(whole - q.tuning.value / 100 + off);
  if (q.bpm) {
    out.push_back(repitchToTempo(*q.bpm, q.toBpm).value);
    if (q.hitsASecond > 0) { // where a gap is just still covered
      const double sliceMs = 1000 / q.hitsASecond;
      const double room = sliceMs * meetingRatio(q.bpm->value, q.toBpm.value) - kCoveredGapMs;
      if (room > 0) out.push_back(semitonesOf(sliceMs / room).value);
    }
  }
  std::erase_if(out, [](double shift) { return std::abs(shift) > kWidestShift + 0.5; });
  return out;
}

/// Downhill by single cents.
FitRow polished(const FitQuestion& q, FitMethod method, double shift) {
  FitRow best = rowOf(q, method, shift);
  for (double step : {0.01, -0.01})
    for (int n = 0; n < 100; ++n) {
      const FitRow next = rowOf(q, method, shift + step);
      if (next.cost >= best.cost - 1e-12 || std::abs(shift + step) > kWidestShift + 0.5) break;
      best = next;
      shift += step;
    }
  return best;
}

} // namespace

std::string_view nameOf(FitMethod method) {
  constexpr std::string_view names[] = {"repitch", "stretch", "respace"};
  return names[int(method)];
}

FitQuestion fitQuestion(const Source& source, Bpm toBpm, std::optional<KeyName> toKey) {
  FitQuestion q;
  if (const auto grid = gridOf(source)) q.bpm = grid->tempo;
  q.key = keyOf(source);
  if (source.heard) {
    if (source.heard->key) q.tuning = source.heard->key->tuning;
    if (source.heard->duration.value > 0)
      q.hitsASecond = double(source.heard->onsets.size()) / source.heard->duration.value;
  }
  q.rings = kindOf(source) != SoundKind::Break;
  q.toBpm = toBpm;
  q.toKey = toKey;
  return q;
}

int keyDistance(KeyName a, KeyName b) {
  const auto fifths = [](KeyName key) {
    const int major = key.minor ? key.tonic + 3 : key.tonic; // the relative major
    return major * 7 % 12;
  };
  const int apart = std::abs(fifths(a) - fifths(b));
  return std::min(apart, 12 - apart);
}

Semitones repitchToTempo(Bpm from, Bpm to) {
  return Semitones(-12.0 * foldedOctaves(std::log2(from.value / to.value)));
}

FitRow fitRow(const FitQuestion& q, FitMethod method, Semitones shift) {
  return rowOf(q, method, shift.value);
}

std::vector<BeatMove> planBeat(const FitQuestion& q) {
  std::vector<BeatMove> out;
  if (!q.bpm) return out;
  std::vector<double> costs;
  for (int whole = -kWidestShift; whole <= kWidestShift; ++whole) {
    const double moved = meetingRatio(q.bpm->value * ratioOf(Semitones(whole)), q.toBpm.value);
    BeatMove move;
    move.percent = (moved - 1) * 100;
    move.tempo = Bpm(q.toBpm.value * moved);
    if (std::abs(move.percent) > kMostBeatMove) continue;
    FitQuestion there = q;
    there.toBpm = move.tempo;
    move.row = fitRow(there, FitMethod::Repitch, Semitones(whole));
    move.row.cost += kCostPerBeatPercent * std::abs(move.percent);
    out.push_back(move);
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const BeatMove& a, const BeatMove& b) { return a.row.cost < b.row.cost; });
  if (out.size() > 4) out.resize(4);
  return out;
}

std::vector<FitRow> planFit(const FitQuestion& q) {
  std::vector<FitRow> rows;
  everyWay(q, [&](const FitRow& row) { rows.push_back(row); });
  // And the very best of every method, which may lie between.
  const auto shifts = bends(q);
  for (FitMethod method : kMethods) {
    if (!possible(q, method)) continue;
    double best = 0, least = std::numeric_limits<double>::infinity();
    for (double shift : shifts)
      if (const double cost = rowOf(q, method, shift).cost; cost < least) {
        least = cost;
        best = shift;
      }
    rows.push_back(polished(q, method, best));
  }
  std::stable_sort(rows.begin(), rows.end(),
                   [](const FitRow& a, const FitRow& b) { return a.cost < b.cost; });
  // Of neighbours within a few cents only the better one is a way of its own.
  std::vector<FitRow> out;
  const auto shiftOf = [](const FitRow& row) {
    return row.semitones.value + row.cents.value / 100;
  };
  for (auto& row : rows) {
    const bool near = std::any_of(out.begin(), out.end(), [&](const FitRow& kept) {
      return kept.method == row.method && std::abs(shiftOf(kept) - shiftOf(row)) < 0.06;
    });
    if (near) continue;
    out.push_back(row);
    if (out.size() == 12) break;
  }
  return out;
}

double cheapestFit(const FitQuestion& q) {
  double least = std::numeric_limits<double>::infinity();
  everyWay(q, [&](const FitRow& row) { least = std::min(least, row.cost); });
  return least;
}

} // namespace tuvvo
