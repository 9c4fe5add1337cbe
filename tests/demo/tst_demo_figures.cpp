// What is measured in the demo's sources and patterns is as it was: cuts, fits, loops, breaks,
// chords, timing, likeness.
#include "beat/grooves.h"
#include "beat/hits.h"
#include "beat/novelty.h"
#include "beat/read_break.h"
#include "beat/resolved_timing.h"
#include "beat/roles.h"
#include "beat/similarity.h"
#include "beat/timing.h"
#include "catch/phrases.h"
#include "cut/fit.h"
#include "cut/loop_finder.h"
#include "cut/slice_levels.h"
#include "cut/slicing.h"
#include "demo/the_demo.h"
#include "kept.h"
#include "notes/free_space.h"
#include "play/bounce.h"
#include "support.h"
#include "tones/bass_line.h"
#include "tones/chord_line.h"

using namespace tuvvo;
using namespace tuvvo::test;

class TestDemoFigures : public QObject {
  Q_OBJECT
  Project m_demo;
  std::vector<SourcePtr> m_own;
  KeptJson m_now;

  static KeptJson told(const std::vector<Cut>& cuts) {
    KeptJson out = KeptJson::array();
    for (const auto& cut : cuts) out.push_back({cut.start.value, cut.end.value});
    return out;
  }
  static KeptJson told(const FitRow& row) {
    return {int(row.method),
            figure(row.semitones.value),
            figure(row.cents.value),
            figure(row.resultBpm.value),
            figure(row.bpmErrorPercent),
            figure(row.stretchPercent),
            figure(row.gap.value),
            row.keyDistance,
            figure(row.centsOff),
            figure(row.cost)};
  }

private slots:
  void initTestCase() {
    m_demo = theDemo();
    for (const auto& source : m_demo.sources)
      if (!source->kit) m_own.push_back(source);
    QVERIFY(m_own.size() >= 3);
  }
  void init() { m_now = KeptJson::object(); }

  void cutsAreWhatTheyWere() {
    for (const auto& source : m_own) {
      const auto cut = [&](const std::string& name, CutSettings settings) {
        for (CutEnd end : {CutEnd::Next, CutEnd::Decay}) {
          settings.end = end;
          m_now[source->name + ", " + name + (end == CutEnd::Decay ? ", to its decay" : "")] =
              told(cutSource(*source, settings));
        }
      };
      for (int mode = 0; mode < int(CutMode::Hand); ++mode)
        for (bool fromDownbeat : {false, true})
          cut("way " + std::to_string(mode) + (fromDownbeat ? " from the downbeat" : ""),
              {.mode = CutMode(mode), .fromDownbeat = fromDownbeat});
      cut("many hits", {.sensitivity = 0.9});
      cut("few hits", {.sensitivity = 0.1});
      cut("kicks and hats", {.classes = {true, false, true, false}});
      cut("triplets", {.mode = CutMode::Beats, .perBeat = 3});
      cut("two bars", {.mode = CutMode::Bars, .barsEach = 2});
      const double all = toSeconds(source->sound->frames(), source->sound->rate()).value;
      std::vector<Seconds> taps;
      for (int i = 1; i < 6; ++i) taps.emplace_back(all * i / 6.3);
      for (bool toOnset : {false, true})
        m_now[source->name + (toOnset ? ", taps to hits" : ", taps")] =
            told(withTapCuts(*source, taps, {Milliseconds(90), toOnset}));
      const auto late = lateOf(*source, taps);
      m_now[source->name + ", taps late"] = late ? KeptJson(figure(late->value)) : KeptJson();
      KeptJson snaps = KeptJson::array();
      for (int i = 1; i < 20; ++i) {
        const auto at = Frames(source->sound->frames().value * i / 20);
        snaps.push_back({snapped(*source, at).value,
                         nearestCrossing(*source->sound, at, Milliseconds(5)).value});
      }
      m_now[source->name + ", snapped"] = snaps;
      if (source->cuts.size() < 3) continue;
      const Cut& middle = source->cuts[source->cuts.size() / 2];
      const Frames there(middle.start.value + 3000);
      m_now[source->name + ", one more"] = told(withCutAdded(*source, there));
      m_now[source->name + ", one over"] =
          told(withCutOver(*source, Frames(there.value - 9000), Frames(there.value + 20000)));
      m_now[source->name + ", one less"] = told(withCutRemoved(*source, middle.id));
      for (int by : {-200000, -400, 400, 200000}) {
        const std::string name = source->name + ", by " + std::to_string(by);
        m_now[name + ", its start"] =
            told(withCutStartMoved(*source, middle.id, Frames(middle.start.value + by)));
        m_now[name + ", its end"] =
            told(withCutEndMoved(*source, middle.id, Frames(middle.end.value + by)));
      }
    }
    compareKept("demo-cuts.json", m_now);
  }

