// Patterns and feels from anywhere, brought into what can be played.
#include "model/pattern.h"

#include <QtTest>

using namespace tuvvo;

class TestClamped : public QObject {
  Q_OBJECT

private slots:
  void wildPatternsAreClamped() {
    for (const auto& [bars, kept] : {std::pair{-3, 1}, {0, 1}, {1, 1}, {64, 64}, {65, 64}}) {
      Pattern pattern;
      pattern.bars = bars;
      clamp(pattern);
      QCOMPARE(pattern.bars, kept);
    }
    for (const auto& [beats, kept] : {std::pair{0, 1}, {1, 1}, {32, 32}, {33, 32}}) {
      Pattern pattern;
      pattern.meter.beats = beats;
      clamp(pattern);
      QCOMPARE(pattern.meter.beats, kept);
    }
    const std::int64_t shortest = kTicksPerBeat / 8, longest = kTicksPerBeat * 4 * kMostBars;
    for (const auto& [length, kept] :
         {std::pair<std::int64_t, std::int64_t>{0, 0}, // the pattern's own
          {1, shortest},
          {shortest, shortest},
          {longest, longest},
          {longest + 1, longest}}) {
      Pattern pattern;
      pattern.lanes.resize(1);
      pattern.lanes[0].length = Beats(length);
      clamp(pattern);
      QCOMPARE(pattern.lanes[0].length.value, kept);
    }
    // Chords in order, none before the beginning, none without a name.
    Pattern pattern;
    pattern.chords = {{wholeBeats(4), "Am", {}},
                      {wholeBeats(0), "C", {}},
                      {Beats(-1), "F", {}},
                      {wholeBeats(2), "no chord", {}},
                      {wholeBeats(1), "G7", {}}};
    clamp(pattern);
    QCOMPARE(pattern.chords.size(), std::size_t(3));
    QVERIFY(pattern.chords[0].name == "C" && pattern.chords[1].name == "G7" &&
            pattern.chords[2].name == "Am");
    for (std::size_t count : {kMostChords, kMostChords + 1}) {
      pattern.chords.assign(count, {wholeBeats(1), "C", {}});
      clamp(pattern);
      QCOMPARE(pattern.chords.size(), kMostChords);
    }
    // Hits in order; what is struck at once stays as it was.
    Lane lane;
    for (const auto& [at, key] : {std::pair{3, 1}, {1, 2}, {1, 3}, {0, 4}}) {
      Hit hit;
      hit.at = wholeBeats(at);
      hit.key = Id(key);
      lane.hits.push_back(hit);
    }
    pattern.lanes = {lane};
    clamp(pattern);
    std::vector<Id> keys;
    for (const auto& hit : pattern.lanes[0].hits) keys.push_back(hit.key);
    QCOMPARE(keys, (std::vector<Id>{4, 2, 3, 1}));
  }

  void wildGroovesAreClamped() {
    const std::int64_t shortest = kTicksPerBeat / 8;
    for (const auto& [length, kept] : {std::pair{shortest - 1, shortest},
                                       {shortest, shortest},
                                       {kMostGroove.value, kMostGroove.value},
                                       {kMostGroove.value + 1, kMostGroove.value}}) {
      Groove groove;
      groove.length = Beats(length);
      clamp(groove);
      QCOMPARE(groove.length.value, kept);
    }
    Groove groove;
    groove.length = wholeBeats(4);
    const double quarter = double(kTicksPerBeat) / 4;
    groove.steps = {{wholeBeats(3), quarter * 2, 9, {}}, {wholeBeats(0), -quarter * 2, 0, {}},
                    {wholeBeats(1), quarter, 4, {}},     {wholeBeats(2), -quarter, 0.1, {}},
                    {wholeBeats(4), 0, 1, {}},           {Beats(-1), 0, 1, {}}};
    clamp(groove);
    QCOMPARE(groove.steps.size(), std::size_t(4));
    const double late[] = {-quarter, quarter, -quarter, quarter}, level[] = {0.1, 4, 0.1, 4};
    for (std::size_t i = 0; i < 4; ++i) {
      QCOMPARE(groove.steps[i].at, wholeBeats(std::int64_t(i)));
      QCOMPARE(groove.steps[i].late, late[i]);
      QCOMPARE(groove.steps[i].level, level[i]);
    }
  }
};

QTEST_APPLESS_MAIN(TestClamped)
#include "tst_clamped.moc"
