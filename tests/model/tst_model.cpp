#include "cut/slicing.h"
#include "model/bus_parameters.h"
#include "model/edits.h"
#include "model/history.h"
#include "model/key_parameters.h"
#include "model/pattern_parameters.h"
#include "model/resolved_source.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

std::vector<Seconds> beatsNow(const Source& source) {
  const ResolvedSource resolved(source);
  return {resolved.beats().begin(), resolved.beats().end()};
}

/// With room for any round.
void everyRound(Hit& hit) {
  hit.condition.every = kMostRounds;
  hit.treatments = HitTreatments({{}, kMostRounds, 1});
}

template <class Thing> void checkFigures(std::span<const FigureOf<Thing>> figures, Thing usual) {
  std::set<std::string_view> ids;
  for (const auto& figure : figures) {
    const Parameter& p = figure.parameter;
    QVERIFY2(ids.insert(p.id).second, p.id.data());
    QVERIFY2(!p.about.empty() && !p.name.empty(), p.id.data());
    QVERIFY2(std::abs(figure.get(usual) - p.standard) < 1e-9, p.id.data());
    for (double value : {p.least, p.most, p.standard}) {
      Thing thing = usual;
      if constexpr (std::is_same_v<Thing, Hit>) everyRound(thing);
      figure.set(thing, value);
      QVERIFY2(std::abs(figure.get(thing) - value) < 1e-9, p.id.data());
      const Thing before = thing;
      clampFigures(thing, figures);
      QVERIFY2(thing == before, p.id.data()); // what is in its range stays as it is
    }
    if (p.id == "hit.every" || p.id == "hit.treated-every") continue; // takes its round with it
    Thing thing = usual;
    if constexpr (std::is_same_v<Thing, Hit>) everyRound(thing);
    if (p.words.empty()) figure.set(thing, p.most * 2 + 1);
    clampFigures(thing, figures);
    QVERIFY2(figure.get(thing) <= p.most + 1e-9, p.id.data());
  }
}

} // namespace

class TestModel : public QObject {
  Q_OBJECT

  static Project cutInto(Project p, Id source, int parts) {
    CutSettings settings;
    settings.mode = CutMode::Equal;
    settings.parts = parts;
    return withCuts(p, source, settings, cutSource(*findSource(p, source), settings));
  }

private slots:
  // Slices of a source share a part, whatever their numbers; whole sounds have parts of their own.
  void slicesShareAPartAndWholeSoundsDoNot() {
    Project p;
    Id source = 0, other = 0;
    p = withSource({}, sourceOf(makeSound(sine(300, 1, 48000)), "loop"), &source);
    p = withSource(std::move(p), sourceOf(makeSound(sine(400, 1, 48000)), "other"), &other);
    const auto part = [&](int column, SoundRef sound) {
      Id key = 0;
      p = withKeySound(std::move(p), Row::Cuts, column, 0, sound, "key", &key);
      return findKey(p, key)->part;
    };
    const Id whole = part(0, {source, 0}), first = part(1, {source, 1}),
             second = part(2, {source, 2}), again = part(3, {source, 0}),
             elsewhere = part(4, {other, 1});
    QVERIFY(first == second);
    QCOMPARE((std::set<Id>{whole, first, again, elsewhere}.size()), std::size_t(4));
    QCOMPARE(findPart(p, first)->name, std::string("loop"));
    QCOMPARE(findPart(p, whole)->name, std::string("key"));
  }

  void theSameSoundIsOneSource() {
    Id a = 0, b = 0;
    Project p = withSource({}, sourceOf(drumLoop(100, 4), "one"), &a);
    const Project again = withSource(p, sourceOf(drumLoop(100, 4), "two"), &b);
    QCOMPARE(a, b);
    QVERIFY(again == p);
  }

