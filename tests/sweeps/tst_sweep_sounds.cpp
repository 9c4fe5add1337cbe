// What is heard: processors, treatments, bands, patterns, songs, auditions, and files around the
// sizes of their blocks.
#include "sweeps/sweep.h"
#include "sweeps/world.h"

#include "audio/decode.h"
#include "audio/encode.h"
#include "mix/ducker.h"
#include "mix/limiter.h"
#include "mix/processor.h"
#include "play/engine.h"
#include "play/print.h"
#include "shape/bake_cache.h"
#include "shape/bands.h"
#include "shape/treat.h"

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// Bursts on both sides, some of them a window of the limiter apart.
Channels bursts(std::uint64_t seed, std::size_t frames) {
  Random random(seed);
  Channels out{Samples(frames, 0.0f), Samples(frames, 0.0f)};
  for (std::size_t i = 0; i < frames; ++i) {
    out[0][i] = 0.4f * float(std::sin(double(i) * 0.05));
    out[1][i] = 0.3f * float(std::sin(double(i) * 0.071));
  }
  for (std::size_t i = 200; i + 130 < frames; i += 300 + random.next() % 400) {
    out[seed % 2][i] = float(1.5 + random.unit());
    out[1 - seed % 2][i + 63] = float(1.2 + 0.3 * random.unit());
    out[seed % 2][i + 64] = -1.3f;
    out[seed % 2][i + 129] = 1.1f;
  }
  return out;
}

Channels channelsOf(const Sound& sound) {
  Channels out;
  for (int c = 0; c < 2; ++c) {
    const auto from = sound.channel(std::min(c, sound.channels() - 1));
    out.emplace_back(from.begin(), from.end());
  }
  return out;
}

} // namespace

class TestSweepSounds : public QObject {
  Q_OBJECT
  World m_world = madeWorld(12);

private slots:
  void processors() {
    Sweep sweep("processors");
    for (std::uint64_t seed = 1; seed <= 4; ++seed) {
      Limiter limiter;
      if (seed == 3) limiter.setCeiling(0.5f);
      if (seed == 4) limiter.setRelease(Milliseconds(5), Hertz(48000));
      Channels sound = bursts(seed, 6400);
      double least = 1;
      for (std::size_t i = 0; i < sound[0].size(); ++i) {
        limiter.process(sound[0][i], sound[1][i]);
        least = std::min(least, double(limiter.gain()));
      }
      sweep.tell("limiter", sound);
      sweep.tell("limiter's least", KeptJson(std::round(least * 1e4)));
    }
    for (const ProcessorType* type : processorTypes())
      for (std::size_t which = 0; which <= type->parameters.size(); ++which)
        for (double place : {0.0, 0.35, 0.7, 1.0}) {
          const auto processor = type->make(Hertz(48000));
          for (std::size_t i = 0; i < type->parameters.size(); ++i)
            processor->set(i, type->parameters[i].standard);
          if (which < type->parameters.size())
            processor->set(which, valueAt(type->parameters[which], place));
          processor->reset();
          Channels sound = bursts(7, 64 * 40);
          for (std::size_t i = 0; i < sound[0].size(); i += kQuantum)
            processor->process(&sound[0][i], &sound[1][i]);
          sweep.tell(std::string(type->id), sound);
          sweep.tell("latency", {processor->latency(), processor->tail()});
        }
    for (float to : {0.0f, 0.25f, 1.0f})
      for (float back : {1.0f, 200.0f, 5000.0f}) {
        Ducker ducker;
        ducker.plan({true, to, back});
        KeptJson gains = KeptJson::array();
        for (std::int64_t quantum = 0; quantum < 60; ++quantum) {
          if (quantum == 3 || quantum == 30) ducker.strike(quantum, quantum == 3 ? 0 : 63);
          if (quantum == 31) ducker.strike(quantum, 5);
          const float* all = ducker.finish(quantum);
          for (int i : {0, 5, 31, 63}) gains.push_back(all ? std::round(double(all[i]) * 1e3) : -1);
        }
        sweep.tell("ducker", gains);
      }
    sweep.compare();
  }

  void treatments() {
    Sweep sweep("treatments");
    const Channels whole = channelsOf(*findSource(m_world.project, m_world.drums)->sound);
    Channels some;
    for (const auto& channel : whole)
      some.emplace_back(channel.begin(), channel.begin() + std::ptrdiff_t(channel.size() / 2));
    const TreatFrame frame{
        .tempo = kWorldTempo, .beatsPerBar = 4, .rate = Hertz(24000), .material = Material::Hits};
    JobContext job;
    const auto tell = [&](const std::string& name, Treatment treatment) {
      clamp(treatment);
      Channels sound = some;
      const auto done = applyTreatment(sound, treatment, frame, job);
      QVERIFY2(done.ok(), name.c_str());
      sweep.tell(name, sound);
      sweep.tell(name + ", frames", KeptJson(framesAfter(some[0].size(), treatment, frame)));
    };
    for (const auto& type : treatmentTypes()) {
      const std::string id(type.id);
      tell(id, {type.usual});
      for (const auto& figure : type.parameters) {
        std::vector<double> values;
        if (!figure.parameter.words.empty())
          for (std::size_t i = 0; i < figure.parameter.words.size(); ++i)
            values.push_back(double(i));
        else
          for (double place : {0.0, 0.3, 0.8}) values.push_back(valueAt(figure.parameter, place));
        for (double value : values) {
          Treatment treatment{type.usual};
          figure.set(treatment, value);
          tell(id + "/" + std::string(figure.parameter.id), treatment);
        }
      }
    }
    for (auto keep : {BandKept::Low, BandKept::Middle, BandKept::High}) {
      Channels sound = some;
      keepBand(sound, keep, Hertz(200), Hertz(2500), Hertz(24000));
      sweep.tell("band", sound);
    }
    for (bool sides : {false, true}) {
      Channels sound = some;
      keepSides(sound, sides);
      sweep.tell("sides", sound);
    }
    sweep.compare();
  }

