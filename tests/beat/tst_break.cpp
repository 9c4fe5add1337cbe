// Reading breaks: what they play, corrected; played by other keys, rebuilt from their own hits,
// followed. Breaks are rendered from the kit that ships by a table of hits, so that the truth is
// known.
#include "beat/read_break.h"

#include "audio/decode.h"
#include "beat/grooves.h"
#include "beat/hits.h"
#include "formats/shipped.h"
#include "listen/analyse.h"
#include "play/print.h"
#include "support.h"
#include "support/onset_envelope.h"

#include <QtTest>
#include <random>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

struct DrumHit {
  HitClass hit;
  double beat, velocity;
  double lateMs = 0;
  std::string sound = {}; ///< of the kit that ships; empty: the usual one of its class
};

const SoundPtr& drum(const DrumHit& hit) {
  static std::map<std::string, SoundPtr> drums;
  const std::string name = !hit.sound.empty()           ? hit.sound
                           : hit.hit == HitClass::Kick  ? "01 kick"
                           : hit.hit == HitClass::Snare ? "07 snare"
                           : hit.hit == HitClass::Hat   ? "14 hat"
                                                        : "12 conga";
  if (!drums.contains(name)) {
    JobContext job;
    const auto decoded = decodeFile(std::string(TUVVO_DATA_DIR) + "/kit/" + name + ".flac", job);
    if (!decoded) qFatal("%s", decoded.error().text().c_str());
    drums[name] = decoded->sound;
  }
  return drums[name];
}

/// Hits laid to the frame, whole bars long.
Source rendered(const std::vector<DrumHit>& hits, double bpm, int beats) {
  const double rate = 48000;
  Samples out(std::size_t(std::llround(beats * 60 / bpm * rate)), 0.0f);
  for (const auto& hit : hits) {
    const SoundPtr& sound = drum(hit);
    const auto at = std::llround((hit.beat * 60 / bpm + hit.lateMs / 1000) * rate);
    const float gain = 0.6f * gainOfVelocity(hit.velocity);
    for (std::int64_t i = 0; i < sound->frames().value; ++i)
      if (at + i >= 0 && at + i < std::int64_t(out.size()))
        out[std::size_t(at + i)] += gain * sound->channel(0)[std::size_t(i)];
  }
  Source source = sourceOf(makeSound(std::move(out), rate), "gate four break");
  JobContext job;
  source.heard = analyse(*source.sound, job);
  return source;
}

/// Four bars: kicks, backbeats, eighths of hats, a ghost and an extra kick.
std::vector<DrumHit> plainBreak(double hatLate = 0, double snareLate = 0) {
  std::vector<DrumHit> hits;
  for (int bar = 0; bar < 4; ++bar) {
    const double b = bar * 4;
    for (int e = 0; e < 8; ++e)
      hits.push_back({HitClass::Hat, b + e * 0.5, e % 2 ? 0.6 : 0.8,
                      e % 2   ? hatLate
                      : e % 4 ? snareLate
                              : 0});
    hits.push_back({HitClass::Kick, b, 1});
    hits.push_back({HitClass::Kick, b + 2.5, 0.85});
    if (bar % 2) hits.push_back({HitClass::Kick, b + 1.75, 0.7});
    for (double back : {1.0, 3.0}) hits.push_back({HitClass::Snare, b + back, 0.9, snareLate});
  }
  return hits;
}

/// F-measure at 20 ms with one-to-one matching (mir_eval.onset's definition; greedy in time, which
/// is exact for windows narrower than half the distance of hits).
double fMeasure(const std::vector<ReadHit>& read, const std::vector<DrumHit>& hits, HitClass which,
                double bpm) {
  std::vector<double> heard, truth;
  for (const auto& hit : read)
    if (hit.hit == which) heard.push_back(hit.at.value);
  for (const auto& hit : hits)
    if (hit.hit == which) truth.push_back(hit.beat * 60 / bpm + hit.lateMs / 1000);
  std::sort(heard.begin(), heard.end());
  std::sort(truth.begin(), truth.end());
  std::size_t i = 0, matched = 0;
  for (double t : truth) {
    while (i < heard.size() && heard[i] < t - 0.02) ++i;
    if (i < heard.size() && heard[i] <= t + 0.02) {
      ++matched;
      ++i;
    }
  }
  return heard.empty() && truth.empty()
             ? 1
             : 2.0 * double(matched) / double(heard.size() + truth.size());
}