  void layersByVelocityShareItAnewWhenOneComesOrGoes() {
    Id source = 0, id = 0;
    Project p = withSource({}, sourceOf(drumLoop(100, 4), "one"), &source);
    p = withKeySound(std::move(p), Row::Body, 0, 0, {source, 0}, "one", &id);
    const auto borders = [&] {
      const Key* key = findKey(p, id);
      std::vector<double> all{key->own.upTo};
      for (const auto& layer : key->layers) all.push_back(layer.play.upTo);
      return all;
    };
    Layer layer;
    layer.sound = {source, 0};
    p = withLayer(std::move(p), id, layer);
    const std::vector<double> together = borders();
    p = withLayer(std::move(p), id, layer); // all at once: nobody shares anything
    QCOMPARE(borders(), std::vector<double>({together[0], together[1], together[1]}));
    p = withoutLayer(std::move(p), id, 2);
    QCOMPARE(borders(), together);
    p = withLayerMode(std::move(p), id, LayerMode::ByVelocity);
    QCOMPARE(borders(), std::vector<double>({0.5, 1.0}));
    p = withLayer(std::move(p), id, layer);
    QCOMPARE(borders(), std::vector<double>({1.0 / 3, 2.0 / 3, 1.0}));
    p = withoutLayer(std::move(p), id, 1);
    QCOMPARE(borders(), std::vector<double>({0.5, 1.0}));
    p = withoutLayer(std::move(p), id, 0);
    QCOMPARE(borders(), std::vector<double>({1.0}));
  }

