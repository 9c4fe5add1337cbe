// Everything that makes a pattern of a pattern, over drawn ones.
#include "sweeps/sweep.h"
#include "sweeps/world.h"

#include "beat/flip.h"
#include "beat/grooves.h"
#include "beat/hand.h"
#include "beat/hit_shapes.h"
#include "beat/novelty.h"
#include "beat/played_tempo.h"
#include "beat/read_break.h"
#include "beat/resolved_timing.h"
#include "beat/roles.h"
#include "beat/similarity.h"
#include "beat/slices_in_order.h"
#include "beat/start_levels.h"
#include "beat/take.h"
#include "beat/timing.h"
#include "beat/vary.h"
#include "formats/pattern_text.h"
#include "formats/shipped.h"
#include "notes/cut_notes.h"
#include "notes/free_space.h"
#include "notes/notes.h"
#include "tones/bass_line.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestSweepBeats : public QObject {
  Q_OBJECT
  World m_world = madeWorld();
  const Project& project() const { return m_world.project; }
  PatternPtr pattern(std::size_t i) const { return findPattern(project(), m_world.patterns[i]); }

  static KeptJson told(const TimingFigures& f) {
    return {f.hits, f.mean.value, f.spread.value, f.trend.value, f.trendError.value};
  }
  /// What is played along with a pattern: its own hits, some of them late, and some between.
  std::vector<RecordedHit> playedAlong(const Pattern& p, std::uint64_t seed) const {
    Random random(seed + 900);
    std::vector<RecordedHit> out;
    for (const auto& lane : p.lanes)
      for (const auto& hit : lane.hits) {
        if (random.next() % 3 == 0) continue;
        RecordedHit struck;
        struck.key = hit.key;
        struck.at = hit.at + Beats(oneOf(random, {0, 0, 40, -40, 120, 480}));
        struck.velocity = oneOf(random, {0.3, 0.8, 1.0});
        struck.length = Beats(oneOf(random, {0, 240, 960}));
        struck.when =
            Seconds(double(struck.at.value) / double(kTicksPerBeat) * 60 / kWorldTempo.value);
        out.push_back(struck);
      }
    return out;
  }

