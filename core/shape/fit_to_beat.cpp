#include "shape/fit_to_beat.h"

#include "play/sinc_bank.h"
#include "shape/time_line.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace tuvvo {

namespace {

using Channels = std::vector<std::vector<float>>;
constexpr std::size_t kBlock = 4096;

/// Samples with silence on either side, for windows that reach over the ends.
std::vector<float> padded(std::span<const float> samples, std::size_t pad) {
  std::vector<float> out(samples.size() + 2 * pad, 0.0f);
  std::copy(samples.begin(), samples.end(), out.begin() + std::ptrdiff_t(pad));
  return out;
}

/// Plays a stretch of the source at one speed into the result, adding.
struct Player {
  Player(const Sound& sound, Hertz rate)
      : bank(SincBank::shared()), ratio(sound.rate().value / rate.value) {
    for (int c = 0; c < sound.channels(); ++c) padding.push_back(padded(sound.channel(c), kPad));
    frames = sound.frames().value;
  }

  /// @param from  frame of the source, not whole
  /// @param step  frames of the source for one of the result
  void add(double from, double step, std::span<float> left, std::span<float> right) const {
    const auto& kernel = bank.forStep(step);
    std::array<float, kBlock> l{}, r{};
    for (std::size_t done = 0; done < left.size();) {
      const std::size_t n = std::min(kBlock, left.size() - done);
      SincBank::Track track{padding[0].data(), padding.back().data(),
                            from + step * double(done) + double(kPad), step};
      const double end = track.from + step * double(n);
      if (track.from >= kernel.taps && end + kernel.taps < double(padding[0].size())) {
        SincBank::run(kernel, track, 0, int(n), l.data(), r.data());
        for (std::size_t i = 0; i < n; ++i) {
          left[done + i] += l[i];
          right[done + i] += r[i];
        }
      }
      done += n;
    }
  }

  static constexpr std::size_t kPad = kBlock * 16;
  const SincBank& bank;
  double ratio;
  std::vector<std::vector<float>> padding;
  std::int64_t frames = 0;
};

std::span<float> part(std::vector<float>& samples, std::size_t from, std::size_t to) {
  return std::span(samples).subspan(from, to - from);
}

void repitch(const Player& player, const TimeLine& line, double rate, Channels& out) {
  const std::size_t frames = out[0].size();
  for (std::size_t k = 0; k + 1 < line.knots.size(); ++k) {
    const auto &a = line.knots[k], &b = line.knots[k + 1];
    const auto from = std::min(frames, std::size_t(std::llround(std::max(0.0, a.result) * rate)));
    const auto to = k + 2 == line.knots.size()
                        ? frames
                        : std::min(frames, std::size_t(std::llround(b.result * rate)));
    if (to <= from) continue;
    const double speed = (b.source - a.source) / (b.result - a.result);
    const double sourceRate = player.ratio * rate;
    const double start =
        a.source * sourceRate + (double(from) / rate - a.result) * speed * sourceRate;
    player.add(start, speed * player.ratio, part(out[0], from, to), part(out[1], from, to));
  }
}

void respace(const Player& player, const TimeLine& line, const Source& source, double pitch,
             double rate, Channels& out) {
  const double sourceRate = player.ratio * rate;
  std::vector<double> cuts;
  for (const auto& onset : source.heard->onsets)
    if (onset.cut.value >= line.knots.front().source - 0.05) cuts.push_back(onset.cut.value);
  if (cuts.empty()) cuts.push_back(line.knots.front().source);
  const std::size_t frames = out[0].size();
  const auto fadeIn = std::size_t(0.001 * rate), fadeOut = std::size_t(0.004 * rate);
  std::vector<float> left, right;
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    const double end = i + 1 < cuts.size()
                           ? cuts[i + 1]
                           : toSeconds(Frames(player.frames), Hertz(sourceRate)).value;
    const double at = std::max(0.0, line.resultAt(cuts[i]));
    const double room = i + 1 < cuts.size() ? line.resultAt(cuts[i + 1]) - at : 1e9;
    const auto from = std::size_t(std::llround(at * rate));
    const auto length = std::size_t(std::max(0.0, std::min((end - cuts[i]) / pitch, room) * rate));
    if (from >= frames || length < fadeIn + fadeOut) continue;
    left.assign(std::min(length, frames - from), 0.0f);
    right.assign(left.size(), 0.0f);
    player.add(cuts[i] * sourceRate, pitch * player.ratio, left, right);
    for (std::size_t f = 0; f < left.size(); ++f) {
      const float gain =
          std::min({1.0f, float(f + 1) / float(fadeIn), float(left.size() - f) / float(fadeOut)});
      out[0][from + f] += gain * left[f];
      out[1][from + f] += gain * right[f];
    }
  }
}

