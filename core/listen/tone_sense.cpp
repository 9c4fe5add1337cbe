#include "listen/tone_sense.h"

#include "base/convert.h"
#include "listen/recurrent.h"
#include "listen/tone_weights.h"

namespace tuvvo {

namespace {

constexpr std::size_t kToned = kToneState, kKinds = kHeardKinds;
/// Registers whose notes are folded to twelve: below MIDI 48, below 64, above.
constexpr std::size_t kRegisters = 3;
constexpr std::size_t kToneInputs = 12 * kRegisters + 2; ///< and how much sounds, and a bar's first
using Folded = std::array<std::array<float, 12>, kRegisters>;

struct ToneStretch {
  Folded chroma{};
  float level = 0;
};

/// Folded, each register less the square root's bends: a loud note is not four soft ones.
ToneStretch folded(const Notes& notes, float usual) {
  ToneStretch out;
  float sum = 1e-6f;
  for (float v : notes) sum += v;
  for (int note = 0; note < Harmony::kNotes; ++note) {
    const int pitch = note + Harmony::kLowNote;
    const std::size_t which = pitch < 48 ? 0 : pitch < 64 ? 1 : 2;
    out.chroma[which][std::size_t(pitch % 12)] += notes[std::size_t(note)];
  }
  for (auto& each : out.chroma)
    for (float& v : each) v = std::sqrt(v / sum);
  out.level = std::min(2.0f, std::sqrt(sum / usual));
  return out;
}

// Krumhansl & Kessler (1982), as printed in Krumhansl, Cognitive Foundations of Musical Pitch,
// 1990. Albrecht & Shanahan (2013), Music Perception 31(1), table 2; quoted from memory.
using Profile = std::array<float, 12>;
constexpr std::array<std::array<Profile, 2>, 2> kProfiles{
    {{{{6.35f, 2.23f, 3.48f, 2.33f, 4.38f, 4.09f, 2.52f, 5.19f, 2.39f, 3.66f, 2.29f, 2.88f},
       {6.33f, 2.68f, 3.52f, 5.38f, 2.60f, 3.53f, 2.54f, 4.75f, 3.98f, 2.69f, 3.34f, 3.17f}}},
     {{{.238f, .006f, .111f, .006f, .137f, .094f, .016f, .214f, .009f, .080f, .008f, .081f},
       {.220f, .006f, .104f, .123f, .019f, .103f, .012f, .214f, .062f, .022f, .061f, .052f}}}}};

/// Less its mean, at the length of one.
Profile centred(Profile values) {
  float mean = 0, length = 1e-12f;
  for (float v : values) mean += v / 12;
  for (float& v : values) {
    v -= mean;
    length += v * v;
  }
  for (float& v : values) v /= std::sqrt(length);
  return values;
}

/// What speaks for each tonic's major and minor: how well all that sounds agrees with the profiles
/// (correlation), and how much of the bass lies on the tonic.
std::array<std::array<float, 12>, 2> agreement(const std::vector<ToneStretch>& stretches) {
  Profile all{}, bass{};
  float bassSum = 1e-6f;
  for (const auto& stretch : stretches)
    for (std::size_t r = 0; r < kRegisters; ++r)
      for (std::size_t k = 0; k < 12; ++k) {
        const float power = std::pow(stretch.chroma[r][k] * stretch.level, 2.0f);
        all[k] += power;
        if (r > 0) continue;
        bass[k] += power;
        bassSum += power;
      }
  all = centred(all);
  std::array<std::array<float, 12>, 2> out{};
  for (std::size_t mode = 0; mode < 2; ++mode)
    for (std::size_t of = 0; of < kProfiles.size(); ++of) {
      const Profile profile = centred(kProfiles[of][mode]);
      for (std::size_t tonic = 0; tonic < 12; ++tonic)
        for (std::size_t k = 0; k < 12; ++k)
          out[mode][tonic] += kToneKeyAgree[of] * all[(tonic + k) % 12] * profile[k];
    }
  for (auto& mode : out)
    for (std::size_t tonic = 0; tonic < 12; ++tonic)
      mode[tonic] += kToneKeyAgree[2] * bass[tonic] / bassSum;
  return out;
}

template <std::size_t Size> void softmax(std::array<float, Size>& values) {
  const float top = *std::max_element(values.begin(), values.end());
  float sum = 0;
  for (float& v : values) sum += v = std::exp(v - top);
  for (float& v : values) v /= sum;
}

} // namespace

Notes NoteGrains::between(double fromS, double toS) const {
  Notes out{};
  if (grains.empty()) return out;
  const int last = int(grains.size()) - 1;
  const int first = toNearestIn(fromS / kGrainS, 0, last);
  const int end = std::clamp(toNearest<int>(toS / kGrainS), first + 1, last + 1);
  for (int g = first; g < end; ++g)
    for (std::size_t n = 0; n < out.size(); ++n)
      out[n] += grains[std::size_t(g)][n] / float(end - first);
  return out;
}

NoteGrains grainsOf(const Harmony& harmony) {
  const NoteFinder finder;
  NoteGrains out;
  std::vector<float> mean(Harmony::kBins);
  for (int from = 0; from < harmony.bins.rows; from += NoteGrains::kFrames) {
    const int to = std::min(harmony.bins.rows, from + NoteGrains::kFrames);
    std::fill(mean.begin(), mean.end(), 0.0f);
    for (int t = from; t < to; ++t) {
      const auto row = harmony.bins.row(t);
      for (std::size_t b = 0; b < mean.size(); ++b) mean[b] += row[b] / float(to - from);
    }
    out.grains.push_back(finder.find(mean));
  }
  return out;
}

ToneSense senseTones(std::span<const Notes> notes, const std::vector<bool>& downbeat) {
  const std::size_t count = notes.size();
  ToneSense out;
  out.chords.resize(count);
  float usual = 1e-6f;
  for (const Notes& each : notes)
    for (float v : each) usual += v / float(count);
  std::vector<ToneStretch> stretches;
  for (const Notes& each : notes) stretches.push_back(folded(each, usual));

  using Seen = std::array<float, 2 * kToned>;
  using Units = GatedUnits<kToneInputs, kToned>;
  std::vector<Seen> seen(count);
  std::vector<std::array<float, kToneInputs>> inputs(count);
  std::vector<float> none(count, 0.0f);
  float keyless = 0;
  const auto agrees = agreement(stretches);
  for (std::size_t root = 0; root < 12; ++root) {
    for (std::size_t i = 0; i < count; ++i) {
      auto next = inputs[i].begin();
      for (const auto& each : stretches[i].chroma)
        for (std::size_t k = 0; k < 12; ++k) *next++ = each[(root + k) % 12];
      *next++ = stretches[i].level;
      *next++ = downbeat[i] ? 1.0f : 0.0f;
    }
    Units onwards(kToneOnwards1In, kToneOnwards1InBias, kToneOnwards1Own, kToneOnwards1OwnBias),
        back(kToneBack1In, kToneBack1InBias, kToneBack1Own, kToneBack1OwnBias);
    for (std::size_t i = 0; i < count; ++i) {
      const auto& state = onwards.step(inputs[i].data());
      std::copy(state.begin(), state.end(), seen[i].begin());
    }
    Seen mean{};
    for (std::size_t i = count; i-- > 0;) {
      const auto& state = back.step(inputs[i].data());
      std::copy(state.begin(), state.end(), seen[i].begin() + kToned);
      for (std::size_t s = 0; s < mean.size(); ++s) mean[s] += seen[i][s] / float(count);
      auto kinds = begun(kToneChordBias);
      addProduct(kToneChordWeights, seen[i].data(), kinds.data());
      static_assert(kinds.size() == kKinds + 1);
      std::copy(kinds.begin(), kinds.end() - 1, out.chords[i].begin() + root * kKinds);
      none[i] += kinds.back() / 12;
    }
    auto modes = begun(kToneKeyBias);
    addProduct(kToneKeyWeights, mean.data(), modes.data());
    static_assert(modes.size() == 3);
    out.key[root] = modes[0] + agrees[0][root];
    out.key[12 + root] = modes[1] + agrees[1][root];
    keyless += modes[2] / 12;
  }
  for (std::size_t i = 0; i < count; ++i) {
    out.chords[i].back() = none[i];
    softmax(out.chords[i]);
  }
  out.key.back() = keyless;
  softmax(out.key);
  return out;
}

} // namespace tuvvo