  void patternsAndSongs() {
    Sweep sweep("scores");
    JobContext job;
    BakeCache cache{2, {}};
    const auto bakes = cache.bakeAll(bakesOf(m_world.project), job);
    QVERIFY(bakes.ok());
    CompileOptions options;
    options.baked = [&](const BakeOrder& order) {
      const auto found = bakes->find(order.name);
      return found == bakes->end() ? Baked{} : found->second;
    };
    const auto tell = [&](const std::string& name, const Score& score) {
      KeptJson events = {score.length.value, score.loops};
      for (const auto& e : score.events)
        events.push_back({e.frame.value, e.patch, double(e.gain), e.tune, e.hold.value,
                          e.skip.value, double(e.from), e.turn, double(e.pan), double(e.chance),
                          e.every, e.which, e.round, e.rounds, e.early});
      sweep.tell(name + ", events", events);
      KeptJson patches = KeptJson::array();
      for (const auto& p : score.patches)
        patches.push_back({p.key, p.bus, p.layer, p.start.value, p.end.value, p.step, p.fadeIn,
                           double(p.gain), double(p.pan), p.silent, p.choke, p.lead, p.turns});
      sweep.tell(name + ", patches", patches);
      const auto sound = print(score, {.ring = Seconds(0.2), .limiter = false}, job);
      QVERIFY(sound.ok());
      sweep.tell(name, channelsOf(**sound));
    };
    for (Id id : m_world.patterns) tell("pattern", compilePattern(m_world.project, id, options));
    tell("song", compileSong(m_world.project, options));
    Project moved = m_world.project;
    moved.tempoMarks = {{{at(6), Bpm(120), true}, {}}, {{at(12), Bpm(70), false}, {}}};
    tell("song that moves", compileSong(moved, options));
    options.onlyPart = findKey(m_world.project, m_world.kick)->part;
    tell("a stem", compileSong(m_world.project, options));
    sweep.compare();
  }

  /// Both sides of what is heard beside the beat, looping and not, before and while it plays.
  void auditions() {
    Sweep sweep("auditions");
    for (bool loops : {false, true})
      for (bool fromStart : {false, true})
        for (bool plays : {false, true}) {
          Engine engine;
          engine.setLimiterOff();
          auto score = std::make_shared<Score>();
          score->loops = true;
          score->tempo = TempoMap(kWorldTempo);
          score->length = EngineFrames(4 * 32000);
          Channels both = bursts(3, 20000);
          score->audition = {std::make_shared<Sound>(std::move(both), kEngineRate),
                             loops,
                             fromStart,
                             0.7f,
                             1,
                             kWorldTempo};
          engine.setScore(score);
          if (plays) {
            Engine::Command start{Engine::Command::Kind::Play};
            start.frame = EngineFrames(7000);
            engine.send(start);
          }
          Channels out{Samples(60000), Samples(60000)};
          for (std::size_t i = 0; i < out[0].size(); i += 480)
            engine.process(&out[0][i], &out[1][i], 480);
          sweep.tell("audition", out);
        }
    sweep.compare();
  }

  /// Every format, around the sizes in which files are written and read.
  void filesOfEverySize() {
    QTemporaryDir folder;
    for (std::size_t frames :
         {1, 2, 4095, 4096, 4097, 8191, 8192, 8193, 16384, 16385, 65536, 65537})
      for (auto samples : {SampleFormat::Int16, SampleFormat::Int24, SampleFormat::Float32})
        for (auto format : {FileFormat::Wav, FileFormat::Flac}) {
          if (format == FileFormat::Flac && samples == SampleFormat::Float32) continue;
          const SoundPtr sound = std::make_shared<Sound>(bursts(5, frames + 400), Hertz(48000));
          Channels cut = channelsOf(*sound);
          for (auto& channel : cut) channel.resize(frames);
          for (auto& channel : cut)
            for (auto& v : channel) v = std::clamp(v, -0.9f, 0.9f);
          const Sound own(std::move(cut), Hertz(48000));
          const std::filesystem::path path =
              folder.filePath("x").toStdString() + (format == FileFormat::Wav ? ".wav" : ".flac");
          const auto written = encodeFile(own, path, {.format = format, .samples = samples});
          QVERIFY2(written.ok(), written.ok() ? "" : written.error().text().c_str());
          JobContext job;
          const auto read = decodeFile(path, job);
          QVERIFY(read.ok());
          QCOMPARE(read->sound->frames().value, std::int64_t(frames));
          // Dither of 16 bits moves a frame by up to a step and a half.
          const double most = samples == SampleFormat::Int16   ? 1.5 / 32768
                              : samples == SampleFormat::Int24 ? 1.0 / 8388608
                                                               : 0;
          for (int c = 0; c < 2; ++c)
            for (std::size_t i = 0; i < frames; ++i)
              QVERIFY(std::abs(double(read->sound->channel(c)[i]) - double(own.channel(c)[i])) <=
                      most);
        }
  }
};

QTEST_APPLESS_MAIN(TestSweepSounds)
#include "tst_sweep_sounds.moc"
