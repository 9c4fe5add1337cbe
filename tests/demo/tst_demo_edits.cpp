// What every edit makes of the demo's patterns and project is as it was.
#include "beat/break_pattern.h"
#include "beat/grooves.h"
#include "beat/hand.h"
#include "beat/hit_shapes.h"
#include "beat/hits.h"
#include "beat/novelty.h"
#include "beat/read_break.h"
#include "beat/slices_in_order.h"
#include "beat/take.h"
#include "beat/vary.h"
#include "cut/slice_levels.h"
#include "cut/slicing.h"
#include "demo/the_demo.h"
#include "formats/pattern_json.h"
#include "formats/project_json.h"
#include "kept.h"
#include "notes/free_space.h"
#include "notes/notes.h"
#include "support.h"
#include "tones/bass_line.h"
#include "tones/chord_line.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemoEdits : public QObject {
  Q_OBJECT
  Project m_demo;
  KeptJson m_text, m_now;

  static KeptJson textOf(const Project& project) {
    return KeptJson::parse(projectToText(project, 0));
  }
  static KeptJson textOf(const Pattern& pattern) { return KeptJson::parse(toJson(pattern).dump()); }

  void tell(const std::string& name, const Project& after) {
    QVERIFY2(!m_now.contains(name), name.c_str());
    m_now[name] = changesOf(m_text, textOf(after));
  }
  void tell(const std::string& name, const Pattern& before, const Pattern& after) {
    QVERIFY2(!m_now.contains(name), name.c_str());
    m_now[name] = changesOf(textOf(before), textOf(after));
  }
  static std::string place(const std::string& what, std::size_t which) {
    return what + " " + std::to_string(which + 1);
  }
  std::vector<SourcePtr> own() const {
    std::vector<SourcePtr> out;
    for (const auto& source : m_demo.sources)
      if (!source->kit && !source->recipe) out.push_back(source);
    return out;
  }