  void fitsAndLoopsAreWhatTheyWere() {
    for (const auto& source : m_own) {
      for (double bpm : {70.0, 90.0, 140.0})
        for (bool keyed : {false, true}) {
          const auto question = fitQuestion(*source, Bpm(bpm),
                                            keyed ? std::optional(KeyName{5, true}) : std::nullopt);
          KeptJson rows = KeptJson::array(), beats = KeptJson::array();
          for (const auto& row : planFit(question)) rows.push_back(told(row));
          for (const auto& move : planBeat(question))
            beats.push_back({figure(move.tempo.value), figure(move.percent), told(move.row)});
          const std::string name =
              source->name + " to " + std::to_string(int(bpm)) + (keyed ? " in F minor" : "");
          m_now[name] = rows;
          m_now[name + ", the beat instead"] = beats;
          m_now[name + ", cheapest"] = figure(cheapestFit(question));
        }
      for (int bars : {1, 2}) {
        KeptJson places = KeptJson::array();
        for (const auto& place : findLoops(*source, {bars, {}, {}}))
          places.push_back({place.start.value, place.end.value, place.firstBar,
                            figure(place.levelDb), figure(place.spectrumDb), figure(place.phase),
                            figure(place.harmony), figure(place.seam), place.chord});
        m_now[source->name + ", loops of " + std::to_string(bars)] = places;
      }
    }
    compareKept("demo-fits.json", m_now);
  }

  void breaksAndPhrasesAreWhatTheyWere() {
    JobContext job;
    for (const auto& source : m_own) {
      KeptJson hits = KeptJson::array(), all = KeptJson::array();
      if (const auto reading = readBreak(*source); reading.ok()) {
        for (const auto& hit : reading->hits)
          hits.push_back({figure(hit.at.value), int(hit.hit), hit.group, figure(hit.beat),
                          figure(hit.velocity), hit.sure, hit.alone,
                          alikeOf(*source, hit.at, hit.hit)});
        for (const auto& one : exemplarsOf(*source, *reading))
          all.push_back(
              {int(one.hit), one.group, one.start.value, one.end.value, figure(one.velocity)});
        m_now[source->name + ", beats"] = {figure(reading->beats), figure(reading->tempo.value)};
      }
      m_now[source->name + ", as a break"] = hits;
      m_now[source->name + ", exemplars"] = all;
      KeptJson phrases = KeptJson::array();
      const auto tell = [&](const Phrase& phrase) {
        phrases.push_back({phrase.start.value, phrase.end.value,
                           figure(costOf(phrase, {m_demo.tempo, m_demo.key}))});
      };
      detectPhrases(*source->sound, {Seconds(0.3), Seconds(4), Seconds(0.3)}, job, tell);
      m_now[source->name + ", phrases"] = phrases;
      const auto uneven = source->heard ? unevennessOf(*source->heard) : std::nullopt;
      m_now[source->name + ", unevenness"] = uneven ? KeptJson(figure(uneven->value)) : KeptJson();
      KeptJson origins = KeptJson::array();
      for (const auto& origin : originsOf(m_demo, source->id))
        origins.push_back({origin.source, figure(origin.share)});
      m_now[source->name + ", made of"] = origins;
    }
    compareKept("demo-breaks.json", m_now);
  }

