// Speed and quality, each figure beside what is owed. Whole runs, the middle of several.
#include "audio/decode.h"
#include "audio/encode.h"
#include "audio/peaks.h"
#include "audio/resample.h"
#include "base/random.h"
#include "crate_bench.h"
#include "cut/wave_view.h"
#include "cut_bench.h"
#include "face_bench.h"
#include "formats/shipped.h"
#include "isolation_bench.h"
#include "listen/analyse.h"
#include "live_bench.h"
#include "model/edits.h"
#include "open_bench.h"
#include "pattern_bench.h"
#include "play/engine.h"
#include "play/print.h"
#include "session/services.h"
#include "shape_bench.h"
#include "support/filtered_keys.h"
#include "theme/theme.h"

#include <QApplication>
#include <QFile>
#include <QProcess>
#include <QTemporaryDir>
#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdio>
#include <ctime>
#include <functional>

using namespace tuvvo;

namespace {

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
  return std::chrono::duration<double>(Clock::now() - start).count();
}
double cpuSeconds() { return double(std::clock()) / CLOCKS_PER_SEC; }

double middle(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  return values[values.size() / 2];
}
double percentile(std::vector<double> values, double share) {
  std::sort(values.begin(), values.end());
  return values[std::min(values.size() - 1, std::size_t(double(values.size()) * share))];
}

int missed = 0;
void report(const char* what, double figure, const char* unit, const char* owed, bool met) {
  std::printf("%-58s %10.2f %-4s  owed %-12s %s\n", what, figure, unit, owed,
              met ? "met" : "MISSED");
  std::fflush(stdout);
  missed += met ? 0 : 1;
}

Samples sine(double hz, double seconds) {
  Samples out(std::size_t(seconds * 48000));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = float(0.5 * std::sin(2 * M_PI * hz * double(i) / 48000));
  return out;
}

/// A score that plays one mono sound once, repitched.
Score one(Samples samples, double semitones, std::int64_t frames) {
  Score score;
  Patch patch;
  patch.key = 1;
  patch.sound = std::make_shared<Sound>(Channels{std::move(samples)}, kEngineRate);
  patch.end = patch.sound->frames();
  patch.step = std::exp2(semitones / 12);
  score.patches = {patch};

  score.events = {ScoreEvent{}};
  score.length = EngineFrames(frames);
  return score;
}

Samples played(const Score& score) {
  JobContext job;
  PrintOptions dry;
  dry.limiter = false;
  const auto sound = *print(score, dry, job);
  const auto samples = sound->channel(0).subspan(20000, 80000);
  return {samples.begin(), samples.end()};
}

/// Everything but the fitted sine, in dB below it: THD+N over the whole band.
double thdN(const Samples& x, double hz) {
  const double w = 2 * M_PI * hz / 48000;
  double cc = 0, ss = 0, cs = 0, xc = 0, xs = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double c = std::cos(w * double(i)), s = std::sin(w * double(i));
    cc += c * c, ss += s * s, cs += c * s, xc += double(x[i]) * c, xs += double(x[i]) * s;
  }
  const double d = cc * ss - cs * cs, a = (xc * ss - xs * cs) / d, b = (xs * cc - xc * cs) / d;
  double signal = 0, rest = 0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    const double fit = a * std::cos(w * double(i)) + b * std::sin(w * double(i));
    signal += fit * fit;
    rest += (double(x[i]) - fit) * (double(x[i]) - fit);
  }
  return 10 * std::log10(rest / signal);
}

void benchPrint(const Project& demo) {
  JobContext job;
  const Score score = compileSong(demo);
  const double seconds = double(score.length.value) / kEngineRate.value;
  std::vector<double> ratios, compile;
  for (int i = 0; i < 5; ++i) {
    const double start =
        cpuSeconds(); // processor time of one thread: other work on the machine does not count
    (void)print(score, {}, job);
    ratios.push_back(seconds / (cpuSeconds() - start));
    const auto begin = Clock::now();
    (void)compileSong(demo);
    compile.push_back(since(begin) * 1000);
  }
  report("printing the demo song, times real time, one core", middle(ratios), "x", ">= 100",
         middle(ratios) >= 100);
  report("compiling the demo song to a score", middle(compile), "ms", "-", true);
}

