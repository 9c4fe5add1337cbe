#include "isolation_bench.h"

#include "audio/decode.h"
#include "base/random.h"
#include "listen/spectrum.h"
#include "shape/isolate.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <numbers>

namespace tuvvo {

namespace {

namespace fs = std::filesystem;

constexpr int kTicks = 480;
constexpr std::size_t kFrames = 48000 * 9;

struct Event {
  int tick;
  std::uint8_t status, a, b;
};

void note(std::vector<Event>& out, int channel, int from, int length, int pitch, int velocity) {
  const auto c = std::uint8_t(channel);
  out.push_back({from, std::uint8_t(0x90 | c), std::uint8_t(pitch), std::uint8_t(velocity)});
  out.push_back({from + length, std::uint8_t(0x80 | c), std::uint8_t(pitch), 0});
}

/// A standard MIDI file of one track.
void writeMidi(const fs::path& path, std::vector<Event> events, double bpm) {
  std::stable_sort(events.begin(), events.end(),
                   [](const Event& x, const Event& y) { return x.tick < y.tick; });
  std::string track;
  const auto number = [](std::string& out, std::uint32_t value, int bytes) {
    for (int i = bytes - 1; i >= 0; --i) out += char((value >> (8 * i)) & 0xff);
  };
  const auto delta = [&](std::uint32_t ticks) {
    std::string digits(1, char(ticks & 0x7f));
    while (ticks >>= 7) digits.insert(digits.begin(), char(0x80 | (ticks & 0x7f)));
    track += digits;
  };
  delta(0);
  track += std::string("\xff\x51\x03", 3);
  number(track, std::uint32_t(60e6 / bpm), 3);
  int now = 0;
  for (const auto& e : events) {
    delta(std::uint32_t(e.tick - now));
    now = e.tick;
    track += char(e.status);
    track += char(e.a);
    if ((e.status & 0xf0) != 0xc0) track += char(e.b);
  }
  delta(0);
  track += std::string("\xff\x2f\x00", 3);
  std::string out = "MThd";
  number(out, 6, 4);
  number(out, 0, 2);
  number(out, 1, 2);
  number(out, kTicks, 2);
  out += "MTrk";
  number(out, std::uint32_t(track.size()), 4);
  std::ofstream(path, std::ios::binary) << out << track;
}

/// Two channels of one length at −20 dB of power; empty when it cannot be rendered.
Channels rendered(const fs::path& folder, const std::vector<Event>& events, double bpm) {
  const fs::path midi = folder / "part.mid", wave = folder / "part.wav";
  writeMidi(midi, events, bpm);
  const std::string command = "fluidsynth -ni -q -r 48000 -R 0 -C 0 -F '" + wave.string() +
                              "' /usr/share/sounds/sf2/TimGM6mb.sf2 '" + midi.string() +
                              "' > /dev/null 2>&1";
  if (std::system(command.c_str()) != 0) return {};
  JobContext job;
  const auto decoded = decodeFile(wave, job);
  if (!decoded) return {};
  Channels out;
  double sum = 1e-12;
  for (int c = 0; c < 2; ++c) {
    const auto samples = decoded->sound->channel(c);
    out.emplace_back(samples.begin(), samples.end());
    out.back().resize(kFrames, 0.0f);
    for (float s : out.back()) sum += double(s) * double(s);
  }
  const auto gain = float(0.1 / std::sqrt(sum / double(2 * kFrames)));
  for (auto& channel : out)
    for (float& s : channel) s *= gain;
  return out;
}

std::vector<Event> drums(Random& random) {
  std::vector<Event> out;
  const auto between = [&](int low, int high) { return low + int(random.unit() * (high - low)); };
  for (int bar = 0; bar < 4; ++bar) {
    const int start = bar * 4 * kTicks;
    for (int e = 0; e < 8; ++e)
      note(out, 9, start + e * 240, 100, random.unit() < 0.85 ? 42 : 46, between(50, 100));
    for (int s = 0; s < 16; ++s)
      if (s == 0 || random.unit() < 0.2) note(out, 9, start + s * 120, 100, 36, between(80, 120));
    for (int s : {4, 12}) note(out, 9, start + s * 120, 100, 38, between(90, 120));
  }
  return out;
}

std::vector<Event> tones(Random& random, int program) {
  std::vector<Event> out{{0, 0xc0, std::uint8_t(program), 0}, {0, 0xc1, 33, 0}};
  const int root = 48 + int(random.unit() * 12);
  constexpr int steps[] = {0, 2, 3, 5, 7, 8, 10};
  for (int half = 0; half < 8; ++half) {
    const int start = half * 2 * kTicks, r = root + steps[int(random.unit() * 7)];
    const int third = random.unit() < 0.5 ? 3 : 4, late = random.unit() < 0.5 ? 0 : 60;
    for (int tone : {0, third, 7, 10})
      note(out, 0, start + late, 2 * kTicks - 30 - late, r + tone, 70 + int(random.unit() * 35));
    note(out, 1, start, 400 + int(random.unit() * 500), r - 24, 95);
  }
  return out;
}

double sdr(const Channels& truth, const Channels& got) {
  double signal = 1e-20, error = 1e-20;
  for (std::size_t c = 0; c < 2; ++c)
    for (std::size_t i = 0; i < truth[c].size(); ++i) {
      signal += double(truth[c][i]) * double(truth[c][i]);
      error += std::pow(double(truth[c][i]) - double(got[c][i]), 2);
    }
  return 10 * std::log10(signal / error);
}

/// The plain method on one channel: hits.
Samples plainHits(const Samples& samples, int size, int width) {
  const int hop = size / 4, bins = size / 2 + 1,
            count = int(samples.size() + std::size_t(size)) / hop + 1;
  Fft fft(size);
  InverseFft back(size);
  Samples window(static_cast<std::size_t>(size));
  for (int i = 0; i < size; ++i)
    window[std::size_t(i)] = float(std::sin(std::numbers::pi * (i + 0.5) / size));
  const auto load = [&](int t) {
    for (int i = 0; i < size; ++i) {
      const std::int64_t at = std::int64_t(t) * hop - size + i;
      fft.input()[std::size_t(i)] = at >= 0 && at < std::int64_t(samples.size())
                                        ? samples[std::size_t(at)] * window[std::size_t(i)]
                                        : 0.0f;
    }
    return fft.run();
  };
  Matrix level(count, bins);
  for (int t = 0; t < count; ++t) {
    const auto spectrum = load(t);
    for (int k = 0; k < bins; ++k) level.at(t, k) = std::abs(spectrum[std::size_t(k)]);
  }
  const auto median = [&](int t, int k, bool alongTime) {
    Samples around;
    for (int d = -width / 2; d <= width / 2; ++d) {
      const int at = alongTime ? std::clamp(t + d, 0, count - 1) : std::clamp(k + d, 0, bins - 1);
      around.push_back(alongTime ? level.at(at, k) : level.at(t, at));
    }
    return medianOf(around);
  };
  Samples out(samples.size(), 0.0f);
  for (int t = 0; t < count; ++t) {
    const auto spectrum = load(t);
    for (int k = 0; k < bins; ++k) {
      const float tone = std::pow(median(t, k, true), 2.0f),
                  hit = std::pow(median(t, k, false), 2.0f);
      back.input()[std::size_t(k)] = spectrum[std::size_t(k)] * (hit / (hit + tone + 1e-12f));
    }
    const auto made = back.run();
    for (int i = 0; i < size; ++i) {
      const std::int64_t at = std::int64_t(t) * hop - size + i;
      if (at >= 0 && at < std::int64_t(out.size()))
        out[std::size_t(at)] += made[std::size_t(i)] * window[std::size_t(i)] / float(2 * size);
    }
  }
  return out;
}

} // namespace

void benchIsolation(Report report) {
  const fs::path folder = fs::temp_directory_path() / "tuvvo-bench-isolation";
  fs::create_directories(folder);
  // Instruments of General MIDI that were not among those the widths were chosen on.
  const int programs[] = {1, 5, 25, 49, 62, 16, 89, 107, 21, 52};
  double ours[2]{}, plain[2]{}, wide[2]{};
  int mixes = 0;
  for (int program : programs) {
    Random random(std::uint64_t(900 + program));
    const double bpm = 76 + 42 * random.unit();
    const Channels hit = rendered(folder, drums(random), bpm),
                   tone = rendered(folder, tones(random, program), bpm);
    if (hit.empty() || tone.empty()) continue;
    ++mixes;
    Channels mix = hit;
    for (std::size_t c = 0; c < 2; ++c)
      for (std::size_t i = 0; i < kFrames; ++i) mix[c][i] += tone[c][i];
    const auto score = [&](double* sums, const Channels& hits) {
      Channels rest = mix;
      for (std::size_t c = 0; c < 2; ++c)
        for (std::size_t i = 0; i < kFrames; ++i) rest[c][i] -= hits[c][i];
      sums[0] += sdr(hit, hits) - sdr(hit, mix);
      sums[1] += sdr(tone, rest) - sdr(tone, mix);
    };
    JobContext job;
    Channels hits = mix;
    if (!isolate(hits, Kept::Hits, Decibels(-60), job)) continue;
    score(ours, hits);
    score(plain, {plainHits(mix[0], 2048, 31), plainHits(mix[1], 2048, 31)});
    score(wide, {plainHits(mix[0], 8192, 17), plainHits(mix[1], 8192, 17)});
  }
  fs::remove_all(folder);
  if (mixes == 0) {
    report("isolation: fluidsynth or its soundfont is not there", 0, "", "-", false);
    return;
  }
  const char* parts[] = {"hits", "tones"};
  for (int i = 0; i < 2; ++i) {
    char name[120];
    std::snprintf(name, sizeof name, "isolating %s: better than the mix", parts[i]);
    report(name, ours[i] / mixes, "dB", "> plain", ours[i] > plain[i] && ours[i] > wide[i]);
    std::snprintf(name, sizeof name, "  Fitzgerald 2010, window 2048, medians of 31");
    report(name, plain[i] / mixes, "dB", "-", true);
    std::snprintf(name, sizeof name, "  Fitzgerald 2010, window 8192, medians of 17");
    report(name, wide[i] / mixes, "dB", "-", true);
  }
}

} // namespace tuvvo
