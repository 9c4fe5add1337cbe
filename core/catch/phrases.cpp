#include "catch/phrases.h"

#include "base/convert.h"
#include "cut/fit.h"
#include "listen/analyse.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kStepS = 0.01, kFrameS = 0.1;
constexpr int kBands = 24;
constexpr int kKernel = 30;        ///< frames on either side: 3 s
constexpr double kOverFloorDb = 8; ///< what sounds
constexpr double kUnderPeakDb = 45;
constexpr double kLeastNovelty = 0.12; ///< of the most that there can be
constexpr double kEdgeS = 0.02;        ///< kept before and after what sounds
constexpr int kSnap = 30;              ///< steps within which a border looks for a quiet place

/// Levels of 10 ms in dB.
std::vector<float> levelsOf(const Sound& take) {
  const auto hop = toWhole<std::size_t>(take.rate().value * kStepS);
  const auto left = take.channel(0), right = take.channel(1);
  std::vector<float> levels;
  for (std::size_t at = 0; at + hop <= left.size(); at += hop) {
    double sum = 0;
    for (std::size_t i = at; i < at + hop; ++i)
      sum += double(left[i]) * double(left[i]) + double(right[i]) * double(right[i]);
    levels.push_back(float(10 * std::log10(sum / double(2 * hop) + 1e-12)));
  }
  return levels;
}

struct Span {
  int from = 0, to = 0; ///< steps
};

std::vector<Span> soundingSpans(const std::vector<float>& levels, const PhraseSettings& settings) {
  std::vector<float> sorted = levels;
  const auto tenth = sorted.begin() + std::ptrdiff_t(sorted.size() / 10);
  std::nth_element(sorted.begin(), tenth, sorted.end());
  const float loudest = *std::max_element(levels.begin(), levels.end());
  // Where it never rests, the quietest tenth is music: it may lie at most 45 dB under the loudest.
  const double quiet =
      std::min(std::max(double(*tenth) + kOverFloorDb, double(loudest) - kUnderPeakDb),
               double(loudest) - 12);
  const int rest = toWhole<int>(settings.rest.value / kStepS);
  std::vector<Span> spans;
  for (int i = 0; i < int(levels.size()); ++i) {
    if (double(levels[std::size_t(i)]) < quiet) continue;
    if (spans.empty() || i - spans.back().to > rest)
      spans.push_back({i, i + 1});
    else
      spans.back().to = i + 1;
  }
  return spans;
}