struct InBeat {
  Project project;
  Id source = 0;
};
InBeat beatWith(const Source& source, double bpm) {
  InBeat out;
  JobContext job;
  out.project = newProject(TUVVO_DATA_DIR, job).project;
  out.project.tempo = Bpm(bpm);
  out.project = withSource(std::move(out.project), source, &out.source);
  return out;
}

} // namespace

class TestBreak : public QObject {
  Q_OBJECT
private slots:
  void aBreakIsReadByClass() {
    const auto hits = plainBreak();
    const Source source = rendered(hits, 94, 16);
    const auto reading = readBreak(source);
    QVERIFY2(reading.ok(), reading.ok() ? "" : reading.error().text().c_str());
    QVERIFY(std::abs(reading->tempo.value - 94) < 0.1);
    QCOMPARE(reading->beats, 16.0);
    for (HitClass each : {HitClass::Kick, HitClass::Snare, HitClass::Hat}) {
      const double f = fMeasure(reading->hits, hits, each, 94);
      QVERIFY2(f >= 0.95, qPrintable(QString("%1 %2").arg(int(each)).arg(f)));
    }
    // Velocities follow what was played: the second kick is softer than the first.
    std::map<double, double> kicks;
    for (const auto& hit : reading->hits)
      if (hit.hit == HitClass::Kick) kicks[std::round(hit.beat * 4) / 4] = hit.velocity;
    QVERIFY(kicks.at(0) > kicks.at(2.5) && kicks.at(2.5) > kicks.at(5.75));
  }

  /// A loop is as long as it goes round, also where its last bar is empty; another sound ends in
  /// the bar of its last hit.
  void howLongItIs() {
    Source source = rendered(plainBreak(), 94, 16);
    Analysis heard = *source.heard;
    QVERIFY(heard.loop && heard.loop->bars == 4);
    std::erase_if(heard.onsets, [](const Onset& o) { return o.at.value > 11.5 * 60 / 94; });
    const auto beatsOf = [&] {
      source.heard = heard;
      return readBreak(source)->beats;
    };
    QCOMPARE(beatsOf(), 16.0);
    heard.loop.reset();
    QCOMPARE(beatsOf(), 12.0);
    heard.loop = LoopHeard{2, true};
    QCOMPARE(beatsOf(), 12.0); // no hit is lost
  }

  void aHitIsCorrectedAndThoseLikeItOffered() {
    const Source source = rendered(plainBreak(), 94, 16);
    InBeat beat = beatWith(source, 94);
    const auto before = readBreak(*findSource(beat.project, beat.source));
    const auto snare = std::find_if(before->hits.begin(), before->hits.end(),
                                    [](const ReadHit& hit) { return hit.hit == HitClass::Snare; });
    const Seconds at = snare->at;
    const int alike = alikeOf(*findSource(beat.project, beat.source), at, HitClass::Snare);
    QVERIFY(alike >= 3); // it is one drum
    const auto count = [&](const Project& p, HitClass which) {
      const auto read = readBreak(*findSource(p, beat.source));
      return std::count_if(read->hits.begin(), read->hits.end(),
                           [&](const ReadHit& hit) { return hit.hit == which; });
    };
    const auto snares = count(beat.project, HitClass::Snare);
    const Project one =
        withHitMoved(beat.project, beat.source, at, HitClass::Snare, HitClass::Other, false);
    QCOMPARE(count(one, HitClass::Snare), snares - 1);
    QCOMPARE(count(one, HitClass::Hat),
             count(beat.project, HitClass::Hat)); // what was with it stays
    const auto read = readBreak(*findSource(one, beat.source));
    for (const auto& hit : read->hits)
      if (std::abs((hit.at - at).value) < 1e-6) QVERIFY(hit.sure);
    const Project all =
        withHitMoved(beat.project, beat.source, at, HitClass::Snare, HitClass::Other, true);
    QCOMPARE(count(all, HitClass::Snare), snares - 1 - alike);
  }