/// @returns false when the job was cancelled
bool stretch(const Player& player, const TimeLine& line, bool struck, double pitch, double rate,
             Channels& out, JobContext& job) {
  using RubberBand::RubberBandStretcher;
  // First at the result's rate from the first knot on, then stretched.
  const double first = line.knots.front().source, last = line.sourceAt(line.length);
  const auto frames = std::size_t(std::max(1.0, (last - first) * rate));
  Channels in(2, std::vector<float>(frames, 0.0f));
  player.add(first * player.ratio * rate, player.ratio, in[0], in[1]);
  RubberBandStretcher stretcher(std::size_t(rate), 2,
                                RubberBandStretcher::OptionProcessOffline |
                                    RubberBandStretcher::OptionThreadingNever |
                                    RubberBandStretcher::OptionEngineFaster |
                                    // Resetting every phase at a hit bends the tones between hits
                                    // by 10 to 20 cents; only drums alone can bear that.
                                    (struck ? RubberBandStretcher::OptionTransientsCrisp
                                            : RubberBandStretcher::OptionTransientsMixed),
                                double(out[0].size()) / double(frames), pitch);
  stretcher.setExpectedInputDuration(frames);
  std::map<std::size_t, std::size_t> places;
  for (const auto& knot : line.knots) {
    const double from = (knot.source - first) * rate, to = knot.result * rate;
    if (from > 0 && from < double(frames) - 1 && to > 0 && to < double(out[0].size()))
      places[std::size_t(from)] = std::size_t(to);
  }
  if (!places.empty()) stretcher.setKeyFrameMap(places);
  std::size_t given = 0;
  const auto feed = [&](auto take) {
    for (std::size_t at = 0; at < frames && !job.cancelled(); at += kBlock) {
      const std::size_t n = std::min(kBlock, frames - at);
      const float* const block[2] = {in[0].data() + at, in[1].data() + at};
      take(block, n, at + n == frames);
    }
  };
  feed([&](const float* const* block, std::size_t n, bool end) { stretcher.study(block, n, end); });
  std::array<std::vector<float>, 2> got;
  feed([&](const float* const* block, std::size_t n, bool end) {
    stretcher.process(block, n, end);
    for (int ready; (ready = stretcher.available()) > 0;) {
      for (auto& channel : got) channel.resize(std::size_t(ready));
      float* const target[2] = {got[0].data(), got[1].data()};
      const std::size_t had = stretcher.retrieve(target, std::size_t(ready));
      for (std::size_t i = 0; i < had && given < out[0].size(); ++i, ++given)
        for (std::size_t c = 0; c < 2; ++c) out[c][given] = got[c][i];
      if (had == 0) break;
    }
  });
  return !job.cancelled();
}

void fadeEnds(std::vector<float>& samples, double rate) {
  const auto fade = std::min(samples.size() / 2, std::size_t(0.003 * rate));
  for (std::size_t i = 0; i < fade; ++i) {
    const float gain = (float(i) + 0.5f) / float(fade);
    samples[i] *= gain;
    samples[samples.size() - 1 - i] *= gain;
  }
}

} // namespace

std::optional<FitRow> wayToHear(const FitQuestion& question) {
  if (!question.bpm && !question.key) return std::nullopt;
  const auto rows = planFit(question);
  for (const auto& row : rows)
    if (std::abs(row.bpmErrorPercent) < 0.01) return row;
  return std::nullopt;
}

Result<FittedSound> fitToBeat(const Source& source, const FitRow& row, const BeatFrame& beat,
                              JobContext& job) {
  if (!source.sound)
    return Error{"The sound is missing", source.name, "Find it again, or take it out."};
  const double pitch = ratioOf(row.semitones + toSemitones(row.cents));
  const TimeLine line = timeLineOf(source, beat, pitch);
  const double rate = beat.rate.value;
  const auto frames = std::size_t(std::max<std::int64_t>(1, std::llround(line.length * rate)));
  Channels out(2, std::vector<float>(frames, 0.0f));
  const Player player(*source.sound, beat.rate);
  if (line.beats <= 0 || row.method == FitMethod::Repitch)
    repitch(player, line, rate, out);
  else if (row.method == FitMethod::Respace)
    respace(player, line, source, pitch, rate, out);
  else if (!stretch(player, line, kindOf(source) == SoundKind::Break, pitch, rate, out, job))
    return Error{"Fitting was cancelled", source.name, ""};
  if (job.cancelled()) return Error{"Fitting was cancelled", source.name, ""};
  for (auto& channel : out) fadeEnds(channel, rate);
  return FittedSound{std::make_shared<Sound>(std::move(out), beat.rate), line.beats > 0,
                     line.beats};
}

} // namespace tuvvo