struct VoiceCost {
  double late = 0;  ///< 99.9th percentile of a block, % of it
  double usual = 0; ///< middle
  double idle = 0;  ///< the same ratio for plain arithmetic: how uneven the machine is
  int voices = 0;
};
VoiceCost costOfVoices(const Score& score, const std::vector<Id>& keys) {
  Engine engine;
  engine.setScore(std::make_shared<Score>(score));
  Samples l(128), r(128);
  int voices = 64;
  // The thread's own time: what other programs take of the machine is not the engine's.
  const auto threadSeconds = [] {
    timespec now{};
    clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
    return double(now.tv_sec) + double(now.tv_nsec) * 1e-9;
  };
  const double blockS = 128 / 48000.0;
  std::vector<double> late, usual, idle;
  volatile double sink = 0;
  for (int run = 0; run < 7; ++run) {
    std::vector<double> times, control;
    engine.send({Engine::Command::Kind::Silence});
    for (int block = 0; block < 8; ++block) engine.process(l.data(), r.data(), 128);
    for (int i = 0; i < 64; ++i) {
      Engine::Command strike{Engine::Command::Kind::Strike};
      strike.key = keys[std::size_t(i) % keys.size()];
      strike.touch = std::uint32_t(i + 1);
      strike.velocity = 0.2f;
      engine.send(strike);
    }
    for (int block = 0; block < 4000; ++block) {
      double start = threadSeconds();
      engine.process(l.data(), r.data(), 128);
      times.push_back(threadSeconds() - start);
      // A fixed piece of arithmetic of about the same length: how uneven the machine itself is.
      start = threadSeconds();
      double x = 1;
      for (int i = 0; i < 40000; ++i) x = x * 0.999999 + 1e-7;
      sink = sink + x;
      control.push_back(threadSeconds() - start);
    }
    voices = std::min(voices, engine.sounding()); // all of them are still there
    late.push_back(percentile(times, 0.999) / blockS * 100);
    usual.push_back(percentile(times, 0.5) / blockS * 100);
    idle.push_back(percentile(control, 0.999) / percentile(control, 0.5));
  }
  return {middle(late), middle(usual), middle(idle), voices};
}