  void itIsPlayedWithOtherKeys() {
    const auto hits = plainBreak(14, 6);
    const Source source = rendered(hits, 94, 16);
    InBeat beat = beatWith(source, 94);
    const auto reading = readBreak(source);
    Id id = 0;
    const BreakKeys keys = usualKeys(beat.project);
    for (Id key : keys) QVERIFY(key != 0);
    const Project played = withBreakPlayed(beat.project, beat.source, *reading, keys, 0, &id);
    const PatternPtr pattern = findPattern(played, id);
    QVERIFY(pattern && pattern->bars == 4);
    // Every snare stands on its beat and is shifted as late as it was played.
    const Lane* snares =
        findLane(*pattern, findKey(played, keys[std::size_t(HitClass::Snare)])->part);
    QVERIFY(snares && snares->hits.size() >= 8);
    int leaning = 0;
    for (const auto& hit : snares->hits) {
      QCOMPARE(hit.at.value % kTicksPerBeat, std::int64_t(0));
      leaning += std::abs(hit.microTiming.value - 6) < 3;
    }
    QVERIFY(leaning >= 7);
    // Again: the same pattern, not another one; and at half the tempo the beat is felt alike.
    Id again = 0;
    const Project twice = withBreakPlayed(played, beat.source, *reading, keys, 0, &again);
    QCOMPARE(again, id);
    QCOMPARE(twice.patterns.size(), played.patterns.size());
    Project slow = beat.project;
    slow.tempo = Bpm(47);
    Id slowId = 0;
    slow = withBreakPlayed(slow, beat.source, *reading, keys, 0, &slowId);
    QCOMPARE(findPattern(slow, slowId)->bars, 2);
    BreakKeys none{};
    Id nothing = 99;
    QCOMPARE(
        withBreakPlayed(beat.project, beat.source, *reading, none, 0, &nothing).patterns.size(),
        beat.project.patterns.size());
    QCOMPARE(nothing, Id(0));
  }

  void itIsLaidIntoAPatternThatIsThere() {
    const Source source = rendered(plainBreak(), 94, 16);
    InBeat beat = beatWith(source, 94);
    const auto reading = readBreak(source);
    const BreakKeys keys = usualKeys(beat.project);
    const Id kickPart = findKey(beat.project, keys[0])->part,
             bassPart = keyAt(beat.project, Row::Floor, 4, 0)->part;
    Pattern there;
    there.bars = 6; // a break and a half
    Hit hit;
    hit.key = keys[0];
    hit.at = at(0.25);
    laneOf(there, kickPart).hits.push_back(hit);
    hit.key = keyAt(beat.project, Row::Floor, 4, 0)->id;
    laneOf(there, bassPart).hits.push_back(hit);
    Id id = 0, laid = 0;
    beat.project = withPattern(beat.project, there, &id);
    const Project after = withBreakPlayed(beat.project, beat.source, *reading, keys, id, &laid);
    QCOMPARE(laid, id);
    QCOMPARE(after.patterns.size(), beat.project.patterns.size());
    const PatternPtr pattern = findPattern(after, id);
    QCOMPARE(pattern->bars, 6);
    QCOMPARE(findLane(*pattern, bassPart)->hits.size(), std::size_t(1)); // of another key: stays
    int first = 0, again = 0;
    for (const auto& each : findLane(*pattern, kickPart)->hits) {
      QVERIFY(each.at != at(0.25)); // of the same key: gone
      first += each.at < wholeBeats(8);
      again += each.at >= wholeBeats(16);
    }
    QVERIFY(first > 0 && again == first); // round again to the pattern's end
  }

