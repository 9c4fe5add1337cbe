// Patterns as text: read back exactly, and refused with the line where it is wrong.
#include "formats/pattern_text.h"

#include "beat/grooves.h"
#include "formats/shipped.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

Project deck() {
  JobContext job;
  return newProject(TUVVO_DATA_DIR, job).project;
}

/// Hits and feels of every kind, at places of no grid.
Pattern random(const Project& project, std::uint64_t seed) {
  Random dice(seed);
  Pattern pattern;
  pattern.name = "ramp \"B\" \\ " + std::to_string(seed);
  pattern.bars = 1 + int(dice.next() % 8);
  pattern.meter = dice.next() % 3 ? Meter{4, 4} : Meter{7, 8};
  for (int lanes = 0; lanes < 4; ++lanes) {
    const Key& key = project.keys[dice.next() % project.keys.size()];
    Lane& lane = laneOf(pattern, key.part);
    lane.feel.swing16 = 50 + 30 * dice.unit();
    lane.feel.microTiming = Milliseconds(20 * dice.bipolar());
    lane.feel.lag = Beats(std::int64_t(dice.next() % 900) - 450);
    lane.feel.accent = AccentShape(dice.next() % 7);
    lane.feel.accentDepth = dice.unit() * 0.9;
    lane.feel.humanise = Milliseconds(dice.unit() * 9);
    lane.feel.seed = std::uint32_t(dice.next());
    lane.feel.quantiseStrength = dice.unit();
    if (dice.unit() < 0.4)
      lane.length = Beats(kShortestLane.value + std::int64_t(dice.next() % 50'000));
    for (int n = 0; n < 12; ++n) {
      Hit hit;
      hit.key = key.id;
      hit.at = Beats(
          std::int64_t(dice.next() % std::uint64_t(barOf(pattern.meter).value * pattern.bars)));
      hit.velocity = 0.02 + 0.98 * dice.unit();
      if (dice.unit() < 0.5) hit.microTiming = Milliseconds(60 * dice.bipolar());
      if (dice.unit() < 0.3) hit.tune = Semitones(24 * dice.bipolar());
      if (dice.unit() < 0.3) hit.length = Beats(1 + std::int64_t(dice.next() % 90'000));
      if (dice.unit() < 0.3) hit.start = dice.unit() * 0.9;
      if (dice.unit() < 0.3) hit.bright = 4 * dice.bipolar();
      if (dice.unit() < 0.3) hit.pan = dice.bipolar();
      hit.reversed = dice.unit() < 0.2;
      if (dice.unit() < 0.3)
        hit.roll = {2 + int(dice.next() % 9),
                    Beats(kShortestStep.value + std::int64_t(dice.next() % 9000)),
                    0.1 + dice.unit(), Semitones(12 * dice.bipolar())};
      if (dice.unit() < 0.3) hit.flam = {Milliseconds(dice.unit() * 40), 0.1 + dice.unit() * 0.9};
      if (dice.unit() < 0.3) hit.condition = {dice.unit(), 4, 1 + int(dice.next() % 4)};
      lane.hits.push_back(hit);
    }
  }
  if (seed % 2) pattern.chords = {{Beats(0), "Am7"}, {Beats(17'003), "Gsus4"}};
  clamp(pattern);
  return pattern;
}

/// Lanes in an order of their own, hits of one place by their keys: what text does not keep.
Pattern ordered(Pattern pattern) {
  std::erase_if(pattern.lanes, [](const Lane& lane) { return lane.hits.empty(); });
  std::sort(pattern.lanes.begin(), pattern.lanes.end(),
            [](const Lane& a, const Lane& b) { return a.part < b.part; });
  for (auto& lane : pattern.lanes)
    std::sort(lane.hits.begin(), lane.hits.end(), [](const Hit& a, const Hit& b) {
      return std::tie(a.at, a.key, a.velocity) < std::tie(b.at, b.key, b.velocity);
    });
  return pattern;
}

} // namespace

class TestPatternText : public QObject {
  Q_OBJECT
private slots:
  void whatIsWrittenIsReadAsItWas() {
    const Project project = deck();
    for (std::uint64_t seed = 1; seed <= 60; ++seed) {
      const Pattern pattern = random(project, seed);
      const std::string text = patternText(project, pattern);
      const auto read = patternFromText(project, text);
      QVERIFY2(read.ok(), read.ok() ? "" : (read.error().text() + "\n" + text).c_str());
      QVERIFY(read->warnings.empty());
      QVERIFY2(ordered(read->pattern) == ordered(pattern), text.c_str());
    }
  }

  void peopleCanReadIt() {
    Project project = deck();
    Pattern pattern;
    pattern.name = "Crossing";
    pattern.bars = 2;
    const Key* hat = keyAt(project, Row::Air, 0, 0);
    Lane& lane = laneOf(pattern, hat->part);
    lane.feel.swing16 = 58;
    Hit hit;
    hit.key = hat->id;
    hit.velocity = 0.9;
    lane.hits.push_back(hit);
    hit.at = at(5.5);
    hit.velocity = 0.6;
    hit.microTiming = Milliseconds(4);
    lane.hits.push_back(hit);
    project = withGroove(std::move(project), shippedGrooves()[0], &lane.feel.groove);
    const std::string text = patternText(project, pattern);
    QCOMPARE(text, std::string("Tuvvo pattern\n"
                               "name \"Crossing\"\n"
                               "bars 2 of 4/4\n"
                               "part \"hat\" swing16 58 feel \"Ferry late\" 1 1\n"
                               "air 1 \"hat\": 1.1 0.9, 2.2+1/2 0.6 late 4ms\n"));
    // In a beat that does not have the feel yet, the one that ships is taken.
    const auto read = patternFromText(deck(), text);
    QVERIFY(read.ok() && read->warnings.empty());
    QCOMPARE(read->project.grooves.size(), std::size_t(1));
    QCOMPARE(read->project.grooves[0].name, std::string("Ferry late"));
    QCOMPARE(read->pattern.lanes[0].feel.groove, read->project.grooves[0].id);
  }

  void keysAreFoundByNameElsewhere() {
    Project here = deck();
    const Key* hat = keyAt(here, Row::Air, 0, 0);
    Pattern pattern;
    Hit hit;
    hit.key = hat->id;
    laneOf(pattern, hat->part).hits.push_back(hit);
    const std::string text = patternText(here, pattern);
    Project there = withKeyChanged(deck(), hat->id, [](Key& key) { key.column = 7; });
    const auto moved = patternFromText(there, text);
    QVERIFY(moved.ok());
    QCOMPARE(moved->pattern.lanes[0].hits[0].key, hat->id);
    // Neither place nor name: left out, and said.
    Project without = withoutKey(deck(), hat->id);
    std::string two = text + "body 1 \"snare\": 1.2 0.8\n";
    const auto left = patternFromText(without, two);
    QVERIFY(left.ok());
    QCOMPARE(left->warnings.size(), std::size_t(1));
    QVERIFY(!patternFromText(without, text).ok()); // nothing is left of it
  }

  void whatIsWrongIsSaidWithItsLine_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<int>("line");
    const QString head = "Tuvvo pattern\nbars 2 of 4/4\n";
    QTest::newRow("empty") << "" << 1;
    QTest::newRow("other") << "kick snare kick snare" << 1;
    QTest::newRow("meter") << "Tuvvo pattern\nbars 2 of 4/5" << 2;
    QTest::newRow("bars") << "Tuvvo pattern\nbars 900 of 4/4" << 2;
    QTest::newRow("place") << head + "air 1 \"hat\": here 0.8" << 3;
    QTest::newRow("velocity") << head + "air 1 \"hat\": 1.1 7" << 3;
    QTest::newRow("nan") << head + "air 1 \"hat\": 1.1 nan" << 3;
    QTest::newRow("unit") << head + "air 1 \"hat\": 1.1 0.5 late 4" << 3;
    QTest::newRow("zero below") << head + "air 1 \"hat\": 1.1+1/0 0.5" << 3;
    QTest::newRow("word") << head + "air 1 \"hat\": 1.1 0.5 louder" << 3;
    QTest::newRow("quote") << head + "air 1 \"hat: 1.1 0.5" << 3;
    QTest::newRow("column") << head + "air 99 \"hat\": 1.1 0.5" << 3;
    QTest::newRow("too much") << head + "name \"x\" \"y\"" << 3;
    QTest::newRow("chord") << head + "chords 1.1 H7" << 3;
    QTest::newRow("big number") << head + "air 1 \"hat\": 99999999999999999999.1 0.5" << 3;
  }
  void whatIsWrongIsSaidWithItsLine() {
    QFETCH(QString, text);
    QFETCH(int, line);
    const auto read = patternFromText(deck(), text.toStdString());
    QVERIFY(!read.ok());
    QCOMPARE(read.error().where, "line " + std::to_string(line));
    QVERIFY(!read.error().remedy.empty());
  }

  void damagedTextDoesNoHarm() {
    const Project project = deck();
    const std::string whole = patternText(project, random(project, 3));
    for (std::size_t cut = 0; cut < whole.size(); cut += 7)
      (void)patternFromText(project, whole.substr(0, cut));
    Random dice(9);
    for (int n = 0; n < 2000; ++n) {
      std::string text = whole;
      for (int k = 0; k < 4; ++k) text[dice.next() % text.size()] = char(dice.next() % 127 + 1);
      const auto read = patternFromText(project, text);
      if (!read) continue;
      Pattern held = read->pattern;
      clamp(held);
      QVERIFY(held == read->pattern);
    }
    QVERIFY(!patternFromText(project, std::string(kMostPatternText + 1, 'x')).ok());
  }

  // Ranges are those of parameters; what is beyond them is said and not bent.
  void figuresHaveRanges_data() {
    QTest::addColumn<double>("least");
    QTest::addColumn<double>("most");
    struct Row {
      const char* words;
      double least, most;
    };
    for (const Row& row : {Row{"1.1 %1", 0.02, 1},
                           {"1.1 0.5 late %1ms", 0, 200},
                           {"1.1 0.5 early %1ms", 0, 200},
                           {"1.1 0.5 tune %1", -48, 48},
                           {"1.1 0.5 from %1", 0, 0.99},
                           {"1.1 0.5 bright %1", -10, 10},
                           {"1.1 0.5 pan %1", -1, 1},
                           {"1.1 0.5 roll %1 each 1/8", 1, 64},
                           {"1.1 0.5 roll 3 each 1/8 to %1 0", 0.02, 4},
                           {"1.1 0.5 roll 3 each 1/8 to 1 %1", -48, 48},
                           {"1.1 0.5 flam %1ms 0.5", 0, 100},
                           {"1.1 0.5 flam 10ms %1", 0.02, 1},
                           {"1.1 0.5 chance %1", 0, 1},
                           {"1.1 0.5 every %1 on 1", 1, 16},
                           {"1.1 0.5 every 16 on %1", 1, 16},
                           {"swing8 %1", 50, 80},
                           {"swing16 %1", 50, 80},
                           {"lean %1ms", -200, 200},
                           {"accent beats %1", 0, 0.9},
                           {"loosen %1ms 0 1", 0, 40},
                           {"loosen 0ms %1 1", 0, 0.4},
                           {"pull %1", 0, 1},
                           {"feel \"%2\" %1 1", 0, 1.5},
                           {"feel \"%2\" 1 %1", 0, 1.5}})
      QTest::newRow(row.words) << row.least << row.most;
  }
  void figuresHaveRanges() {
    QFETCH(double, least);
    QFETCH(double, most);
    const ClickProject clicks = clickProject({0});
    const QString words = QTest::currentDataTag();
    const bool ofHit = words.startsWith("1.1");
    const auto reads = [&](double value) {
      QString filled = words;
      filled.replace("%1", QString::number(value, 'g', 12))
          .replace("%2", QString::fromStdString(shippedGrooves()[0].name));
      const QString text = QString("Tuvvo pattern\nname \"x\"\nbars 1 of 4/4\npart \"click\" %1\n"
                                   "body 1 \"click\": %2\n")
                               .arg(ofHit ? "" : filled, ofHit ? filled : "1.1 0.5");
      return patternFromText(clicks.project, text.toStdString()).ok();
    };
    const double beyond = words.contains("roll %1") || words.contains("every") ? 1 : 1e-6;
    QVERIFY(reads(least));
    QVERIFY(reads(most));
    QVERIFY(!reads(least - beyond));
    QVERIFY(!reads(most + beyond));
  }
};

QTEST_APPLESS_MAIN(TestPatternText)
#include "tst_pattern_text.moc"