void benchVoices() {
  Score score = one(sine(331, 30), 3.7, 1 << 30);
  auto& patch = score.patches[0];
  Channels stereo{sine(331, 30), sine(441, 30)};
  patch.sound = std::make_shared<Sound>(stereo, kEngineRate);
  patch.envelope = {{2400}, 0, {690'000, 0.99999}, 0.5, {4800, 0.9986}};
  score.events.clear();
  const VoiceCost plain = costOfVoices(score, {1});
  std::printf("  (%d voices; middle block %.1f %%, its 99.9th is %.2f times that; plain "
              "arithmetic's is %.2f times)\n",
              plain.voices, plain.usual, plain.late / plain.usual, plain.idle);
  report("64 stereo voices, repitched, 128 frames: 99.9th percentile", plain.late, "%", "< 25",
         plain.late < 25);
  const auto made = test::filteredKeys(24);
  const VoiceCost filtered = costOfVoices(compilePattern(made.project, 0), made.keys);
  std::printf("  (%d voices; middle block %.1f %%; plain arithmetic's ratio %.2f)\n",
              filtered.voices, filtered.usual, filtered.idle);
  report("the same in 24 parts with moving filters and envelopes", filtered.late, "%", "< 35",
         filtered.late < 35);
}

void benchQuality() {
  for (double shift : {7.0, -7.0}) {
    const double db =
        thdN(played(one(sine(997, 8), shift, 48000 * 3)), 997 * std::exp2(shift / 12));
    report(shift > 0 ? "997 Hz moved +7 st: THD+N" : "997 Hz moved -7 st: THD+N", db, "dB", "< -90",
           db < -90);
  }
  const auto folded = played(one(sine(15000, 8), 12, 48000 * 3));
  double square = 0;
  for (float v : folded) square += double(v) * double(v);
  const double db = 10 * std::log10(square / double(folded.size()) / 0.125 + 1e-20);
  report("15 kHz an octave up: what is left of it", db, "dB", "< -80", db < -80);
}

void benchFirstWindow() {
  std::vector<double> times;
  for (int i = 0; i < 5; ++i) {
    QProcess process;
    QTemporaryDir home;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("XDG_DATA_HOME", home.path());
    environment.insert("QT_QPA_PLATFORM", "offscreen");
    process.setProcessEnvironment(environment);
    const auto begin = Clock::now();
    process.start(QString::fromLatin1(TUVVO_APP), {"--demo", "--time-first-paint"});
    process.waitForReadyRead(30000);
    times.push_back(since(begin) * 1000);
    process.waitForFinished(30000);
  }
  report("first painted window with the demo, from process start", middle(times), "ms", "< 1000",
         middle(times) < 1000);
}

void benchDecode() {
  JobContext job;
  const std::string path = std::string(TUVVO_DATA_DIR) + "/demo/pier nine break.flac";
  std::vector<double> ratios, analysis;
  for (int i = 0; i < 7; ++i) {
    const double start = cpuSeconds();
    const auto decoded = decodeFile(path, job);
    const Peaks peaks(*decoded->sound);
    ratios.push_back(decoded->sound->duration().value / (cpuSeconds() - start));
    if (i < 3) {
      const double begin = cpuSeconds();
      (void)analyse(*decoded->sound, job);
      analysis.push_back(60 * (cpuSeconds() - begin) / decoded->sound->duration().value);
    }
  }
  report("decoding FLAC and making peaks, times real time", middle(ratios), "x", ">= 150",
         middle(ratios) >= 150);
  report("listening, a minute of sound", middle(analysis), "s", "-", true);
}

/// A file of so many seconds of stereo at 48 kHz, from the demo's loop over and over.
void writeLong(const std::string& path, int seconds) {
  JobContext job;
  const auto decoded = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/lantern row.flac", job);
  const auto resampled = resample(*decoded->sound, Hertz(48000));
  Channels channels(2);
  const auto frames = std::size_t(seconds) * 48000;
  for (int c = 0; c < 2; ++c)
    while (channels[std::size_t(c)].size() < frames) {
      const auto more = (*resampled)->channel(c);
      channels[std::size_t(c)].insert(channels[std::size_t(c)].end(), more.begin(), more.end());
    }
  (void)encodeFile(Sound(std::move(channels), Hertz(48000)), path,
                   {FileFormat::Wav, SampleFormat::Int16});
}

/// What a program needs at most, in MB: the kernel's own high-water mark, as last seen.
double memoryOf(const QString& program, const QStringList& arguments) {
  QProcess process;
  process.start(program, arguments);
  process.waitForStarted();
  double megabytes = 0;
  while (!process.waitForFinished(20)) {
    QFile status(QStringLiteral("/proc/%1/status").arg(process.processId()));
    if (!status.open(QIODevice::ReadOnly)) break;
    for (const QByteArray& line : status.readAll().split('\n'))
      if (line.startsWith("VmHWM:"))
        megabytes = line.mid(6).simplified().split(' ')[0].toDouble() / 1024;
  }
  return megabytes;
}

void benchLongFile() {
  QTemporaryDir dir;
  const QString path = dir.filePath("long.wav");
  writeLong(path.toStdString(), 1800);
  const double half = memoryOf(QStringLiteral(TUVVO_CLI), {QStringLiteral("listen"), path});
  report("memory while hearing 30 minutes of stereo", half, "MB", "< 300", half > 0 && half < 300);
  writeLong(path.toStdString(), 3600);
  const double hour =
      memoryOf(QStringLiteral(TUVVO_CLI),
               {QStringLiteral("cut"), path, QStringLiteral("--by"), QStringLiteral("equal:128"),
                QStringLiteral("--out"), dir.filePath("cuts")});
  report("memory while cutting an hour of stereo", hour, "MB", "< 600", hour > 0 && hour < 600);
  const double window =
      memoryOf(QStringLiteral(TUVVO_APP), {path, QStringLiteral("--stage"), QStringLiteral("cut"),
                                           QStringLiteral("--screenshot"), dir.filePath("a.png")});
  report("memory of the window with an hour of stereo", window, "MB", "< 600",
         window > 0 && window < 600);
}

/// An hour of stereo, zoomed and panned at random; each paint is timed.
void benchWaveform() {
  const std::int64_t frames = std::int64_t(48000) * 3600;
  Channels channels(2, Samples(std::size_t(frames)));
  Random random(3);
  for (auto& channel : channels)
    for (std::size_t i = 0; i < channel.size(); ++i)
      channel[i] =
          float(0.6 * std::sin(double(i) * 1e-3) * std::sin(double(i) * 0.05 + double(i & 7)));
  Services services;
  Source source;
  source.name = "an hour";
  source.sound = std::make_shared<Sound>(std::move(channels), kEngineRate);
  source.hash = source.sound->hash();
  Id id = 0;
  services.document.edit("add", withSource(services.document.project(), source, &id));
  services.document.select(withSourceChosen(services.document.selection(), id));
  (void)services.peaks.peaksOf(*findSource(services.document.project(), id));
  Panel root;
  showDocument(services, root);
  WaveView view(root, services.peaks, nullptr);
  view.resize(1400, 320);
  services.wait();
  QCoreApplication::processEvents();
  QImage image(1400, 320, QImage::Format_ARGB32_Premultiplied);
  std::vector<double> times;
  for (int i = 0; i < 400; ++i) {
    if (i % 40 == 0) view.showAll();
    view.zoom(0.35 + 1.2 * random.unit(), random.unit() * double(frames));
    const auto begin = Clock::now();
    view.render(&image);
    times.push_back(since(begin) * 1000);
  }
  const double late = percentile(times, 0.95);
  report("painting a 60-minute stereo waveform: 95th percentile", late, "ms", "< 10", late < 10);
}

} // namespace

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  theme::apply(app, false, 1);
  JobContext job;
  const auto demo = shippedDemo(TUVVO_DATA_DIR, job);
  if (!demo) {
    std::fprintf(stderr, "%s\n", demo.error().text().c_str());
    return 1;
  }
  const struct {
    const char* name;
    std::function<void()> run;
  } parts[] = {{"quality", benchQuality},
               {"print", [&] { benchPrint(*demo); }},
               {"voices", benchVoices},
               {"answer", [] { benchAnswer(report); }},
               {"soak", [] { benchSoak(report); }},
               {"decode", benchDecode},
               {"memory", benchLongFile},
               {"scan", [] { benchFirstFit(report, TUVVO_DATA_DIR); }},
               {"search", [] { benchCrate(report); }},
               {"planner", [] { benchPlanner(report); }},
               {"baking", [] { benchBaking(report); }},
               {"previews", [] { benchPreviews(report); }},
               {"stretching", [] { benchStretching(report); }},
               {"dragging", [] { benchDragging(report); }},
               {"pattern", [] { benchPattern(report); }},
               {"open", [] { benchOpening(report); }},
               {"autosave", [] { benchAutosave(report); }},
               {"isolation", [] { benchIsolation(report); }},
               {"face", [] { benchFace(report); }},
               {"window", benchFirstWindow},
               {"waveform", benchWaveform}};
  // Every part, or those that are named.
  const std::vector<std::string> wanted(argv + 1, argv + argc);
  for (const auto& part : parts)
    if ((wanted.empty() && std::string(part.name) != "soak") ||
        std::find(wanted.begin(), wanted.end(), part.name) != wanted.end())
      part.run();
  std::printf(missed == 0 ? "every owed figure is met\n" : "%d figures are missed\n", missed);
  return missed == 0 ? 0 : 1;
}