  void rebuiltFromItsOwnHitsItSoundsLikeItself() {
    const Source source = rendered(plainBreak(9), 94, 16);
    InBeat beat = beatWith(source, 94);
    const auto reading = readBreak(source);
    const auto drums = exemplarsOf(source, *reading);
    std::set<HitClass> found;
    for (const auto& each : drums) {
      found.insert(each.hit);
      QVERIFY(each.start < each.end && each.end <= source.sound->frames());
    }
    QVERIFY(found.contains(HitClass::Kick) && found.contains(HitClass::Snare) &&
            found.contains(HitClass::Hat));
    Id id = 0;
    const Project rebuilt = withBreakRebuilt(beat.project, beat.source, *reading, 0, &id);
    QVERIFY(id != 0);
    QCOMPARE(rebuilt.keys.size(), beat.project.keys.size() + drums.size());
    JobContext job;
    const auto printed = print(compilePattern(rebuilt, id), {}, job);
    QVERIFY(printed.ok());
    const double like = correlation(onsetEnvelope(*source.sound), onsetEnvelope(**printed));
    QVERIFY2(like >= 0.9, qPrintable(QString::number(like)));
    // As loud as the break it comes from, within 2 dB.
    double original = 0, again = 0;
    for (float v : source.sound->channel(0)) original += double(v) * v;
    for (float v : (*printed)->channel(0)) again += double(v) * v;
    const double db = 10 * std::log10(again / original);
    QVERIFY2(std::abs(db) < 2, qPrintable(QString::number(db)));
    // Done again it uses the same keys and the same pattern.
    Id twice = 0;
    const Project again2 = withBreakRebuilt(rebuilt, beat.source, *reading, 0, &twice);
    QCOMPARE(twice, id);
    QCOMPARE(again2.keys.size(), rebuilt.keys.size());
  }

  /// A low tom is no kick. Known to fail: the network that names hits takes it for one.
  void aLowTomIsNoKick() {
    std::vector<DrumHit> hits;
    for (int bar = 0; bar < 4; ++bar) {
      for (double beat : {0.0, 2.0}) hits.push_back({HitClass::Kick, bar * 4 + beat, 1});
      for (double beat : {1.0, 3.0}) hits.push_back({HitClass::Snare, bar * 4 + beat, 0.9});
      for (double beat : {2.5, 3.5})
        hits.push_back({HitClass::Other, bar * 4 + beat, 0.9, 0, "04 tom low"});
    }
    const Source source = rendered(hits, 90, 16);
    const auto reading = readBreak(source);
    QVERIFY(reading.ok());
    int toms = 0;
    for (const auto& hit : reading->hits) toms += hit.hit == HitClass::Other;
    QEXPECT_FAIL("", "Low toms are heard as kicks.", Continue);
    QCOMPARE(toms, 8);
  }

  /// Drums that are no kick, snare or hat are told apart by how they sound, and each gets a key.
  void drumsOfNoClassKeepTheirOwnSounds() {
    std::vector<DrumHit> hits;
    const std::array<const char*, 3> others{"09 rim", "12 conga", "13 wood"};
    for (int bar = 0; bar < 4; ++bar) {
      const double b = bar * 4;
      for (double beat : {0.0, 2.0}) hits.push_back({HitClass::Kick, b + beat, 1});
      for (double beat : {1.0, 3.0}) hits.push_back({HitClass::Snare, b + beat, 0.9});
      for (std::size_t i = 0; i < others.size(); ++i)
        for (double beat : {0.5 + double(i), 3.5})
          if (beat < 3.5 || bar % 3 == int(i))
            hits.push_back({HitClass::Other, b + beat, 0.9, 0, others[i]});
    }
    const Source source = rendered(hits, 90, 16);
    const auto reading = readBreak(source);
    QVERIFY(reading.ok());
    // Which of the three every exemplar without a class was cut from.
    std::set<std::string> cutFrom;
    int count = 0;
    for (const auto& drum : exemplarsOf(source, *reading)) {
      if (drum.hit != HitClass::Other) continue;
      ++count;
      const double beat = toSeconds(drum.start, source.sound->rate()).value * 90 / 60;
      for (const auto& hit : hits)
        if (std::abs(hit.beat - beat) < 0.05) cutFrom.insert(hit.sound);
    }
    QVERIFY(count == 3 || count == 4); // a drum may sound in two ways
    QCOMPARE(cutFrom, (std::set<std::string>{others.begin(), others.end()}));
    InBeat beat = beatWith(source, 90);
    Id id = 0;
    const Project rebuilt = withBreakRebuilt(beat.project, beat.source, *reading, 0, &id);
    std::set<std::string> names;
    for (const auto& key : rebuilt.keys) names.insert(key.name);
    for (const char* name :
         {"other, gate four break", "other 2, gate four break", "other 3, gate four break"})
      QVERIFY(names.contains(name));
    JobContext job;
    const auto printed = print(compilePattern(rebuilt, id), {}, job);
    QVERIFY(printed.ok());
    const double like = correlation(onsetEnvelope(*source.sound), onsetEnvelope(**printed));
    QVERIFY2(like >= 0.9, qPrintable(QString::number(like)));
  }

