// Sources, cuts, fits, the crate's facets, tempo maps, timelines and edits, over values on
// their ends and between them.
#include "sweeps/sweep.h"
#include "sweeps/world.h"

#include "beat/grooves.h"
#include "crate/facet.h"
#include "cut/fit.h"
#include "cut/loop_finder.h"
#include "cut/slice_levels.h"
#include "listen/tap_tempo.h"
#include "midi/clock.h"
#include "midi/controllers.h"
#include "midi/message.h"
#include "midi/velocity_curve.h"
#include "mix/every_parameter.h"
#include "model/resolved_source.h"
#include "song/first_song.h"
#include "song/timeline.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestSweepSources : public QObject {
  Q_OBJECT
  World m_world = madeWorld(8);
  const Project& project() const { return m_world.project; }

  static KeptJson told(const std::vector<Cut>& cuts) {
    KeptJson out = KeptJson::array();
    for (const auto& cut : cuts)
      out.push_back({cut.start.value, cut.end.value, cut.byHand, cut.fadeIn.value});
    return out;
  }
  static KeptJson told(const ResolvedSource& s) {
    KeptJson out = KeptJson::array(), bars = out, onsets = out, sections = out;
    for (Seconds beat : s.beats()) out.push_back(beat.value);
    for (Seconds bar : s.bars()) bars.push_back(bar.value);
    for (const auto& onset : s.onsets()) {
      KeptJson hits = KeptJson::array();
      for (HitClass hit : onset.hits) hits.push_back(int(hit));
      onsets.push_back({onset.at.value, hits, onset.sure[0]});
    }
    for (const auto& section : s.sections())
      sections.push_back({section.start.value, section.end.value, section.label});
    return {out,
            bars,
            onsets,
            sections,
            s.downbeat(),
            s.steady(),
            s.even() ? KeptJson{s.even()->firstS, s.even()->beatS} : KeptJson()};
  }
  static KeptJson told(const FitRow& r) {
    return {int(r.method),
            r.semitones.value,
            r.cents.value,
            r.resultBpm.value,
            r.bpmErrorPercent,
            r.stretchPercent,
            r.gap.value,
            r.resultKey ? r.resultKey->tonic + 12 * int(r.resultKey->minor) : -1,
            r.keyDistance,
            r.centsOff,
            r.cost};
  }