  void everyParameterOfAKeyReadsWhatItSets() {
    Key standard;
    standard.layers.resize(2);
    std::set<std::string_view> ids;
    for (const auto& each : keyParameters()) {
      const Parameter& p = each.parameter;
      QVERIFY(ids.insert(p.id).second);
      QCOMPARE(findKeyParameter(p.id), &each);
      for (int layer : {0, 2}) {
        QCOMPARE(each.get(standard, layer), p.standard); // a new key stands at it
        for (double place : {0.0, 0.3, 1.0}) {
          Key key = standard;
          const double value = valueAt(p, place);
          each.set(key, layer, value);
          QVERIFY2(std::abs(each.get(key, layer) - value) <= 0.6 * p.step,
                   qPrintable(
                       QString("%1 %2 %3").arg(p.id.data()).arg(value).arg(each.get(key, layer))));
          // Nothing but it was touched: set back, the key is a new one again.
          each.set(key, layer, p.standard);
          QVERIFY2(key == standard, p.id.data());
        }
      }
    }
    Key key;
    findKeyParameter("key.low-pass")->set(key, 0, 20'000); // its end takes it away
    QCOMPARE(key.lowPass.value, 0.0);
    QVERIFY(!findKeyParameter("key.melt"));
  }

  void figuresOfHitsFeelsAndBusesReadWhatTheySet() {
    checkFigures(hitParameters(), Hit{});
    checkFigures(feelParameters(), Feel{});
    checkFigures(busParameters(), BusSettings{});
    checkFigures(duckParameters(), Duck{});
    Hit hit;
    hit.pan = std::nan("");
    clamp(hit);
    QCOMPARE(hit.pan, 0.0); // what is no number becomes what is usual
  }

  void parametersAreWrittenAndReadAgain() {
    const Parameter level{"l", "Level", Unit::Decibels, -60, 12, -3, 0.5, 1, Taper::Even, {}};
    QCOMPARE(written(level, -6.25), std::string("\u22126.2 dB"));
    QCOMPARE(written(level, -0.01), std::string("0.0 dB")); // nothing has no sign
    QCOMPARE(written(level, 99), std::string("12.0 dB"));
    QCOMPARE(*parsed(level, "\u22126.5 dB"), -6.5);
    QCOMPARE(*parsed(level, "-6.5dB"), -6.5);
    QCOMPARE(*parsed(level, "7"), 7.0);
    QVERIFY(!parsed(level, "7 Hz") && !parsed(level, "") && !parsed(level, "loud") &&
            !parsed(level, "inf"));
    QCOMPARE(clamped(level, -61), -60.0);
    QCOMPARE(clamped(level, std::nan("")), -3.0);
    static constexpr std::array<std::string_view, 3> kWords{"low", "middle", "high"};
    const Parameter band{"b", "Band", Unit::None, 0, 2, 1, 1, 0, Taper::Even, kWords};
    QCOMPARE(written(band, 2), std::string("high"));
    QCOMPARE(written(band, 1.4), std::string("middle"));
    QCOMPARE(*parsed(band, "low"), 0.0);
    QVERIFY(!parsed(band, "lower") && !parsed(band, "1"));
    QCOMPARE(clamped(band, 1.6), 2.0);
    // Zeros behind the point say nothing of beats.
    const Parameter length{"n", "Length", Unit::Beats, 0, 64, 0, 0.125, 3, Taper::Even, {}};
    QCOMPARE(written(length, 0.25), std::string("0.25 beats"));
    QCOMPARE(written(length, 10), std::string("10 beats"));
    QCOMPARE(written(length, 0), std::string("0 beats"));
    // Half of the way is the middle: between the ends, or of their ratio.
    QCOMPARE(valueAt(level, 0.5), -24.0);
    QCOMPARE(placeOf(level, 12), 1.0);
    const Parameter corner{"c", "Corner", Unit::Hertz, 20, 20'000, 1000, 1, 0, Taper::Ratio, {}};
    QVERIFY(std::abs(valueAt(corner, 0.5) - std::sqrt(20.0 * 20'000)) < 1e-6);
    QVERIFY(std::abs(placeOf(corner, 200) - 1.0 / 3) < 1e-9);
    QCOMPARE(valueAt(corner, 7), 20'000.0);
    QCOMPARE(valueAt(corner, -7), 20.0);
  }

  void cutsAreDealtInOrderOverPages() {
    Id source = 0;
    Project p = withSource({}, sourceOf(drumLoop(100, 8)), &source);
    p = cutInto(p, source, 19);
    QCOMPARE(cutPages(p), 3);
    for (int i = 0; i < 19; ++i) {
      const Key* key = keyAt(p, Row::Cuts, i % 8, i / 8);
      QVERIFY(key);
      QCOMPARE(key->sound.cut, findSource(p, source)->cuts[std::size_t(i)].id);
      QCOMPARE(nameOf(p, *key), std::to_string(i + 1));
    }
    QCOMPARE(int(p.parts.size()), 1); // all on one ribbon
  }

  void recuttingKeepsKeysAndTheirHits() {
    Id source = 0;
    Project p = withSource({}, sourceOf(drumLoop(100, 8)), &source);
    p = cutInto(p, source, 8);
    const Key first = *keyAt(p, Row::Cuts, 0, 0), last = *keyAt(p, Row::Cuts, 7, 0);
    Pattern pattern;
    Lane& lane = laneOf(pattern, first.part);
    lane.hits.resize(2);
    lane.hits[0].key = first.id;
    lane.hits[1].key = last.id;
    lane.hits[1].at = Beats(100);
    p = withPattern(p, pattern);
    p = withKeyChanged(p, first.id, [](Key& k) { k.level = Decibels(-3); });
    p = cutInto(p, source, 4);
    QCOMPARE(keyAt(p, Row::Cuts, 0, 0)->id, first.id);
    QCOMPARE(keyAt(p, Row::Cuts, 0, 0)->level.value, -3.0);
    QVERIFY(!keyAt(p, Row::Cuts, 7, 0));
    QCOMPARE(int(p.patterns[0]->lanes[0].hits.size()),
             1); // the hit of the key that went is gone with it
  }

  void twoSourcesHavePagesAndPartsOfTheirOwn() {
    Id a = 0, b = 0;
    Project p = withSource({}, sourceOf(drumLoop(100, 8)), &a);
    p = withSource(p, sourceOf(drumLoop(90, 8)), &b);
    p = cutInto(cutInto(p, a, 4), b, 4);
    QCOMPARE(keyAt(p, Row::Cuts, 0, 0)->sound.source, a);
    QCOMPARE(keyAt(p, Row::Cuts, 0, 1)->sound.source, b);
    QVERIFY(keyAt(p, Row::Cuts, 0, 0)->part != keyAt(p, Row::Cuts, 0, 1)->part);
    p = cutInto(p, a, 12); // grows round the other's page
    QCOMPARE(keyAt(p, Row::Cuts, 0, 1)->sound.source, b);
    QCOMPARE(int(p.keys.size()), 16);
    p = withoutSource(p, a);
    QCOMPARE(int(p.keys.size()), 4);
    QCOMPARE(int(p.parts.size()), 1);
  }

  void valuesAreHeldInRange() {
    auto made = clickProject({0});
    Project p = withKeyChanged(made.project, made.key, [](Key& k) {
      k.level = Decibels(99);
      k.pan = -7;
      k.tune = Semitones(500);
      k.envelope.sustain = 3;
    });
    const Key& key = *findKey(p, made.key);
    QCOMPARE(key.level.value, 12.0);
    QCOMPARE(key.pan, -1.0);
    QCOMPARE(key.tune.value, 48.0);
    QCOMPARE(key.envelope.sustain, 1.0);
    p = withSectionChanged(p, p.sections[0].id, [](Section& s) { s.bars = -4; });
    QCOMPARE(p.sections[0].bars, 1);
  }

  void sectionsMoveAndPatternsTakeTheirSections() {
    auto made = clickProject({0});
    Id other = 0;
    Project p = withPattern(made.project, Pattern{}, &other);
    Section s;
    s.pattern = other;
    s.name = "b";
    p = withSection(p, s, 99);
    p = withSectionMoved(p, p.sections[1].id, -5);
    QCOMPARE(p.sections[0].name, std::string("b"));
    p = withoutPattern(p, other);
    QCOMPARE(int(p.sections.size()), 1);
    QVERIFY(withoutPattern(p, made.pattern) == p); // the last one stays
  }

  void undoAndRedoWithoutLimit() {
    History history(Project{});
    for (int i = 1; i <= 2000; ++i) {
      Project next = *history.current();
      next.tempo = Bpm(50 + i * 0.01);
      history.apply("step " + std::to_string(i), next);
    }
    QCOMPARE(history.names().size(), std::size_t(2001));
    while (history.canUndo()) history.undo();
    QCOMPARE(history.current()->tempo.value, 90.0);
    while (history.canRedo()) history.redo();
    QCOMPARE(history.current()->tempo.value, 70.0);
    history.goTo(1000);
    QCOMPARE(history.current()->tempo.value, 60.0);
    history.apply("other", Project{});
    QVERIFY(!history.canRedo());
    QCOMPARE(history.names().back(), std::string("other"));
  }

  void draggingIsOneStep() {
    History history(Project{});
    for (int i = 0; i < 50; ++i) {
      Project next = *history.current();
      next.tempo = Bpm(100 + i);
      history.apply("tempo", next, "tempo");
    }
    QCOMPARE(history.names().size(), std::size_t(2));
    history.settle();
    Project next = *history.current();
    next.tempo = Bpm(77);
    history.apply("tempo", next, "tempo");
    QCOMPARE(history.names().size(), std::size_t(3));
    history.undo();
    QCOMPARE(history.current()->tempo.value, 149.0);
  }

  void stepsMergeOnlyWhereNothingCameBetween() {
    History history(Project{});
    const auto at = [](double bpm) {
      Project p;
      p.tempo = Bpm(bpm);
      return p;
    };
    history.apply("a", at(100), "x");
    history.apply("b", at(101), "y"); // another gesture
    history.apply("a", at(102), "x"); // the first one again: something came between
    QCOMPARE(history.names(), (std::vector<std::string>{"Opened", "a", "b", "a"}));
    history.apply("plain", at(103)); // no gesture at all
    history.apply("plain", at(104));
    QCOMPARE(history.names().size(), std::size_t(6));
    history.apply("c", at(105), "z");
    history.apply("c again", at(106), "z");
    QCOMPARE(history.names().back(), std::string("c")); // the name of its first part
    QCOMPARE(history.current()->tempo.value, 106.0);
    history.undo();
    QCOMPARE(history.current()->tempo.value, 104.0); // all of the gesture
    history.redo();
    history.apply("c", at(107), "z"); // after going back and forth it is another gesture
    QCOMPARE(history.names().size(), std::size_t(8));
    history.undo();
    QCOMPARE(history.current()->tempo.value, 106.0);
    // Nothing merges into the state that was opened.
    History fresh(Project{});
    fresh.apply("q", at(99), {});
    fresh.goTo(0);
    fresh.apply("q", at(98), "q");
    QCOMPARE(fresh.names().size(), std::size_t(2));
    fresh.undo();
    QCOMPARE(fresh.current()->tempo.value, Project{}.tempo.value);
  }

  void theSameFeelIsKeptOnce() {
    Groove groove;
    groove.name = "quay";
    groove.length = wholeBeats(4);
    groove.steps.resize(2);
    groove.steps[1].at = wholeBeats(1);
    Id first = 0, again = 0, other = 0;
    Project p = withGroove({}, groove, &first);
    p = withGroove(std::move(p), groove, &again);
    QCOMPARE(again, first);
    QCOMPARE(p.grooves.size(), std::size_t(1));
    groove.steps[1].late = 100;
    p = withGroove(std::move(p), groove, &other);
    QVERIFY(other != 0 && other != first);
    QCOMPARE(p.grooves.size(), std::size_t(2));
  }

  void oldValuesStayAsTheyWere() {
    const auto made = clickProject({0, 1});
    const Project before = made.project;
    Project after = withPatternChanged(before, made.pattern, [](Pattern& p) { p.lanes.clear(); });
    after = withoutKey(after, made.key);
    QVERIFY(before == made.project);
    QCOMPARE(int(before.patterns[0]->lanes[0].hits.size()), 2);
    QVERIFY(before.sources[0].get() == after.sources[0].get()); // sound is shared, never copied
  }

  void correctionsWin() {
    Source source = sourceOf(drumLoop(100, 8));
    source.heard = Analysis{};
    source.heard->tempo.emplace().bpm = Bpm(100);
    source.heard->downbeats = {Seconds(0.5)};
    source.heard->beats = {Seconds(0.5), Seconds(1.1)};
    QCOMPARE(gridOf(source)->tempo.value, 100.0);
    QCOMPARE(beatsNow(source).size(), std::size_t(2));
    source.corrections.tempo = Bpm(50);
    source.corrections.downbeat = Seconds(0.2);
    QCOMPARE(gridOf(source)->tempo.value, 50.0);
    QCOMPARE(gridOf(source)->downbeat.value, 0.2);
    QVERIFY(std::abs(beatsNow(source).front().value - 0.2) < 1e-9);
  }

  // Beats that were followed stay followed when a person corrects the level or the downbeat.
  void correctionsKeepThePlayedBeats() {
    Source source = sourceOf(makeSound(Samples(48000 * 12, 0.1f)));
    Analysis heard;
    TempoHeard tempo;
    tempo.bpm = Bpm(100);
    tempo.steady = false;
    heard.tempo = tempo;
    for (int b = 0; b < 16; ++b) heard.beats.push_back(Seconds(0.2 + b * 0.6 + 0.02 * (b % 3)));
    heard.downbeats = {heard.beats[0], heard.beats[4], heard.beats[8], heard.beats[12]};
    source.heard = heard;
    QCOMPARE(beatsNow(source), heard.beats);
    QCOMPARE(int(ResolvedSource(source).bars().size()), 4);

    source.corrections.tempo = Bpm(50); // half: every second played beat
    QCOMPARE(int(beatsNow(source).size()), 8);
    QCOMPARE(beatsNow(source)[3], heard.beats[6]);
    source.corrections.tempo = Bpm(200); // twice: midpoints between the played ones
    QCOMPARE(int(beatsNow(source).size()), 31);
    QCOMPARE(beatsNow(source)[2], heard.beats[1]);

    source.corrections = {};
    source.corrections.downbeat = heard.beats[2];
    QCOMPARE(beatsNow(source), heard.beats); // the beats stay, the bars move
    QCOMPARE(ResolvedSource(source).bars()[0], heard.beats[2]);
    source.corrections.downbeat = Seconds(heard.beats[2].value + 0.25); // between two beats
    const auto moved = beatsNow(source);
    QCOMPARE(moved.size(), heard.beats.size());
    double nearest = 1;
    for (const auto& beat : moved)
      nearest = std::min(nearest, std::abs(beat.value - source.corrections.downbeat->value));
    QVERIFY(nearest < 0.01);
    for (std::size_t i = 1; i < moved.size(); ++i) // as uneven as they were played
      QVERIFY(std::abs((moved[i] - moved[i - 1]).value - 0.6) < 0.06);

    source.corrections = {};
    source.corrections.tempo = Bpm(117); // another tempo: an even grid
    const auto even = beatsNow(source);
    QVERIFY(std::abs(even[5].value - even[4].value - 60 / 117.0) < 1e-9);
  }

  void aMovedDownbeatMovesTheSections() {
    Source source;
    source.heard.emplace();
    Analysis& heard = *source.heard;
    heard.duration = Seconds(20);
    heard.tempo = TempoHeard{Bpm(120), 0.9, {}, {}};
    for (int b = 0; b < 40; ++b) heard.beats.push_back(Seconds(b * 0.5));
    for (int b = 0; b < 40; b += 4) heard.downbeats.push_back(Seconds(b * 0.5));
    heard.sections = {{Seconds(0), Seconds(8), "A"}, {Seconds(8), Seconds(20), "B"}};
    QVERIFY(ResolvedSource(source).sections() == heard.sections);
    source.corrections.downbeat = Seconds(0.5); // one beat later
    const auto moved = ResolvedSource(source).sections();
    QCOMPARE(moved.size(), std::size_t(2));
    QVERIFY(std::abs(moved[1].start.value - 8.5) < 1e-9 && moved[0].end == moved[1].start);
    source.corrections = {};
    QVERIFY(ResolvedSource(source).sections() == heard.sections); // taken back, all is as heard
  }

  void aFullRowTakesNoMoreKeys() {
    Id source = 0, first = 0;
    Project p = withSource({}, sourceOf(makeSound(sine(200, 0.1, 48000))), &source);
    for (int column = 0; column < kColumns; ++column)
      p = withKeySound(std::move(p), Row::Body, column, 0, {source, 0}, "body");
    p = withKeySound(std::move(p), Row::Floor, 0, 0, {source, 0}, "floor", &first);
    QVERIFY(withRole(p, first, Row::Body) == p);
    QCOMPARE(findKey(withRole(p, first, Row::Air), first)->row, Row::Air);
  }

  void hitsAreCalledWhatTheyAreSaidToBe() {
    const auto toSnare = [](std::vector<HitClass>& hits) { hits = {HitClass::Snare}; };
    const auto toHat = [](std::vector<HitClass>& hits) { hits = {HitClass::Hat}; };
    Source source = sourceOf(drumLoop(100, 8));
    source.heard.emplace();
    for (int i = 0; i < 6; ++i) {
      Onset onset;
      onset.at = Seconds(i * 0.3);
      onset.hits = {HitClass::Other};
      onset.sure = {0.1, 0.1, 0.1, 0.1};
      onset.group = i % 2;
      source.heard->onsets.push_back(onset);
    }
    Id id = 0;
    const Project before = withSource({}, source, &id);
    const auto called = [&](const Project& p) {
      std::string out;
      const ResolvedSource resolved(*findSource(p, id));
      for (const auto& onset : resolved.onsets()) out += std::string(nameOf(onset.hits[0])) + ' ';
      return out;
    };
    const Project one = withHitsChanged(before, id, Seconds(0.3), false, toSnare);
    QCOMPARE(called(one), std::string("other snare other other other other "));
    const auto sure = [&](const Project& p, std::size_t hit) {
      const ResolvedSource resolved(*findSource(p, id));
      return resolved.onsets()[hit].sure[0];
    };
    QCOMPARE(sure(one, 1), 1.0);
    QCOMPARE(sure(one, 3), 0.1);
    // Saying what it was called already makes it sure, and says nothing of the others.
    const Project agreed = withHitsChanged(before, id, Seconds(0.3), true, [](auto&) {});
    QCOMPARE(called(agreed), called(before));
    QCOMPARE(sure(agreed, 1), 1.0);
    QCOMPARE(sure(agreed, 3), 0.1);
    const Project alike = withHitsChanged(one, id, Seconds(0.9), true, toHat);
    QCOMPARE(called(alike), std::string("other hat other hat other hat "));
    QCOMPARE(called(withHitsChanged(before, id, Seconds(7), true, toHat)), // no such hit
             called(before));
    QCOMPARE(called(before), std::string("other other other other other other "));
  }
};

QTEST_APPLESS_MAIN(TestModel)
#include "tst_model.moc"
