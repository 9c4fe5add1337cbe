#include "cut/fit.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

// The cost counts what is heard. Weights are common practice, no source, but for the two
// thresholds: a tempo difference of 1 % is where a loop audibly runs apart within four bars, and 5
// cents is about the smallest mistuning heard between tones (Zwicker & Fastl give .7 % of frequency
// below 500 Hz for pure tones one after the other; together, beats show less).
constexpr double kCostPerTempoPercent = 4.0;
constexpr double kCostPerFifth = 3.0;
constexpr double kCostPerSemitoneRepitched = 0.9;
constexpr double kCostPerStretchPercent = 0.22;
constexpr double kCostPerSemitoneShifted = 1.6; // pitch moved without speed smears attacks
constexpr double kCostPerCentOff = 0.06;
constexpr double kFreeCents = 5.0;

double meetingRatio(double bpm, double target) {
  double best = bpm / target;
  for (double fold : {0.5, 2.0})
    if (std::abs(std::log(bpm * fold / target)) < std::abs(std::log(best)))
      best = bpm * fold / target;
  return best;
}

std::string words(const FitRow& row, double centsOff) {
  std::string out;
  const double shift = row.semitones.value + row.cents.value / 100;
  char text[120];
  if (row.method == FitMethod::Repitch) {
    if (std::abs(shift) < 0.02)
      out = "as it is";
    else {
      std::snprintf(text, sizeof text, "%s, %s",
                    shift < 0 ? "darker and slower" : "brighter and faster",
                    std::abs(shift) < 2   ? "hardly coloured"
                    : std::abs(shift) < 5 ? "coloured"
                                          : "strongly coloured");
      out = text;
    }
  } else {
    const double amount = std::abs(row.stretchPercent);
    out = amount < 3    ? "stretching not heard"
          : amount < 10 ? "attacks a little softer"
          : amount < 25 ? "attacks softened"
                        : "stretching plainly heard";
  }
  if (std::abs(row.bpmErrorPercent) > 0.05) {
    std::snprintf(text, sizeof text, "; the beat would move to %.2f BPM", row.resultBpm.value);
    out += text;
  }
  if (std::abs(centsOff) > kFreeCents) {
    std::snprintf(text, sizeof text, "; %+.0f ct off", centsOff);
    out += text;
  }
  if (row.keyDistance > 1) out += "; keys disagree";
  return out;
}

/// Fills in what follows from a change of pitch and speed.
FitRow finish(FitRow row, const FitQuestion& q, double shift, double speed) {
  row.semitones = Semitones(std::round(shift) + 0.0); // no minus zero
  row.cents = Cents((shift - std::round(shift)) * 100);
  if (q.bpm) {
    row.resultBpm = Bpm(q.bpm->value * speed);
    row.bpmErrorPercent = (meetingRatio(row.resultBpm.value, q.toBpm.value) - 1) * 100;
  }
  const double sounding = shift + q.tuning.value / 100; // against A4 = 440 Hz
  double centsOff = 0;
  if (q.key) {
    row.resultKey = transposed(*q.key, int(std::round(sounding)));
    centsOff = (sounding - std::round(sounding)) * 100;
    if (q.toKey) row.keyDistance = keyDistance(*row.resultKey, *q.toKey);
  }
  row.cost = kCostPerTempoPercent * std::abs(row.bpmErrorPercent) +
             kCostPerFifth * std::max(0, row.keyDistance) +
             kCostPerCentOff * std::max(0.0, std::abs(centsOff) - kFreeCents);
  if (row.method == FitMethod::Repitch)
    row.cost += kCostPerSemitoneRepitched * std::abs(shift);
  else
    row.cost += kCostPerStretchPercent * std::abs(row.stretchPercent) +
                kCostPerSemitoneShifted * std::abs(shift);
  row.heard = words(row, centsOff);
  return row;
}

} // namespace

std::string_view nameOf(FitMethod method) {
  return method == FitMethod::Repitch ? "repitch" : "stretch";
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
  return Semitones(-12.0 * std::log2(meetingRatio(from.value, to.value)));
}

FitRow repitchRow(const FitQuestion& q, Semitones shift) {
  return finish(FitRow{}, q, shift.value, ratioOf(shift));
}

std::vector<FitRow> planFit(const FitQuestion& q) {
  std::vector<FitRow> rows;
  if (q.bpm) rows.push_back(repitchRow(q, repitchToTempo(*q.bpm, q.toBpm)));
  for (int shift = -6; shift <= 6; ++shift) {
    // By whole semitones, made in tune where the source is not.
    rows.push_back(repitchRow(q, Semitones(shift - q.tuning.value / 100)));
    if (!q.bpm) continue;
    FitRow row;
    row.method = FitMethod::Stretch;
    const double speed = 1 / meetingRatio(q.bpm->value, q.toBpm.value);
    row.stretchPercent = (1 / speed - 1) * 100;
    rows.push_back(finish(row, q, shift - q.tuning.value / 100, speed));
  }
  std::stable_sort(rows.begin(), rows.end(),
                   [](const FitRow& a, const FitRow& b) { return a.cost < b.cost; });
  if (rows.size() > 12) rows.resize(12);
  return rows;
}

} // namespace tuvvo
