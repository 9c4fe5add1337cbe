// What every control does to the sound of the demo's sources is what it did: each is moved by
// itself, and the levels of a bar are compared, sixteenth by sixteenth.
#include "beat/grooves.h"
#include "cut/slicing.h"
#include "demo/the_demo.h"
#include "kept.h"
#include "mix/processor.h"
#include "model/bus_parameters.h"
#include "model/key_parameters.h"
#include "model/pattern_parameters.h"
#include "play/print.h"
#include "shape/bake_cache.h"
#include "support.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemoSounds : public QObject {
  Q_OBJECT
  Project m_plain, m_busy; ///< the same two keys, as they come and with everything switched on
  Id m_slice = 0, m_bass = 0, m_pattern = 0;
  KeptJson m_now;
  BakeCache m_cache{2, {}};

  /// In dB full scale, left and right, for each sixteenth.
  KeptJson levelsOf(const Project& project) {
    JobContext job;
    CompileOptions options;
    const auto bakes = m_cache.bakeAll(bakesOf(project), job);
    if (!bakes.ok()) return bakes.error().text();
    options.baked = [&](const BakeOrder& order) {
      const auto found = bakes->find(order.name);
      return found == bakes->end() ? Baked{} : found->second;
    };
    const auto sound = print(compilePattern(project, m_pattern, options), {.limiter = false}, job);
    if (!sound.ok()) return sound.error().text();
    KeptJson out = KeptJson::array();
    const std::int64_t all = (*sound)->frames().value;
    for (int i = 0; i < 16; ++i)
      for (int side = 0; side < (*sound)->channels(); ++side) {
        double square = 1e-9;
        for (std::int64_t f = all * i / 16; f < all * (i + 1) / 16; ++f)
          square += std::pow(double((*sound)->channel(side)[std::size_t(f)]), 2);
        out.push_back(figure(10 * std::log10(square / double(all) * 16)));
      }
    return out;
  }

  void tell(const std::string& name, const Project& project) {
    QVERIFY2(!m_now.contains(name), name.c_str());
    m_now[name] = levelsOf(project);
  }

  /// Two values of a parameter that are neither its ends nor, mostly, its standard: a time of the
  /// first is heard within a bar.
  static std::vector<double> valuesOf(const Parameter& parameter) {
    std::vector<double> out;
    if (!parameter.words.empty())
      for (std::size_t i = 0; i < parameter.words.size(); ++i) out.push_back(double(i));
    else
      for (double place : {0.02, 0.6}) out.push_back(valueAt(parameter, place));
    return out;
  }

  template <class Thing, class Change>
  void tellFigures(const std::string& of, const Project& base,
                   std::span<const FigureOf<Thing>> figures, const Change& change) {
    for (const auto& one : figures)
      for (double value : valuesOf(one.parameter))
        tell(of + " " + std::string(one.parameter.id) + " " + written(one.parameter, value),
             change(base, [&](Thing& thing) { one.set(thing, value); }));
  }

  Project withHits(Project project, const std::function<void(Hit&)>& change) const {
    return withPatternChanged(std::move(project), m_pattern, [&](Pattern& p) {
      for (auto& lane : p.lanes)
        for (auto& hit : lane.hits) change(hit);
    });
  }

