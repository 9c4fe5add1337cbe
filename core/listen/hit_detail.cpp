#include "listen/hit_detail.h"

#include "audio/sound.h"
#include "base/convert.h"
#include "listen/pitch.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tuvvo {

namespace {

constexpr double kDetailRate = HitDetector::kRate;
constexpr std::size_t kGrain = 110;      // 5 ms
constexpr double kAlikeDb = 4.0;         // mean difference of the bands of one drum's hits
constexpr std::size_t kMostGroups = 200; // beyond them every hit goes to the nearest

std::span<const float> stretchFrom(std::span<const float> mono, double fromS, double toS) {
  const auto from = std::min(mono.size(), toWhole<std::size_t>(std::max(0.0, fromS) * kDetailRate)),
             to = std::clamp(toWhole<std::size_t>(std::max(0.0, toS) * kDetailRate), from,
                             mono.size());
  return mono.subspan(from, to - from);
}

/// Until 20 dB under the loudest 5 ms; where the next hit comes first, as far again as the fall so
/// far says.
Milliseconds decayOf(std::span<const float> hit) {
  float top = 1e-9f, last = 0;
  std::size_t topAt = 0, blocks = hit.size() / kGrain;
  for (std::size_t b = 0; b < blocks; ++b) {
    last = peakOf(hit.subspan(b * kGrain, kGrain));
    if (last > top) {
      top = last;
      topAt = b;
    }
    if (b > topAt && last < 0.1f * top) return Milliseconds(double((b - topAt) * 5));
  }
  if (blocks < 2 || topAt + 1 >= blocks) return Milliseconds(double(blocks) * 5);
  const double fallen = 20 * std::log10(double(top) / std::max(1e-9, double(last)));
  const double ms = double(blocks - topAt) * 5;
  return Milliseconds(std::min(20000.0, ms * 20 / std::max(1.0, fallen)));
}

struct BandPicture {
  std::array<float, 36> bands{}; ///< attack and two stretches after it, against its own mean
};

BandPicture bandsOf(const HitDetector::Features& features) {
  // The attack, from 15 ms to 38 and from there to 75.
  constexpr std::array<int, 3> blocks{HitDetector::kAttackBlock, 3, 4};
  BandPicture out;
  float mean = 0;
  for (std::size_t b = 0; b < 12; ++b)
    for (std::size_t k = 0; k < 3; ++k) {
      const auto at = std::size_t(blocks[k] * HitDetector::kBands) + 2 * b; // bands by twos
      out.bands[3 * b + k] = (features[at] + features[at + 1]) / 2;
      if (k == 0) mean += out.bands[3 * b] / 12;
    }
  for (float& v : out.bands) v -= mean; // a softer hit of the same drum is the same drum
  return out;
}

double apartDb(const BandPicture& x, const BandPicture& y) {
  double sum = 0;
  for (std::size_t i = 0; i < x.bands.size(); ++i)
    sum += std::abs(double(x.bands[i]) - double(y.bands[i]));
  return sum / double(x.bands.size()) * 20;
}

/// Loudest first, each to the nearest group or to a new one.
void group(const HitDetector& detector, std::vector<Onset>& onsets) {
  struct Group {
    BandPicture mean;
    int count = 0, id = 0;
  };
  std::vector<std::size_t> order(onsets.size());
  std::iota(order.begin(), order.end(), std::size_t(0));
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return onsets[a].level > onsets[b].level; });
  std::vector<Group> groups;
  for (std::size_t i : order) {
    Onset& onset = onsets[i];
    const auto picture =
        bandsOf(detector.featuresAt(toNearest<int>(onset.at.value * HitDetector::kFramesASecond)));
    Group* best = nullptr;
    double least = groups.size() < kMostGroups ? kAlikeDb : 1e9;
    for (auto& known : groups)
      if (const double apart = apartDb(known.mean, picture); apart < least) {
        least = apart;
        best = &known;
      }
    if (!best) best = &groups.emplace_back(Group{picture, 0, int(groups.size())});
    ++best->count;
    for (std::size_t k = 0; k < picture.bands.size(); ++k)
      best->mean.bands[k] += (picture.bands[k] - best->mean.bands[k]) / float(best->count);
    onset.group = best->id;
  }
  std::stable_sort(groups.begin(), groups.end(),
                   [](const Group& a, const Group& b) { return a.count > b.count; });
  std::vector<int> number(groups.size());
  for (std::size_t g = 0; g < groups.size(); ++g) number[std::size_t(groups[g].id)] = int(g);
  for (auto& onset : onsets) onset.group = number[std::size_t(onset.group)];
}

} // namespace

void describeHits(std::span<const float> mono, const HitDetector& detector,
                  std::vector<Onset>& onsets) {
  const double endS = double(mono.size()) / kDetailRate;
  PitchFinder pitches;
  for (std::size_t i = 0; i < onsets.size(); ++i) {
    Onset& onset = onsets[i];
    const double next = i + 1 < onsets.size() ? onsets[i + 1].cut.value : endS;
    onset.decay = decayOf(stretchFrom(mono, onset.cut.value, std::min(next, onset.at.value + 10)));
    // The attack itself has no pitch; what follows it may.
    const auto ring =
        stretchFrom(mono, onset.at.value + 0.03, std::min(next, onset.at.value + 0.4));
    if (const auto pitch = pitches.find(ring)) onset.ring = pitch->pitch;
  }
  group(detector, onsets);
}

} // namespace tuvvo
