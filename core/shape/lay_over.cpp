#include "shape/lay_over.h"

#include "base/convert.h"
#include "listen/levels.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr float kMostPeak = 0.89f; // −1 dBFS

/// A phrase as a source of its own, from its first beat on.
Source phraseOf(const Source& source, std::span<const Seconds> beats, std::size_t first,
                std::size_t count) {
  const ResolvedSource whole(source);
  const Seconds from = beats[first], to = beats[first + count];
  const double rate = source.sound->rate().value;
  const auto begin = std::min(toNearest<std::size_t>(from.value * rate),
                              std::size_t(source.sound->frames().value));
  const auto end = std::clamp(toNearest<std::size_t>(to.value * rate), begin,
                              std::size_t(source.sound->frames().value));
  Channels channels;
  for (int c = 0; c < source.sound->channels(); ++c) {
    const auto all = source.sound->channel(c);
    channels.emplace_back(all.begin() + std::ptrdiff_t(begin), all.begin() + std::ptrdiff_t(end));
  }
  Source out;
  out.name = source.name;
  out.sound = std::make_shared<Sound>(std::move(channels), source.sound->rate());
  Analysis heard = *source.heard;
  heard.duration = out.sound->duration();
  if (!heard.tempo) heard.tempo.emplace(); // it was said
  heard.tempo->bpm = Bpm(60 * double(count) / (to - from).value);
  heard.tempo->steady = whole.steady();
  heard.beats.clear();
  for (std::size_t i = first; i < first + count; ++i) heard.beats.push_back(beats[i] - from);
  heard.downbeats = {Seconds(0)};
  heard.meter = int(count);
  heard.loop.reset();
  heard.sections.clear();
  heard.chords.clear();
  std::erase_if(heard.onsets, [&](const Onset& o) { return o.at < from || o.at >= to; });
  for (auto& onset : heard.onsets) {
    onset.at -= from;
    onset.cut = std::max(Seconds(0), onset.cut - from);
  }
  out.heard = std::move(heard);
  return out;
}

double gainTo(const Sound& sound, double lufs) {
  const double own = analyseLoudness(sound).integratedLufs;
  return std::isfinite(own) && std::isfinite(lufs) ? gainOf(Decibels(lufs - own)) : 1;
}

} // namespace

Result<FittedSound> layOver(const Source& under, const Source& over,
                            const OverlayQuestion& question, const Overlay& way,
                            const BeatFrame& beat, JobContext& job) {
  for (const Source* source : {&under, &over})
    if (!source->sound)
      return Error{"The sound is missing", source->name, "Find it again, or take it out."};
  const auto count = std::size_t(way.beats);
  const Source lower = phraseOf(under, question.underBeats(), way.under, count),
               upper = phraseOf(over, question.overBeats(), way.over, count);
  const FitQuestion toBeat = fitQuestion(lower, beat.tempo, std::nullopt);
  const FitRow row = wayToHear(toBeat).value_or(FitRow{});
  auto below = fitToBeat(lower, row, beat, job);
  if (!below) return below.error();
  const auto tuning = [](const Source& s) {
    return s.heard->key ? toSemitones(s.heard->key->tuning) : Semitones(0);
  };
  const Semitones moved =
      row.semitones + toSemitones(row.cents) + Semitones(way.shift) + tuning(lower) - tuning(upper);
  auto above = fitToBeat(
      upper, fitRow(fitQuestion(upper, beat.tempo, std::nullopt), FitMethod::Stretch, moved), beat,
      job);
  if (!above) return above.error();
  if (below->sound->frames().value == 0 || above->sound->frames().value == 0)
    return Error{"There is nothing in that place", over.name, "Choose another way."};
  const double loud = analyseLoudness(*below->sound).integratedLufs;
  const auto gain = float(gainTo(*above->sound, loud));
  const auto frames = std::size_t(below->sound->frames().value),
             round = std::size_t(above->sound->frames().value);
  const double beatFrames = beat.rate.value * 60 / beat.tempo.value;
  // The lower one's beats may have become half or twice as long.
  const auto late =
      toNearest<std::size_t>(way.offset * beatFrames * below->beats / double(way.beats)) % round;
  Channels out;
  float peak = 1e-9f;
  for (int c = 0; c < 2; ++c) {
    const auto a = below->sound->channel(c), b = above->sound->channel(c);
    Samples sum(a.begin(), a.end());
    for (std::size_t i = 0; i < frames; ++i) {
      sum[i] += gain * b[(i + round - late) % round];
      peak = std::max(peak, std::abs(sum[i]));
    }
    out.push_back(std::move(sum));
  }
  if (peak > kMostPeak)
    for (auto& channel : out)
      for (float& v : channel) v *= kMostPeak / peak;
  return FittedSound{std::make_shared<Sound>(std::move(out), beat.rate), below->loops,
                     below->beats};
}

} // namespace tuvvo