private slots:
  void initTestCase() {
    const Project demo = theDemo();
    m_plain.tempo = demo.tempo;
    Id broken = 0, snare = 0, bass = 0;
    for (const auto& source : demo.sources) {
      Id added = 0;
      if (source->name != "pier nine break" && !source->kit) continue;
      m_plain = withSource(std::move(m_plain), *source, &added);
      if (!source->kit) broken = added;
      if (!snare && source->name.find("snare") != std::string::npos) snare = added;
      if (!bass && suggestedRow(*source) == Row::Floor) bass = added;
    }
    QVERIFY(broken && snare && bass);
    CutSettings bars;
    bars.mode = CutMode::Bars;
    const auto cuts = cutSource(*findSource(m_plain, broken), bars);
    m_plain = withCuts(std::move(m_plain), broken, bars, cuts);
    const SoundRef bar{broken, findSource(m_plain, broken)->cuts.front().id};
    m_plain = withKeySound(std::move(m_plain), Row::Cuts, 0, 0, bar, "break", &m_slice);
    m_plain = withKeySound(std::move(m_plain), Row::Floor, 0, 0, {bass, 0}, "bass", &m_bass);
    Pattern pattern;
    pattern.bars = 1;
    for (double beat : {0.0, 0.75, 1.5, 2.0, 3.25}) {
      Hit hit;
      hit.at = at(beat);
      hit.velocity = 0.5 + beat / 8;
      hit.length = at(0.4);
      hit.key = m_slice;
      laneOf(pattern, findKey(m_plain, m_slice)->part).hits.push_back(hit);
      hit.key = m_bass;
      hit.tune = Semitones(std::round(beat * 4) - 5);
      hit.length = at(0.6);
      laneOf(pattern, findKey(m_plain, m_bass)->part).hits.push_back(hit);
    }
    m_plain = withPattern(std::move(m_plain), pattern, &m_pattern);
    Layer layer;
    layer.sound = {snare, 0};
    layer.play.delay = Milliseconds(35);
    m_busy = withLayer(m_plain, m_slice, layer);
    for (Id id : {m_slice, m_bass})
      m_busy = withKeyChanged(std::move(m_busy), id, [&](Key& key) {
        key.highPass = Hertz(90);
        key.lowPass = Hertz(3000);
        key.resonance = Decibels(6);
        key.filterEnvelope.lowMoves = 2;
        key.filterEnvelope.highMoves = 1;
        key.envelope.attack = Milliseconds(25);
        key.envelope.hold = Milliseconds(30);
        key.envelope.decay = Milliseconds(120);
        key.envelope.sustain = 0.5;
        key.envelope.release = Milliseconds(90);
        key.filterEnvelope.shape.sustain = 0.4;
        key.gate = true;
        key.mono = id == m_bass;
        key.glide = Milliseconds(50);
        key.loop.on = id == m_bass;
      });
    Id groove = 0;
    m_busy = withGroove(std::move(m_busy), shippedGrooves().front(), &groove);
    m_busy = withPatternChanged(std::move(m_busy), m_pattern, [&](Pattern& p) {
      for (auto& lane : p.lanes) {
        lane.length = at(2); // twice round
        lane.hits[1].roll.hits = 3;
        lane.hits[0].flam.before = Milliseconds(30);
        lane.hits[2].microTiming = Milliseconds(15);
        lane.feel.groove = groove;
        lane.feel.accent = AccentShape::Backbeats;
        lane.feel.accentDepth = 0.4;
      }
    });
  }
  void init() { m_now = KeptJson::object(); }

  void ofKeys() {
    for (const auto& [base, what] : {std::pair{&m_plain, "plain"}, {&m_busy, "busy"}})
      for (Id id : {m_slice, m_bass}) {
        const std::string of = std::string(what) + (id == m_slice ? " slice" : " bass");
        tell(of, *base);
        for (const auto& one : keyParameters()) {
          // What acts only with another control is moved where everything is switched on.
          if (base == &m_plain && one.group != KeyParameter::Group::Level) continue;
          for (int layer = 0; layer <= int(findKey(*base, id)->layers.size()); ++layer) {
            if (layer > 0 && one.group != KeyParameter::Group::Layer) continue;
            for (double value : valuesOf(one.parameter))
              tell(of + " " + std::string(one.parameter.id) + " " + written(one.parameter, value) +
                       (layer ? " under it" : ""),
                   withKeyChanged(*base, id, [&](Key& key) { one.set(key, layer, value); }));
          }
        }
      }
    for (int way = 0; way <= int(LayerMode::AtRandom); ++way)
      tell("layers " + std::to_string(way), withLayerMode(m_busy, m_slice, LayerMode(way)));
    for (int method = 0; method <= int(FitMethod::Respace); ++method) {
      Project slower = m_plain;
      slower.tempo = Bpm(slower.tempo.value * 0.83);
      for (const auto& project : {m_plain, slower})
        tell("method " + std::to_string(method) + " at " + std::to_string(project.tempo.value),
             withKeyChanged(project, m_slice, [&](Key& key) { key.method = FitMethod(method); }));
    }
    for (bool mono : {false, true})
      for (bool legato : {false, true})
        tell(std::string(mono ? "mono" : "many") + (legato ? " legato" : ""),
             withKeyChanged(m_busy, m_bass, [&](Key& key) {
               key.mono = mono;
               key.legato = legato;
             }));
    for (double upTo : {0.3, 0.7})
      tell("by velocity up to " + std::to_string(upTo),
           withKeyChanged(withLayerMode(m_busy, m_slice, LayerMode::ByVelocity), m_slice,
                          [&](Key& key) { playOf(key, 0).upTo = upTo; }));
    Project choked = m_busy;
    for (Id id : {m_slice, m_bass})
      choked = withKeyChanged(std::move(choked), id, [](Key& key) { key.choke = 2; });
    tell("choked", choked);
    tell("trimmed", withKeyChanged(m_plain, m_slice, [](Key& key) {
           key.trimStart = Milliseconds(80);
           key.trimEnd = Milliseconds(900);
         }));
    compareKept("sounds-of-keys.json", m_now);
  }

  void ofHitsFeelsAndBuses() {
    tellFigures<Hit>("hits", m_busy, hitParameters(),
                     [&](const Project& p, const std::function<void(Hit&)>& change) {
                       return withHits(p, change);
                     });
    tellFigures<Feel>("feel", m_busy, feelParameters(),
                      [&](const Project& p, const std::function<void(Feel&)>& change) {
                        return withPatternChanged(p, m_pattern, [&](Pattern& pattern) {
                          for (auto& lane : pattern.lanes) change(lane.feel);
                        });
                      });
    const auto part = findKey(m_plain, m_bass)->part, other = findKey(m_plain, m_slice)->part;
    tellFigures<BusSettings>(
        "bus", m_plain, busParameters(),
        [&](const Project& p, const std::function<void(BusSettings&)>& change) {
          return withPartChanged(p, part, [&](Part& it) { change(it.bus); });
        });
    const Project ducked = withPartChanged(m_plain, part, [&](Part& it) { it.duck.by = other; });
    tellFigures<Duck>("duck", ducked, duckParameters(),
                      [&](const Project& p, const std::function<void(Duck&)>& change) {
                        return withPartChanged(p, part, [&](Part& it) { change(it.duck); });
                      });
    for (const ProcessorType* type : processorTypes())
      for (const auto& parameter : type->parameters)
        for (double value : valuesOf(parameter))
          tell(std::string(type->id) + " " + std::string(parameter.id) + " " +
                   written(parameter, value),
               withPartChanged(m_plain, other, [&](Part& it) {
                 ProcessorSettings settings;
                 settings.id = 90;
                 settings.kind = type->id;
                 settings.figures[std::string(parameter.id)] = value;
                 it.bus.chain.push_back(settings);
               }));
    compareKept("sounds-of-hits.json", m_now);
  }

  void ofTreatments() {
    for (const auto& type : treatmentTypes()) {
      Treatment usual;
      usual.what = type.usual;
      const auto treated = [&](const Treatment& treatment) {
        return withKeyChanged(m_plain, m_slice, [&](Key& key) { key.treatments = {treatment}; });
      };
      tell(std::string(type.id), treated(usual));
      for (const auto& one : type.parameters)
        for (double value : valuesOf(one.parameter)) {
          Treatment moved = usual;
          one.set(moved, value);
          clamp(moved);
          tell(std::string(type.id) + " " + std::string(one.parameter.id) + " " +
                   written(one.parameter, value),
               treated(moved));
        }
    }
    compareKept("sounds-of-treatments.json", m_now);
  }
};

QTEST_GUILESS_MAIN(TestDemoSounds)
#include "tst_demo_sounds.moc"