private slots:
  void sourcesResolved() {
    Sweep sweep("resolved");
    for (Id id : {m_world.drums, m_world.chords}) {
      const Source& plain = *findSource(project(), id);
      for (double bpm : {0.0, 30.0, 45.0, 60.0, 89.9, 90.0, 120.0, 180.0, 400.0})
        for (double downbeat : {-1.0, 0.0, 0.3, 1.0 / 3, 2.0})
          for (bool steady : {true, false}) {
            Source s = plain;
            if (bpm > 0) s.corrections.tempo = Bpm(bpm);
            if (downbeat >= 0) s.corrections.downbeat = Seconds(downbeat);
            s.heard->tempo->steady = steady;
            sweep.tell("grid", told(ResolvedSource(s)));
          }
      for (double apart : {0.0, 0.004, 0.005, 0.006, -0.005}) {
        Source s = plain;
        s.corrections.hits = {{Seconds(std::max(0.0, apart)), {HitClass::Hat}, {}},
                              {Seconds(1.0 + apart), {}, {}}};
        sweep.tell("said", told(ResolvedSource(s)));
      }
      for (int kind = 0; kind < int(kSoundKinds); ++kind) {
        Source s = plain;
        s.corrections.kind = SoundKind(kind);
        sweep.tell("role", KeptJson(int(suggestedRow(s))));
        sweep.tell("way", KeptJson(int(usualMode(s))));
        for (int way = 0; way <= int(CutMode::Hand); ++way)
          sweep.tell("can", KeptJson(canCut(s, CutMode(way))));
      }
      for (int i = -2; i < 40; ++i)
        sweep.tell("among", KeptJson(placeAmong(plain.heard->beats, Seconds(i / 3.0))));
    }
    sweep.compare();
  }

  void cuts() {
    Sweep sweep("cuts");
    for (Id id : {m_world.drums, m_world.chords}) {
      const Source& s = *findSource(project(), id);
      for (int mode = 0; mode <= int(CutMode::Hand); ++mode)
        for (int value : {1, 2, 3, 8, 16})
          for (CutEnd end : {CutEnd::Next, CutEnd::Decay})
            for (bool fromDownbeat : {false, true}) {
              CutSettings settings{.mode = CutMode(mode),
                                   .sensitivity = value / 16.0,
                                   .classes = {value != 2, value != 3, value != 8, true},
                                   .perBeat = std::min(value, 8),
                                   .barsEach = value,
                                   .parts = value * 2,
                                   .end = end,
                                   .fromDownbeat = fromDownbeat};
              sweep.tell("cut", told(cutSource(s, settings)));
            }
      const std::int64_t all = s.sound->frames().value;
      for (int i = -1; i <= 33; ++i) {
        const Frames at(all * i / 32);
        sweep.tell("snapped", KeptJson(snapped(s, at).value));
        for (double reach : {0.0, 1.0, 30.0})
          sweep.tell("crossing",
                     KeptJson(nearestCrossing(*s.sound, at, Milliseconds(reach)).value));
        sweep.tell("added", told(withCutAdded(s, at)));
        sweep.tell("over", told(withCutOver(s, at, Frames(at.value + all / 20))));
        sweep.tell("decayed",
                   KeptJson(decayedAt(*s.sound, Frames(std::max<std::int64_t>(0, at.value)),
                                      s.sound->frames())
                                .value));
      }
      for (std::size_t c = 0; c < std::min<std::size_t>(4, s.cuts.size()); ++c) {
        const Cut& cut = s.cuts[c];
        sweep.tell("removed", told(withCutRemoved(s, cut.id)));
        for (std::int64_t by : {-1 << 20, -100, -1, 0, 1, 100, 1 << 20}) {
          sweep.tell("start", told(withCutStartMoved(s, cut.id, Frames(cut.start.value + by))));
          sweep.tell("end", told(withCutEndMoved(s, cut.id, Frames(cut.end.value + by))));
        }
      }
      for (double late : {0.0, 90.0, 500.0})
        for (bool toOnset : {false, true}) {
          const std::vector<Seconds> taps{Seconds(0.1), Seconds(0.4),  Seconds(0.45),
                                          Seconds(1.1), Seconds(2.05), Seconds(90)};
          sweep.tell("taps", told(withTapCuts(s, taps, {Milliseconds(late), toOnset})));
          const auto behind = lateOf(s, taps);
          sweep.tell("late", KeptJson(behind ? behind->value : -1e9));
        }
      for (int bars : {1, 2, 4, 64})
        for (const auto& place : findLoops(s, {.bars = bars, .minor = {}, .root = {}}))
          sweep.tell("loop",
                     {place.start.value, place.end.value, place.firstBar, place.bars, place.chord});
      if (const auto groove = grooveOf(s); groove.ok())
        sweep.tell("groove", KeptJson::parse(toJson(*groove).dump()));
    }
    LoudnessCache loudness;
    for (auto by : {LevelBy::Whole, LevelBy::Attack}) {
      for (const auto& level : levelsOf(project(), m_world.slices, by, loudness))
        sweep.tell("level",
                   {level.key, std::round(level.lufs * 100), std::round(level.peak * 100)});
      const auto spread = levelSpread(project(), m_world.slices, by, loudness);
      sweep.tell("spread", {std::round(spread.lu * 100), spread.loudest, spread.quietest});
    }
    QVERIFY(sweep.answers() > 600);
    sweep.compare();
  }

  void fitsAndFacets() {
    Sweep sweep("fits");
    const std::optional<KeyName> keys[] = {
        {}, KeyName{0, false}, KeyName{9, true}, KeyName{6, false}};
    for (double bpm : {0.0, 42.0, 60.0, 85.0, 90.0, 170.0, 190.0})
      for (const auto& key : keys)
        for (double hits : {0.0, 2.0, 9.0})
          for (double cents : {0.0, 34.0, -50.0}) {
            FitQuestion q{.bpm = bpm > 0 ? std::optional(Bpm(bpm)) : std::nullopt,
                          .key = key,
                          .tuning = Cents(cents),
                          .hitsASecond = hits,
                          .rings = hits < 5,
                          .toBpm = Bpm(85),
                          .toKey = keys[std::size_t(bpm) % 4]};
            KeptJson rows = KeptJson::array();
            for (const auto& row : planFit(q)) rows.push_back(told(row));
            for (const auto& move : planBeat(q))
              rows.push_back({move.tempo.value, move.percent, told(move.row)});
            rows.push_back(cheapestFit(q));
            sweep.tell("plan", rows);
            for (int method = 0; method < 3; ++method)
              for (int st : {-6, -1, 0, 2})
                sweep.tell("row", told(fitRow(q, FitMethod(method), Semitones(st))));
          }
    std::vector<Facet> facets;
    Random random(41);
    for (int i = 0; i < 160; ++i) {
      Facet f;
      f.tempo = oneOf(random, {0.0f, 45.0f, 85.0f, 90.0f, 95.0f, 100.7f, 170.0f});
      f.seconds = oneOf(random, {0.5f, 10.0f});
      f.tuning = oneOf(random, {0.0f, -50.0f, 34.0f});
      f.hitsASecond = oneOf(random, {0.0f, 4.0f});
      f.bars = oneOf(random, {0, 1, 2, 4, 8});
      f.key = std::int8_t(oneOf(random, {-1, 0, 7, 9, 12, 21, 23}));
      f.kind = std::int8_t(int(random.next() % (kSoundKinds + 1)) - 1);
      f.stars = std::uint8_t(random.next() % 6);
      f.heard = random.next() % 8 != 0;
      f.steady = random.next() % 2;
      f.exact = random.next() % 2;
      f.cleared = random.next() % 2;
      f.used = random.next() % 2;
      f.copies = int(random.next() % 3);
      facets.push_back(f);
    }
    for (const BeatNow& beat : {BeatNow{Bpm(85), KeyName{9, true}}, BeatNow{Bpm(90), {}}}) {
      for (const auto& f : facets) {
        const auto q = fitQuestion(f, beat);
        sweep.tell("question", {q.bpm ? q.bpm->value : -1, q.key ? q.key->tonic : -1,
                                q.key && q.key->minor, q.tuning.value, q.hitsASecond, q.rings});
        sweep.tell("reach", KeptJson(double(reachOf(f, beat))));
      }
      std::vector<std::string> words{
          "",          "85-90 bpm",      "85 bpm", "near beat", "key of beat",   "c minor",
          "is loop",   "is break",       "2 bars", "2-8 bars",  "3 stars",       "clear",
          "not clear", "used",           "unused", "steady",    "exact",         "missing",
          "duplicate", "exactly 90 bpm", "fits",   "am",        "one fifth of c"};
      for (const auto& form : queryForms()) words.emplace_back(form.words);
      for (const auto& text : words) {
        const Query query = readQuery(text);
        const FacetFilter filter(query, beat);
        KeptJson taken = KeptJson::array();
        for (const auto& f : facets) taken.push_back(filter.takes(f));
        KeptJson said = KeptJson::array();
        for (const auto& phrase : query.reading) said.push_back(phrase);
        sweep.tell("asked", {text, said, taken});
      }
    }
    QVERIFY(sweep.answers() > 1500);
    sweep.compare();
  }

  void timeAndSong() {
    Sweep sweep("time");
    const std::vector<std::vector<TempoChange>> maps{
        {},
        {{at(4), Bpm(120), false}},
        {{at(4), Bpm(120), true}, {at(8), Bpm(60), false}},
        {{at(2), Bpm(90), true}, {at(2.5), Bpm(400), true}, {at(3), Bpm(20), true}}};
    for (const auto& changes : maps) {
      const TempoMap map(Bpm(90), changes);
      for (int eighth = 0; eighth <= 80; ++eighth) {
        const Beats beats = at(eighth / 8.0);
        const Seconds s = map.secondsAt(beats);
        sweep.tell(
            "map",
            {map.tempoAt(beats).value, map.ramps(double(beats.value)), map.changeAfter(beats).value,
             s.value, map.beatsAt(s).value, map.frameAt(beats, Hertz(48000)).value,
             map.beatsAt(Frames(eighth * 6000), Hertz(48000)).value,
             map.framesBetween(double(beats.value), double(beats.value) + 700, Hertz(44100))});
      }
    }
    const Timeline line = timelineOf(project());
    for (const auto& placed : line.sections)
      sweep.tell("placed", {placed.section, placed.pattern, placed.startBar, placed.bars,
                            placed.start.value, placed.length.value});
    for (std::int64_t tick = 0; tick <= line.length.value + kTicksPerBeat;
         tick += kTicksPerBeat / 2) {
      const auto* section = sectionAt(line, Beats(tick));
      const BarPlace place = barPlaceOf(line, Beats(tick));
      sweep.tell("place", {section ? section->section : 0, place.bar, place.beat});
      for (Meter meter : {Meter{4, 4}, Meter{7, 8}, Meter{3, 4}}) {
        const BarPlace own = barPlaceOf(meter, Beats(tick));
        sweep.tell("bar", {own.bar, own.beat});
      }
    }
    for (int bar = -1; bar <= line.bars + 1; ++bar)
      sweep.tell("bar at", KeptJson(barAt(line, bar).value));
    for (int sent = -1; sent <= 128; ++sent)
      for (const VelocityCurve& curve : {VelocityCurve{1, 127, 1}, {20, 100, 0.25}, {20, 100, 4}})
        sweep.tell("velocity", KeptJson(curve.velocityOf(sent)));
    Random random(8);
    std::vector<int> strikes;
    for (int i = 0; i < 40; ++i) {
      strikes.push_back(int(random.next() % 128));
      if (const auto curve = curveOf(strikes))
        sweep.tell("curve", {curve->softest, curve->hardest, curve->bend});
    }
    for (double apart : {0.25, 0.5, 0.51, 1.0, 2.9, 3.1}) {
      TapTempo taps;
      ClockFollower clock;
      for (int i = 0; i < 60; ++i) {
        if (i < 12) taps.tap(Seconds(i * apart + (i % 3) * 0.01));
        clock.pulse(Seconds(i * apart / 24));
        const auto tapped = taps.tempo();
        const auto followed = clock.tempo();
        sweep.tell("tapped", {tapped ? tapped->bpm.value : 0, tapped ? tapped->uncertaintyBpm : 0,
                              tapped ? tapped->taps : 0, followed ? followed->value : 0});
      }
      ClockSender sender;
      KeptJson due = KeptJson::array();
      for (int i = 0; i < 40; ++i) due.push_back(sender.due(i % 25 * apart / 20));
      sweep.tell("clock", due);
    }
    for (auto layout : {NoteLayout::Percussion, NoteLayout::Deck, NoteLayout::Pitch})
      for (int note = -1; note <= 128; ++note) {
        ControllerSettings taught;
        taught.layout = layout;
        taught.notes = {{40, {Row::Air, 3}}};
        const auto spot = taught.spotOf(note);
        sweep.tell("spot", {spot ? int(spot->row) : -1, spot ? spot->column : -1});
      }
    MidiParser parser;
    for (int i = 0; i < 600; ++i) {
      const auto byte =
          std::uint8_t(random.next() % 5 == 0 ? 0x80 + random.next() % 128 : random.next() % 128);
      if (const auto m = parser.feed(byte)) {
        std::array<std::uint8_t, 3> bytes{};
        const int count = bytesOf(*m, bytes);
        sweep.tell("midi", {int(m->kind), m->channel, m->number, m->value, count, bytes[0],
                            bytes[1], bytes[2]});
      }
    }
    sweep.compare();
  }

  void edits() {
    Sweep sweep("edits");
    for (const auto& key : project().keys) {
      for (int row = 0; row < kRowCount; ++row)
        sweep.tell("role", withRole(project(), key.id, Row(row)));
      for (auto whose : {Whose::Key, Whose::Part, Whose::Role})
        for (bool solo : {false, true}) {
          const Project flipped = withMuteFlipped(project(), key.id, whose, solo);
          KeptJson heard = KeptJson::array();
          for (const auto& k : flipped.keys)
            heard.push_back({audible(flipped, k, anySolo(flipped)),
                             soundsOnItsBus(flipped, k, anySolo(flipped))});
          sweep.tell("muted", heard);
        }
      sweep.tell("no key", withoutKey(project(), key.id));
      Layer layer;
      layer.sound = {m_world.drums, 0};
      Project layered = withLayer(project(), key.id, layer);
      for (int mode = 0; mode < 4; ++mode)
        sweep.tell("layered", withLayerMode(layered, key.id, LayerMode(mode)));
      for (std::size_t i : {0, 1, 2}) sweep.tell("less", withoutLayer(layered, key.id, i));
      sweep.tell("stretch", {stretchOf(*findSource(project(), key.sound.source), key).start.value,
                             stretchOf(*findSource(project(), key.sound.source), key).end.value,
                             nameOf(project(), key)});
    }
    for (const auto& section : project().sections)
      for (int steps : {-100, -1, 0, 1, 100})
        sweep.tell("moved", withSectionMoved(project(), section.id, steps));
    for (const auto& section : project().sections)
      sweep.tell("no section", withoutSection(project(), section.id));
    for (Id id : m_world.patterns) {
      sweep.tell("no pattern", withoutPattern(project(), id));
      sweep.tell("another song", withFirstSong(project(), id));
      Project empty = project();
      empty.sections.clear();
      sweep.tell("first song", withFirstSong(empty, id));
    }
    for (Id id : {m_world.drums, m_world.chords}) {
      sweep.tell("no source", withoutSource(project(), id));
      sweep.tell("its tempo", withTempoAndKeyOf(project(), *findSource(project(), id)));
    }
    for (int row = 0; row < kRowCount; ++row) {
      sweep.tell("free", KeptJson(freeColumn(project(), Row(row)).value_or(-1)));
      for (int column = 0; column < kColumns; ++column)
        for (int page = 0; page < 3; ++page) {
          const Key* key = keyAt(project(), Row(row), column, page);
          sweep.tell("key at", KeptJson(key ? key->id : 0));
        }
    }
    sweep.compare();
  }

  /// Of every parameter: its ends, a step over them, places between, and as people write them.
  void parameters() {
    Sweep sweep("parameters");
    for (const auto& [id, p] : everyParameter()) {
      KeptJson answer = {id};
      for (double value : {p->least, p->most, p->standard, p->least - p->step, p->most + p->step,
                           (p->least + p->most) / 2, p->least + p->step}) {
        const double inside = clamped(*p, value);
        const std::string text = written(*p, inside);
        answer.push_back({inside, placeOf(*p, inside), text, parsed(*p, text).value_or(-1e9)});
      }
      for (double place : {-0.5, 0.0, 0.25, 0.5, 1.0, 1.5}) answer.push_back(valueAt(*p, place));
      sweep.tell("parameter", answer);
    }
    for (const auto& type : treatmentTypes()) {
      KeptJson said = KeptJson::array();
      for (const auto& figure : type.parameters)
        for (double value :
             {figure.parameter.least, figure.parameter.most, 0.0, 0.25, 1.0 / 3, 2.0}) {
          Treatment treatment{type.usual, {}};
          figure.set(treatment, value);
          clamp(treatment);
          said.push_back(describe(treatment));
        }
      sweep.tell("described", said);
    }
    QVERIFY(sweep.answers() > 80);
    sweep.compare();
  }
};

QTEST_APPLESS_MAIN(TestSweepSources)
#include "tst_sweep_sources.moc"