private slots:
  void initTestCase() {
    m_demo = theDemo();
    m_text = textOf(m_demo);
  }
  void init() { m_now = KeptJson::object(); }

  void ofPatterns() {
    for (std::size_t i : {std::size_t(0), m_demo.patterns.size() - 1}) {
      const Pattern& p = *m_demo.patterns[i];
      const auto told = [&](const std::string& what, const Pattern& after) {
        tell(place("pattern", i) + ", " + what, p, after);
      };
      for (int bars : {1, 2 * p.bars}) told(std::to_string(bars) + " bars long", withBars(p, bars));
      told("joined", joined(m_demo, p, *m_demo.patterns[0]));
      told("its second bar", barsOf(p, 1, 1));
      told("written out", writtenOut(p));
      for (Meter meter : {Meter{3, 4}, Meter{7, 8}})
        told("in " + std::to_string(meter.beats), withMeter(p, meter));
      for (int perBeat : {2, 3, 4}) {
        QuantiseOptions half{.perBeat = perBeat, .strength = 0.5}, loud = half;
        loud.quietest = 0.6;
        told("quantised by half, " + std::to_string(perBeat), withQuantised(p, m_demo, half));
        told("loud ones quantised, " + std::to_string(perBeat), withQuantised(p, m_demo, loud));
      }
      for (auto way :
           {LastBar::Drop, LastBar::Fill, LastBar::Roll, LastBar::OtherSlice, LastBar::Reverse})
        told("last bar " + std::to_string(int(way)), withLastBarChanged(m_demo, p, way, 3));
      for (double keep : {0.3, 0.7})
        told("thinned to " + std::to_string(keep), thinned(m_demo, p, keep, 2));
      told("chords written", withChordsWritten(m_demo, p));
      told("a chord", withChord(m_demo, p, wholeBeats(2), "Fmaj7"));
      for (const auto& lane : p.lanes)
        told("without part " + std::to_string(lane.part) + " in bar 2",
             withPartDropped(p, lane.part, 1));
    }
    compareKept("demo-patterns.json", m_now);
  }

  void ofHits() {
    const Pattern& p = *m_demo.patterns[0];
    for (const auto& lane : p.lanes)
      for (int which = 0; which <= int(BeatClass::Between); ++which) {
        HitClip clip;
        for (const auto& hit : hitsOf(p, lane.part, BeatClass(which)))
          clip.push_back({lane.part, hit});
        if (clip.empty()) continue;
        const std::string name =
            "part " + std::to_string(lane.part) + ", class " + std::to_string(which) + ", ";
        tell(name + "gone", p, without(p, clip));
        tell(name + "later", p, withReplaced(p, clip, changed(p, clip, [](Hit& hit) {
                                               hit.at = hit.at + Beats(kTicksPerBeat / 3);
                                               hit.velocity *= 0.5;
                                             })));
        tell(name + "stretched", p, withReplaced(p, clip, stretched(p, clip, 1.5)));
        tell(name + "pressed", p, withReplaced(p, clip, stretched(p, clip, 0.5)));
        tell(name + "rising", p,
             withReplaced(p, clip, velocityShaped(clip, VelocityShape::Rise, 0.8)));
        tell(name + "three times", p, withPasted(p, clip, wholeBeats(3), 3, spanOf(clip)));
      }
    compareKept("demo-hits.json", m_now);
  }

  void ofLines() {
    const Pattern& p = *m_demo.patterns.back();
    Id bass = 0, chords = 0;
    for (const auto& key : m_demo.keys) {
      if (!bass && key.row == Row::Floor && rootOf(m_demo, key).value > 0) bass = key.id;
      if (!chords && key.row != Row::Floor && rootOf(m_demo, key).value > 0) chords = key.id;
    }
    QVERIFY(bass);
    if (!chords) chords = bass;
    for (int tones = 0; tones <= int(BassPlan::Tones::Approach); ++tones)
      for (int rhythm = 0; rhythm <= int(BassPlan::Rhythm::Answering); ++rhythm) {
        BassPlan plan;
        plan.key = bass;
        plan.tones = BassPlan::Tones(tones);
        plan.rhythm = BassPlan::Rhythm(rhythm);
        const auto made = withBass(m_demo, p, plan);
        QVERIFY2(made.ok(), made.ok() ? "" : made.error().text().c_str());
        tell("bass " + std::to_string(tones) + " " + std::to_string(rhythm), p, *made);
      }
    for (int inversion : {0, 1, 2})
      for (double strum : {0.0, 30.0, -20.0}) {
        const auto made = withChordsPlayed(m_demo, p,
                                           {.key = chords,
                                            .inversion = inversion,
                                            .lowest = 50,
                                            .strum = Milliseconds(strum),
                                            .velocity = 0.6});
        QVERIFY(made.ok());
        tell("chords " + std::to_string(inversion) + " " + std::to_string(int(strum)), p, *made);
      }
    compareKept("demo-lines.json", m_now);
  }

  void ofTheProject() {
    const auto sources = own();
    const Id first = m_demo.patterns[0]->id;
    for (std::size_t i = 0; i < sources.size(); ++i) {
      const Source& source = *sources[i];
      const auto told = [&](const std::string& what, const Project& after) {
        tell(place("source", i) + ", " + what, after);
      };
      told("in another order", withOrderChanged(m_demo, first, source.id, 5));
      for (bool countIn : {false, true}) {
        Id made = 0;
        told(countIn ? "slices after a count-in" : "slices in order",
             withSlicesInOrder(m_demo, source.id, {countIn}, &made));
      }
      if (const auto reading = readBreak(source); reading.ok()) {
        Id made = 0;
        told("played by drums",
             withBreakPlayed(m_demo, source.id, *reading, usualKeys(m_demo), 0, &made));
        told("rebuilt", withBreakRebuilt(m_demo, source.id, *reading, 0, &made));
        const auto& hit = reading->hits[1];
        for (bool alike : {false, true})
          told(alike ? "hats, and what is like them" : "a hat",
               withHitMoved(m_demo, source.id, hit.at, hit.hit, HitClass::Hat, alike));
      }
      if (const auto follows = withDrumsFollowing(m_demo, first, source); follows.ok())
        told("drums follow", *follows);
      if (const auto groove = grooveOf(source); groove.ok())
        told("its groove", withGroove(m_demo, *groove));
      told("taken away", withoutSource(m_demo, source.id));
      LoudnessCache loudness;
      const auto slices = slicesOf(m_demo, source.id);
      for (auto by : {LevelBy::Whole, LevelBy::Attack}) {
        const std::string way = by == LevelBy::Whole ? "" : " by attack";
        told("levels matched" + way, withLevelsMatched(m_demo, slices, {by, 0}, loudness));
        told("loudness normalised" + way, withLoudnessNormalised(m_demo, slices, by, loudness));
      }
      told("peaks normalised", withPeaksNormalised(m_demo, slices, loudness));
    }
    for (const auto& pattern : m_demo.patterns) {
      const std::string name = "pattern " + std::to_string(pattern->id) + " ";
      Id added = 0;
      const Project other = withAlternative(m_demo, pattern->id, &added);
      tell(name + "and an alternative", other);
      tell(name + "and another one playing", withFamilyPlaying(other, added));
      tell(name + "gone", withoutPattern(m_demo, pattern->id));
      if (const auto pair = lowPairOf(m_demo, *pattern)) {
        const Key* kick = findKey(m_demo, pair->kick);
        const auto room = freeSpaceOf(m_demo, *pattern, *pair, analyseLow(m_demo, *kick));
        tell(name + "kick tuned", withKickTuned(m_demo, room));
        tell(name + "kick shortened", withKickShortened(m_demo, room));
        tell(name + "bass moved", withBassMoved(m_demo, pattern->id, room));
        tell(name + "bass ducked", withBassDucked(m_demo, room));
      }
    }
    compareKept("demo-projects.json", m_now);
  }

  void ofKeysAndSections() {
    for (std::size_t i = 0; i < m_demo.keys.size(); i += 9) {
      const Key& key = m_demo.keys[i];
      const std::string name = "key " + std::to_string(key.id) + " ";
      tell(name + "gone", withoutKey(m_demo, key.id));
      tell(name + "tuned", withNoteTuned(m_demo, key.id));
      for (int row = 0; row < kRowCount; ++row)
        tell(name + "in row " + std::to_string(row), withRole(m_demo, key.id, Row(row)));
    }
    const Key &first = m_demo.keys.front(), &last = m_demo.keys.back();
    Layer layer;
    layer.sound = last.sound;
    const Project layered = withLayer(m_demo, first.id, layer);
    tell("layered", layered);
    tell("layered, the first gone", withoutLayer(layered, first.id, 0));
    tell("layered, the second gone", withoutLayer(layered, first.id, 1));
    for (int way = 0; way <= int(LayerMode::AtRandom); ++way)
      tell("layers " + std::to_string(way), withLayerMode(layered, first.id, LayerMode(way)));
    tell("settings of another", withSettingsOf(m_demo, last, {first.id, m_demo.keys[1].id}));
    for (int whose = 0; whose <= int(Whose::Role); ++whose)
      for (bool solo : {false, true})
        tell("muted " + std::to_string(whose) + (solo ? " solo" : ""),
             withMuteFlipped(m_demo, first.id, Whose(whose), solo));
    for (const auto& section : m_demo.sections) {
      const std::string name = "section " + std::to_string(section.id) + " ";
      tell(name + "gone", withoutSection(m_demo, section.id));
      for (int steps : {-1, 1})
        tell(name + std::to_string(steps), withSectionMoved(m_demo, section.id, steps));
    }
    compareKept("demo-keys.json", m_now);
  }

  void ofNotes() {
    LoudnessCache loudness;
    for (const auto& note : notesOf(m_demo, loudness)) {
      m_now[note.id] = {int(note.stage), int(note.tone), note.finding.index()};
      if (note.fix) m_now[note.id].push_back(changesOf(m_text, textOf(note.fix(m_demo))));
    }
    compareKept("demo-notes.json", m_now);
  }
};

QTEST_GUILESS_MAIN(TestDemoEdits)
#include "tst_demo_edits.moc"