  /// Rendered with known offsets, heard by ear alone, taken, and laid back.
  void aFeelIsTakenFromSoundAndLaidBack() {
    double sum = 0;
    int count = 0;
    std::mt19937 random(11); // the standard's own generator: the same everywhere
    for (int n = 0; n < 6; ++n) {
      const double bpm = 80 + 9 * n;
      std::array<double, 8> late{};
      for (std::size_t e = 1; e < 8; ++e) late[e] = double(random() % 25) - 6; // ms
      std::vector<DrumHit> hits;
      for (int bar = 0; bar < 4; ++bar)
        for (int e = 0; e < 8; ++e) {
          const double ms = late[std::size_t(e)];
          hits.push_back({HitClass::Hat, bar * 4 + e * 0.5, 0.8, ms});
          if (e == 0 || e == 5) hits.push_back({HitClass::Kick, bar * 4 + e * 0.5, 1, ms});
          if (e == 2 || e == 6) hits.push_back({HitClass::Snare, bar * 4 + e * 0.5, 0.9, ms});
        }
      Source source = rendered(hits, bpm, 16);
      source.corrections.tempo =
          Bpm(bpm); // where the beat lies is said; what is early or late is heard
      source.corrections.downbeat = Seconds(0);
      const auto groove = grooveOf(source);
      QVERIFY(groove.ok());
      Project p;
      p.tempo = Bpm(bpm);
      Lane lane;
      p = withGroove(p, *groove, &lane.feel.groove);
      const ResolvedTiming timed(p, Meter{}, lane);
      for (std::size_t e = 0; e < 8; ++e) {
        const double ticks = double(e) / 2 * double(kTicksPerBeat);
        const double ms = timed.msOf(timed.placeOf(at(double(e) / 2)) - ticks).value;
        sum += std::abs(ms - late[e]);
        ++count;
      }
    }
    qInfo() << "mean error of a feel taken from sound, laid back:" << sum / count << "ms";
    QVERIFY2(sum / count < 2, qPrintable(QString::number(sum / count)));
  }

  void drumsFollowASound() {
    const Source source = rendered(plainBreak(15, 10), 94, 16);
    InBeat beat = beatWith(source, 94);
    Pattern pattern;
    const Key* hat = keyAt(beat.project, Row::Air, 0, 0);
    const Key* bass = nullptr;
    for (const auto& key : beat.project.keys)
      if (nameOf(beat.project, key) == "bass C2") bass = &key;
    QVERIFY(bass);
    Hit hit;
    hit.key = hat->id;
    laneOf(pattern, hat->part).hits.push_back(hit);
    hit.key = bass->id;
    laneOf(pattern, bass->part).hits.push_back(hit);
    const Id hats = hat->part, basses = bass->part; // the keys move with the project
    Id id = 0;
    beat.project = withPattern(beat.project, pattern, &id);
    const auto follows = withDrumsFollowing(beat.project, id, source);
    QVERIFY(follows.ok());
    const PatternPtr after = findPattern(*follows, id);
    QVERIFY(findLane(*after, hats)->feel.groove != 0);
    QCOMPARE(findLane(*after, basses)->feel.groove, Id(0)); // no drum
    const auto nothing = withDrumsFollowing(beat.project, beat.project.patterns[0]->id, source);
    QVERIFY(!nothing.ok() && !nothing.error().remedy.empty());
  }

  void whatHasNoHitsSaysSo() {
    Source still = sourceOf(makeSound(Samples(96000, 0.0f)), "still water");
    JobContext job;
    still.heard = analyse(*still.sound, job);
    QVERIFY(!readBreak(still).ok());
    QVERIFY(readBreak(still).error().text().find("still water") != std::string::npos);
    still.corrections.tempo = Bpm(90);
    QVERIFY(!readBreak(still).ok());
    // A held tone has next to no hits.
    Source tone = sourceOf(makeSound(sine(220, 8, 48000)), "tone");
    tone.heard = analyse(*tone.sound, job);
    tone.corrections.tempo = Bpm(90);
    QVERIFY(!readBreak(tone).ok());
    QVERIFY(exemplarsOf(tone, BreakReading{}).empty());
  }
};

QTEST_APPLESS_MAIN(TestBreak)
#include "tst_break.moc"