private slots:
  void patternsOfPatterns() {
    Sweep sweep("patterns");
    for (std::size_t i = 0; i < m_world.patterns.size(); ++i) {
      const Pattern& p = *pattern(i);
      const Pattern& other = *pattern((i + 1) % m_world.patterns.size());
      for (int bars : {1, 2, 3, 64}) sweep.tell("bars", withBars(p, bars));
      sweep.tell("joined", joined(project(), p, other));
      for (int from : {0, 1, 3}) sweep.tell("some bars", barsOf(p, from, 1));
      sweep.tell("written out", writtenOut(p));
      for (Meter meter : {Meter{3, 4}, Meter{7, 8}, Meter{4, 4}})
        sweep.tell("meter", withMeter(p, meter));
      for (int perBeat : {1, 3, 4, 8})
        for (double strength : {0.0, 0.5, 1.0}) {
          QuantiseOptions options{.quietest = 0.5, .perBeat = perBeat, .strength = strength};
          sweep.tell("quantised", withQuantised(p, project(), options));
          options.key = m_world.kick;
          options.quietest = 0;
          sweep.tell("a key quantised", withQuantised(p, project(), options));
        }
      for (Id key : {m_world.kick, m_world.hat, m_world.slices[2]})
        for (const auto& [from, until] :
             {std::pair{0.0, 1.0}, {1.0, 2.5}, {3.0, 0.5}, {1.0, 1.0}, {-1.0, 0.25}, {7.75, 8.25}})
          sweep.tell("not heard", withoutHeard(p, project(), key, at(from), at(until)));
      for (int way = 0; way <= int(LastBar::Reverse); ++way)
        for (std::uint64_t seed : {1, 2})
          sweep.tell("last bar", withLastBarChanged(project(), p, LastBar(way), seed));
      for (double keep : {0.0, 0.25, 0.5, 1.0})
        sweep.tell("thinned", thinned(project(), p, keep, i));
      for (const auto& lane : p.lanes) sweep.tell("dropped", withPartDropped(p, lane.part, 0));
      const auto text = patternText(project(), p);
      sweep.tell("text", KeptJson(text));
      if (const auto back = patternFromText(project(), text); back.ok())
        sweep.tell("read back", back->pattern);
    }
    QVERIFY(sweep.answers() > 1500);
    sweep.compare();
  }

  void clipsOfHits() {
    Sweep sweep("clips");
    for (std::size_t i = 0; i < m_world.patterns.size(); ++i) {
      const Pattern& p = *pattern(i);
      for (const auto& lane : p.lanes)
        for (int which = 0; which <= int(BeatClass::Between); ++which) {
          HitClip clip;
          for (const auto& hit : hitsOf(p, lane.part, BeatClass(which)))
            clip.push_back({lane.part, hit});
          if (clip.empty()) continue;
          sweep.tell("span", KeptJson(spanOf(clip).value));
          sweep.tell("gone", without(p, clip));
          for (int ticks : {-480, 240, 960, 1 << 20})
            sweep.tell("moved", withReplaced(p, clip, changed(p, clip, [ticks](Hit& hit) {
                                               hit.at = hit.at + Beats(ticks);
                                               hit.velocity *= 1.5;
                                             })));
          for (double factor : {0.25, 0.5, 1.0, 2.0, 3.0})
            sweep.tell("stretched", withReplaced(p, clip, stretched(p, clip, factor)));
          for (auto shape : {VelocityShape::Rise, VelocityShape::Fall, VelocityShape::Arch,
                             VelocityShape::Dip, VelocityShape::Alternate})
            sweep.tell("shaped", withReplaced(p, clip, velocityShaped(clip, shape, 0.75)));
          sweep.tell("strummed", withReplaced(p, clip, strummed(clip, Milliseconds(-20))));
          sweep.tell("even", withReplaced(p, clip, evenlySpaced(clip)));
          sweep.tell("across", withReplaced(p, clip, pannedAcross(clip, 0.5)));
          sweep.tell("dealt", withReplaced(p, clip, dealtAnew(clip, 3)));
          sweep.tell("humanised", withReplaced(p, clip, humanised(clip, Milliseconds(8), 0.1, 3)));
          for (int times : {1, 3, 64})
            sweep.tell("pasted", withPasted(p, clip, at(1), times, Beats(kTicksPerBeat)));
        }
      for (int quarter = 0; quarter < 32; ++quarter)
        for (Meter meter : {Meter{4, 4}, Meter{3, 4}, Meter{7, 8}, Meter{6, 8}})
          if (i == 0) sweep.tell("class", KeptJson(int(classOf(at(quarter / 4.0), meter))));
    }
    QVERIFY(sweep.answers() > 1500);
    sweep.compare();
  }

  void timing() {
    Sweep sweep("timing");
    for (const auto& groove : shippedGrooves()) {
      KeptJson steps = KeptJson::array();
      for (const auto& step : groove.steps) steps.push_back({step.at.value, step.late, step.level});
      sweep.tell("groove", {groove.name, groove.length.value, steps});
    }
    for (std::size_t i = 0; i < m_world.patterns.size(); ++i) {
      const Pattern& p = *pattern(i);
      KeptJson figures = KeptJson::array();
      for (const auto& lane : p.lanes) {
        const ResolvedTiming timed(project(), p.meter, lane);
        for (const auto& hit : lane.hits) {
          const auto apart = timed.heardApart(hit);
          figures.push_back({timed.placeOf(hit.at), timed.heardAt(hit), timed.velocityOf(hit),
                             apart.ticks, apart.late.value});
          for (int perBeat : {1, 3, 4}) {
            const Beats line = timed.nearestLine(timed.heardAt(hit), perBeat);
            figures.push_back({line.value,
                               timed.microTimingOf(hit.key, line, timed.heardAt(hit)).value,
                               timed.velocityFor(hit.key, line, 0.5)});
          }
        }
      }
      sweep.tell("heard", figures);
      const auto played = playedAlong(p, i);
      const auto timing = timingOf(project(), p, played);
      KeptJson picture = {int(timing.verdict), timing.even(), told(timing.all),
                          timing.odd ? int(*timing.odd) : -1};
      for (const auto& part : timing.parts) picture.push_back({told(part.grid), told(part.feel)});
      sweep.tell("picture", picture);
      for (double strength : {-1.0, 0.0, 0.5, 1.0})
        for (int perBeat : {0, 3, 4})
          sweep.tell("take", withTake(p, project(), played, {perBeat, strength}));
      std::vector<PlayedHit> tapped;
      for (const auto& hit : played) tapped.push_back({hit.when, hit.velocity});
      std::sort(tapped.begin(), tapped.end(),
                [](const auto& a, const auto& b) { return a.at < b.at; });
      if (const auto tempo = tempoOfHits(tapped)) {
        KeptJson others = KeptJson::array();
        for (Bpm bpm : tempo->otherwise) others.push_back(bpm.value);
        sweep.tell("tempo", {tempo->bpm.value, tempo->downbeat.value, tempo->steadiness, others});
      }
    }
    for (int tick = -kTicksPerBeat; tick < 5 * kTicksPerBeat; tick += kTicksPerBeat / 8) {
      KeptJson figures = KeptJson::array();
      for (double percent : {50.0, 58.0, 66.7, 80.0})
        for (int pair : {1, 2})
          figures.push_back(swung(tick, percent, Beats(kTicksPerBeat * pair / 2)));
      for (Meter meter : {Meter{4, 4}, Meter{3, 4}, Meter{7, 8}})
        for (int shape = 0; shape < 7; ++shape)
          figures.push_back(accentAt(Beats(tick), meter, AccentShape(shape), 0.5));
      const Groove& groove = project().grooves.front();
      figures.push_back({lateness(groove, Beats(tick)), levelAt(groove, Beats(tick))});
      sweep.tell("feel", figures);
    }
    sweep.compare();
  }

  void whatIsMeasured() {
    Sweep sweep("measured");
    LoudnessCache loudness;
    for (std::size_t i = 0; i < m_world.patterns.size(); ++i) {
      const Pattern& p = *pattern(i);
      KeptJson alike = KeptJson::array();
      for (const auto& bar : barsAlike(project(), p))
        alike.push_back({bar.like, bar.letter, bar.exact, bar.share});
      for (int a = -1; a <= p.bars; ++a)
        for (int bar = 0; bar <= p.bars; ++bar)
          alike.push_back(barSimilarity(project(), p, a, bar));
      sweep.tell("alike", alike);
      for (Id source : {m_world.drums, m_world.chords}) {
        const Novelty n = noveltyOf(project(), p, source);
        sweep.tell("novelty", {n.slices, n.order, n.rhythm, n.pitch, n.length, n.total});
        sweep.tell("dealt anew", withOrderChanged(project(), p.id, source, i));
      }
      KeptJson roles = KeptJson::array();
      for (const auto& row : rolesOverTime(project(), p)) roles.push_back(row);
      sweep.tell("roles", roles);
      const auto meeting = meetingOf(p);
      sweep.tell("meeting", KeptJson(meeting ? meeting->value : -1));
      sweep.tell("peak", KeptJson(std::round(likelyPeak(project(), p, loudness).value * 100)));
      if (const auto pair = lowPairOf(project(), p)) {
        const LowSound low = analyseLow(project(), *findKey(project(), pair->kick));
        const FreeSpace room = freeSpaceOf(project(), p, *pair, low);
        sweep.tell("room", {pair->kick, pair->bass, low.ring.value, room.bassNote, room.apart,
                            room.overlap, room.ringBeats, room.freeBeats, room.bassAfter});
        sweep.tell("bass moved", withBassMoved(project(), p.id, room));
      }
    }
    const std::vector<Id> parts = [&] {
      std::vector<Id> all;
      for (const auto& part : project().parts) all.push_back(part.id);
      return all;
    }();
    for (auto among : {Among::ByRole, Among::AsTheyAre})
      for (std::size_t i = 0; i < 4; ++i)
        sweep.tell("start levels",
                   withStartLevels(project(), parts, m_world.patterns[i], among, loudness));
    Project fresh = project();
    for (std::size_t i = 0; i < fresh.parts.size(); i += 2) fresh.parts[i].bus.level = Decibels(-6);
    fresh.patterns.resize(3);
    sweep.tell("fresh parts", KeptJson(freshParts(fresh)));
    for (int kept = 0; kept < 3; ++kept) {
      Project muted = project();
      for (auto& part : muted.parts) part.muted = int(part.role) == kept;
      const std::vector<Id> some(parts.begin(), parts.begin() + std::ptrdiff_t(parts.size()) / 2);
      sweep.tell("some start levels",
                 withStartLevels(muted, some, m_world.patterns[std::size_t(kept)], Among::ByRole,
                                 loudness));
    }
    for (int bars : {1, 2, 5})
      for (Meter meter : {Meter{4, 4}, Meter{3, 4}, Meter{7, 8}}) {
        Pattern empty;
        empty.bars = bars;
        empty.meter = meter;
        sweep.tell("starter drums", withStarterDrums(empty, project()));
      }
    for (bool countIn : {false, true})
      for (Id source : {m_world.drums, m_world.chords}) {
        Id made = 0;
        sweep.tell("in order", withSlicesInOrder(project(), source, {countIn}, &made));
      }
    for (const auto& note : notesOf(project(), loudness)) {
      sweep.tell("note", {note.id.substr(0, note.id.find(':')), int(note.stage), int(note.tone),
                          note.finding.index(), note.opens});
      if (note.fix) sweep.tell("note done", note.fix(project()));
    }
    for (Id source : {m_world.drums, m_world.chords})
      sweep.tell("heard in the song", KeptJson(heardInSong(project(), source).value));
    sweep.compare();
  }

  /// Of sounds that are struck, at one place, with something before it, and cut a little later.
  void notesOfCuts() {
    Sweep sweep("cut-notes");
    constexpr double rate = 24000, struck = 0.1;
    const auto tell = [&](double before, double level, double rise, double late, double fade) {
      Samples samples(std::size_t(0.5 * rate), 0.0f);
      for (std::size_t i = 0; i < samples.size(); ++i) {
        const double t = double(i) / rate - struck;
        const double loud =
            t < -before ? 0
            : t < 0     ? level
                        : 0.8 * std::min(1.0, (t + 1e-6) / (rise + 1e-9)) * std::exp(-t * 6);
        samples[i] = float(i % 2 ? loud : -loud);
      }
      Source source = sourceOf(makeSound(std::move(samples), rate));
      Analysis heard;
      Onset onset;
      onset.at = onset.cut = Seconds(struck);
      heard.onsets = {onset};
      source.heard = heard;
      Cut cut;
      cut.id = 1;
      cut.start = Frames(toNearest<std::int64_t>((struck + late) * rate));
      cut.end = Frames(toNearest<std::int64_t>(0.4 * rate));
      cut.fadeIn = cut.fadeOut = Milliseconds(fade);
      source.cuts = {cut};
      std::vector<Note> notes;
      addCutNotes(project(), source, notes);
      KeptJson answer = KeptJson::array();
      for (const auto& note : notes) {
        answer.push_back({int(note.tone), note.finding.index()});
        if (const auto* air = std::get_if<finding::DeadAir>(&note.finding))
          answer.push_back(air->longest.value);
      }
      sweep.tell("cut", answer);
    };
    for (double before : {0.0, 0.001, 0.0025, 0.0035, 0.004, 0.005, 0.011, 0.014, 0.018, 0.05})
      for (double level : {0.01, 0.39, 0.41, 0.8})
        for (double rise : {0.0, 0.008, 0.014, 0.03})
          for (double late : {-0.001, 0.001, 0.002, 0.006, 0.024, 0.026})
            tell(before, level, rise, late, late > 0.02 ? 0 : 1);
    for (double air : {0.0285, 0.0295, 0.0305, 0.04})
      for (double rise : {0.0, 0.05, 0.2})
        for (double fade : {0.0, 0.24, 0.26, 0.49, 0.51, 4.0})
          for (double level : {0.002, 0.003}) {
            tell(0, level, rise, -air, fade);
            tell(0.01, level, rise, -air, fade);
          }
    sweep.compare();
  }

  void breaksAndLines() {
    Sweep sweep("lines");
    const Source& drums = *findSource(project(), m_world.drums);
    const auto reading = readBreak(drums);
    QVERIFY(reading.ok());
    for (const auto& hit : reading->hits) {
      sweep.tell("read", {hit.at.value, int(hit.hit), hit.group, hit.beat, hit.velocity, hit.sure,
                          hit.alone});
      for (int to = 0; to < 4; ++to) {
        sweep.tell("alike", KeptJson(alikeOf(drums, hit.at, HitClass(to))));
        sweep.tell("said",
                   withHitMoved(project(), drums.id, hit.at, hit.hit, HitClass(to), to % 2));
      }
    }
    Id made = 0;
    sweep.tell("played",
               withBreakPlayed(project(), drums.id, *reading, usualKeys(project()), 0, &made));
    sweep.tell("rebuilt", withBreakRebuilt(project(), drums.id, *reading, 0, &made));
    for (std::size_t i = 0; i < m_world.patterns.size(); ++i) {
      const Pattern& p = *pattern(i);
      if (const auto follows = withDrumsFollowing(project(), p.id, drums); follows.ok())
        sweep.tell("follows", *follows);
      KeptJson spans = KeptJson::array();
      const auto chords = chordsOf(project(), p);
      for (const auto& span : chords)
        spans.push_back({span.from.value, span.until.value, span.chord.root, span.source});
      sweep.tell("chords", spans);
      sweep.tell("chords written", withChordsWritten(project(), p));
      for (double beat : {0.0, 2.0, 3.5})
        sweep.tell("a chord", withChord(project(), p, at(beat), "Dm"));
      for (int tones = 0; tones < 4; ++tones)
        for (int rhythm = 0; rhythm < 4; ++rhythm) {
          BassPlan plan;
          plan.key = m_world.bass;
          plan.tones = BassPlan::Tones(tones);
          plan.rhythm = BassPlan::Rhythm(rhythm);
          plan.lowest = i % 2 ? 33 : 28;
          if (const auto bass = withBass(project(), p, plan); bass.ok()) sweep.tell("bass", *bass);
        }
      for (int inversion = 0; inversion < 4; ++inversion)
        for (double strum : {-30.0, 0.0, 20.0}) {
          ChordPlan plan;
          plan.key = m_world.bass;
          plan.inversion = inversion;
          plan.strum = Milliseconds(strum);
          if (const auto played = withChordsPlayed(project(), p, plan); played.ok())
            sweep.tell("chords played", *played);
        }
      Project ending = project(); // slices that end one another
      for (auto& key : ending.keys) {
        key.choke = key.page % 2 + 1;
        key.mono = key.column % 2;
        key.gate = key.column % 3 == 0;
      }
      for (const auto& span : chordsOf(ending, p))
        spans.push_back({span.from.value, span.until.value, span.chord.root, span.source});
      sweep.tell("chords that end", spans);
      KeptJson notes = KeptJson::array();
      for (const auto& lane : p.lanes)
        for (const auto& hit : lane.hits) {
          const int note = noteOf(project(), hit);
          notes.push_back({note, int(agrees(note, chordAt(chords, hit.at), project().key))});
        }
      sweep.tell("notes", notes);
    }
    sweep.compare();
  }

  /// Beats made of a sound by themselves, by many seeds.
  void flips() {
    Sweep sweep("flips");
    JobContext job;
    const Project fresh = newProject(TUVVO_DATA_DIR, job).project;
    for (Id id : {m_world.drums, m_world.chords})
      for (int kind = 0; kind < 3; ++kind)
        for (std::uint64_t seed = 1; seed <= 12; ++seed) {
          Source source = *findSource(project(), id);
          source.cuts.clear();
          if (kind == 1) source.heard->downbeats = {source.heard->beats[1]};
          if (kind == 2) // nothing for two and four: it goes by where hits lie
            for (auto& onset : source.heard->onsets) onset.hits = {HitClass::Kick};
          Project start = fresh;
          if (seed % 3 == 0) start.meter = {3, 4};
          const auto made =
              flip(start, source, {seed % 2 ? std::optional(Bpm(84)) : std::nullopt, seed});
          QVERIFY(made.ok());
          sweep.tell("flip", *made);
        }
    sweep.compare();
  }

  void spreadsOfKeys() {
    Sweep sweep("spreads");
    for (int by = 0; by <= int(SpreadBy::Brightness); ++by)
      for (int row = 0; row < 4; ++row)
        for (int column = 0; column < 8; ++column) {
          const auto hit = spreadHit(SpreadBy(by), row, column, 0.7, project().key, Hertz(110));
          sweep.tell("spread", {hit.velocity, hit.tune.value, hit.start, hit.length, hit.bright});
        }
    sweep.compare();
  }
};

QTEST_APPLESS_MAIN(TestSweepBeats)
#include "tst_sweep_beats.moc"
