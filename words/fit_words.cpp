#include "words/fit_words.h"

#include "words/figure_text.h"

#include <cmath>

namespace tuvvo {

namespace {

const char* colourOf(double shift) {
  return std::abs(shift) < 2   ? "hardly coloured"
         : std::abs(shift) < 5 ? "coloured"
                               : "strongly coloured";
}

std::string repitchWords(double shift) {
  if (std::abs(shift) < 0.02) return "as it is";
  return std::string(shift < 0 ? "darker and slower, " : "brighter and faster, ") + colourOf(shift);
}

std::string stretchWords(double percent) {
  return percent < 3    ? "stretching not heard"
         : percent < 10 ? "attacks a little softer"
         : percent < 25 ? "attacks softened"
                        : "stretching plainly heard";
}

std::string respaceWords(const FitRow& row, double shift) {
  const double gap = row.gap.value;
  std::string out = std::abs(gap) < 1 ? "slices end to end"
                    : gap > 0         ? figureText("gaps of %.0f ms after the slices", gap)
                                      : figureText("slices cut %.0f ms short", -gap);
  if (std::abs(shift) > 0.02) out += std::string(", ") + colourOf(shift);
  return out;
}

std::string methodWords(const FitRow& row) {
  const double shift = row.semitones.value + row.cents.value / 100;
  switch (row.method) {
  case FitMethod::Repitch:
    break;
  case FitMethod::Stretch:
    return stretchWords(std::abs(row.stretchPercent));
  case FitMethod::Respace:
    return respaceWords(row, shift);
  }
  return repitchWords(shift);
}

} // namespace

std::string soundOf(const FitRow& row) {
  std::string out = methodWords(row);
  if (std::abs(row.bpmErrorPercent) > 0.05)
    out += figureText("; the beat would move to %.2f BPM", row.resultBpm.value);
  if (std::abs(row.centsOff) > kHeardCents) out += figureText("; %+.0f ct off", row.centsOff);
  if (row.keyDistance > 1) out += "; keys disagree";
  return out;
}

} // namespace tuvvo
