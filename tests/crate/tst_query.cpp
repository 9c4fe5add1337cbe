// What words ask for. Every form that people are shown is read as it is meant.
#include "crate/facet.h"
#include "crate/query.h"

#include <QTest>
#include <cmath>

using namespace tuvvo;

class TestQuery : public QObject {
  Q_OBJECT
private slots:
  void everyShownFormIsUnderstood() {
    for (const auto& form : queryForms()) {
      const Query query = readQuery(form.words);
      QVERIFY2(query.words.empty() && query.reading.size() == 1, form.words);
    }
  }

  void formsMixWithWords() {
    const Query q = readQuery("rain is loop 85-95 bpm near Am 2–8 bars quay chord minor held 2");
    QVERIFY(q.words == (std::vector<std::string>{"rain", "quay"}));
    QVERIFY(q.kind == SoundKind::Loop);
    QCOMPARE(q.tempo->first.value, 85.0);
    QCOMPARE(q.tempo->second.value, 95.0);
    QVERIFY(q.folded);
    QVERIFY(q.key == keyFromName("Am") && q.fifths == 1);
    QVERIFY(q.bars == (std::pair{2, 8}));
    QVERIFY(q.chord && q.chord->minor == true && q.chord->bars == 2);
    QCOMPARE(q.reading.size(), std::size_t(5));
    // "bars" may be said after it or not; what follows is a word of its own.
    for (const char* words : {"chord minor held 2 quay", "chord minor held 2 bars quay",
                              "chord minor held 1 bar quay"}) {
      const Query held = readQuery(words);
      QVERIFY2(held.words == std::vector<std::string>{"quay"}, words);
      QVERIFY(held.chord && held.chord->minor == true);
    }
  }

  void figures() {
    QVERIFY(readQuery("90bpm").tempo && !readQuery("exactly 90 bpm").folded);
    QVERIFY(readQuery("exactly 90bpm").tempo);
    const Query about = readQuery("90 bpm"); // a figure from memory is not to the last digit
    QVERIFY(about.tempo->first.value < 89.5 && about.tempo->second.value > 90.5);
    QVERIFY(readQuery("95-85 bpm").tempo->first == Bpm(85));
    const Query chord = readQuery("chord F#m7");
    QVERIFY(chord.chord->root == 6 && chord.chord->ending == "m7");
    QCOMPARE(readQuery("3 stars").stars, 3);
    QVERIFY(readQuery("tag Rain").tags == std::vector<std::string>{"Rain"});
    QVERIFY(readQuery("is uncleared").cleared == false && readQuery("is unused").used == false);
  }

  void whatMeansNothingElseIsAWord_data() {
    QTest::addColumn<QString>("text");
    for (const char* text : {"is", "near", "in", "in the rain", "bpm", "x bpm", "-5 bpm",
                             "1e999 bpm", "chord", "chord H", "9 stars", "tag", "exactly", "bars",
                             "is purple", "1- bpm", "\"", "'; DROP TABLE source; --"})
      QTest::newRow(text) << text;
  }
  void whatMeansNothingElseIsAWord() {
    QFETCH(QString, text);
    const Query q = readQuery(text.toStdString());
    QVERIFY(q.reading.empty());
    QCOMPARE(q.words.size(), std::size_t(text.split(' ', Qt::SkipEmptyParts).size()));
  }

  /// C major, the first of the keys, is a key as any other.
  void whatHasNoTempoIsReachedByItsKey() {
    const BeatNow keyed{Bpm(90), KeyName{7, false}}, keyless{Bpm(90), {}};
    for (int key = 0; key < 24; ++key) {
      Facet facet;
      facet.heard = true;
      facet.key = std::int8_t(key);
      QVERIFY2(std::isfinite(reachOf(facet, keyed)), std::to_string(key).c_str());
      QVERIFY(std::isinf(reachOf(facet, keyless)));
      facet.key = -1;
      QVERIFY(std::isinf(reachOf(facet, keyed)));
    }
  }

  void pastedTextIsBounded() {
    QVERIFY(readQuery(std::string(5'000'000, 'x')).words[0].size() <= 200);
    std::string many;
    for (int i = 0; i < 100000; ++i) many += "is loop rain ";
    QVERIFY(readQuery(many).words.size() <= 64);
  }
};

QTEST_APPLESS_MAIN(TestQuery)
#include "tst_query.moc"
