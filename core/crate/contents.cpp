#include "crate/contents.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

PartWords wordBits(const Content& content) {
  const ContentWords words = wordsOf(content);
  PartWords bits = 0;
  for (std::size_t w = 0; w < kPartWords.size(); ++w)
    if (words.*kPartWords[w].member) bits |= PartWords(1u << w);
  return bits;
}

Parts partsOf(const Analysis& heard) {
  Parts parts = 0;
  const auto add = [&](const Content& content) {
    if (!(content == Content{})) parts |= Parts(1) << wordBits(content);
  };
  for (const auto& section : heard.sections) add(section.content);
  if (heard.sections.empty()) add(heard.content);
  return parts;
}

bool PartWanted::agrees(const Content& content) const {
  return !(content == Content{}) && agrees(Parts(1) << wordBits(content));
}

bool PartWanted::agrees(Parts parts) const {
  for (unsigned words = 0; words < 64; ++words)
    if ((parts >> words & 1) != 0 && (words & has) == has && (words & hasNo) == 0) return true;
  return false;
}

namespace {

double medianOr(std::vector<double> values, double otherwise) {
  if (values.empty()) return otherwise;
  std::nth_element(values.begin(), values.begin() + std::ptrdiff_t(values.size() / 2),
                   values.end());
  return values[values.size() / 2];
}

} // namespace

std::optional<Likeness> likenessOf(const Analysis& heard) {
  const Content& c = heard.content;
  if (c == Content{}) return std::nullopt;
  std::vector<double> brightness, decay, low, high;
  for (const auto& onset : heard.onsets) {
    brightness.push_back(std::log2(std::max(20.0, onset.brightness.value)));
    decay.push_back(std::log2(std::max(5.0, onset.decay.value)));
    // A kick's band and a hat's against the whole hit: how its attack is tilted.
    low.push_back((onset.levels[0] - onset.levels[3]).value);
    high.push_back((onset.levels[2] - onset.levels[3]).value);
  }
  return Likeness{float(std::log2(0.5 + c.onsets) / 2),
                  float(std::log2(0.5 + c.drums) / 2),
                  float(2 * c.lows),
                  float(2 * c.voices),
                  float(2 * c.tones),
                  float(2 * c.changes),
                  float(medianOr(brightness, 10) / 1.5),
                  float(medianOr(decay, 8) / 3),
                  float(std::clamp(medianOr(low, -30), -40.0, 0.0) / 15),
                  float(std::clamp(medianOr(high, -30), -40.0, 0.0) / 15),
                  float(std::log2(std::clamp(heard.duration.value, 0.1, 600.0)) / 3)};
}

float unlikeness(const Likeness& a, const Likeness& b) {
  float sum = 0;
  for (std::size_t i = 0; i < a.size(); ++i) sum += (a[i] - b[i]) * (a[i] - b[i]);
  return std::sqrt(sum / float(a.size()));
}

} // namespace tuvvo
