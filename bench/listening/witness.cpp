// General libraries as witnesses: what aubio and QM-DSP hear in the same files, as JSON lines, with
// the processor time aubio took for onsets and tempo.
#include <algorithm>
#include <array>
#include <aubio/aubio.h>
#include <cmath>
#include <cstdio>
#include <ctime>
#include <dsp/keydetection/GetKeyMode.h>
#include <dsp/onsets/DetectionFunction.h>
#include <dsp/tempotracking/DownBeat.h>
#include <dsp/tempotracking/TempoTrackV2.h>
#include <sndfile.h>
#include <string>
#include <vector>

namespace {

struct Mono {
  std::vector<float> samples;
  int rate = 0;
};

Mono readMono(const char* path) {
  SF_INFO info{};
  SNDFILE* file = sf_open(path, SFM_READ, &info);
  if (!file) return {};
  std::vector<float> all(std::size_t(info.frames) * std::size_t(info.channels));
  sf_readf_float(file, all.data(), info.frames);
  sf_close(file);
  Mono mono{std::vector<float>(std::size_t(info.frames)), info.samplerate};
  for (std::size_t i = 0; i < mono.samples.size(); ++i)
    for (int c = 0; c < info.channels; ++c)
      mono.samples[i] +=
          all[i * std::size_t(info.channels) + std::size_t(c)] / float(info.channels);
  return mono;
}

void list(const char* name, const std::vector<double>& values) {
  std::printf(", \"%s\": [", name);
  for (std::size_t i = 0; i < values.size(); ++i) std::printf("%s%.5f", i ? ", " : "", values[i]);
  std::printf("]");
}

double fromBeats(const std::vector<double>& beats) {
  std::vector<double> steps;
  for (std::size_t i = 1; i < beats.size(); ++i) steps.push_back(beats[i] - beats[i - 1]);
  if (steps.empty()) return 0;
  std::sort(steps.begin(), steps.end());
  return 60 / steps[steps.size() / 2];
}

void aubio(const Mono& mono) {
  const std::clock_t start = std::clock();
  const uint_t window = 1024, hop = 512, onsetHop = 256;
  aubio_tempo_t* tempo = new_aubio_tempo("default", window, hop, uint_t(mono.rate));
  fvec_t *in = new_fvec(hop), *out = new_fvec(2);
  std::vector<double> beats, onsets, bpms;
  for (std::size_t at = 0; at + hop <= mono.samples.size(); at += hop) {
    std::copy_n(mono.samples.begin() + std::ptrdiff_t(at), hop, in->data);
    aubio_tempo_do(tempo, in, out);
    if (out->data[0] != 0) {
      beats.push_back(aubio_tempo_get_last_s(tempo));
      bpms.push_back(double(aubio_tempo_get_bpm(tempo)));
    }
  }
  del_aubio_tempo(tempo);
  aubio_onset_t* onset = new_aubio_onset("default", window, onsetHop, uint_t(mono.rate));
  fvec_t *in2 = new_fvec(onsetHop), *out2 = new_fvec(1);
  for (std::size_t at = 0; at + onsetHop <= mono.samples.size(); at += onsetHop) {
    std::copy_n(mono.samples.begin() + std::ptrdiff_t(at), onsetHop, in2->data);
    aubio_onset_do(onset, in2, out2);
    if (out2->data[0] != 0) onsets.push_back(double(aubio_onset_get_last_s(onset)));
  }
  del_aubio_onset(onset);
  const double seconds = double(std::clock() - start) / CLOCKS_PER_SEC;
  del_fvec(in), del_fvec(out), del_fvec(in2), del_fvec(out2);
  std::sort(bpms.begin(), bpms.end());
  std::printf(", \"aubio_seconds\": %.4f, \"aubio_bpm\": %.4f", seconds,
              bpms.empty() ? 0.0 : bpms[bpms.size() / 2]);
  list("aubio_beats", beats);
  list("aubio_onsets", onsets);
}

void qm(const Mono& mono) {
  // The settings of the library's own beat tracking: complex-domain difference, 11.6 ms steps.
  const unsigned step = unsigned(std::lround(mono.rate * 0.01161)), frame = 1024;
  DFConfig config{};
  config.stepSize = step;
  config.frameLength = frame;
  config.DFType = DF_COMPLEXSD;
  config.dbRise = 3;
  config.whiteningRelaxCoeff = -1;
  config.whiteningFloor = -1;
  DetectionFunction detection(config);
  std::vector<double> block(frame), df;
  DownBeat down(float(mono.rate), 16, step);
  for (std::size_t at = 0; at + frame <= mono.samples.size(); at += step) {
    for (unsigned i = 0; i < frame; ++i) block[i] = double(mono.samples[at + i]);
    df.push_back(detection.processTimeDomain(block.data()));
    down.pushAudioBlock(mono.samples.data() + at);
  }
  std::vector<double> beats, tempi;
  std::vector<double> downTimes;
  if (df.size() > 16) {
    const std::vector<double> useful(df.begin() + 2, df.end());
    std::vector<double> period(useful.size() / 128 + 1), raw;
    TempoTrackV2 tracker(float(mono.rate), step);
    period.assign(useful.size(), 0.0);
    tracker.calculateBeatPeriod(useful, period, tempi);
    tracker.calculateBeats(useful, period, raw);
    std::vector<int> downs;
    size_t length = 0;
    const float* low = down.getBufferedAudio(length);
    std::vector<double> shifted;
    for (double b : raw) shifted.push_back(b + 2);
    if (shifted.size() > 4) {
      down.setBeatsPerBar(4);
      down.findDownBeats(low, length, shifted, downs);
    }
    for (double b : shifted) beats.push_back((b * step + frame / 2.0) / mono.rate);
    for (int d : downs)
      if (d >= 0 && std::size_t(d) < beats.size()) downTimes.push_back(beats[std::size_t(d)]);
  }
  std::sort(tempi.begin(), tempi.end());
  std::printf(", \"qm_bpm\": %.4f, \"qm_bpm_beats\": %.4f",
              tempi.empty() ? 0.0 : tempi[tempi.size() / 2], fromBeats(beats));
  list("qm_beats", beats);
  list("qm_downbeats", downTimes);
  // The key is the one it said most often.
  GetKeyMode key(mono.rate, 440, 10, 10);
  const std::size_t size = key.getBlockSize(), hop = key.getHopSize();
  std::vector<double> samples(size);
  std::array<int, 25> votes{};
  for (std::size_t at = 0; at < mono.samples.size(); at += hop) {
    for (std::size_t i = 0; i < size; ++i)
      samples[i] = at + i < mono.samples.size() ? double(mono.samples[at + i]) : 0.0;
    const int said = key.process(samples.data());
    if (said >= 0 && said < 25) ++votes[std::size_t(said)];
  }
  const auto best = std::max_element(votes.begin() + 1, votes.end()) - votes.begin();
  std::printf(", \"qm_key\": [%d, %s]", int((best - 1) % 12), best > 12 ? "true" : "false");
}

} // namespace

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    const Mono mono = readMono(paths[i]);
    if (mono.samples.empty()) continue;
    std::printf("{\"path\": \"%s\"", paths[i]);
    aubio(mono);
    qm(mono);
    std::printf("}\n");
  }
}