  void patternsMeasureWhatTheyDid() {
    LoudnessCache loudness;
    for (const auto& pattern : m_demo.patterns) {
      const std::string name = "pattern " + std::to_string(pattern->id) + ", ";
      const auto meeting = meetingOf(*pattern);
      m_now[name + "length"] = {lengthOf(*pattern).value, meeting ? meeting->value : 0};
      KeptJson lanes, roles, bars, chords, kicks, heard;
      for (const auto& lane : pattern->lanes) {
        lanes.push_back({lane.part, laneLength(*pattern, lane.part).value});
        const ResolvedTiming timing(m_demo, *pattern, lane.part);
        for (const auto& hit : lane.hits) {
          const auto apart = timing.heardApart(hit);
          heard.push_back({figure(timing.heardAt(hit)), figure(apart.late.value),
                           figure(timing.velocityOf(hit)), noteOf(m_demo, hit)});
        }
      }
      for (const auto& row : rolesOverTime(m_demo, *pattern))
        for (double share : row) roles.push_back(figure(share));
      const auto alike = barsAlike(m_demo, *pattern);
      for (const auto& bar : alike)
        bars.push_back({bar.like, bar.letter, bar.exact, figure(bar.share)});
      bars.push_back(figure(meanSimilarity(alike)));
      for (const auto& span : chordsOf(m_demo, *pattern))
        chords.push_back({span.from.value, span.until.value, span.chord.root,
                          std::string(span.chord.kind->ending), span.source});
      for (const auto& kick : kicksOf(m_demo, *pattern))
        kicks.push_back({figure(kick.heard), kick.key});
      m_now[name + "lanes"] = lanes;
      m_now[name + "heard"] = heard;
      m_now[name + "roles"] = roles;
      m_now[name + "bars"] = bars;
      m_now[name + "chords"] = chords;
      m_now[name + "kicks"] = kicks;
      for (const auto& source : m_own) {
        const Novelty n = noveltyOf(m_demo, *pattern, source->id);
        m_now[name + "novelty of " + source->name] = {n.slices,         figure(n.order),
                                                      figure(n.rhythm), figure(n.pitch),
                                                      figure(n.length), figure(n.total)};
      }
      std::vector<RecordedHit> take;
      Random random(4);
      for (const auto& lane : pattern->lanes)
        for (const auto& hit : lane.hits)
          take.push_back({.key = hit.key,
                          .at = hit.at + Beats(std::int64_t(random.bipolar() * 40)),
                          .velocity = 0.5 + 0.4 * random.unit(),
                          .when = Seconds(inBeats(hit.at) * 60 / m_demo.tempo.value)});
      const auto timing = timingOf(m_demo, *pattern, take);
      const auto told = [](const TimingFigures& f) -> KeptJson {
        return {f.hits, figure(f.mean.value), figure(f.spread.value), figure(f.trend.value),
                figure(f.trendError.value)};
      };
      KeptJson parts = {told(timing.all), int(timing.verdict)};
      for (const auto& part : timing.parts)
        parts.push_back({part.part, told(part.grid), told(part.feel)});
      m_now[name + "timing"] = parts;
      if (const auto pair = lowPairOf(m_demo, *pattern)) {
        const auto kick = analyseLow(m_demo, *findKey(m_demo, pair->kick));
        const auto room = freeSpaceOf(m_demo, *pattern, *pair, kick);
        m_now[name + "below"] = {pair->kick,
                                 pair->bass,
                                 figure(kick.fundamental.value),
                                 figure(kick.ring.value),
                                 room.bassNote,
                                 figure(room.apart),
                                 figure(room.overlap),
                                 figure(room.ringBeats),
                                 figure(room.freeBeats),
                                 figure(room.bassAfter)};
      }
    }
    for (const auto& source : m_own)
      for (auto by : {LevelBy::Whole, LevelBy::Attack}) {
        KeptJson levels = KeptJson::array();
        const auto slices = slicesOf(m_demo, source->id);
        for (const auto& level : levelsOf(m_demo, slices, by, loudness))
          levels.push_back({level.key, figure(level.lufs), figure(level.peak)});
        const auto spread = levelSpread(m_demo, slices, by, loudness);
        levels.push_back({figure(spread.lu), spread.loudest, spread.quietest});
        m_now[source->name + ", levels " + std::to_string(int(by))] = levels;
      }
    compareKept("demo-figures.json", m_now);
  }
};

QTEST_GUILESS_MAIN(TestDemoFigures)
#include "tst_demo_figures.moc"