/// Frames of band levels, each of length one.
Matrix picturesOf(const Sound& take, std::size_t from, std::size_t to) {
  const double rate = take.rate().value;
  const int hop = toWhole<int>(rate * kFrameS), size = 4096;
  std::vector<double> edges;
  for (int b = 0; b < kBands + 2; ++b)
    edges.push_back(60 * std::pow(std::min(12'000.0, rate * 0.45) / 60, double(b) / (kBands + 1)));
  const BandSummer summer(edges, size, rate);
  std::vector<float> mono(to - from);
  for (std::size_t i = 0; i < mono.size(); ++i)
    mono[i] = (take.channel(0)[from + i] + take.channel(1)[from + i]) / 2;
  Matrix out(int(mono.size()) / hop, kBands);
  forEachFrame(mono, size, hop, [&](int t, std::span<const float> magnitudes) {
    if (t >= out.rows) return;
    auto row = out.row(t);
    summer.sum(magnitudes, row);
    double square = 1e-12;
    for (float& v : row) {
      v = std::log1p(v * 4);
      square += double(v) * double(v);
    }
    for (float& v : row) v = float(double(v) / std::sqrt(square));
  });
  return out;
}

/// Foote's novelty at a frame, 0 to 1.
double noveltyAt(const Matrix& pictures, int t) {
  double same = 0, cross = 0;
  int sames = 0, crosses = 0;
  const auto similarity = [&](int a, int b) {
    double sum = 0;
    for (int k = 0; k < pictures.columns; ++k)
      sum += double(pictures.at(a, k)) * double(pictures.at(b, k));
    return sum;
  };
  for (int i = -kKernel; i < kKernel; i += 2)
    for (int j = -kKernel; j < kKernel; j += 2) {
      if (t + i < 0 || t + j < 0 || t + i >= pictures.rows || t + j >= pictures.rows) continue;
      ((i < 0) == (j < 0) ? same : cross) += similarity(t + i, t + j);
      ++((i < 0) == (j < 0) ? sames : crosses);
    }
  return sames == 0 || crosses == 0 ? 0 : same / sames - cross / crosses;
}

/// Parts what is too long where something new begins.
void part(const Span& span, const std::vector<double>& novelty, int origin,
          const std::vector<float>& levels, const PhraseSettings& settings,
          std::vector<Span>& out) {
  const int least = toWhole<int>(std::max(2.0, settings.longest.value / 4) / kStepS);
  int best = -1;
  if (double(span.to - span.from) * kStepS > settings.longest.value) {
    const int perFrame = toWhole<int>(kFrameS / kStepS + 0.5);
    double most = kLeastNovelty;
    for (int at = span.from + least; at < span.to - least; at += perFrame) {
      const int t = (at - origin) / perFrame;
      if (t < 0 || t >= int(novelty.size()) || novelty[std::size_t(t)] <= most) continue;
      most = novelty[std::size_t(t)];
      best = at;
    }
  }
  if (best < 0) {
    out.push_back(span);
    return;
  }
  int border = best;
  for (int at = best - kSnap; at <= best + kSnap; ++at)
    if (levels[std::size_t(at)] < levels[std::size_t(border)]) border = at;
  part({span.from, border}, novelty, origin, levels, settings, out);
  part({border, span.to}, novelty, origin, levels, settings, out);
}

} // namespace

std::vector<Stretch> findPhrases(const Sound& take, const PhraseSettings& settings,
                                 JobContext& job) {
  const auto levels = levelsOf(take);
  if (levels.empty() || *std::max_element(levels.begin(), levels.end()) < -80) return {};
  const double hop = std::floor(take.rate().value * kStepS);
  std::vector<Span> spans;
  for (const Span& span : soundingSpans(levels, settings)) {
    if (job.cancelled()) return {};
    if (double(span.to - span.from) * kStepS <= settings.longest.value) {
      spans.push_back(span);
      continue;
    }
    const Matrix pictures = picturesOf(take, toWhole<std::size_t>(span.from * hop),
                                       toWhole<std::size_t>(span.to * hop));
    std::vector<double> novelty(std::size_t(pictures.rows));
    for (int t = 0; t < pictures.rows && !job.cancelled(); ++t)
      novelty[std::size_t(t)] = noveltyAt(pictures, t);
    part(span, novelty, span.from, levels, settings, spans);
  }
  std::vector<Stretch> out;
  const auto edge = toWhole<std::int64_t>(kEdgeS * take.rate().value);
  for (const Span& span : spans) {
    if (double(span.to - span.from) * kStepS < settings.shortest.value) continue;
    Stretch stretch{
        Frames(std::max<std::int64_t>(0, toWhole<std::int64_t>(span.from * hop) - edge)),
        Frames(std::min(take.frames().value, toWhole<std::int64_t>(span.to * hop) + edge))};
    if (!out.empty()) stretch.start = std::max(stretch.start, out.back().end);
    out.push_back(stretch);
  }
  return out;
}

SoundPtr soundOf(const Sound& take, Frames start, Frames end) {
  Channels channels;
  for (int c = 0; c < take.channels(); ++c) {
    const auto all = take.channel(c);
    channels.emplace_back(all.begin() + start.value, all.begin() + end.value);
  }
  return std::make_shared<Sound>(std::move(channels), take.rate());
}

void detectPhrases(const Sound& take, const PhraseSettings& settings, JobContext& job,
                   const std::function<void(Phrase)>& found) {
  const auto stretches = findPhrases(take, settings, job);
  for (std::size_t i = 0; i < stretches.size() && !job.cancelled(); ++i) {
    Phrase phrase{stretches[i].start, stretches[i].end, {}};
    JobContext inner;
    phrase.heard = analyse(*soundOf(take, phrase.start, phrase.end), inner);
    found(std::move(phrase));
    job.report(double(i + 1) / double(stretches.size()));
  }
}

std::optional<Milliseconds> unevennessOf(const Analysis& heard) {
  if (heard.kind.kind == SoundKind::OneShot || !heard.tempo || heard.beats.size() < 2 ||
      heard.onsets.size() < 4)
    return std::nullopt;
  std::vector<double> off;
  for (const Onset& onset : heard.onsets) {
    const auto next = std::upper_bound(heard.beats.begin(), heard.beats.end(), onset.at);
    if (next == heard.beats.begin() || next == heard.beats.end()) continue;
    const double from = (next - 1)->value, beat = next->value - from,
                 place = (onset.at.value - from) / beat * 4;
    off.push_back((place - std::round(place)) * beat / 4 * 1000);
  }
  if (off.size() < 4) return std::nullopt;
  double mean = 0, square = 0;
  for (double ms : off) mean += ms / double(off.size());
  for (double ms : off) square += (ms - mean) * (ms - mean) / double(off.size());
  return Milliseconds(std::sqrt(square));
}

double costOf(const Phrase& phrase, const BeatNow& beat) {
  Source source;
  source.heard = phrase.heard;
  FitQuestion question = fitQuestion(source, beat.tempo, beat.key);
  if (phrase.heard.kind.kind == SoundKind::OneShot) question.bpm.reset(); // one sound has no beat
  double cost = question.bpm || question.key ? cheapestFit(question) : 9;
  if (const auto uneven = unevennessOf(phrase.heard)) cost += 0.05 * uneven->value;
  for (const auto& fault : phrase.heard.faults)
    if (fault.kind == "clipping") cost += 3;
  return cost + 0.2 * std::max(0.0, -30 - std::max(-70.0, phrase.heard.loudness.integratedLufs));
}

} // namespace tuvvo
